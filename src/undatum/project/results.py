"""Everything a run found, in one immutable object that explains itself."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from pathlib import Path
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.accelerations import FloorAccelerations, floor_accelerations
from undatum.analysis.displacement import PlumbDisplacements, plumb_displacements
from undatum.analysis.lateral import StaticForces
from undatum.analysis.modes import Modes, Normalization
from undatum.analysis.response import (
    FurtherSet,
    Readable,
    ResponseSet,
    SpectrumSet,
    StaticSet,
)
from undatum.analysis.shears import StoryResponse, story_response
from undatum.analysis.torsion import TorsionResult
from undatum.building.members import Member, chosen_members
from undatum.building.weight import Weights
from undatum.checks.drift import DriftCheck
from undatum.checks.drift_combined import CombinedDrift
from undatum.checks.drift_read import DriftReading
from undatum.checks.plausibility import Plausibility
from undatum.checks.separation import SeparationCheck
from undatum.checks.stability import StabilityCheck
from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity, worst
from undatum.ground.spectrum import Spectrum
from undatum.labelled import Labelled, axis, labelled
from undatum.mechanics.cases import LoadCases
from undatum.mechanics.model import COMPONENTS, Model
from undatum.mechanics.quantities import PlumbLine, center_line
from undatum.project.catalog import given_tables_of, tables_of
from undatum.project.combined import (
    each_table,
    envelope_table,
    extremes_table,
    footing_table,
    line_table,
    note_of,
    together_table,
)
from undatum.project.combining import (
    Combiner,
    combiner_of,
    foot_parts,
    line_parts,
    member_parts,
)
from undatum.project.description import (
    modal_drift_table,
)
from undatum.project.expected import Compared, compare
from undatum.project.line_forces import (
    force_from_floor,
    line_forces_table,
    modal_line_forces_table,
)
from undatum.project.members import (
    case_forces_table,
    cases_of,
    forces_table,
    modal_forces_table,
    modal_reactions_table,
    reactions_table,
)
from undatum.project.outcomes import Scaling, SpectrumResult
from undatum.project.schema import Project
from undatum.project.shaking import Shaking, site_table, spectrum_table
from undatum.project.story import story
from undatum.project.stresses import combined_stresses_table, fibers_of, stresses_table
from undatum.project.tables_out import (
    mode_shape_table,
)
from undatum.record import FixedDict, Memo, record
from undatum.standards.answers import (
    CombinationAnswer,
    ModalRules,
    PeriodAnswer,
    SiteAnswer,
    SystemAnswer,
)
from undatum.standards.contract import WeightRule
from undatum.standards.facts import ShapeFacts
from undatum.standards.terms import Direction, DirectionalCombination, LimitState, Method
from undatum.table import Table
from undatum.units import UnitSystem
from undatum.working import Section, SectionKey

if TYPE_CHECKING:
    import pandas as pd
    import xarray as xr

Floats = NDArray[np.float64]
Shown = Literal["envelope", "extremes", "each", "together", "stress"]


def _check_places(at: Sequence[float]) -> None:
    faults = [Fault("at", f"{x:g} is no fraction of the length", "give values from 0 to 1")
              for x in at if not 0 <= x <= 1]
    if faults:
        raise InputError(faults)


@record
class Results:
    """The results of a run. Tables carry dimensions and write themselves in any unit system."""

    project: Project
    standard_title: str
    states: tuple[LimitState, ...]
    site: SiteAnswer
    laterals: Mapping[Direction, SystemAnswer]
    shaking: Shaking
    reduced: Mapping[tuple[Direction, str], Spectrum]
    weights: Weights
    model: Model
    modes: Modes
    drift_modes: Modes | None
    by_moments: tuple[SpectrumSet, ...]
    by_masses: tuple[SpectrumSet, ...]
    rules: ModalRules
    periods: Mapping[Direction, PeriodAnswer]
    computed: Mapping[Direction, float]
    statics: Mapping[tuple[Direction, str], StaticForces]
    torsion: Mapping[Direction, TorsionResult]
    torsion_factors: Table | None
    shape: ShapeFacts
    diaphragms: Mapping[Direction, Floats]
    rigidity: Floats
    static_sets: tuple[StaticSet, ...]
    spectrum_sets: tuple[SpectrumSet, ...]
    vertical: SpectrumSet | None
    further: tuple[FurtherSet, ...]
    own_sets: tuple[StaticSet, ...]
    dynamic: tuple[SpectrumResult, ...]
    scaling: tuple[Scaling, ...]
    plumb: tuple[PlumbLine, ...]
    gaps: tuple[SeparationCheck, ...]
    combinations: CombinationAnswer | None
    drifts: Mapping[str, DriftCheck]
    drift_readings: Mapping[str, DriftReading]
    drift_combined: tuple[CombinedDrift, ...]
    stability: tuple[StabilityCheck, ...]
    plausibility: Plausibility
    findings: tuple[Finding, ...]
    working: tuple[Section, ...]
    memo: Memo = field(default_factory=Memo, init=False)

    @property
    def shears(self) -> StoryResponse:
        """Shears and moments by story, and shears of lines, of every set for strength."""
        return self.memo.get("shears", lambda: story_response(self.model, [
            *(s for s in self.sets_for_strength if not s.own),
            *(s for s in self.further if s.state == self.strength), *self.own_sets]))

    @property
    def displacements(self) -> PlumbDisplacements:
        """Displacement of every level on the plumb lines, under the sets for drift."""
        def make() -> PlumbDisplacements:
            every: list[ResponseSet] = [*self.static_sets, *self.spectrum_sets]
            return plumb_displacements(
                self.model, [s for key in self.drifts for s in every if s.state.key == key],
                [center_line(self.model), *self.plumb],
                {(d, key): float(check.factors[check.directions.index(d)])
                 for key, check in self.drifts.items() for d in self.directions})

        return self.memo.get("displacements", make)

    @property
    def accelerations(self) -> FloorAccelerations:
        """Peak accelerations of the floors, by the spectra before reduction."""
        analysis, rules = self.project.analysis, self.rules
        return self.memo.get("accelerations", lambda: floor_accelerations(
            self.model, self.modes, self.shaking.horizontal, self.plumb,
            analysis.modal_combination or rules.modal_combination, self.dynamic[0].damping,
            self.together, rules.rigid_period, analysis.rigid_between))

    @property
    def together(self) -> DirectionalCombination:
        """How the directions of ground motion go together."""
        return self.project.analysis.directional_combination or self.rules.directional_combination

    @property
    def strength(self) -> LimitState:
        """The limit state whose base shear is quoted and whose forces enter combinations."""
        return next(s for s in self.states if s.role == "forces")

    @property
    def drift(self) -> DriftCheck:
        """The drift check of the first limit state for drift."""
        return next(iter(self.drifts.values()))

    def section(self, kind: str, direction: str = "", state: str = "", item: str = "") -> Section:
        """One section of the working by its key. Raises KeyError with the keys there are."""
        key = SectionKey(kind, direction, state, item)
        for one in self.working:
            if one.key == key:
                return one
        known = "; ".join(str(w.key) for w in self.working)
        raise KeyError(f"no working of {key}; there is: {known}")

    @property
    def combines(self) -> bool:
        """Whether there are load combinations, of the standard or one's own."""
        return self.combinations is not None or bool(self.project.combinations)

    @property
    def units(self) -> UnitSystem:
        """The unit system of the project, in which people read the results."""
        return UnitSystem(self.project.units)

    @property
    def directions(self) -> tuple[Direction, ...]:
        """Along what the building is judged: X and Y, or the one of a plane building."""
        return self.model.directions

    @property
    def spectrum(self) -> Spectrum:
        """The design spectrum in X, before reduction (of a plane building in its direction);
        ``shaking`` holds the others."""
        return self.shaking.horizontal[self.directions[0]]

    @property
    def severity(self) -> Severity:
        """The most serious finding."""
        return worst(self.findings)

    # -- arrays -------------------------------------------------------------------------------

    def arrays(self) -> Mapping[str, Labelled]:
        """Everything found for every set, by name, with named axes. SI."""
        static = axis("set", [s.name for s in self.static_sets])
        levels = axis("level", self.model.levels)
        modes = axis("mode", [str(i) for i in self.modes.numbers])
        floors = self.model.diaphragms.freedoms
        components = axis("component", COMPONENTS)
        found = [
            self.shears.shear, self.shears.overturning, self.shears.torsion, self.shears.lines,
            *((self.shears.moments,) if self.shears.moments.values.size else ()),
            self.displacements.elastic, *(d.drift for d in self.drifts.values()),
            labelled("static force", "force", (static, levels),
                     [s.forces for s in self.static_sets]),
            labelled("static torque", "moment", (static, levels),
                     [s.torques for s in self.static_sets]),
            labelled("static displacement", "", (static, levels, components),
                     [s.displacement[floors] for s in self.static_sets]),
            labelled("mode shape", "", (modes, levels, components),
                     self.modes.shapes[floors].transpose(2, 0, 1)),
            labelled("period", "time", (modes,), self.modes.periods),
            labelled("effective mass share", "ratio",
                     (modes, axis("component", self.model.shaken)), self.modes.mass_ratios),
        ]
        return FixedDict({one.name: one for one in found})

    def array(self, name: str) -> Labelled:
        """One labelled array by its name. Raises KeyError with the names there are."""
        found = self.arrays()
        if name not in found:
            raise KeyError(f"no array {name!r}; there are: {', '.join(found)}")
        return found[name]

    def to_xarray(self) -> xr.Dataset:
        """Every array as one xarray Dataset, in SI; the sets of each stand on an axis of its own.

        Arrays that run over other sets, points or stories keep axes apart, named for the array.
        """
        import xarray as xr

        from undatum.project.store import own_axes

        return xr.Dataset({name.replace(" ", "_"): array.to_xarray()
                           for name, array in own_axes(self.arrays()).items()})

    # -- tables -------------------------------------------------------------------------------

    @property
    def weight_rule(self) -> WeightRule:
        """The rules of the standard on loads."""
        from undatum import standards

        found: WeightRule = standards.get(self.project.standard, self.project.folder).weight(
            self.project.site)
        return found

    def load_cases(self) -> LoadCases:
        """The structure under every kind of floor load and every case of one's own."""
        return cases_of(self.model, self.project.building)

    def case_forces(self, which: str = "all", at: Sequence[float] = (0.0, 0.5, 1.0)) -> Table:
        """Section forces of members under every load case. Raises InputError."""
        return case_forces_table(self.model, self.load_cases(), self.members(which), at)

    def given_tables(self) -> tuple[Table, ...]:
        """What was put in, with which every number can be followed."""
        return tuple(make() for make in given_tables_of(self).values())

    @property
    def sets_for_strength(self) -> tuple[ResponseSet, ...]:
        """The static and the spectrum sets whose forces enter combinations."""
        every: list[ResponseSet] = [*self.static_sets, *self.own_sets, *self.spectrum_sets,
                                    *([] if self.vertical is None else [self.vertical])]
        return tuple(s for s in every if s.state == self.strength)

    @property
    def sets_to_read(self) -> tuple[Readable, ...]:
        """The sets for strength, and those of several directions of ground motion."""
        return (*self.sets_for_strength, *(s for s in self.further if s.state == self.strength))

    @property
    def every_set(self) -> tuple[Readable, ...]:
        """Every set of the job, whatever it is for."""
        return (*self.static_sets, *self.own_sets, *self.spectrum_sets,
                *([] if self.vertical is None else [self.vertical]), *self.further)

    def members(self, which: str = "all") -> tuple[Member, ...]:
        """Members by name or selection, such as ``"columns on B at L1..L3"``. Raises InputError."""
        try:
            return chosen_members(self.project.building, which)
        except ValueError as error:
            raise InputError([Fault("", str(error))]) from None

    def section_forces(
        self, which: str = "all", at: Sequence[float] = (0.0, 1.0), of_set: str = "", *,
        signed: bool = False,
    ) -> Table:
        """Section forces of members at fractions ``at`` of their length, by set.

        ``which`` is a name or a selection, ``of_set`` the name of one set where not all are wanted;
        ``signed`` gives peaks of a spectrum the signs of the mode with the largest base shear.
        Raises InputError naming the nearest.
        """
        _check_places(at)
        return forces_table(self.model, self.members(which), self._sets(of_set), at,
                            signed=signed)

    def modal_forces(
        self, which: str = "all", at: Sequence[float] = (0.0, 1.0), of_set: str = ""
    ) -> Table:
        """As :meth:`section_forces`, in every mode of the spectrum sets."""
        _check_places(at)
        return modal_forces_table(self.model, self.members(which), self._of_modes(of_set), at)

    def fiber_stresses(
        self, which: str = "all", at: Sequence[float] = (0.0, 1.0), of_set: str = ""
    ) -> Table:
        """Elastic stress at the extreme fibers of members, by set, of the earthquake alone.

        As :meth:`section_forces`; those of load combinations are had by :meth:`combined_forces`.
        Raises InputError, also where no section has a shape.
        """
        _check_places(at)
        fibers = fibers_of(self.model, self.project.building, self.members(which), at)
        return stresses_table(self.model, fibers, self._sets(of_set))

    def reactions(self, of_set: str = "", *, signed: bool = False) -> Table:
        """Reactions at the feet of columns, foot by foot and summed, under the sets for strength.

        ``of_set`` and ``signed`` as for :meth:`section_forces`. Raises InputError.
        """
        self.members()  # names what is missing where there are none
        return reactions_table(self.model, self._sets(of_set), signed=signed)

    def modal_reactions(self, of_set: str = "") -> Table:
        """As :meth:`reactions`, in every mode of the spectrum sets. Raises InputError."""
        self.members()
        return modal_reactions_table(self.model, self._of_modes(of_set))

    def line_forces(self, which: str = "", of_set: str = "", *, signed: bool = False) -> Table:
        """Shear and moment of lateral lines, or of one, story by story and set by set.

        ``of_set`` and ``signed`` as for :meth:`section_forces`. Raises InputError.
        """
        return line_forces_table(self.model, self._sets(of_set), which, signed=signed)

    def modal_line_forces(self, which: str = "", of_set: str = "") -> Table:
        """As :meth:`line_forces`, in every mode of the spectrum sets. Raises InputError."""
        return modal_line_forces_table(self.model, self._of_modes(of_set), which)

    def _of_modes(self, name: str) -> list[SpectrumSet]:
        """The spectrum sets of one direction for strength, or the one of that name."""
        sets = [s for s in self._sets(name) if isinstance(s, SpectrumSet)]
        if not sets:
            raise InputError([Fault("of_set", f"{name!r} has no modes of its own",
                                    "name a spectrum set of one direction")])
        return sets

    def _sets(self, name: str) -> list[Readable]:
        """The sets for strength, or the one of that name."""
        sets = [s for s in self.sets_to_read if name in ("", s.name)]
        if not sets:
            raise InputError([Fault(
                "of_set", f"there is no set {name!r}",
                "choose from: " + "; ".join(s.name for s in self.sets_to_read))])
        return sets

    # -- combinations ---------------------------------------------------------------------------

    def combiner(self) -> Combiner:
        """The load combinations of the standard and one's own, ready to multiply.

        Raises InputError where there are none.
        """
        own = self.project.combinations
        if self.combinations is None and not own:
            raise InputError([Fault("", f"{self.standard_title} gives no load combinations",
                                    "give some of your own: [[combinations]]")])
        return combiner_of(self.combinations, own, self.together, self.weight_rule, self.weights,
                           self.project.building)

    def _note(self, how: Combiner, method: Method) -> str:
        return note_of(how, self.stability, method, [c.name for c in self.project.building.cases])

    def combined_forces(
        self, which: str = "all", at: Sequence[float] = (0.0, 1.0), *,
        method: Method = "spectrum", show: Shown = "envelope",
    ) -> Table:
        """Section forces of members under the load combinations of the standard.

        ``which`` is a name or a selection, ``at`` fractions of the length, ``method`` says which
        forces of the earthquake go in. ``envelope`` gives the largest and smallest of every
        component with the combination, ``extremes`` the same side by side, ``each`` every
        combination in its parts, ``together`` the axial force with both moments for every choice
        of signs, ``stress`` the stress at the extreme fibers. Raises InputError.
        """
        _check_places(at)
        members, how = self.members(which), self.combiner()
        if show == "stress":
            fibers = fibers_of(self.model, self.project.building, members, at)
            parts = member_parts(how, self.model, self.load_cases(), self.sets_to_read, method,
                                 self.stability, fibers.members, at, fibers.rows)
            return combined_stresses_table(how, fibers, parts, self._note(how, method))
        parts = member_parts(how, self.model, self.load_cases(), self.sets_to_read, method,
                             self.stability, members, at)
        make = {"envelope": envelope_table, "extremes": extremes_table,
                "each": each_table}.get(show, together_table)
        return make(how, parts, members, at, self._note(how, method))

    def member_tables(self) -> tuple[Table, ...]:
        """Section forces of all members set by set, under load cases, and their extremes in load
        combinations; none where there are no members."""
        if self.model.framed is None:
            return ()
        return (self.section_forces(), self.case_forces(),
                *([self.combined_forces()] if self.combines else ()))

    def footings(self, method: Method = "spectrum") -> Table:
        """Extremes of the reactions under the load combinations. Raises InputError."""
        self.members()  # names what is missing where there are none
        how = self.combiner()
        parts = foot_parts(how, self.model, self.load_cases(), self.sets_to_read, method,
                           self.stability)
        return footing_table(how, parts, self.model, self._note(how, method))

    def line_combinations(self, method: Method = "spectrum") -> Table:
        """Largest shear, force from the floor and moment of every lateral line in combinations.

        Raises InputError where there are no combinations, or no lines but those of members.
        """
        how, of = self.combiner(), self.model.quantities
        if not len(of["line moment"]):
            raise InputError([Fault("building.lines", "there are none",
                                    "members have their own: combined_forces")])
        moment = of["line moment"]
        own = set(moment.labels["line"])
        at = [k for k, name in enumerate(of["line shear"].labels["line"]) if name in own]
        shears, floors, moments = (
            line_parts(how, self.model, self.sets_to_read, method, self.stability, quantity)
            for quantity in (of["line shear"].at(at), force_from_floor(self.model).at(at), moment))
        stories = list(zip(moment.labels["line"], moment.labels["story"], strict=True))
        return line_table(how, shears, floors, moments, stories, self._note(how, method))

    def expected(self) -> tuple[Compared, ...]:
        """What the project expects beside what was computed. Raises InputError."""
        return compare(self.project.expected, self.table,
                       [name for name in self.table_names if name != "expected"], self.units)

    def compared_with(self, other: Results, least: float = 1e-3) -> tuple[Table, Table, Table]:
        """What another job asks, finds and judges differently: three tables, the largest change of
        the results first. ``least`` is the relative change up to which numbers count as alike."""
        from undatum.project.compared import finding_changes, input_changes, result_changes

        return (input_changes(self, other), finding_changes(self, other),
                result_changes(self, other, least))

    @property
    def table_names(self) -> tuple[str, ...]:
        """The tables there are, in the order of the job."""
        return tuple(tables_of(self))

    def tables(self) -> tuple[Table, ...]:
        """Every table, in the order of the job."""
        return tuple(make() for make in tables_of(self).values())

    def table(self, name: str) -> Table:
        """One table by its name, made when asked for. Raises KeyError with the names there are."""
        found = tables_of(self)
        if name not in found:
            raise KeyError(f"no table {name!r}; there are: {', '.join(found)}")
        return found[name]()

    def to_frame(self, name: str) -> pd.DataFrame:
        """A table as a pandas DataFrame in the project's units."""
        return self.table(name).to_frame(self.units)

    # -- on disk ------------------------------------------------------------------------------

    def save(self, folder: str | Path) -> Path:
        """Keep everything in ``folder``; :func:`undatum.load` gives it back. Returns the folder.

        Arrays go to ``results.nc`` (NetCDF), the rest to ``results.records.json``. Raises
        InputError where it can't be written.
        """
        from undatum.project.store import save

        return save(self, folder)

    def modal_drift_table(self) -> Table:
        """The governing drift of the spectrum analysis, mode by mode."""
        return modal_drift_table(self.model, self.drift, self.spectrum_sets, self.plumb)

    def site_table(self) -> Table:
        """Site parameters by symbol."""
        return site_table(self.site)

    def spectrum_table(self) -> Table:
        """Design spectrum before and after reduction, at round periods and corners."""
        return spectrum_table(
            self.shaking, {d: self.reduced[d, self.strength.key] for d in self.directions},
            max(4.0, 1.2 * float(self.modes.periods[0])))

    # -- in words -----------------------------------------------------------------------------

    def story(self) -> list[tuple[str, str]]:
        """The short story: pairs of heading and text."""
        return story(self)

    def base_shears_table(self) -> Table:
        """Period used and why, ordinate, coefficient, weight and base shear by direction."""
        from undatum.project.base_shear import base_shears

        return base_shears(self).table()

    def shape_table(self, how: Normalization = "unit modal mass") -> Table:
        """Shapes of the modes in use, with unit modal mass or another normalization."""
        return mode_shape_table(self, how)

    def __str__(self) -> str:
        head = f"{self.project.title}\n"
        return head + "\n".join(f"  {name:<13} {text}" for name, text in self.story())

    def __repr__(self) -> str:
        return f"<Results {self.project.title!r}, {self.standard_title}: {self.severity.value}>"

    def _repr_html_(self) -> str:
        from html import escape

        rows = "".join(f"<tr><th style='text-align:left'>{escape(a)}</th>"
                       f"<td style='text-align:left'>{escape(b)}</td></tr>"
                       for a, b in self.story())
        return f"<table><caption>{escape(self.project.title)}</caption>{rows}</table>"
