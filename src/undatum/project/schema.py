"""The project: everything one job needs, as one validated description."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace as dataclass_replace
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal, Self, cast

from pydantic import BaseModel, Field, PrivateAttr, create_model, model_validator
from pydantic_core import PydanticCustomError

from undatum import standards
from undatum.building.rules import Place
from undatum.described import Described, Named
from undatum.errors import Fault, InputError, one_of
from undatum.layout.members import chosen_members
from undatum.layout.whole import Building
from undatum.places import Places
from undatum.project.cracking import cracking_faults
from undatum.project.directions import (
    Directions,
    asked_in,
    directions_class,
    restored,
    system_faults,
)
from undatum.project.flanges import flange_faults
from undatum.project.for_record import RecordChoices, record_faults
from undatum.project.own_forces import OwnForces, forces_faults
from undatum.project.plane import plane_faults
from undatum.project.portions import TwoStage, portions_faults
from undatum.project.varying import Variants
from undatum.project.ways import Analysis, SpectrumTable
from undatum.readings.own import (
    DriftCombination,
    DriftRatio,
    OwnCombination,
    combination_faults,
    drift_combination_faults,
)
from undatum.record import FixedDict
from undatum.standards.facts import Asked, AskedOfSite
from undatum.units import SYSTEMS, Measure, Share, UnitSystem, said, speaking

DEFAULT_STANDARD = "asce7-16"
GapWidth = Annotated[float, Measure("length", above=0.0, most=1e3, plausible=(0.005, 10.0))]
Sway = Annotated[float, Measure("length", least=0.0, most=10.0, plausible=(0.0005, 1.0))]
Occupancy = Literal[
    "residential", "office", "school", "health care", "storage", "industrial", "other"
]


class PlumbPoint(Described):
    """A named plan point on which drift is read."""

    name: str = Field(min_length=1, description="Name in the drift tables")
    at: Place = Field(description='Plan point [x, y], or a crossing of axes such as "B-3"')


class OwnLimit(Described):
    """The ``[drift.own_limit]`` table: a limit on story drift beside that of the standard."""

    ratio: DriftRatio = Field(description='Drift over story height, such as 0.0025 or "0.25 %"')
    of: Literal["elastic", "design"] = Field(
        description="Drift it applies to: elastic, under the reduced forces, or design, amplified "
                    "as in the standard")
    reason: str = Field(min_length=3, description="Where it comes from, for the record")


class Drift(Described):
    """The ``[drift]`` table."""

    structure: str | None = Field(
        default=None,
        description="Structure type in the standard's drift table; by the lateral system "
        "if left out"
    )
    judged_by: Literal["both", "static", "spectrum"] = Field(
        default="both", description="Analysis whose story drift is checked against the limit"
    )
    corners: bool = Field(default=True, description="Read drift at every corner of the outlines")
    points: tuple[PlumbPoint, ...] = Field(default=(), description="Further plan points")
    columns: tuple[str, ...] = Field(
        default=(), description='Columns by selection, such as "columns on B", where drift is read '
        "too: each by its crossing, all of a selection by their average on every floor")
    groups: Named[str, tuple[str, ...]] = Field(
        default_factory=FixedDict,
        description='Points whose average is wanted, by a name of the group: "corner 1" and so on, '
        "or points of your own")
    both_directions: bool = Field(
        default=False, description="Check drift under both directions of ground motion together "
                                   "against the limit, too; otherwise it is reported for "
                                   "information")
    own_limit: OwnLimit | None = Field(
        default=None, description="A limit of your own beside that of the standard")
    combinations: tuple[DriftCombination, ...] = Field(
        default=(), description="Chosen sets and load cases together, whose story drift is read "
        "beside the drift checks")


def drift_columns(building: Building, which: str) -> dict[str, tuple[float, float]]:
    """Plan points of the columns of a selection by their crossings. Raises ValueError for what
    chooses none, or anything else."""
    chosen = chosen_members(building, building.frame, which)
    others = [m.name for m in chosen if m.kind != "column"]
    if others:
        raise ValueError(f"{which!r} chooses {others[0]!r}, which is no column; begin with columns")
    return {m.axis: (m.start[0], m.start[1]) for m in chosen}


class Irregularities(Described):
    """The ``[irregularities]`` table: what the description cannot show, as the engineer judged it.

    What is left out is not judged, and the results say so.
    """

    diaphragm_discontinuity: bool | None = Field(
        default=None, description="Abrupt change of diaphragm stiffness from floor to floor; large "
        "openings are found by themselves"
    )
    out_of_plane_offset: bool | None = Field(
        default=None, description="A lateral line continues below in another plane"
    )
    in_plane_offset: bool | None = Field(
        default=None, description="A lateral line is offset in its own plane"
    )
    reason: str = Field(default="", description="Basis of these statements, for the record")

    @property
    def stated(self) -> dict[str, bool]:
        """The judgements that were made."""
        return {k: v for k, v in self.model_dump().items() if isinstance(v, bool)}


class Gap(Described):
    """A ``[[gaps]]`` table: the distance to a neighbor or to the property line."""

    name: str = Field(min_length=1, description="Which side, for the record")
    direction: Literal["X", "Y"] = Field(description="Direction across the gap")
    distance: GapWidth = Field(description="Distance provided")
    level: str | None = Field(
        default=None,
        description="Level of the neighbor's roof; this building's own roof if left out"
    )
    neighbor: Sway | None = Field(
        default=None,
        description="Displacement of the neighbor at that level, with the same meaning as "
        "here; left out, the distance is to the property line"
    )
    same_floors: bool = Field(
        default=False, description="Floors of both buildings are at the same levels"
    )


class Expectation(Described):
    """An ``[[expected]]`` table: a value one knows, held beside the one that is computed."""

    name: str = Field(min_length=1, description="What it is, for the record")
    table: str = Field(description="Name of a table of the results, such as static_x_strength")
    column: str = Field(description="Name of its column, without the unit")
    where: Named[str, str | float] = Field(
        default_factory=FixedDict, description="Which row: cells of other columns by their name")
    value: float | str = Field(
        description="The value: a text with its unit, or a number in the unit of the column")
    tolerance: Share = Field(
        default=0.01, description="Difference that is accepted, relative to the value")
    source: str = Field(min_length=3, description="Where the value comes from, for the record")


class Alternative(Described):
    """The same building by another standard: an ``[alternatives.KEY]`` table."""

    site: Named[str, Any] = Field(description="The [site] table of that standard")
    system: Named[str, Any] = Field(description="The [system] tables of that standard, X and Y")
    structure: str | None = Field(default=None, description="Row of that standard's drift table")


UnitsName = Literal["kN and m", "kip and ft", "kip and in", "N and m", "N and mm", "kN and mm"]


class SiteProject(Described):
    """A site without a building: what its spectra need."""

    title: str = Field(default="Site", min_length=1, max_length=200, description="Name of the job")
    units: UnitsName = Field(
        default="kN and m",
        description="Unit system of plain numbers in this file and of all results"
    )
    standard: str = Field(default=DEFAULT_STANDARD, description="Key of the standard")
    site: AskedOfSite = Field(description="Site parameters the standard asks for")
    spectrum: SpectrumTable | None = Field(default=None, description="Spectrum from a file")
    analysis: Analysis = Field(default=Analysis(), description="Choices of analysis")
    _folder: Path | None = PrivateAttr(default=None)
    _criteria: str | None = PrivateAttr(default=None)
    _places: Places | None = PrivateAttr(default=None)

    @property
    def folder(self) -> Path | None:
        """Where the project was read from; files it names are looked for there."""
        return self._folder

    def placed(self, folder: str | Path | None) -> Self:
        """The same project with files looked for in ``folder``."""
        made = self.model_copy()
        made._folder = None if folder is None else Path(folder).absolute()
        made._criteria = None
        return made

    @property
    def criteria(self) -> str | None:
        """The text of criteria of one's own that results were made by, whatever became of the
        file; ``None`` where the file is still to be read, or there is none."""
        return self._criteria

    def keeping(self, criteria: str | None) -> Self:
        """The same project, with the text of its criteria."""
        if criteria == self._criteria:
            return self
        made = self.model_copy()
        made._criteria = criteria
        return made

    @contextmanager
    def at_work(self) -> Iterator[None]:
        """Messages made inside are in the project's units; faults get the line of its file."""
        with speaking(UnitSystem(self.units)):
            try:
                yield
            except InputError as error:
                if self._places is None or error.source:
                    raise
                raise InputError(self._places.located(error.faults), error.source) from None

    def find_standard(self) -> standards.AnyStandard:
        """The standard of the project. Raises InputError where its criteria can't be read."""
        return standards.get(self.standard, self._folder, self._criteria)

    def faults(self) -> list[Fault]:
        """Everything that single values can't show."""
        return []

    def __eq__(self, other: object) -> bool:
        """Equal when the descriptions are, wherever they were read from."""
        return type(other) is type(self) and self.__dict__ == other.__dict__

    __hash__ = None  # type: ignore[assignment]

    def __reduce_ex__(self, protocol: Any) -> Any:
        site = type(self).model_fields["site"].annotation
        return restored, (_site_project_class, (site,), self.__getstate__())

    def __repr__(self) -> str:
        return f"<{type(self).__name__} {self.title!r}, {self.standard}>"

    __str__ = __repr__


