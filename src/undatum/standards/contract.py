"""What the analysis asks of a standard, in parts.

A standard is asked first about the ground, from the ``[site]`` table, then about weight. Once the
building is weighed and idealized its lateral systems follow, and with them a :class:`Job`: the
facts to which the other parts are bound, so that no question repeats them. The records that go in
are in :mod:`undatum.standards.facts`, those that come out in :mod:`undatum.standards.answers`, and
words of both in :mod:`undatum.standards.terms`. A new standard is one new room that answers
this module, and no change elsewhere; one from outside the package is registered as an entry point
of the group ``undatum.standards``.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Generic, Literal, TypeVar

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Spectrum
from undatum.record import FixedDict
from undatum.standards.answers import (
    Amplification,
    BaseShearAnswer,
    CombinationAnswer,
    DampingAnswer,
    Distribution,
    DriftLimit,
    Eccentricity,
    FloorAnswer,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    ScaleAnswer,
    SeparationAnswer,
    SiteAnswer,
    StabilityAnswer,
    SystemAnswer,
    TorsionAnswer,
    VerticalAnswer,
    WeightShare,
)
from undatum.standards.facts import (
    Asked,
    AskedOfSite,
    Bools,
    CarriedFloors,
    CrackedShares,
    Floats,
    FloorTest,
    FoundationRule,
    GapFacts,
    LiveReduction,
    LoadFacts,
    ModalFacts,
    SecondaryRule,
    SecondOrderFacts,
    ShapeFacts,
    StaticLevels,
    StructureFacts,
    TorsionFacts,
    TwoStageRule,
)
from undatum.standards.left import Left, Required
from undatum.standards.terms import (
    DRIFT,
    STRENGTH,
    Direction,
    DirectionalCombination,
    Effect,
    LimitState,
    Method,
)
from undatum.table import Table

SiteIn = TypeVar("SiteIn", bound=AskedOfSite)
SystemIn = TypeVar("SystemIn", bound=Asked)


@dataclass(frozen=True, slots=True)
class Job(Generic[SiteIn, SystemIn]):
    """What the parts of a standard are bound to.

    ``given`` and ``asked`` are the tables of the project, ``site`` and ``systems`` the standard's
    answers to them, ``facts`` the structure, ``spectra`` the design spectra in use before any
    reduction, the standard's own or another in its place.
    """

    given: SiteIn
    site: SiteAnswer
    asked: Mapping[Direction, SystemIn]
    systems: Mapping[Direction, SystemAnswer]
    facts: StructureFacts
    spectra: Mapping[Direction, Spectrum]


class Ground(ABC):
    """The site: its parameters and its spectra. Bound to the ``[site]`` table."""

    @abstractmethod
    def site(self) -> SiteAnswer:
        """Site parameters, category and design spectrum."""

    def vertical(self, site: SiteAnswer) -> VerticalAnswer | None:
        """Design spectrum of the vertical component; ``None`` where the standard gives none."""
        return None

    def floor(self, site: SiteAnswer) -> FloorAnswer | None:
        """What a site-specific spectrum may not fall below; ``None`` where nothing is said."""
        return None

    def study(
        self, site: SiteAnswer, spectra: Mapping[Direction, Spectrum]
    ) -> tuple[Finding, ...]:
        """Whether site values from a study agree with its ``spectra`` (empty where not given).

        The spectra are at the damping of the general ones, before any reduction.
        """
        return ()

    def about_own_spectrum(self, site: SiteAnswer) -> tuple[Finding, ...]:
        """What the standard's own spectrum holds that another in its place must hold too."""
        return ()

    def damping(self, ratio: float) -> DampingAnswer | None:
        """Factors from 5 % to another damping ratio, by period; ``None`` without a rule."""
        return None


class WeightRule(ABC):
    """Which loads count, and how much. Bound to the ``[site]`` table.

    Rules are equal where they are bound to the same values.
    """

    def __eq__(self, other: object) -> bool:
        return type(self) is type(other) and vars(self) == vars(other)

    __hash__ = None  # type: ignore[assignment]

    @abstractmethod
    def share(self, load: LoadFacts) -> WeightShare:
        """Share of a load that is seismic weight."""

    @abstractmethod
    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        """Share of a load in the gravity load of second-order checks, and clause."""

    def effect(self, kind: str) -> Effect:
        """What a kind of load is in load combinations; partitions are live where a standard does
        not say otherwise, and so is live load of roofs."""
        return "snow" if kind == "snow" else \
            "live" if kind in ("live", "storage", "partition", "roof live") else "dead"

    def combination(self, load: LoadFacts) -> WeightShare:
        """What multiplies a load in combinations with earthquake, beside their factor; in full by
        default."""
        return WeightShare(1.0, "", "in full")

    def live_reduction(self, carried: CarriedFloors) -> LiveReduction | None:
        """Reduction of the live load of floors on a column; ``None`` where there is no rule."""
        return None


