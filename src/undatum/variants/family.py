"""A family of buildings: the projects of its variants, checked before the first is run."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Sequence
from functools import cached_property
from os.path import isfile
from pathlib import Path

from undatum.errors import Fault, InputError, one_of
from undatum.project.project_file import alternative_project, read
from undatum.project.schema import Project
from undatum.project.varying import Parameter, Scalar, Variants
from undatum.results.exchange import digest_of
from undatum.textfile import csv_rows, read_text
from undatum.units import UnitSystem
from undatum.variants.design import Row, drawn
from undatum.version import VERSION

#: Parameters that choose a whole description.
PROJECT, STANDARD = "project", "standard"
_OF_THE_MODEL = ("building", "analysis", PROJECT)


class Family:
    """Variants of one project.

    ``spec`` says what is varied and kept; plain numbers in it are SI, or of ``units`` where it
    stands in a project file. ``rows`` are the values of every variant, in the order of the design.
    Raises InputError with the places of a project file where something is not there, or where a
    value by itself is refused.

    >>> import undatum as ud
    >>> family = ud.Family(ud.shipped_project("archive"), ud.Variants(
    ...     vary=[ud.Parameter(name="site class", path="site.site_class", values=["C", "D"])]))
    >>> len(family), family.changes(1)
    (2, {'site.site_class': 'D'})
    """

    def __init__(self, project: Project, spec: Variants, units: str | None = None) -> None:
        self.project, self.spec, self.units = project, spec, units
        parameters, rows = list(spec.vary), list[Row]()
        if spec.table is not None:
            parameters, rows = _from_table(project, spec)
        self.parameters: tuple[Parameter, ...] = tuple(parameters)
        self.rows = tuple(rows or drawn(self.parameters, spec.design, spec.count, spec.seed))
        self._others: dict[str, Project] = {}
        if faults := [*self._faults()]:
            raise InputError(faults)

    def __len__(self) -> int:
        return len(self.rows)

    def __repr__(self) -> str:
        return f"<Family of {self.project.title!r}: {len(self)} variants of " \
               f"{', '.join(p.name for p in self.parameters)}>"

    def changes(self, i: int) -> dict[str, object]:
        """What variant ``i`` changes, as :meth:`undatum.Project.varied` takes it: plain numbers in
        SI; factors as functions."""
        return self._changes(self.rows[i])

    def variant(self, i: int) -> Project:
        """The project of variant ``i``. Raises InputError where it is refused."""
        return self._made(self.rows[i])

    def varied_but(self, i: int, k: int) -> Project:
        """The project of variant ``i`` with the project's own value of parameter ``k``."""
        row = self.rows[i]
        return self._made([None if j == k else value for j, value in enumerate(row)])

    @cached_property
    def order(self) -> tuple[int, ...]:
        """The variants in an order in which those of one model follow each other."""
        model = [k for k, p in enumerate(self.parameters)
                 if any(path.split(".")[0] in _OF_THE_MODEL for path in p.paths)]
        return tuple(sorted(range(len(self)), key=lambda i: (
            [repr(self.rows[i][k]) for k in model], i)))

    @cached_property
    def fingerprint(self) -> str:
        """What the family is, as a digest: a folder of another one is not continued."""
        own = [self.project, *self._others.values()]
        said = [VERSION, [one.model_dump_json() for one in own], self.spec.model_dump_json(),
                self.units, [p.name for p in self.parameters], self.rows,
                [digest_of(path) for one in own for path in _named(one, self.rows)]]
        return hashlib.sha256(json.dumps(said).encode("utf-8")).hexdigest()

    # -- how -----------------------------------------------------------------------------------

    def _changes(self, row: Sequence[Scalar | None]) -> dict[str, object]:
        found: dict[str, object] = {}
        for one, value in zip(self.parameters, row, strict=True):
            for path in one.paths if value is not None else ():
                if path in (PROJECT, STANDARD):
                    continue
                found[path] = Times(float(value)) if one.times and value is not None \
                    else self._in_si(path, value)
        return found

    def _in_si(self, path: str, value: Scalar | None) -> object:
        if self.units is None or isinstance(value, bool) or not isinstance(value, float | int):
            return value
        dimensions = self.project.dimensions_at(path)
        size = UnitSystem(self.units).size(next(iter(dimensions)), coherent=True) \
            if len(dimensions) == 1 else 1.0
        return float(value) * size

    def _made(self, row: Sequence[Scalar | None]) -> Project:
        base = self.project
        for one, value in zip(self.parameters, row, strict=True):
            if PROJECT in one.paths and value is not None:
                base = self._file(str(value))
        for one, value in zip(self.parameters, row, strict=True):
            if STANDARD in one.paths and value not in (None, base.standard):
                base = _by_standard(base, str(value))
        changes = self._changes(row)
        return base.varied(changes) if changes else base

    def _file(self, name: str) -> Project:
        if name not in self._others:
            self._others[name] = read((self.project.folder or Path()) / name)
        return self._others[name]

    def _faults(self) -> Iterator[Fault]:
        """Every value by itself, of samples the least and the largest: what is refused, and why."""
        for k, one in enumerate(self.parameters):
            own = list(dict.fromkeys(row[k] for row in self.rows if row[k] is not None))
            if own and all(isinstance(v, float) for v in own) and not one.values:
                own = [min(own), max(own)]  # type: ignore[type-var]
            for value in own:
                place = f"variants.vary[{k}]" if self.spec.table is None else \
                    f"{self.spec.table}: {one.name}"
                try:
                    for path in one.paths:
                        if path not in (PROJECT, STANDARD):
                            self.project.dimensions_at(path)
                    self._made([value if j == k else None for j in range(len(self.parameters))])
                except InputError as error:
                    yield from (Fault(place, f"{one.name} = {value}: {f.place} {f.message}", f.cure)
                                for f in error.faults[:3])
                    break