class SignedProject(SiteProject):
    """A job that ends in a calculation record, however much is known of the structure."""

    title: str = Field(min_length=1, max_length=200, description="Name of the job")
    description: str = Field(default="", description="A few words on the building, for the record")
    prepared_by: str = Field(default="", description="Who made the calculation, for the record")
    checked_by: str = Field(default="", description="Who checked it; a line to sign if left out")
    revision: str = Field(default="", description="Revision of the calculation, for the record")
    system: Directions = Field(description="Lateral system in X and in Y")

    occupancy: Occupancy = Field(
        default="other", description="Use of the building, for the plausible range of its weight"
    )
    irregularities: Irregularities = Field(
        default=Irregularities(), description="Irregularities stated by the engineer"
    )
    gaps: tuple[Gap, ...] = Field(
        default=(), description="Distances to neighboring buildings and property lines")
    expected: tuple[Expectation, ...] = Field(
        default=(), description="Known values: compared with the computed ones and never used")
    static_sets: tuple[OwnForces, ...] = Field(
        default=(), description="Lateral forces of your own by level, beside the standard's")
    combinations: tuple[OwnCombination, ...] = Field(
        default=(), description="Load combinations of your own, beside those of the standard")
    record: RecordChoices = Field(
        default=RecordChoices(), description="Members that get a chapter of the record")
    drift: Drift = Field(default=Drift(), description="Where drift is checked, and against what")
    alternatives: Named[str, Alternative] = Field(
        default_factory=FixedDict,
        description="Other standards by key, for a comparison side by side",
    )

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy; with ``update`` it is validated like a project file. Raises InputError."""
        made = super().model_copy(update=update, deep=deep)
        if update and (faults := made.faults()):
            raise InputError(faults)
        return made

    def faults(self) -> list[Fault]:
        """A direction without a lateral system."""
        return system_faults(self.system.by_direction)


class Project(SignedProject):
    """One job. ``site`` and ``system`` hold what the standard asks for.

    >>> project = ud.shipped_project("archive")
    >>> stiffer = project.varied({"building.lines[direction=X].stiffness": lambda k: 1.2 * k})
    >>> project == stiffer
    False
    """

    building: Building = Field(description="Levels and lateral lines")
    tables: str | Named[str, str] | None = Field(
        default=None, description="Tables of the input as spreadsheets beside the project: a "
        "workbook with a sheet for each, or files by the name of the table, such as "
        '{ loads = "loads.csv", levels = "book.xlsx#floors" }; \'undatum new --as-tables\' writes '
        "them with their heads")

    two_stage: TwoStage | None = Field(
        default=None, description="The two-stage static procedure: where the upper portion "
        "stands, and the lateral system of the lower one")
    variants: Variants | None = Field(
        default=None, description="A family of buildings around this one, for 'undatum vary'")

    @model_validator(mode="after")
    def _read_with_a_file(self) -> Project:
        if self.tables is not None:
            raise PydanticCustomError("advice", "tables are read with a project file; in Python "
                                      "give their rows as keys")
        return self

    def __reduce_ex__(self, protocol: Any) -> Any:
        fields = type(self).model_fields
        system: Any = fields["system"].annotation
        kinds = (fields["site"].annotation, asked_in(system))
        return restored, (_project_class, kinds, self.__getstate__())

    def __repr__(self) -> str:
        levels, lines = len(self.building.levels), len(self.building.lines)
        return f"<Project {self.title!r}, {self.standard}: {levels} levels, {lines} lines>"

    __str__ = __repr__

    def faults(self) -> list[Fault]:
        """Everything that single values can't show: names, order, points, gaps."""
        found = [] if self.analysis.second_order != "by axial force" or self.building.has_members \
            else [Fault("analysis.second_order", "there are no members whose axial forces could "
                        "count", 'choose "by story weight"')]
        found += [dataclass_replace(f, place=f"building.{f.place}") for f in self.building.faults()]
        found += [*system_faults(self.system.by_direction, self.building.plane),
                  *plane_faults(
                      self.building.plane, [g.direction for g in self.gaps], self.analysis)]
        known = self.find_standard().drift_structures()
        if self.drift.structure not in (None, *known):
            found.append(Fault("drift.structure", f"{self.drift.structure!r} is not in the drift "
                               "table of the standard", f"choose from: {', '.join(known)}"))
        levels = [level.name for level in self.building.levels[:-1]]
        for i, gap in enumerate(self.gaps):
            if gap.level not in (None, *levels):
                found.append(Fault(f"gaps[{i}].level", f"{gap.level!r} is not a level that moves",
                                   one_of(gap.level or "", levels)))

        found += combination_faults(
            self.combinations, self.building, self.analysis.vertical_spectrum)
        found += drift_combination_faults(self.drift.combinations, self.building)
        found += forces_faults(self.static_sets, self.building)
        found += portions_faults(self.two_stage, self.building, self.find_standard())
        if not found:
            found += record_faults(self.record, self.building)
        standard = self.find_standard()
        found += [*cracking_faults(standard, self.building),
                  *flange_faults(standard, self.building)]
        if self.analysis.vertical_spectrum and not self.building.vertical_mass:
            found.append(Fault("analysis.vertical_spectrum", "asks for mass that moves up and down",
                               "set building.vertical_mass = true"))
        if self.analysis.halve_mesh and not (self.building.walls or self.building.deforming):
            found.append(Fault("analysis.halve_mesh", "there is no mesh to halve: neither walls "
                               "nor floors that deform", "take it out"))
        if self.analysis.damping_of and not found:
            from undatum.project.damping import damping_faults

            found += damping_faults(self.building, self.analysis.damping_of)
        return [*found, *self._point_faults(sound=not self.building.faults()),
                *self._file_faults()]

    def _file_faults(self) -> list[Fault]:
        """Files of spectra that are named and not there."""
        if self.spectrum is None or self._folder is None:
            return []
        from undatum.project.partial import missing_files

        return missing_files(self.spectrum.model_dump(), self._folder)

    def _point_faults(self, sound: bool) -> list[Fault]:
        """Drift points: each its own name, and on a floor."""
        found = []
        outlines = [self.building.outline(i) for i in range(len(self.building.levels) - 1)] \
            if sound else []
        names: list[str] = []
        for i, point in enumerate(self.drift.points):
            if point.name in names:
                found.append(Fault(f"drift.points[{i}].name", f"{point.name!r} stands twice",
                                   "give each its own name"))
            elif _TAKEN.fullmatch(point.name):
                found.append(Fault(f"drift.points[{i}].name", f"{point.name!r} is the name of a "
                                   "point that is read anyway", "give it another name"))
            names.append(point.name)
            try:
                at = self.building.place(point.at)
            except ValueError as error:
                found.append(Fault(f"drift.points[{i}].at", str(error)))
                continue
            if outlines and not any(o.holds(at)[0] for o in outlines):
                far = min(o.off(at) for o in outlines)
                found.append(Fault(f"drift.points[{i}].at", f"{point.name!r} lies on no floor, "
                                   f"{said(far)} off the nearest one",
                                   "give a plan point inside an outline; is its unit right?"))
        for i, which in enumerate(self.drift.columns if sound else ()):
            try:
                drift_columns(self.building, which)
            except ValueError as error:
                found.append(Fault(f"drift.columns[{i}]", str(error)))
        return found