class LateralForces(ABC):
    """The static procedure. Bound to a :class:`Job`."""

    #: What :meth:`amplification` is asked with: displacements of the levels, or story drifts.
    amplified_by: Literal["displacement", "drift"] = "displacement"

    @abstractmethod
    def period(self, direction: Direction) -> PeriodAnswer:
        """Approximate period and cap on the computed one."""

    @abstractmethod
    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        """Static base shear with every limit and the branch that governed.

        ``computed`` is the period of the mode that governs the direction, s.
        """

    @abstractmethod
    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        """Static forces by level, top down."""

    @abstractmethod
    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        """Design eccentricity of the forces of a method, given how irregular the direction is.

        Without a judgement: the eccentricity with which the irregularity is judged.
        """

    @abstractmethod
    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        """Torsional irregularity, and what follows from it."""

    def torsion_of_structure(
        self, answers: Mapping[Direction, TorsionAnswer]
    ) -> Mapping[Direction, TorsionAnswer]:
        """What follows for each direction once both are judged; as judged apart by default."""
        return answers

    def amplification(self, direction: Direction, largest: Floats, average: Floats
                      ) -> Amplification:
        """Amplification of the accidental torsion by level from displacements in m, or from story
        drifts (see :attr:`amplified_by`).

        Asked only where :meth:`torsion` says that it is amplified.
        """
        raise NotImplementedError("this standard does not amplify accidental torsion")

    def torsion_factor(self, ratio: float) -> float | None:
        """Simplified factor on a line's share for accidental torsion, to compare with.

        ``ratio`` is the distance of the line from the center of mass over the distance between
        the outermost lines. ``None`` where the standard gives none.
        """
        return None

    def diaphragms(
        self, distribution: Distribution, weights: Floats, carried: Bools
    ) -> Distribution | None:
        """Forces on the floors as diaphragms, top down; ``None`` where the standard has no rule.

        ``distribution`` holds the static forces for strength of the levels above the base and
        ``weights`` (n,) theirs; ``carried`` (n, n) says which level stands on which story.
        """
        return None


class Dynamics(ABC):
    """The modal response spectrum analysis. Bound to a :class:`Job`."""

    job: Job[Any, Any]

    @abstractmethod
    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        """The spectrum in use as a limit state reduces it; the divisor may depend on the period."""

    def reduced_at(
        self, direction: Direction, state: LimitState, period: float
    ) -> Spectrum:
        """The same where the divisor of the whole spectrum hangs on the ``period`` (s) of the mode
        that governs the direction; as without it by default."""
        return self.reduced(direction, state)

    def displacement_factor(self, direction: Direction, state: LimitState) -> float:
        """What turns the displacement under the forces of a limit state into the one judged."""
        return self.job.systems[direction].drift_factor

    @abstractmethod
    def rules(self) -> ModalRules:
        """Mass target, damping and default combinations."""

    def findings(self, modes: ModalFacts) -> tuple[Finding, ...]:
        """What the standard asks of the modes beyond their mass, and its alternatives."""
        return ()

    @abstractmethod
    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        """Factor on the modal response of a limit state, whose static base shear is given."""

    def directions(self, irregular: Sequence[str]) -> tuple[DirectionalCombination, str]:
        """How the two directions of ground motion go together here, and by which clause."""
        rules = self.rules()
        return rules.directional_combination, rules.directional_clause


