"""The structure: standard, weight, model, what is read of it."""

from __future__ import annotations

from undatum import standards
from undatum.job.asked import GivenParts
from undatum.job.stage import settled, stage
from undatum.layout.groups import LoadGroups
from undatum.layout.plan import PlanFacts
from undatum.layout.weight import FloorMasses, Weights
from undatum.mechanics.model import Pressing
from undatum.mechanics.planes import LateralPlanes
from undatum.mechanics.quantities import PlumbLine
from undatum.mechanics.solver import Solver
from undatum.stages.shaking import Shaking
from undatum.stages.to_static_forces import (
    build_elastic,
    build_for_drift,
    build_model,
    find_directions,
    find_planes,
    find_plumb_lines,
    find_pressing,
    find_shaking,
    find_standard,
    find_weight_rule,
    gather_facts,
    group_building_loads,
    judge_site,
    read_plan,
    take_masses,
    weigh_building,
)
from undatum.standards.answers import SiteAnswer
from undatum.standards.contract import Ground, WeightRule
from undatum.standards.facts import StructureFacts
from undatum.standards.terms import Direction


class StructureParts(GivenParts):
    """The structure: standard, weight, model, what is read of it."""

    @stage
    def standard(self) -> standards.AnyStandard:
        """The standard of the project."""
        return find_standard(self.standard_key, self.folder, self.criteria)

    @stage
    def _judged_site(self) -> tuple[Ground, SiteAnswer]:
        """Site parameters and the spectrum before any reduction."""
        return judge_site(self.standard, self.given)

    @stage
    def ground(self) -> Ground:
        return self._judged_site[0]

    @stage
    def site(self) -> SiteAnswer:
        return self._judged_site[1]

    @stage
    def shaking(self) -> Shaking:
        """The spectra in use, horizontal and vertical."""
        return find_shaking(
            self.standard, self.ground, self.site, self.spectrum, self.damping, self.folder)

    @settled
    def directions(self) -> tuple[Direction, ...]:
        """Along what the building moves and is judged: X and Y, or one of them."""
        return find_directions(self.building)

    @settled
    def weight_rule(self) -> WeightRule:
        """Which loads count, and how much."""
        return find_weight_rule(self.standard, self.given)

    @settled
    def weights(self) -> Weights:
        """Seismic weight by level."""
        return weigh_building(self.weight_rule, self.building)

    @settled
    def load_groups(self) -> LoadGroups:
        """Loads that combinations and second order take alike."""
        return group_building_loads(self.weight_rule, self.building)

    @settled
    def masses(self) -> FloorMasses:
        """The masses alone: another rule that counts the same moves nothing."""
        return take_masses(self.weights, self.building)

    @stage
    def elastic(self) -> Solver:
        """The model of the building, its stiffness factored. Raises AnalysisError for a
        mechanism.
        """
        return build_elastic(self.building, self.masses)

    @settled
    def pressed(self) -> Pressing | None:
        """Gravity as second order sees it, where it goes into the stiffness."""
        return find_pressing(
            self.elastic, self.building, self.weights, self.analysis, self.load_groups)

    @stage
    def solver(self) -> Solver:
        """The model with second order in it where that is asked for."""
        return build_model(self.elastic, self.building, self.masses, self.pressed)

    @stage
    def drift_solver(self) -> Solver:
        """The model on which the forces for drift act: the same, where nothing says otherwise."""
        return build_for_drift(
            self.building, self.masses, self.weights, self.analysis, self.solver, self.load_groups)

    @stage
    def planes(self) -> LateralPlanes:
        """What carries the shear of each story, plane by plane."""
        return find_planes(self.building, self.solver, self.weights)

    @settled
    def facts(self) -> StructureFacts:
        """What a standard needs to know of the structure."""
        return gather_facts(self.building, self.solver, self.weights, self.planes)

    @stage
    def plan(self) -> PlanFacts:
        """What the description tells of regularity."""
        return read_plan(self.building)

    @stage
    def plumb(self) -> tuple[PlumbLine, ...]:
        """The vertical lines on which drift is read, besides the center of mass."""
        return find_plumb_lines(self.building, self.solver, self.drift_choices)
