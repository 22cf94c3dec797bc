"""What a run tells of members, nodes, feet and lines: by set, mode, load case and combination."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

from undatum.analysis.modes import Modes
from undatum.analysis.response import FurtherSet, Readable, ResponseSet, SpectrumSet, StaticSet
from undatum.building.groups import LoadGroups
from undatum.building.members import Member, chosen_members
from undatum.building.weight import Weights
from undatum.checks.stability import StabilityCheck
from undatum.errors import Fault, InputError
from undatum.mechanics.cases import LoadCases
from undatum.mechanics.model import Model
from undatum.project.combined import (
    each_table,
    envelope_table,
    extremes_table,
    footing_table,
    line_table,
    note_of,
    together_table,
)
from undatum.project.combining import Combiner, combiner_of, foot_parts, line_parts, member_parts
from undatum.project.line_forces import force_from_floor, line_forces_table, modal_line_forces_table
from undatum.project.members import (
    case_forces_table,
    cases_of,
    forces_table,
    modal_forces_table,
    modal_reactions_table,
    reactions_table,
)
from undatum.project.node_motion import (
    case_node_motion_table,
    modal_node_motion_table,
    node_motion_table,
)
from undatum.project.schema import Project
from undatum.project.stresses import combined_stresses_table, fibers_of, stresses_table
from undatum.standards.answers import CombinationAnswer, ModalRules
from undatum.standards.contract import WeightRule
from undatum.standards.terms import DirectionalCombination, LimitState, Method
from undatum.table import Table

Shown = Literal["envelope", "extremes", "each", "together", "stress"]


def _check_places(at: Sequence[float]) -> None:
    faults = [Fault("at", f"{x:g} is no fraction of the length", "give values from 0 to 1")
              for x in at if not 0 <= x <= 1]
    if faults:
        raise InputError(faults)


class MemberReadings:
    """The part of the results that is read by member, node, foot or line when asked for."""

    __slots__ = ()

    if TYPE_CHECKING:  # fields of the results
        project: Project
        standard_title: str
        states: tuple[LimitState, ...]
        weights: Weights
        load_groups: LoadGroups
        model: Model
        drift_modes: Modes | None
        rules: ModalRules
        static_sets: tuple[StaticSet, ...]
        spectrum_sets: tuple[SpectrumSet, ...]
        vertical: SpectrumSet | None
        further: tuple[FurtherSet, ...]
        own_sets: tuple[StaticSet, ...]
        combinations: CombinationAnswer | None
        stability: tuple[StabilityCheck, ...]

    @property
    def strength(self) -> LimitState:
        """The limit state whose base shear is quoted and whose forces enter combinations."""
        return next(s for s in self.states if s.role == "forces")

    @property
    def together(self) -> DirectionalCombination:
        """How the directions of ground motion go together."""
        return self.project.analysis.directional_combination or self.rules.directional_combination

    @property
    def combines(self) -> bool:
        """Whether there are load combinations, of the standard or one's own."""
        return self.combinations is not None or bool(self.project.combinations)

    @property
    def weight_rule(self) -> WeightRule:
        """The rules of the standard on loads."""
        found: WeightRule = self.project.find_standard().weight(self.project.site)
        return found

    def load_cases(self) -> LoadCases:
        """The structure under every kind of floor load and every case of one's own."""
        return cases_of(self.model, self.project.building, self.load_groups)

    def case_forces(self, which: str = "all", at: Sequence[float] = (0.0, 0.5, 1.0)) -> Table:
        """Section forces of members under every load case. Raises InputError."""
        return case_forces_table(self.model, self.load_cases(), self.members(which), at)

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

    def node_motion(
        self, which: str = "all", of_set: str = "", *, signed: bool = False
    ) -> Table:
        """Displacements and rotations of the nodes of members, chosen as for
        :meth:`section_forces`.

        ``of_set`` may also name a set for drift, where members have one stiffness for both.
        Raises InputError.
        """
        every: list[ResponseSet | FurtherSet] = [*self.static_sets, *self.own_sets,
                                                 *self.spectrum_sets, *self.further]
        for_drift = [s for s in every if s.name == of_set and s.state != self.strength]
        if for_drift and self.drift_modes is not None:
            raise InputError([Fault("of_set", f"{of_set!r} acts on the stiffness for drift, which "
                                    "is another", "run the project with that stiffness alone")])
        return node_motion_table(self.model, self.project.building, self.members(which),
                                 for_drift or self._sets(of_set), signed=signed)

    def modal_node_motion(self, which: str = "all", of_set: str = "") -> Table:
        """As :meth:`node_motion`, in every mode of the spectrum sets. Raises InputError."""
        return modal_node_motion_table(self.model, self.project.building, self.members(which),
                                       self._of_modes(of_set))

    def case_node_motion(self, which: str = "all") -> Table:
        """As :meth:`node_motion`, under every load case. Raises InputError."""
        return case_node_motion_table(self.model, self.project.building, self.members(which),
                                      self.load_cases())

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
        return combiner_of(self.combinations, own, self.together, self.load_groups,
                           self.project.building, vertical=self.vertical is not None)

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