_TAKEN = re.compile(r"center of mass|corner \d+")


def standard_fields(site_input: type[AskedOfSite], system_input: type[Asked]) -> dict[str, Any]:
    """The ``[site]`` and ``[system]`` tables of one standard, as fields of a project."""
    return {"site": (site_input, Field(description="Site parameters")),
            "system": (directions_class(system_input, Directions),
                       Field(description="Lateral system by direction"))}


@cache
def _project_class(site_input: type[AskedOfSite], system_input: type[Asked]) -> type[Project]:
    """The project with the ``[site]`` and ``[system]`` tables of one standard."""
    lower: Any = directions_class(system_input, TwoStage)
    return cast(type[Project], create_model(
        "Project", __base__=Project, __doc__=Project.__doc__,
        **standard_fields(site_input, system_input),
        two_stage=(lower | None, Project.model_fields["two_stage"])))


@cache
def _site_project_class(site_input: type[AskedOfSite]) -> type[SiteProject]:
    return cast(type[SiteProject], create_model(
        "SiteProject", __base__=SiteProject, __doc__=SiteProject.__doc__,
        site=(cast(Any, site_input), Field(description="Site parameters")),
    ))


def project_model(
    key: str, folder: Path | None = None, criteria: str | None = None
) -> type[Project]:
    """The project as one standard wants it: with its own ``[site]`` and ``[system]`` tables."""
    standard = standards.get(key, folder, criteria)
    site, system = cast(Any, standard.site_input), cast(Any, standard.system_input)
    return _project_class(site, system)


def site_project_model(key: str, folder: Path | None = None) -> type[SiteProject]:
    """A site without a building, with the ``[site]`` table of one standard."""
    site: Any = standards.get(key, folder).site_input
    return _site_project_class(site)


def json_schema(key: str = DEFAULT_STANDARD) -> dict[str, Any]:
    """JSON Schema (2020-12) of the project file for one standard."""
    model: type[BaseModel] = project_model(key)
    title = standards.get(key).title
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Undatum project file, {title}",
        **{k: v for k, v in model.model_json_schema().items() if k != "title"},
        "description": f"One job by {title}.",
    }


def criteria_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a file of criteria of one's own."""
    from undatum.standards.own.rules import Rules

    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Undatum criteria of one's own",
        **{k: v for k, v in Rules.model_json_schema().items() if k != "title"},
    }


assert set(SYSTEMS) == set(cast(Any, Project.model_fields["units"].annotation).__args__)
