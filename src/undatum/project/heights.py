"""A job of which heights and weights are all that is known of the structure."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any, cast

from pydantic import Field, create_model

from undatum import standards
from undatum.building.stack import Stack
from undatum.errors import Fault
from undatum.project.directions import asked_in, restored
from undatum.project.from_python import in_units
from undatum.project.project_file import (
    alternative_faults,
    by_other,
    found_or_raise,
    read_as,
    validated,
)
from undatum.project.schema import (
    DEFAULT_STANDARD,
    SignedProject,
    standard_fields,
)
from undatum.standards.facts import Asked, AskedOfSite


class StackProject(SignedProject):
    """A job without a structure: site, lateral systems, heights and weights.

    >>> stack = ud.make_stack(
    ...     site={"ss": 1.1, "s1": 0.42, "long_period": 8, "site_class": "C",
    ...           "risk_category": "II"},
    ...     system={"X": {"row": "B.2"}, "Y": {"row": "B.2"}},
    ...     stack={"heights": {"Roof": "18 m"}, "weights": {"Roof": "24 MN"}, "plan": [40, 24]})
    >>> isinstance(stack, ud.StackProject)
    True
    """

    stack: Stack = Field(description="Heights and weights")

    def faults(self) -> list[Fault]:
        """A direction without a lateral system, alternatives that can't be used."""
        return [*super().faults(),
                *(f for key in self.alternatives for f in alternative_stack(self, key)[1])]

    def __reduce_ex__(self, protocol: Any) -> Any:
        fields = type(self).model_fields
        system: Any = fields["system"].annotation
        kinds = (fields["site"].annotation, asked_in(system))
        return restored, (_stack_class, kinds, self.__getstate__())


@cache
def _stack_class(site_input: type[AskedOfSite], system_input: type[Asked]) -> type[StackProject]:
    return cast(type[StackProject], create_model(
        "StackProject", __base__=StackProject, __doc__=StackProject.__doc__,
        **standard_fields(site_input, system_input)))


def stack_model(
    key: str, folder: Path | None = None, criteria: str | None = None
) -> type[StackProject]:
    """The project as one standard wants it: with its own ``[site]`` and ``[system]`` tables."""
    standard = standards.get(key, folder, criteria)
    return _stack_class(cast(Any, standard.site_input), cast(Any, standard.system_input))


def read_stack(path: str | Path) -> StackProject:
    """Read a project file with heights and weights alone. Raises InputError.

    >>> from undatum.project.project_file import shipped_text
    >>> _ = (folder / "loft.toml").write_text(shipped_text("loft", "loft.toml"))
    >>> ud.read_stack(folder / "loft.toml").standard
    'asce7-16'
    """
    return read_as(path, stack_model)


def make_stack(
    *, site: Mapping[str, object] | AskedOfSite, system: Mapping[str, object],
    stack: Stack | Mapping[str, object], title: str = "Building",
    standard: str = DEFAULT_STANDARD, units: str | None = None, results_in: str | None = None,
    folder: str | Path | None = None, **more: object,
) -> StackProject:
    """A project of heights and weights from Python: the keys of a project file as arguments.

    Plain numbers are SI; others carry their unit as text. ``results_in`` is the system results are
    written in; ``units`` as for :func:`make_project`. ``more`` are the other keys of a project;
    those that need a structure wait for it. Raises InputError when it is wrong.

    >>> stack = ud.make_stack(
    ...     site={"ss": 1.1, "s1": 0.42, "long_period": 8, "site_class": "C",
    ...           "risk_category": "II"},
    ...     system={"X": {"row": "B.2"}, "Y": {"row": "B.2"}},
    ...     stack={"heights": {"Roof": "18 m"}, "weights": {"Roof": "24 MN"}, "plan": [40, 24]})
    >>> stack.title
    'Building'
    """
    data, written = in_units({
        **more, "title": title, "standard": standard, "site": site, "system": system,
        "stack": stack},
        units, results_in)
    project = found_or_raise(
        validated(data, None if folder is None else Path(folder), stack_model))
    return project if project.units == written else project.model_copy(update={"units": written})


def alternative_stack(
    project: StackProject, key: str
) -> tuple[StackProject | None, list[Fault]]:
    """The project by another of its standards, or what is wrong with that alternative."""
    other, faults = validated(
        {**by_other(project, key), "stack": project.stack}, project.folder, stack_model)
    return other, alternative_faults(key, faults, ("stack", "analysis"))
