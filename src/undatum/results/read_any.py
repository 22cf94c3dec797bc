"""What a run is asked: anything there is to read, under anything that acts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from undatum.analysis.modes import Modes
from undatum.analysis.response import FurtherSet, Readable, ResponseSet, SpectrumSet, StaticSet
from undatum.checks.stability import StabilityCheck
from undatum.errors import Fault, InputError
from undatum.layout.frame import Member
from undatum.layout.groups import LoadGroups
from undatum.layout.weight import Weights
from undatum.mechanics.cases import LoadCases
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine
from undatum.project.schema import Project
from undatum.readings.combinations import Combiner, combiner_of
from undatum.readings.layouts import Reading
from undatum.readings.readable import Structure, Thing
from undatum.readings.sources import Acting, read
from undatum.readings.things import thing
from undatum.record import Memo
from undatum.stages.members import cases_of
from undatum.standards.answers import CombinationAnswer, ModalRules
from undatum.standards.contract import WeightRule
from undatum.standards.terms import DirectionalCombination, LimitState, Method
from undatum.table import Table


class AnyReading:
    """The part of the results that is read when asked for."""

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
        plumb: tuple[PlumbLine, ...]
        static_sets: tuple[StaticSet, ...]
        spectrum_sets: tuple[SpectrumSet, ...]
        vertical: SpectrumSet | None
        further: tuple[FurtherSet, ...]
        own_sets: tuple[StaticSet, ...]
        combinations: CombinationAnswer | None
        stability: tuple[StabilityCheck, ...]
        memo: Memo

    def read(
        self, what: str, which: str = "", under: str = "", *,
        at: Sequence[float] = (0.0, 1.0), by: Method = "spectrum", signed: bool = False,
    ) -> Reading:
        """Anything under anything: values with labels, as an array and as a table.

        ``what``: ``forces``, ``stress`` and ``motion`` (of nodes) of members, ``reactions``,
        ``lines``, ``stories``, ``drift``, or what another package adds. ``which``: members by name
        or selection (``"columns on B at L1..L3"``), a foot, line, story or point; all for nothing.
        ``under``: ``sets``, ``modes``, ``cases``, ``envelope``, ``extremes``, ``each``,
        ``together``, or names and patterns, see :mod:`undatum.readings.sources`. ``at`` are
        fractions of the length of members, ``by`` the forces of the earthquake that enter
        combinations; ``signed`` gives peaks of a spectrum the signs of the mode with the largest
        base shear. Raises InputError naming the nearest.

        >>> import undatum as ud
        >>> r = ud.run(ud.shipped_project("arcade"))
        >>> r.read("forces", "beams on A at Roof", "envelope", at=(0.0, 0.5, 1.0)).table().name
        'section_forces_envelope'
        """
        return self.read_thing(thing(self.structure, what, which, at), under, by=by,
                               signed=signed)

    def read_thing(
        self, one: Thing, under: str = "", *, by: Method = "spectrum", signed: bool = False
    ) -> Reading:
        """As :meth:`read`, of a thing made from :attr:`structure`. Raises InputError."""
        return read(one, self._acting(), under, by=by, signed=signed)

    @property
    def structure(self) -> Structure:
        """What things are read from."""
        return Structure(self.model, self.project.building, self.plumb, self.load_cases)

    def _acting(self) -> Acting:
        others = [s for s in self.every_set if s.state != self.strength]
        return Acting(
            self.model, self.sets_to_read, tuple(others), self.drift_modes is not None,
            self.load_cases, self.combiner, self.stability,
            tuple(case.name for case in self.project.building.cases))

    def combiner(self) -> Combiner:
        """The load combinations of the standard and one's own, ready to multiply.

        Raises InputError where there are none.
        """
        own = self.project.combinations
        if self.combinations is None and not own:
            raise InputError([Fault("", f"{self.standard_title} gives no load combinations",
                                    "give some of your own: [[combinations]]")])
        return self.memo.get("combiner", lambda: combiner_of(
            self.combinations, own, self.together, self.load_groups, self.project.building,
            vertical=self.vertical is not None))

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
    def every_set(self) -> tuple[ResponseSet | FurtherSet, ...]:
        """Every set of the job, whatever it is for."""
        return (*self.static_sets, *self.own_sets, *self.spectrum_sets,
                *([] if self.vertical is None else [self.vertical]), *self.further)

    def members(self, which: str = "all") -> tuple[Member, ...]:
        """Members by name or selection, such as ``"columns on B at L1..L3"``. Raises InputError."""
        return self.structure.members(which)

    def member_tables(self) -> tuple[Table, ...]:
        """Section forces of all members set by set, under load cases, and their extremes in load
        combinations; none where there are no members."""
        if self.model.framed is None:
            return ()
        return tuple(self.read("forces", under=under).table()
                     for under in ("sets", "cases", *(["envelope"] if self.combines else [])))