class Times:
    """Multiplies what stands there; a class, so that it can be sent to other processes."""

    def __init__(self, factor: float) -> None:
        self.factor = factor

    def __call__(self, value: float) -> float:
        return self.factor * value


def _named(project: Project, rows: object) -> Iterator[Path]:
    """Files that a project or its variants name, such as those of spectra."""
    waiting = [json.loads(project.model_dump_json()), rows]
    folder = project.folder or Path()
    while waiting:
        one = waiting.pop()
        if isinstance(one, str) and isfile(folder / one):
            yield folder / one
        elif isinstance(one, dict | list | tuple):
            waiting += one.values() if isinstance(one, dict) else one


def _by_standard(base: Project, key: str) -> Project:
    if key not in base.alternatives:
        raise InputError([Fault(f"alternatives.{key}", "is not among the alternatives",
                                one_of(key, (base.standard, *base.alternatives)))])
    found, faults = alternative_project(base, key)
    if found is None or faults:
        raise InputError(faults)
    return found


def _from_table(project: Project, spec: Variants) -> tuple[list[Parameter], list[Row]]:
    """Parameters and rows of a CSV beside the project: heads are names of parameters, or paths; an
    empty cell leaves what the project says."""
    assert spec.table is not None
    def wrong(message: str, cure: str) -> InputError:
        return InputError([Fault(str(spec.table), message, cure)])

    path = (project.folder or Path()) / spec.table
    lines = csv_rows(read_text(path, wrong), wrong)
    if len(lines) < 2:
        raise wrong("has no variants", "write heads, and a row for each")
    named = {p.name: p for p in spec.vary}
    heads = [head.strip() for head in lines[0][1]]
    rows: list[Row] = []
    for number, line in lines[1:]:
        if len(line) != len(heads):
            raise InputError([Fault(f"{spec.table}, line {number}", f"has {len(line)} cells under "
                                    f"{len(heads)} heads", "give each head a cell")])
        rows.append(tuple(_scalar(cell.strip()) for cell in line))
    parameters = [named.get(head) or Parameter(name=head[:60], path=head, values=list(
        dict.fromkeys(r[k] for r in rows if r[k] is not None)) or [0.0])  # type: ignore[misc]
        for k, head in enumerate(heads)]
    return parameters, rows


def _scalar(cell: str) -> Scalar | None:
    if not cell:
        return None
    if cell in ("true", "false"):
        return cell == "true"
    try:
        return float(cell)
    except ValueError:
        return cell


def family_of(project: Project, **changes: object) -> Family:
    """The family of a project with a ``[variants]`` table, whose plain numbers are in the units of
    the project; ``changes`` replace keys of it. Raises InputError.

    >>> len(ud.family_of(ud.shipped_project("archive")))
    96
    """
    spec = project.variants
    if spec is None and "table" in changes:  # its heads say what is varied
        spec = Variants(table=str(changes["table"]))
    if spec is None:
        raise InputError([Fault("variants", "is not given",
                                "say what is varied: [[variants.vary]]")])
    made = spec.model_copy(update=changes) if changes else spec
    with project.at_work():  # faults get the line of the file
        return Family(project, made, project.units)


