"""The least change of chosen groups that meets the drift limits: offered, never applied."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from undatum.errors import AnalysisError, Fault, InputError, UndatumError
from undatum.finding import worst
from undatum.job.job import Job
from undatum.project.schema import Project
from undatum.record import record
from undatum.standards.terms import DIRECTIONS
from undatum.table import Table, column
from undatum.variants.family import Times

Floats = NDArray[np.float64]
_STEP = 1e-4  # of the logarithm of a factor, for central differences
_LEAST = 1e-5  # change of the objective at which the search ends
_NEAR = 0.5  # of the largest use, from which a point is watched in the search
_ROOM = 1e-4  # of the limit that is kept free, so that the last digit decides nothing


@record
class Cure:
    """What was found: ``factors`` on what stands at ``paths``, at ``costs`` for doubling each; the
    use of the drift limits by direction and limit state ``before`` and ``after`` (in a full run
    with the factors), the worst finding of that run, and how many variants were run.

    >>> found = ud.cure(ud.shipped_project("archive"), ["building.lines[Frame A].stiffness"],
    ...                 most=1.1)
    >>> found.meets, found.before[0][0]
    (False, 'X')
    """

    paths: tuple[str, ...]
    costs: tuple[float, ...]
    factors: tuple[float, ...]
    cost: float
    before: tuple[tuple[str, float], ...]
    after: tuple[tuple[str, float], ...]
    meets: bool
    severity: str
    runs: int

    @property
    def helps(self) -> bool:
        """Whether the limits hold, or factors above one bring them nearer."""
        return self.meets or max(self.factors) > 1.0

    def table(self) -> Table:
        """Group by group: the factor, and its part of the cost."""
        part = [c * (f - 1) for c, f in zip(self.costs, self.factors, strict=True)]
        return Table(
            "cure", "The least change that meets the drift limits" if self.meets else
            "The most these groups can do; the drift limits are not met" if self.helps else
            "Nothing these groups can do helps; the drift limits are not met",
            (
                column("group", "", list(self.paths)),
                column("factor", "ratio", list(self.factors), 4),
                column("cost of doubling", "", list(self.costs)),
                column("cost", "", part),
            ),
            note=("" if self.helps else "No factor on these groups lowers the governing use, and "
                  "none is offered: forces rise as fast as stiffness, or another part governs. ")
            + "; ".join(f"{name}: {b:.4f} before, {a:.4f} after" for (name, b), (_, a) in zip(
                self.before, self.after, strict=True)) + ". Offered and not applied; confirmed by "
            f"a full run with these factors, whose worst finding is {self.severity}. {self.runs} "
            "variants were run.")


def cure(
    project: Project, paths: Sequence[str], costs: Sequence[float] = (), *, limit: float = 1.0,
    most: float = 3.0,
) -> Cure:
    """Factors from 1 to ``most`` on what stands at ``paths`` so that no drift uses more than
    ``limit`` of what is allowed, at the least cost: the sum of ``costs`` (1 each if left out) times
    what each factor adds to 1.

    By sequential quadratic programming (SciPy's SLSQP) on gradients by central differences of whole
    analyses. Raises InputError for a path that leads to no number, or factors that can't be.

    >>> found = ud.cure(ud.shipped_project("archive"),
    ...                 [f"building.lines[Frame {n}].stiffness" for n in "AE"])
    >>> found.meets, [round(f, 2) for f in found.factors]
    (True, [1.28, 1.13])
    """
    price = np.array(costs or [1.0] * len(paths), dtype=float)
    if not paths or price.size != len(paths) or (price <= 0).any():
        raise InputError([Fault("groups", "are not given, or not a cost above 0 for each",
                                "name paths of numbers, such as "
                                '"building.lines[direction=X].stiffness"')])
    if not (most > 1 and 0 < limit <= 1):
        raise InputError([Fault("most", f"{most:g} and limit {limit:g} leave nothing to search",
                                "give most above 1 and a limit of at most 1")])
    at = _Uses(project, paths)
    before = at.named(np.zeros(len(paths)))
    if not before:
        raise InputError([Fault("drift", "the standard sets no limit on drift here",
                                "there is nothing to meet")])
    size = float(price.sum())

    def cost(x: Floats) -> float:
        return float(price @ (np.exp(x) - 1)) / size

    def room(x: Floats) -> Floats:
        return (1 - _ROOM) * limit - at.values(x)

    x = np.zeros(len(paths))
    if (at.values(x) > limit).any():  # what it watches are the largest of these
        from scipy import optimize  # slow to load

        search: Any = optimize.minimize
        found = search(
            cost, np.full(len(paths), 0.05), jac=lambda x: price * np.exp(x) / size,
            bounds=[(0.0, float(np.log(most)))] * len(paths), method="SLSQP",
            constraints={"type": "ineq", "fun": room, "jac": lambda x: -at.gradient(x)},
            options={"ftol": _LEAST, "maxiter": 60})
        x = np.clip(found.x, 0.0, np.log(most))
    after = at.named(x)
    if _worst(after) > limit and _worst(after) > (1 - _HELPS) * _worst(before):
        # nowhere within bounds: of all it tried what is best, if that is better than nothing
        x = at.best(most)
        after = at.named(x)
        if _worst(after) > (1 - _HELPS) * _worst(before):
            x, after = np.zeros(len(paths)), before
    factors = np.exp(x)
    job = at.job(x)
    return Cure(
        tuple(paths), tuple(price.tolist()), tuple(factors.tolist()),
        float(price @ (factors - 1)), before, after,
        max(v for _, v in after) <= limit, worst(job.findings).value, at.runs)


_HELPS = 1e-3  # share of the governing use that an offer takes off at least


def _worst(uses: Sequence[tuple[str, float]]) -> float:
    return max(v for _, v in uses)


class _Uses:
    """The use of the drift limits under factors exp(x)."""

    def __init__(self, project: Project, paths: Sequence[str]) -> None:
        for path in paths:
            project.dimensions_at(path)
        self.project, self.paths, self.runs = project, paths, 0
        self._job = Job(project)
        self._known: dict[bytes, Floats] = {}
        self._watched: NDArray[np.intp] | None = None

    def job(self, x: Floats) -> Job:
        changes = {path: Times(float(np.exp(v))) for path, v in zip(self.paths, x, strict=True)}
        self._job = self._job.of(self.project.varied(changes))
        return self._job

    def named(self, x: Floats) -> tuple[tuple[str, float], ...]:
        job = self.job(x)
        return tuple((f"{d}" + check.state.beside(", "),
                      float(np.nanmax(check.judged(DIRECTIONS.index(d)))))
                     for check in job.drifts.values() for d in job.directions
                     if np.isfinite(check.limits[DIRECTIONS.index(d)]))

    def values(self, x: Floats) -> Floats:
        """(u,) of every set, point and story: at the best several govern at once, and the largest
        alone has no gradient there."""
        key = np.round(x, 12).tobytes()
        if key not in self._known:
            self.runs += 1
            try:
                job = self.job(x)
                every = np.concatenate([
                    np.nan_to_num(check.judged(DIRECTIONS.index(d))).ravel()
                    for check in job.drifts.values() for d in job.directions])
                if self._watched is None:  # first asked for without a change
                    self._watched = np.flatnonzero(every >= _NEAR * every.max())
                self._known[key] = every[self._watched]
            except UndatumError as error:
                raise AnalysisError(f"With factors {np.exp(x).round(3).tolist()} the building "
                                    f"can't be analyzed: {error}") from None
        return self._known[key]

    def best(self, most: float) -> Floats:
        """The factors within bounds, of all that were tried, with the least governing use."""
        tried = [(float(uses.max()), np.frombuffer(key)) for key, uses in self._known.items()]
        inside = [(use, x) for use, x in tried
                  if (x > -1e-9).all() and (x < np.log(most) + 1e-9).all()]
        return np.clip(min(inside, key=lambda one: one[0])[1], 0.0, np.log(most))

    def gradient(self, x: Floats) -> Floats:
        """(u, p) of the uses by the logarithms of the factors."""
        found = []
        for k in range(x.size):
            step = np.zeros(x.size)
            step[k] = _STEP
            found.append((self.values(x + step) - self.values(x - step)) / (2 * _STEP))
        return np.array(found).T