class WholeStructure(ABC):
    """Regularity, limits and combinations. Bound to a :class:`Job`."""

    #: Whose story shear second order is judged by: of the forces that give the drift, or of those
    #: for strength.
    second_order_shear: Literal["drift", "forces"] = "drift"

    @property
    def types(self) -> tuple[str, ...]:
        """Types of irregularity that procedures hang on: none of them is judged without a
        structure."""
        return ()

    @abstractmethod
    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        """Types of structural irregularity found, those not judged, and the findings."""

    @abstractmethod
    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        """Which procedures the standard permits here, judged with the base shears for strength.

        ``computed`` are the periods of the modes that govern X and Y, s; ``regularity`` is what
        :meth:`irregularities` found.
        """

    @abstractmethod
    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        """Allowable story drift for a ``structure`` named as in :meth:`Standard.drift_structures`.

        ``None`` leaves it to the lateral system. ``period`` is that of the static forces for the
        same limit state, s; ``irregular`` the types of irregularity found.
        """

    @abstractmethod
    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        """Second-order coefficient by story from total gravity load, design drift, story shear."""

    def separation(self, gap: GapFacts) -> SeparationAnswer | None:
        """Least distance to a neighbor; ``None`` where the standard is silent."""
        return None

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer | None:
        """Load combinations with earthquake; ``None`` where the standard leaves them to others.

        ``vertical`` says that the response to vertical motion is found apart.
        """
        return None


class Standard(ABC, Generic[SiteIn, SystemIn]):
    """A published standard, or criteria of one's own. All numbers are SI unless a name says so.

    ``states`` are its limit states: the first with the role ``forces`` is the one that the base
    shear is quoted for.
    """

    key: str
    title: str
    also: tuple[str, ...] = ()  # other keys it is reached by, such as those of building codes
    states: tuple[LimitState, ...] = (STRENGTH, DRIFT)
    #: Shares of the gross stiffness that cracked members of concrete keep, by kind of member and
    #: by what is kept, with the clause; ``None`` where the standard names no numbers.
    cracked: CrackedShares | None = None
    #: When it takes a floor as flexible in its plane; ``None`` where it gives no number.
    floor_test: FloorTest | None = None
    #: What it asks of members that carry gravity and no lateral force; ``None`` where nothing.
    secondary: SecondaryRule | None = None
    #: What it takes off overturning at the foundation; ``None`` where nothing.
    foundation: FoundationRule | None = None
    #: Its two-stage procedure; ``None`` where it has none.
    two_stage: TwoStageRule | None = None
    #: The concrete standard that goes with it, for the slab that works with beams; empty for none.
    concrete: str = ""
    #: The rule for struts in place of infills that goes with it; empty for none.
    infill: str = ""
    #: Rules of it that are left to the engineer, and why.
    left: tuple[Left, ...] = ()
    site_input: type[SiteIn]
    system_input: type[SystemIn]

    @abstractmethod
    def ground(self, given: SiteIn) -> Ground:
        """The part that knows the site."""

    @abstractmethod
    def weight(self, given: SiteIn) -> WeightRule:
        """The part that knows which loads count."""

    @abstractmethod
    def systems(
        self, asked: Mapping[Direction, SystemIn], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        """Factors and limits of the lateral systems of both directions at once.

        ``facts`` hold what each line takes of the story shear, where a rule needs it.
        """

    @abstractmethod
    def forces(self, job: Job[SiteIn, SystemIn]) -> LateralForces:
        """The part that knows the static procedure."""

    @abstractmethod
    def dynamics(self, job: Job[SiteIn, SystemIn]) -> Dynamics:
        """The part that knows the modal analysis."""

    @abstractmethod
    def whole(self, job: Job[SiteIn, SystemIn]) -> WholeStructure:
        """The part that knows what holds for the whole structure."""

    @abstractmethod
    def drift_structures(self) -> tuple[str, ...]:
        """Names of the structure types with a drift limit of their own; the first is usual."""

    def required(self, site: SiteAnswer) -> tuple[Required, ...]:
        """What the standard asks of a building of this site's category, to work down; nothing where
        it has no categories or they are not listed."""
        return ()

    @abstractmethod
    def systems_table(self) -> Table:
        """All lateral systems of the standard."""

    def bind(
        self, given: SiteIn, site: SiteAnswer, asked: Mapping[Direction, SystemIn],
        facts: StructureFacts, spectra: Mapping[Direction, Spectrum],
    ) -> Job[SiteIn, SystemIn]:
        """The job the other parts are bound to."""
        systems = FixedDict(self.systems(asked, site, facts))
        return Job(given, site, FixedDict(asked), systems, facts, FixedDict(spectra))


def torsion_only(title: str) -> RegularityAnswer:
    """The irregularities of a standard whose other types are not judged here."""
    return RegularityAnswer((), (), (Finding(
        "irregularities", "whole structure", Severity.NOTE,
        f"Of the irregularities of {title} only torsion is checked.", "",
        "Check the others by hand."),))
