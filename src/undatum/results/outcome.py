"""What every job ends in, however much is known of the structure."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from undatum.errors import Fault, InputError, one_of
from undatum.finding import Finding, Severity, worst
from undatum.labelled import Labelled, own_axes
from undatum.project.schema import SignedProject
from undatum.results import store
from undatum.results.expected import Compared, compare
from undatum.table import Tabled
from undatum.units import UnitSystem
from undatum.working import Section, SectionKey

if TYPE_CHECKING:
    import xarray as xr


class Outcome(Tabled):
    """The results of a job: tables, findings, working, arrays, words; kept and compared alike."""

    __slots__ = ()

    if TYPE_CHECKING:  # what each depth adds to

        @property
        def project(self) -> SignedProject: ...
        @property
        def standard_title(self) -> str: ...
        @property
        def findings(self) -> tuple[Finding, ...]: ...
        @property
        def working(self) -> tuple[Section, ...]: ...

    def summary(self) -> list[tuple[str, str]]:
        """The summary: pairs of heading and text."""
        raise NotImplementedError

    def key_numbers(self) -> dict[str, tuple[str, float | str | None]]:
        """What a reader asks first, by name: dimension and value in SI, or a text."""
        raise NotImplementedError

    def arrays(self) -> Mapping[str, Labelled]:
        """Everything found for every set, by name, with named axes. SI."""
        raise NotImplementedError

    @property
    def units(self) -> UnitSystem:
        """The unit system of the project, in which people read the results."""
        return UnitSystem(self.project.units)

    @property
    def severity(self) -> Severity:
        """The most serious finding."""
        return worst(self.findings)

    def expected(self) -> tuple[Compared, ...]:
        """What the project expects beside what was computed. Raises InputError."""
        made = self.made_by_name()
        return compare(self.project.expected, lambda name: made[name](),
                       [name for name in made if name != "expected"], self.units)

    def section(self, kind: str, direction: str = "", state: str = "", item: str = "") -> Section:
        """One section of the working by its key. Raises KeyError with the keys there are."""
        key = SectionKey(kind, direction, state, item)
        for one in self.working:
            if one.key == key:
                return one
        known = "; ".join(str(w.key) for w in self.working)
        raise KeyError(f"no working of {key}; there is: {known}")

    def array(self, name: str) -> Labelled:
        """One labelled array by its name. Raises KeyError with the names there are."""
        found = self.arrays()
        if name not in found:
            raise KeyError(f"no array {name!r}; " + one_of(name, found, "there are"))
        return found[name]

    def to_xarray(self) -> xr.Dataset:
        """Every array as one xarray Dataset, in SI; the sets of each stand on an axis of its own.

        Arrays that run over other sets, points or stories keep axes apart, named for the array.
        """
        import xarray as xr

        return xr.Dataset({name.replace(" ", "_"): array.to_xarray()
                           for name, array in own_axes(self.arrays()).items()})

    def save(self, folder: str | Path) -> Path:
        """Keep everything in ``folder``; :func:`undatum.load` gives it back. Returns the folder.

        Arrays go to ``results.nc`` (NetCDF), the rest to ``results.records.json``. Raises
        InputError where it can't be written.
        """
        return store.save(self, folder)

    def __str__(self) -> str:
        head = f"{self.project.title}\n"
        return head + "\n".join(f"  {name:<13} {text}" for name, text in self.summary())

    def __repr__(self) -> str:
        return (f"<{type(self).__name__} {self.project.title!r}, {self.standard_title}: "
                f"{self.severity.value}>")

    def _repr_html_(self) -> str:
        from html import escape

        rows = "".join(f"<tr><th style='text-align:left'>{escape(a)}</th>"
                       f"<td style='text-align:left'>{escape(b)}</td></tr>"
                       for a, b in self.summary())
        return f"<table><caption>{escape(self.project.title)}</caption>{rows}</table>"


def read_outcome(folder: str | Path) -> Outcome:
    """What a run gave, of whatever depth, from its folder. Raises InputError as
    :func:`undatum.load` does."""
    found = store.read_back(folder)
    if not isinstance(found, Outcome):
        raise InputError([Fault(str(folder), "holds no results of a run",
                                "run the project again")])
    return found
