"""A calculation: the stages of a job, done when asked for and not again where nothing changed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any

from undatum.analysis.modes import Modes, modes_between
from undatum.errors import nearest
from undatum.memory import without_collecting
from undatum.project.cracking import cracked_building
from undatum.project.flanges import flanged_building
from undatum.project.registry import STAGES, Stage
from undatum.project.schema import Project
from undatum.project.threads import few_threads
from undatum.record import alike, frozen
from undatum.units import UnitSystem, to_si
from undatum.working import OwnValue


@cache
def stages() -> Mapping[str, Stage]:
    """Every stage by the name of what it gives."""
    for name in ("stages", "spectrum_stages", "response_stages", "own_values", "closing"):
        import_module(f"undatum.project.{name}")
    found: dict[str, Stage] = {}
    for one in STAGES:
        for name in one.outputs:
            found[name] = one
    return frozen(found)  # type: ignore[no-any-return]


def inputs_of(project: Project) -> dict[str, Any]:
    """The parts of a project that stages ask for, by name."""
    return {
        "project": project,
        "standard_key": project.standard,
        "folder": project.folder,
        "criteria": project.criteria,
        "given": project.site,
        "asked": project.system.by_direction,
        "spectrum": project.spectrum,
        "damping": project.analysis.damping,
        "analysis": project.analysis,
        "building": flanged_building(project, cracked_building(project)),
        "irregularities": project.irregularities,
        "drift_choices": project.drift,
        "gaps": project.gaps,
        "own_combinations": project.combinations,
        "own_forces": project.static_sets,
        "occupancy": project.occupancy,
        "units": UnitSystem(project.units),
        "own_values": _own_values(project),
    }


def _own_values(project: Project) -> tuple[OwnValue, ...]:
    """Every value of the engineer's in place of the standard's."""
    return (*project.site.replaced("site"), *(
        own for d, asked in project.system.by_direction.items()
        for own in asked.replaced(f"system.{d}", d)))


#: Takes the name of a stage before it is worked out.
Watch = Callable[[str], None]


class Calculation:
    """The stages of one project. Ask for what is wanted by name; only what it needs is done.

    ``calculation["modes"]`` finds the modes and stops there. :meth:`varied` gives the calculation
    of a variant, in which every stage whose inputs are the same keeps its result: another site or
    lateral system on the same building does not weigh, assemble or find modes again.
    :attr:`names` lists what may be asked for.
    """

    def __init__(
        self, project: Project, *, before: Calculation | None = None, watch: Watch | None = None,
    ) -> None:
        self.project, self.watch = project, watch
        self._values = inputs_of(project)
        if before is not None and before.project.units != project.units:
            before = None  # what is said is said in the units
        self._before = before
        if before is not None:
            before._before = None  # a chain of variants holds one step back
        if before is not None:  # equal parts of the project are the same part
            for name, value in self._values.items():
                old = before._values[name]
                if value is not old and alike(value, old):
                    self._values[name] = old

    @property
    def names(self) -> tuple[str, ...]:
        """Everything that can be asked for, in the order of the job."""
        return (*inputs_of(self.project), *stages())

    @property
    def done(self) -> tuple[str, ...]:
        """What has been worked out so far."""
        return tuple(self._values)

    def __getitem__(self, name: str) -> Any:
        """The result of that name, worked out if need be. Raises KeyError with the nearest."""
        if name not in self._values:
            self.up_to(name)
        return self._values[name]

    def up_to(self, *names: str) -> Calculation:
        """Work out these results and return the calculation."""
        for name in names:
            if name not in self._values and name not in stages():
                near = nearest(name, list(self.names))
                raise KeyError(f"there is no {name!r}"
                               + (f"; did you mean {near!r}?" if near else ""))
        building = self.project.building
        frame = building.frame
        freedoms = 0 if frame is None else 6 * len(frame.points)
        with without_collecting(), few_threads(len(building.levels), freedoms), \
                self.project.at_work():
            for name in names:
                self._get(name)
        return self

    def modes_between(self, shortest: float | str, longest: float | str) -> Modes:
        """The modes with periods from ``shortest`` to ``longest``, both counted, however many.

        Numbers are seconds; text has its unit. Raises ValueError for a range that is none.
        """
        low, high = to_si(shortest, "time"), to_si(longest, "time")
        if not 0 < low < high:
            raise ValueError(f"{shortest} to {longest} is no range of periods; give the shorter "
                             'first, such as "0.1 s" and "0.5 s"')
        return modes_between(self["solver"], low, high)

    def varied(self, changes: Mapping[str, object]) -> Calculation:
        """The calculation of a variant: see :meth:`undatum.Project.varied` for the paths."""
        return self.of(self.project.varied(changes))

    def of(self, project: Project) -> Calculation:
        """The calculation of another project, keeping what is the same."""
        return Calculation(project, before=self)

    # -- how -----------------------------------------------------------------------------------

    def _get(self, name: str) -> Any:
        if name in self._values:
            return self._values[name]
        one = stages()[name]
        inputs = [self._get(needed) for needed in one.inputs]
        before = self._before
        kept = before is not None and all(out in before._values for out in one.outputs)
        if before is not None and kept and all(
                before._values.get(needed, _NOTHING) is value
                for needed, value in zip(one.inputs, inputs, strict=True)):
            for out in one.outputs:
                self._values[out] = before._values[out]
            return self._values[name]
        if self.watch is not None:
            self.watch(one.name.replace("_", " "))
        made = one.make(*inputs)
        found = made if len(one.outputs) > 1 else (made,)
        for out, value in zip(one.outputs, found, strict=True):
            value = frozen(value)
            if one.settles and before is not None and kept and alike(value, before._values[out]):
                value = before._values[out]
            self._values[out] = value
        return self._values[name]


_NOTHING = object()


def stage_names(names: Iterable[str]) -> tuple[str, ...]:
    """The stages that give some results."""
    return tuple(dict.fromkeys(stages()[name].name for name in names))


def calculate(
    project: Project, folder: str | Path | None = None, watch: Watch | None = None,
) -> Calculation:
    """The calculation of a project, nothing done yet. ``folder`` is where its files are; ``watch``
    is told the name of every stage before it is worked out."""
    return Calculation(project if folder is None else project.placed(folder), watch=watch)


__all__ = ["Calculation", "calculate", "inputs_of", "stage_names", "stages"]
