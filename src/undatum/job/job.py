"""The job: everything that follows from a project, in the order an engineer asks for it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace

from undatum.analysis.modes import Modes, modes_between
from undatum.errors import InputError, UndatumError
from undatum.finding import Finding
from undatum.job.response import ResponseParts
from undatum.job.stage import stage
from undatum.memory import without_collecting
from undatum.project.damping import damping_finding
from undatum.project.located import hazard_finding, hazard_working
from undatum.project.own_forces import own_forces_findings
from undatum.project.schema import Project
from undatum.results.base_shear import BaseShears
from undatum.results.expected import expected_findings
from undatum.results.results import Results
from undatum.stages.closing import (
    ask_questions,
    beyond_the_table,
    far_scales,
    shears_for_strength,
    stiffness_ratio,
    unchecked_gaps,
)
from undatum.stages.floors import (
    RigidInstead,
    floor_findings,
    long_floors,
    rigid_instead,
    said_flexible,
)
from undatum.stages.judged_choices import (
    against_the_standard,
    chosen_ways,
    close_modes,
    free_joints,
    moved_masses,
    not_open,
    open_floors,
    other_for_drift,
    plane_building,
    separate,
    vertical_motion,
)
from undatum.stages.outcomes import OwnEffect
from undatum.stages.own_values import find_own_values, without_each
from undatum.stages.second_order import second_order_finding
from undatum.stages.threads import few_threads
from undatum.stages.walls import standing_apart, wall_findings
from undatum.standards.answers import BaseShearAnswer
from undatum.standards.facts import ModalFacts
from undatum.standards.terms import Direction
from undatum.units import to_si
from undatum.working import Section, unused


class Job(ResponseParts):
    """Everything that follows from one project, worked out when it is read.

    ``job.modes`` finds the modes and stops there. :meth:`varied` gives the job of a variant, in
    which every stage that read the same as before keeps its result: another site or lateral system
    on the same building does not weigh, assemble or find modes again. ``watch`` is told the name of
    every stage before it is worked out.

    >>> job = ud.calculate(ud.shipped_project("clinic"))
    >>> round(float(job.modes.periods[0]), 2)  # the modes, and no more
    0.43
    """

    def varied(self, changes: Mapping[str, object]) -> Job:
        """The job of a variant: see :meth:`undatum.Project.varied` for the paths."""
        return self.of(self._project.varied(changes))

    def of(self, project: Project) -> Job:
        """The job of another project, keeping what is the same."""
        return Job(project, before=self)

    def modes_between(self, shortest: float | str, longest: float | str) -> Modes:
        """The modes with periods from ``shortest`` to ``longest``, both counted, however many.

        Numbers are seconds; text has its unit. Raises ValueError for a range that is none.
        """
        low, high = to_si(shortest, "time"), to_si(longest, "time")
        if not 0 < low < high:
            raise ValueError(f"{shortest} to {longest} is no range of periods; give the shorter "
                             'first, such as "0.1 s" and "0.5 s"')
        return modes_between(self.solver, low, high)

    @contextmanager
    def _working(self) -> Iterator[None]:
        building = self._project.building
        frame = building.frame
        freedoms = 0 if frame is None else 6 * len(frame.points)
        with without_collecting(), few_threads(len(building.levels), freedoms), \
                self._project.at_work():
            yield

    @stage
    def own_effects(self) -> tuple[OwnEffect, ...]:
        """The base shears for strength without each value of the engineer's, the others kept."""
        found, job = [], None
        for own, other in without_each(self.project, self.own_values):
            job = Job(other) if job is None else job.of(other)
            try:
                shears = {d: s.base_shear for d, s in job.strength_shears.items()}
            except UndatumError:  # what it stands in for does not work here
                shears = {}
            found.append(OwnEffect(own, shears))
        return tuple(found)

    @stage
    def own_findings(self) -> tuple[Finding, ...]:
        """A finding for every value in place of the standard's, with what it does to the base
        shear.
        """
        return find_own_values(self.own_effects, self.working, self.strength_shears, self.units)

    @stage
    def questions(self) -> tuple[Finding, ...]:
        """Values that are possible but not plausible, and what lies off its floor."""
        return ask_questions(self.project, self.units)

    @stage
    def strength_shears(self) -> Mapping[Direction, BaseShearAnswer]:
        """The static base shears for strength by direction."""
        return shears_for_strength(self.statics, self.strength)

    @stage
    def working(self) -> tuple[Section, ...]:
        """The working of every answer, in the order of the job; no two sections have one key.

        Raises InputError where a value of one's own was not used.
        """
        combinations = self.combinations
        found = (
            *hazard_working(self.project.site),
            self.site.working,
            *self.shaking.working,
            *(one.working for one in self.laterals.values()),
            *(one.working for one in self.periods.values()),
            *(x for s in self.statics.values() for x in (s.shear.working, s.distribution.working)),
            *(w for one in (self.two_stages.found if self.two_stages else ()) for w in one.working),
            *(t.amplification.working for t in self.twist.values() if t.amplification is not None),
            *(f.working for f in self.diaphragms.values()),
            *(s.answer.working for s in self.scaling),
            *(limit.working for limit in self.limits.values()),
            *(s.answer.working for s in self.stability),
            *(g.answer.working for g in self.gap_checks),
            *([combinations.working] if combinations else []),
        )
        if faults := unused(self.own_values, found):
            raise InputError(faults)
        keys = [s.key for s in found]
        assert len(set(keys)) == len(keys), "two sections of working have one key"
        return found

    @stage
    def rigid_floors_instead(self) -> RigidInstead | None:
        """The structure with rigid floors, where some deform."""
        return rigid_instead(self.solver, lambda: self.rigid_twin)

    @stage
    def findings(self) -> tuple[Finding, ...]:
        """Every judgement, in the order of the job."""
        project, model, modes, twist = self.project, self.model, self.modes, self.twist
        facts = ModalFacts(
            modes.periods, modes.kinds, modes.mass_ratios, modes.kept,
            project.analysis.modal_combination or self.rules.modal_combination,
            self.facts.stories, model.directions)
        return (
            *self.own_findings,
            *hazard_finding(project.site),
            *self.site.findings,
            *(f for one in self.laterals.values() for f in one.findings),
            *self.procedure.findings,
            *not_open(project.drift.judged_by, self.procedure),
            *plane_building(model),
            *separate(self.building, self.solver, self.strength_statics),
            *open_floors(model, self.building.flexible),
            *floor_findings(self.floors_judged, self.rigid_floors_instead,
                            exempt=not twist and not model.plane),
            *said_flexible(self.building.flexible, self.standard.floor_test,
                           exempt=not twist and not model.plane),
            *long_floors(model, self.standard.floor_test, self.irregular),
            *wall_findings(self.building, model),
            *standing_apart(self.building),
            *([] if self.mesh_halved is None else [self.mesh_halved.finding()]),
            *free_joints(model),
            *(t.answer.finding for t in twist.values()),
            *self.regularity.findings,
            *([] if self.two_stages is None else self.two_stages.findings()),
            *([] if self.frames_alone is None else self.frames_alone.findings()),
            *([] if self.secondary is None else self.secondary.findings()),
            *self.dynamics_part.findings(facts),
            *chosen_ways(project.analysis, project.irregularities, modes, self.rules, model, twist),
            *against_the_standard(
                project.analysis, self.rules, twist, self.directional,
                {d: self.forces_part.eccentricity("static", t.answer) for d, t in twist.items()}),
            *moved_masses(project.analysis, self.by_masses),
            *damping_finding(project.analysis.damping_of, project.analysis.damping_by_mode,
                             self.damping_ratios[: modes.kept],
                             self.shaking.horizontal["X"].damping),
            *close_modes(facts.combination, modes, self.dynamic),
            *stiffness_ratio(model),
            *second_order_finding(model),
            *own_forces_findings(self.own_forces, self.own_sets, model,
                                 [s for s in self.statics.values()
                                  if s.shear.state == self.strength]),
            *vertical_motion(self.vertical_set, model, self.weights, project.analysis),
            *other_for_drift(self.building, modes, self.drift_modes, model.directions),
            *unchecked_gaps(len(project.gaps) - len(self.gap_checks), self.standard.title),
            *(f for check in self.drifts.values() for f in check.findings()),
            *(f for reading in self.drift_readings.values() for f in reading.findings()),
            *(f for one in self.drift_combined if (f := one.finding()) is not None),
            *(gap.finding() for gap in self.gap_checks),
            *(s.finding() for s in self.stability),
            *self.plausibility.findings(),
            *self.questions,
            *self.shaking.findings,
            *beyond_the_table(self.shaking, modes),
            *far_scales(self.scaling),
        )

    @property
    def base_shears(self) -> BaseShears:
        """Period, static forces and base shears, worked out as far as they need."""
        statics, periods = self.statics, self.periods
        working = (self.site.working, *(one.working for one in self.laterals.values()),
                   *(p.working for p in periods.values()),
                   *(w for s in statics.values()
                     for w in (s.shear.working, s.distribution.working)))
        return BaseShears(
            self._project.title, self.standard.title, self.units, self.site, self.laterals,
            statics, periods, self.computed, self.shaking, working)

    @stage
    def results(self) -> Results:
        """Everything, as one record. Raises InputError where what is expected names nothing."""
        found = Results(
            project=self.project.keeping(getattr(self.standard, "text", None)),
            standard_title=self.standard.title,
            states=self.states,
            site=self.site,
            laterals=self.laterals,
            procedure=self.procedure,
            shaking=self.shaking,
            reduced=self.reduced,
            weights=self.weights,
            load_groups=self.load_groups,
            model=self.model,
            modes=self.modes,
            drift_modes=None if self.drift_solver is self.solver else self.drift_modes,
            by_moments=self.by_moments,
            by_masses=self.by_masses,
            rules=self.used_rules,
            periods=self.periods,
            computed=self.computed,
            statics=self.statics,
            torsion=self.twist,
            torsion_factors=self.factors_table,
            shape=self.shape,
            diaphragms={d: f.forces for d, f in self.diaphragms.items()},
            rigidity=self.stiff.centers,
            static_sets=self.sets,
            spectrum_sets=self.spectrum_sets,
            vertical=self.vertical_set,
            further=self.further_sets,
            own_sets=self.own_sets,
            dynamic=self.dynamic,
            scaling=self.scaling,
            plumb=self.plumb,
            gaps=self.gap_checks,
            combinations=self.combinations,
            drifts=self.drifts,
            drift_readings=self.drift_readings,
            drift_combined=self.drift_combined,
            stability=self.stability,
            plausibility=self.plausibility,
            floors=self.floors_judged,
            mesh_halved=self.mesh_halved,
            two_stages=self.two_stages,
            frames_alone=self.frames_alone,
            secondary=self.secondary,
            findings=self.findings,
            working=self.working,
        )
        if not found.project.expected:
            return found
        return replace(found, findings=(*found.findings, *expected_findings(found.expected())))
