"""Story drift on plumb lines against the allowable drift."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field
from typing import TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet, along
from undatum.finding import Finding, Severity
from undatum.labelled import Labelled, axis, labelled
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_drift
from undatum.record import FixedDict, Memo, fixed, record
from undatum.standards.answers import DriftLimit, TorsionAnswer
from undatum.standards.terms import DIRECTIONS, Direction, LimitState, Method
from undatum.table import Table, column
from undatum.ties import largest

Floats = NDArray[np.float64]
T = TypeVar("T")
COMPONENTS = ("X", "Y", "resultant")


@record
class DriftCheck:
    """Drift of every set, plumb line and story. The first plumb line is the center of mass.

    ``elastic`` (set, point, story, component): drift under the reduced forces along X, along Y
    and the largest in any plan direction, m; not a number where the point is not on the floor.
    ``design`` is ``elastic`` times the amplification of the set's direction and the P-Delta
    amplification ``second_order`` (3, stories). ``limits`` (3,) allowable drift ratio.
    ``at_edges`` (2,) whether X and Y are judged at the corners rather than the center of mass, and
    ``places`` (2,) the standard's words for it; a limit is infinite where there is none, for the
    ``reasons`` (2,). ``judged_by`` is the choice of the project, ``barred`` (2,) says in which
    directions the static procedure is not permitted. A plane building is judged ``along`` one of
    X and Y; the other has no drift and no limit. In stories ``everywhere`` (stories,)
    floors are not rigid as a whole and every line is judged.
    """

    state: LimitState
    drift: Labelled
    heights: Floats
    methods: tuple[Method, ...]
    directions: tuple[Direction, ...]
    signs: tuple[int, ...]
    factors: Floats
    second_order: Floats
    limits: Floats
    clauses: tuple[str, str]
    at_edges: tuple[bool, bool]
    places: tuple[str, str]
    reasons: tuple[str, str]
    known: tuple[bool, bool]
    judged_by: str
    barred: tuple[bool, bool]
    above_base: NDArray[np.bool_]
    along: tuple[Direction, ...]
    everywhere: NDArray[np.bool_]
    memo: Memo = field(default_factory=Memo, init=False)

    @property
    def elastic(self) -> Floats:
        """(sets, points, stories, 3) m."""
        return self.drift.values

    @property
    def sets(self) -> tuple[str, ...]:
        return self.drift.axes[0].labels["set"]

    @property
    def points(self) -> tuple[str, ...]:
        return self.drift.axes[1].labels["point"]

    @property
    def levels(self) -> tuple[str, ...]:
        """Stories, by the level at their top."""
        return self.drift.axes[2].labels["story"]

    @property
    def shown(self) -> tuple[int, ...]:
        """The components that are judged or told, by their place."""
        return (0, 1, 2) if len(self.along) == 2 else (DIRECTIONS.index(self.along[0]),)

    @property
    def design(self) -> Floats:
        """(sets, plumb lines, stories, 3) amplified drift, m."""
        return self.memo.get("design", lambda: np.asarray(
            self.elastic * self.factors[:, None, None, None] * self.second_order.T[None, None]))

    @property
    def ratios(self) -> Floats:
        """(sets, plumb lines, stories, 3) amplified drift over story height."""
        return self.memo.get("ratios", lambda: np.asarray(
            self.design / self.heights[None, None, :, None]))

    @property
    def use(self) -> Floats:
        """(sets, plumb lines, stories, 3) amplified drift over allowable drift."""
        return self.memo.get("use", lambda: np.asarray(self.ratios / self.limits))

    def deciding(self, component: int) -> Method | None:
        """The method that decides, or ``None`` for both: the permitted one, else as chosen."""
        barred = all(self.barred) if component == 2 else self.barred[component]
        if barred and "spectrum" in self.methods:
            return None if self.judged_by == "static" else "spectrum"
        return None if self.judged_by == "both" else cast(Method, self.judged_by)

    @fixed
    def judged(self, component: int, method: str | None = None) -> Floats:
        """(sets, plumb lines, stories) use where this component is judged, else not a number."""
        use = np.array(self.use[..., component])
        method = method or self.deciding(component)
        edges = any(self.at_edges) if component == 2 else self.at_edges[component]
        if not edges:
            use[:, 1:, ~self.everywhere] = np.nan
        use[:, :, ~self.above_base] = np.nan
        if method is not None:
            use[[m != method for m in self.methods]] = np.nan
        return use

    def governing(
        self, component: int, story: int | None = None, method: str | None = None
    ) -> tuple[int, int, int]:
        """(set, plumb line, story) with the largest use, or without a limit the largest drift."""
        use = self.judged(component, method)
        if not np.isfinite(self.limits[component]):
            use = np.where(np.isfinite(use), np.abs(self.ratios[..., component]), np.nan)
        if story is not None:
            keep = np.full(use.shape, np.nan)
            keep[:, :, story] = use[:, :, story]
            use = keep
        where = np.unravel_index(largest(use), use.shape)
        return int(where[0]), int(where[1]), int(where[2])

    def largest_use(self, component: str, method: str | None = None) -> float:
        """Largest design drift over its limit along ``X`` or ``Y``, or of the ``resultant``."""
        return float(np.nanmax(self.judged(COMPONENTS.index(component), method)))

    def table_name(self, component: int) -> str:
        """Name of the table of :meth:`envelope`."""
        return f"drift_{COMPONENTS[component].lower()}" + self.state.beside("_")

    @property
    def full_name(self) -> str:
        """Name of the table of :meth:`full_table`."""
        return "drift_all" + self.state.beside("_")

    def envelope(self, component: int) -> Table:
        """By story: the governing set and point, elastic and amplified drift, limit and use."""
        rows = [i for i in range(len(self.levels)) if self.above_base[i]]
        at = [self.governing(component, i) for i in rows]
        name = COMPONENTS[component]
        corners = self.design[:, 1:, :, component]
        has = [bool(np.isfinite(corners[s, :, i]).any()) for s, _, i in at]
        largest = [float(np.nanmax(corners[s, :, i])) if ok else np.nan
                   for (s, _, i), ok in zip(at, has, strict=True)]
        average = [float(np.nanmean(corners[s, :, i])) if ok else np.nan
                   for (s, _, i), ok in zip(at, has, strict=True)]
        use = [float(self.use[s, p, i, component]) for s, p, i in at]
        over = self._exceeded(component)
        return Table(
            self.table_name(component),
            f"Story drift, {name}" + self.state.beside(", "),
            (
                column("story", "", [self.levels[i] for i in rows]),
                column("story height", "length", [self.heights[i] for i in rows]),
                column("set", "", [self.sets[s] for s, _, _ in at]),
                column("point", "", [self.points[p] for _, p, _ in at]),
                column("elastic drift", "displacement",
                       [self.elastic[s, p, i, component] for s, p, i in at]),
                column("amplification", "ratio", [self.factors[s] for s, _, _ in at]),
                column("P-Delta factor", "ratio", [self.second_order[component, i] for i in rows]),
                column("design drift", "displacement",
                       [self.design[s, p, i, component] for s, p, i in at]),
                column("drift ratio", "ratio", [self.ratios[s, p, i, component] for s, p, i in at]),
                column("allowable", "ratio", [self.limits[component]] * len(rows)),
                column("use", "ratio", use),
                column("average of corners", "displacement", average),
                column("largest of corners", "displacement", largest),
                column("verdict", "", [
                    self._verdict(s, p, i, component) if component < 2 else "for information"
                    for s, p, i in at]),
            ),
            note=self._note(component),
            marks=tuple(k for k, one in enumerate(at) if over[one]),
        )

    def _exceeded(self, c: int) -> NDArray[np.bool_]:
        """(sets, plumb lines, stories) whether a value along X or Y is judged and over its limit;
        the resultant never is."""
        return np.asarray(self.judged(c) > 1) if c < 2 else np.zeros(self.use.shape[:3], bool)

    def _verdict(self, s: int, p: int, i: int, c: int) -> str:
        """What one value along X or Y means: holds, exceeded, or why it is not judged."""
        deciding = self.deciding(c)
        if not self.above_base[i]:
            return "below the base"
        if not np.isfinite(self.limits[c]):
            return "no limit" if self.known[c] else "not checked"
        if p and not self.at_edges[c] and not self.everywhere[i]:
            return "center of mass governs"
        if deciding not in (None, self.methods[s]):
            return f"{deciding} governs"
        return "exceeded" if self.use[s, p, i, c] > 1 else "passes"

    def _note(self, component: int) -> str:
        """Where drift is judged, why, and by which analysis."""
        if component == 2:
            return ("Largest drift in any plan direction against the smaller of the two limits, "
                    "for information.")
        place = "on every line read" if self.at_edges[component] else "at the center of mass" + (
            "" if not self.everywhere.any() else
            ", on every line where floors are not rigid as a whole")
        said = f"Judged {place}" + (f": {self.places[component]}." if self.places[component]
                                    else ".")
        if self.reasons[component]:
            said += (" No limit: " if self.known[component] else " The limit is not known: ") + \
                f"{self.reasons[component]}."
        if self.barred[component] and self.deciding(component) == "spectrum":
            said += " The static procedure is not permitted here; the spectrum analysis governs."
        return said

    def full_table(self) -> Table:
        """Every set, plumb line and story: elastic and amplified drift and use."""
        index = [
            (s, p, i)
            for s in range(len(self.sets)) for p in range(len(self.points))
            for i in range(len(self.levels)) if np.isfinite(self.elastic[s, p, i, 0])
        ]
        design, use = self.design, self.use
        over = np.any([self._exceeded(c) for c in self.shown], axis=0)
        shown = [(c, COMPONENTS[c]) for c in self.shown]
        return Table(
            self.full_name,
            "Story drift of every set on every plumb line" + self.state.beside(", "),
            (
                column("story", "", [self.levels[i] for _, _, i in index]),
                column("point", "", [self.points[p] for _, p, _ in index]),
                column("set", "", [self.sets[s] for s, _, _ in index]),
                *(column(f"elastic {name}", "displacement",
                         [self.elastic[s, p, i, c] for s, p, i in index])
                  for c, name in shown),
                *(column(f"design {name}", "displacement",
                         [design[s, p, i, c] for s, p, i in index])
                  for c, name in shown),
                *(column(f"drift ratio {name}", "ratio", [self.ratios[s, p, i, c]
                                                          for s, p, i in index])
                  for c, name in shown),
                *(column(f"limit {name}", "ratio", [self.limits[c]] * len(index))
                  for c, name in shown if np.isfinite(self.limits[c])),
                *(column(f"use {name}", "ratio", [use[s, p, i, c] for s, p, i in index])
                  for c, name in shown),
                *(column(f"verdict {name}", "", [self._verdict(s, p, i, c) for s, p, i in index])
                  for c, name in shown if c < 2),
            ),
            note="Values governed by another analysis or point are for information; drift is not "
                 "checked below the base.",
            marks=tuple(k for k, one in enumerate(index) if over[one]),
        )

    def findings(self) -> tuple[Finding, ...]:
        """One finding for each of X and Y and each method, one for the resultant."""
        found = []
        for c in (c for c in self.shown if c < 2):
            for method in dict.fromkeys(self.methods):
                s, p, i = self.governing(c, method=method)
                found.append(self._finding(c, s, p, i, method))
        if any(self.at_edges) and len(self.points) == 1:
            why = next(w for w, edges in zip(self.places, self.at_edges, strict=True) if edges)
            found.append(Finding(
                "story drift, where it is read", "whole structure", Severity.WARNING,
                f"Drift must also be checked away from the center of mass ({why}), but no other "
                "point is read.", "",
                "Leave drift.corners true, or name points at the edges in drift.points."))
        if 2 not in self.shown:
            return tuple(found)
        s, p, i = self.governing(2)
        over = self.use[s, p, i, 2] > 1
        limit = float(self.limits[2])
        found.append(Finding(
            "story drift, resultant" + self.state.beside(", "), self._where(s, p, i),
            Severity.NOTE if over or not all(self.known) else Severity.OK,
            "Largest drift in any plan direction" + (
                ", against the smaller of the two limits" if np.isfinite(limit) else
                "; there is no limit to hold it against")
            + ("; the standard limits X and Y, not the resultant." if over else "."),
            "", "", float(self.ratios[s, p, i, 2]), limit if np.isfinite(limit) else None,
        ))
        return tuple(found)

    def _where(self, s: int, p: int, i: int) -> str:
        return f"story {self.levels[i]}, {self.points[p]}, set {self.sets[s]}"

    def _finding(self, c: int, s: int, p: int, i: int, method: str) -> Finding:
        ratio, use = float(self.ratios[s, p, i, c]), float(self.use[s, p, i, c])
        check = f"story drift {COMPONENTS[c]}, {method}" + self.state.beside(", ")
        if not np.isfinite(self.limits[c]):
            known = self.known[c]
            return Finding(
                check, self._where(s, p, i), Severity.OK if known else Severity.WARNING,
                f"Design story drift ratio {ratio:.4f}; "
                + ("no limit" if known else "NOT CHECKED: the limit is not known")
                + f": {self.reasons[c]}.", self.clauses[c],
                "" if known else "Give what the limit needs.", ratio)
        over = use > 1
        count = int(np.sum(np.nanmax(np.nan_to_num(self.judged(c, method)), axis=(0, 1)) > 1))
        text = f"Design story drift ratio {ratio:.4f} against {self.limits[c]:.4f}"
        text += f"; {count} {'story' if count == 1 else 'stories'} over the limit." if over else "."
        severity = Severity.EXCEEDED if over else Severity.OK
        deciding = self.deciding(c)
        if deciding not in (None, method):
            severity = Severity.NOTE if over else Severity.OK
            text += " For information: " + (
                "the standard does not permit the static procedure here, the spectrum analysis "
                "governs." if method == "static" and self.barred[c] else
                f"the project checks drift by the {deciding} analysis.")
        return Finding(
            check, self._where(s, p, i), severity, text, self.clauses[c],
            f"Increase the stiffness in {COMPONENTS[c]} by about {use - 1:.0%} ({use**2 - 1:.0%} "
            "if the shorter period raises the forces), or reduce torsion."
            if severity is Severity.EXCEEDED else "",
            ratio, float(self.limits[c]),
        )


def check_drift(
    model: Model, state: LimitState, sets: Sequence[ResponseSet], plumb: Sequence[PlumbLine],
    factors: Mapping[Direction, float], limits: Mapping[Direction, DriftLimit],
    torsion: Mapping[Direction, TorsionAnswer], second_order: Mapping[Direction, Floats],
    judged_by: str = "both", barred: Mapping[Direction, bool] = FixedDict(),
) -> DriftCheck:
    """Drift of all ``sets`` of a limit state on the center of mass and on ``plumb`` lines.

    ``factors`` amplify the displacement by the direction of the set; ``torsion`` says where drift
    is read and ``second_order`` (n,) holds the P-Delta amplification, by the direction of the
    drift. ``judged_by`` names the method whose exceedance counts (``static``, ``spectrum`` or
    ``both``) and ``barred`` the directions in which the static procedure is not permitted.
    """
    lines = [center_line(model), *plumb]
    drift = plumb_drift(model, lines)
    elastic = np.array([np.moveaxis(one.vectors(drift).reshape(3, len(lines), model.n), 0, -1)
                        for one in sets])
    elastic[:, ~np.array([line.present for line in lines])] = np.nan
    own = [limits.get(d) for d in DIRECTIONS]
    ratios = [np.inf if one is None or one.ratio is None else one.ratio for one in own]
    second = np.stack([second_order.get(d, np.ones(model.n)) for d in DIRECTIONS])
    twist = [torsion.get(d) for d in DIRECTIONS]
    return DriftCheck(
        state=state,
        drift=labelled("story drift", "displacement", (
            axis("set", [one.name for one in sets]), axis("point", [p.name for p in lines]),
            axis("story", model.levels), axis("component", COMPONENTS)), elastic),
        heights=model.diaphragms.story_heights,
        methods=tuple(one.method for one in sets),
        directions=tuple(along(one) for one in sets),
        signs=tuple(one.sign for one in sets),
        factors=np.array([factors[along(one)] for one in sets]),
        second_order=np.vstack([second, second.max(axis=0)]),
        limits=np.array([*ratios, min(ratios)]),
        clauses=_pair("" if one is None else one.clause for one in own),
        at_edges=_pair(one is not None and one.drift_at_edges for one in twist),
        places=_pair("" if one is None else one.drift_where for one in twist),
        reasons=_pair("" if one is None else one.reason for one in own),
        known=_pair(True if one is None else one.known for one in own),
        judged_by=judged_by,
        barred=_pair(barred.get(d, False) for d in DIRECTIONS),
        above_base=model.above_base,
        along=model.directions,
        everywhere=model.not_rigid | np.append(model.not_rigid, False)[model.diaphragms.below],
    )


def _pair(values: Iterable[T]) -> tuple[T, T]:
    """What holds along X and along Y."""
    x, y = values
    return x, y
