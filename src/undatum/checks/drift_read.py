"""Story drift as it is read beside the standard's check: both directions of ground motion
together, a limit of one's own, averages of named points, and the torsion ratio."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.combine import combine_directions
from undatum.checks.drift import COMPONENTS, DriftCheck
from undatum.finding import Finding, Severity
from undatum.record import record
from undatum.standards.terms import DIRECTIONS, METHODS, DirectionalCombination, Method
from undatum.table import Table, column
from undatum.ties import largest

Floats = NDArray[np.float64]


@record
class OwnDriftLimit:
    """A limit of one's own: drift over story height, and which drift it is held against."""

    ratio: float
    of: Literal["elastic", "design"]
    reason: str


@record
class DriftReading:
    """One limit state's drift, read in further ways.

    ``how`` the directions of ground motion go together, ``judged`` whether that drift is held
    against the limit or told for information; ``groups`` names points whose average is wanted.
    """

    check: DriftCheck
    how: DirectionalCombination
    judged: bool
    own_limit: OwnDriftLimit | None
    groups: Mapping[str, tuple[str, ...]]

    # -- both directions of ground motion ------------------------------------------------------

    @property
    def methods(self) -> tuple[Method, ...]:
        """Methods with sets along both X and Y; none where there is nothing to combine."""
        check = self.check
        if self.how == "independent" or len(check.along) < 2:
            return ()
        has = set(zip(check.methods, check.directions, strict=True))
        return tuple(m for m in METHODS if all((m, d) in has for d in DIRECTIONS))

    def together(self, method: Method, *, elastic: bool = False) -> Floats:
        """(points, stories, 2) drift along X and along Y under both directions, m.

        Of the sets of a direction the largest; each amplified by the factor of its own direction
        before they go together, unless the ``elastic`` drift is asked for.
        """
        check = self.check
        values = (check.elastic if elastic else check.design)[..., :2]
        each = [values[[m == method and own == d for m, own in
                        zip(check.methods, check.directions, strict=True)]].max(axis=0)
                for d in DIRECTIONS]
        return combine_directions(each, self.how)

    def _read(self, component: int, values: Floats) -> Floats:
        """(points, stories) values where the component is judged, else not a number."""
        check = self.check
        found = np.array(values)
        if not check.at_edges[component]:
            found[1:, ~check.everywhere] = np.nan
        found[:, ~check.above_base] = np.nan
        return found

    def both_table(self) -> Table:
        """By method, direction and story: the point with the largest drift, limit and use."""
        check = self.check
        rows: list[tuple[Method, int, int, int, float, float]] = []
        for method in self.methods:
            design, elastic = self.together(method), self.together(method, elastic=True)
            for c in (0, 1):
                read = self._read(c, design[..., c])
                for i in np.flatnonzero(check.above_base):
                    p = largest(read[:, i])
                    rows.append((method, c, int(i), p, float(elastic[p, i, c]),
                                 float(design[p, i, c])))
        use = [d / check.heights[i] / check.limits[c] for _, c, i, _, _, d in rows]
        return Table(
            "drift_both" + check.state.beside("_"),
            f"Story drift under both directions of ground motion, {self.how}"
            + check.state.beside(", "),
            (
                column("analysis", "", [r[0] for r in rows]),
                column("drift along", "", [COMPONENTS[r[1]] for r in rows]),
                column("story", "", [check.levels[r[2]] for r in rows]),
                column("point", "", [check.points[r[3]] for r in rows]),
                column("elastic drift", "displacement", [r[4] for r in rows]),
                column("design drift", "displacement", [r[5] for r in rows]),
                column("drift ratio", "ratio", [r[5] / check.heights[r[2]] for r in rows]),
                column("allowable", "ratio", [check.limits[r[1]] for r in rows]),
                column("use", "ratio", use),
                column("verdict", "", [self._verdict(r[0], r[1], u)
                                       for r, u in zip(rows, use, strict=True)]),
            ),
            note="Forces in X and Y act together; the larger of both signs of the eccentricity "
                 "counts. " + ("Checked against the limit by choice of the project." if self.judged
                                 else "For information: drift is checked direction by direction; "
                                      "drift.both_directions = true checks this against the "
                                      "limit."),
            marks=tuple(k for k, u in enumerate(use) if self.judged and u > 1),
        )

    def _verdict(self, method: Method, c: int, use: float) -> str:
        if not np.isfinite(self.check.limits[c]):
            return "no limit"
        if not self.judged:
            return "for information"
        deciding = self.check.deciding(c)
        if deciding not in (None, method):
            return f"{deciding} governs"
        return "exceeded" if use > 1 else "passes"

    def _both_findings(self, method: Method, c: int) -> list[Finding]:
        """One where it is held against the limit, or is over it all the same."""
        check = self.check
        ratios = self._read(c, self.together(method)[..., c]) / check.heights
        p, i = np.unravel_index(largest(ratios), ratios.shape)
        ratio, limit = float(ratios[p, i]), float(check.limits[c])
        over = ratio > limit
        binding = self.judged and check.deciding(c) in (None, method)
        if not (binding or over):
            return []
        severity = Severity.OK if not over else Severity.EXCEEDED if binding else Severity.NOTE
        return [Finding(
            f"story drift {COMPONENTS[c]}, both directions, {method}" + check.state.beside(", "),
            f"story {check.levels[i]}, {check.points[p]}", severity,
            f"Design story drift ratio {ratio:.4f} under X and Y together ({self.how})"
            + (f" against {limit:.4f}" if np.isfinite(limit) else "; there is no limit")
            + ("." if binding else "; for information."),
            check.clauses[c], "Stiffen the building or reduce torsion." if over and binding
            else "", ratio, limit if np.isfinite(limit) else None)]

    # -- a limit of one's own --------------------------------------------------------------------

    def own_table(self, limit: OwnDriftLimit) -> Table:
        """By direction and story: the largest drift of any set that decides, and the limit."""
        rows = [(c, i, *self._largest(limit, c, i)) for c in self.check.shown if c < 2
                for i in np.flatnonzero(self.check.above_base).tolist()]
        use = [r[4] / limit.ratio for r in rows]
        check = self.check
        return Table(
            "drift_own_limit" + check.state.beside("_"),
            f"Story drift against the limit of the project, {limit.of} drift"
            + check.state.beside(", "),
            (
                column("drift along", "", [COMPONENTS[r[0]] for r in rows]),
                column("story", "", [check.levels[r[1]] for r in rows]),
                column("set", "", [check.sets[r[2]] for r in rows]),
                column("point", "", [check.points[r[3]] for r in rows]),
                column(f"{limit.of} drift ratio", "ratio", [r[4] for r in rows]),
                column("limit", "ratio", [limit.ratio] * len(rows)),
                column("use", "ratio", use),
                column("standard's limit, on design drift", "ratio",
                       [check.limits[r[0]] for r in rows]),
                column("verdict", "", ["exceeded" if u > 1 else "passes" for u in use]),
            ),
            note=f"Limit of the project: {limit.reason}. It is compared with the {limit.of} drift "
            + ("under the reduced forces, without any amplification." if limit.of == "elastic"
               else "with its amplification and P-Delta."),
            marks=tuple(k for k, u in enumerate(use) if u > 1),
        )

    def _largest(self, limit: OwnDriftLimit, c: int, i: int) -> tuple[int, int, float]:
        """Set, point and ratio of the largest drift where it is judged, by what decides."""
        check = self.check
        values = (check.elastic if limit.of == "elastic" else check.design)[:, :, i, c] \
            / check.heights[i]
        values = np.where(np.isnan(check.judged(c)[:, :, i]), np.nan, values)
        s, p = np.unravel_index(largest(values), values.shape)
        return int(s), int(p), float(values[s, p])

    def _own_finding(self, limit: OwnDriftLimit, c: int) -> Finding:
        check = self.check
        s, p, ratio, i = max(((*self._largest(limit, c, i), i)
                              for i in np.flatnonzero(check.above_base).tolist()),
                             key=lambda r: r[2])
        over = ratio > limit.ratio
        return Finding(
            f"story drift {COMPONENTS[c]}, own limit" + check.state.beside(", "),
            f"story {check.levels[i]}, {check.points[p]}, set {check.sets[s]}",
            Severity.EXCEEDED if over else Severity.OK,
            f"{limit.of.capitalize()} story drift ratio {ratio:.5f} against {limit.ratio:.5f}: "
            f"{limit.reason}.", "", "Stiffen the story, or take the limit out with a reason."
            if over else "", ratio, limit.ratio)

    # -- points ----------------------------------------------------------------------------------

    def groups_table(self) -> Table:
        """Average of the design drift over the points of each group, set by set."""
        check = self.check
        rows: list[tuple[str, int, int, int, list[float]]] = []
        for name, points in self.groups.items():
            at = [check.points.index(p) for p in points]
            for s in range(len(check.sets)):
                for i in np.flatnonzero(check.above_base).tolist():
                    values = check.design[s, at, i]
                    here = np.isfinite(values).all(axis=1)
                    if here.any():
                        rows.append((name, s, i, int(here.sum()), [
                            float(values[here, c].mean()) for c in check.shown if c < 2]))
        along = [COMPONENTS[c] for c in check.shown if c < 2]
        return Table(
            "drift_groups" + check.state.beside("_"),
            "Average design drift of groups of points" + check.state.beside(", "),
            (
                column("group", "", [r[0] for r in rows]),
                column("set", "", [check.sets[r[1]] for r in rows]),
                column("story", "", [check.levels[r[2]] for r in rows]),
                column("points on the floor", "", [r[3] for r in rows]),
                *(column(f"average {d}", "displacement", [r[4][k] for r in rows])
                  for k, d in enumerate(along)),
                *(column(f"ratio {d}", "ratio", [r[4][k] / check.heights[r[2]] for r in rows])
                  for k, d in enumerate(along)),
            ),
            note="Averages of unsigned values over the points of the group that lie on the floor "
                 "above.",
        )

    def torsion_table(self) -> Table:
        """Largest drift of the corners over their average, by set and story, along the force."""
        check = self.check
        corners = [k for k, name in enumerate(check.points) if name.startswith("corner ")]
        rows: list[tuple[int, int, float, float, float]] = []
        for s, d in enumerate(check.directions):
            c = DIRECTIONS.index(d)
            for i in np.flatnonzero(check.above_base).tolist():
                values = check.elastic[s, corners, i, c]
                here = values[np.isfinite(values)]
                if here.size > 1 and here.mean() > 0:
                    rows.append((s, i, float(here.max()), float(here.mean()),
                                 float(here.max() / here.mean())))
        return Table(
            "torsion_ratios" + check.state.beside("_"),
            "Torsion ratio by set and story, along the force" + check.state.beside(", "),
            (
                column("set", "", [check.sets[r[0]] for r in rows]),
                column("story", "", [check.levels[r[1]] for r in rows]),
                column("largest elastic drift", "displacement", [r[2] for r in rows]),
                column("average of corners", "displacement", [r[3] for r in rows]),
                column("torsion ratio", "ratio", [r[4] for r in rows]),
            ),
            note="Largest over average drift of all corners of the floor, with the eccentricity of "
                 "the set. The standard's own check, with its eccentricity and points, is in the "
                 "torsion tables. For spectrum sets, of unsigned peaks.",
        )

    def tables(self) -> dict[str, Callable[[], Table]]:
        """How each table there is is made, by its name."""
        found: dict[str, Callable[[], Table]] = {}
        mark = self.check.state.beside("_")
        if self.methods:
            found["drift_both" + mark] = self.both_table
        if self.own_limit is not None:
            found["drift_own_limit" + mark] = partial(self.own_table, self.own_limit)
        if self.groups:
            found["drift_groups" + mark] = self.groups_table
        if len(self.check.along) > 1 and any(p.startswith("corner ") for p in self.check.points):
            found["torsion_ratios" + mark] = self.torsion_table
        return found

    def findings(self) -> tuple[Finding, ...]:
        """Both directions by method where they count, and the limit of one's own."""
        found = [f for method in self.methods for c in (0, 1)
                 for f in self._both_findings(method, c)]
        if self.own_limit is not None:
            found += [self._own_finding(self.own_limit, c) for c in self.check.shown if c < 2]
        return tuple(found)
