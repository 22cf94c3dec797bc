"""Natural modes: periods, shapes, participation, effective mass and what moves."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.combine import correlation
from undatum.errors import AnalysisError
from undatum.mechanics.model import COMPONENTS, SHAKEN, WITHIN, Model
from undatum.mechanics.solver import Solver
from undatum.mechanics.vibration import load_dependent, vibration
from undatum.record import fixed, record
from undatum.table import Table, column

Floats = NDArray[np.float64]
#: Exact modes, or vectors from the loads that stand for them.
Shapes = Literal["natural", "load-dependent"]
Normalization = Literal["unit modal mass", "largest component", "roof"]

#: A mode is named for the component that holds at least this share of its kinetic energy.
NAMED_SHARE = 2 / 3
KINDS = ("X", "Y", "torsion", "within floors", "up and down")
#: Correlation at 5 % damping above which neighboring modes are close; their frequencies are then
#: within about a tenth of each other.
CLOSE = 0.5
NOTHING = 1e-9  # share of a mass that is round-off
EVERY = 150  # freedoms up to which every mode is found
LONGEST = 60.0  # s; a longer period is taken for a fault of the description


@record
class Modes:
    """Modes of a model, longest period first; ``m`` modes. SI.

    ``omega`` (m,) rad/s; ``shapes`` (N, m) with unit modal mass; ``participation`` (m, 3) and
    ``effective_mass`` (m, c) for ground motion in X, Y and rotation about the vertical axis
    through the center of the whole mass, and in Z where nodes carry mass vertically;
    ``total_mass`` (c,); ``shares`` (m, 5) of the kinetic energy in X, Y, rotation, within floors
    that are not rigid, and in Z; ``kept`` how many are
    used in the spectrum analysis; ``complete`` whether there are no others; ``how`` they were
    found; ``number`` counts them from the longest period where some are left out, because they lie
    outside two periods (``excerpt``) or carry less than the share ``least`` of the mass;
    ``vertical`` whether the target holds in Z too.
    Source: Chopra, Dynamics of Structures, chapters 10 and 13.
    """

    omega: Floats
    shapes: Floats
    participation: Floats
    effective_mass: Floats
    total_mass: Floats
    shares: Floats
    kept: int
    target: float
    complete: bool = True
    how: Shapes = "natural"
    number: tuple[int, ...] = ()
    excerpt: bool = False
    least: float = 0.0
    vertical: bool = False

    @property
    def numbers(self) -> tuple[int, ...]:
        """(m,) their numbers, counted from the longest period of all."""
        return self.number or tuple(range(1, self.count + 1))

    def names_in_use(self, count: int) -> tuple[str, ...]:
        """What ``count`` modal values are of: the modes in use, then the mass they leave out."""
        own = tuple(str(n) for n in self.numbers[: self.kept])
        return own if count <= self.kept else (*own, "mass left out")

    def title(self, m: int) -> str:
        """Number, period and kind of a mode, by its place."""
        return f"mode {self.numbers[m]}: {self.periods[m]:.3f} s, {self.kinds[m]}"

    @property
    def count(self) -> int:
        return int(self.omega.size)

    @property
    @fixed
    def periods(self) -> Floats:
        """(m,) s."""
        return np.asarray(2 * np.pi / self.omega)

    @property
    @fixed
    def mass_ratios(self) -> Floats:
        """(m, c) effective modal mass over the whole mass (inertia for rotation)."""
        return np.divide(self.effective_mass, self.total_mass, where=self.total_mass > 0,
                         out=np.zeros_like(self.effective_mass))

    @property
    @fixed
    def cumulative(self) -> Floats:
        """(m, c) running sum of :attr:`mass_ratios`."""
        return np.cumsum(self.mass_ratios, axis=0)

    @property
    def judged(self) -> list[int]:
        """Components of ground motion in which the mass target holds: X (0), Y (1), Z (3)."""
        return _judged(self.total_mass, self.vertical)

    @property
    @fixed
    def left_out(self) -> Floats:
        """(c,) share of the mass in X, Y, rotation (and Z) that the modes found do not carry."""
        return np.where(self.total_mass > 0,
                        np.maximum(1.0 - self.mass_ratios.sum(axis=0), 0.0), 0.0)

    @property
    def kinds(self) -> tuple[str, ...]:
        """What moves in each mode: ``X``, ``Y``, ``torsion``, ``within floors``, ``up and down``
        or ``mixed``."""
        lead, most = self.shares.argmax(axis=1).tolist(), self.shares.max(axis=1).tolist()
        return tuple(KINDS[k] if share >= NAMED_SHARE else "mixed"
                     for k, share in zip(lead, most, strict=True))

    def governing(self, axis: int) -> int:
        """The mode with the largest effective mass in X (0), Y (1) or rotation (2)."""
        return int(np.argmax(self.mass_ratios[:, axis]))

    def table(self, *, for_drift: bool = False) -> Table:
        """Periods, what moves, participation and effective masses of every mode."""
        pick, total, run = (np.where(np.abs(x) < NOTHING, 0.0, x) for x in (
            self.shares, self.mass_ratios, self.cumulative))
        moving = [i for i, mass in enumerate(self.total_mass) if mass > 0]
        parts = [i for i in range(len(KINDS)) if (i in moving and i < 3) or pick[:, i].any()]
        return Table(
            "modes_for_drift" if for_drift else "modes",
            "Modes of the model used for drift" if for_drift else "Modes",
            (
                column("mode", "", self.numbers),
                column("period", "time", self.periods),
                column("frequency", "frequency", self.omega / (2 * np.pi)),
                column("dominant direction", "", self.kinds),
                *(column(f"share {name}", "ratio", pick[:, i], 3)
                  for i, name in enumerate(KINDS) if i in parts),
                *(column(f"effective mass {SHAKEN[i]}", "ratio", total[:, i]) for i in moving),
                *(() if self.excerpt else (
                    *(column(f"cumulative {SHAKEN[i]}", "ratio", run[:, i]) for i in moving),
                    column("used", "", [i < self.kept for i in range(self.count)]))),
            ),
            note=self._note(),
        )

    def _twist(self) -> str:
        """Torsional over translational period: how stiff a building is against turning."""
        if self.total_mass[2] <= 0 or not all(self.total_mass[:2] > 0):
            return ""
        turn = self.periods[self.governing(2)]
        return " Torsional over translational period: " + ", ".join(
            f"{turn / self.periods[self.governing(i)]:.2f} in {COMPONENTS[i]}" for i in (0, 1)) \
            + "."

    def _note(self) -> str:
        if self.excerpt:
            return "Modes between two periods. Shares are of modal kinetic energy."
        if self.how == "load-dependent":
            return ("Load-dependent vectors in place of modes: their number and periods depend on "
                    "the loads; short periods are approximate, the static response is exact.")
        first = "The first mode carries" if self.kept == 1 else f"The first {self.kept} modes carry"
        said = (f"{first} at least {self.target:.0%} of the mass in "
                f"{' and in '.join(SHAKEN[i] for i in self.judged)}; modes correlated with the "
                "last of them are included too. Shares are of modal kinetic energy.")
        said += self._twist()
        if self.least:
            said += (f" Modes with less than {self.least:.3g} of the mass in every direction are "
                     "omitted.")
        if self.complete:
            return said
        return f"{said} There are more modes; " + " and ".join(
            f"{self.left_out[i]:.1%} of the mass in {SHAKEN[i]}" for i in self.judged) \
            + " belong to them."


@fixed
def normalized(modes: Modes, model: Model, how: Normalization) -> Floats:
    """Shapes (N, m): unit modal mass, largest translation one, or largest at the roof one."""
    if how == "unit modal mass":
        return modes.shapes
    floors = model.diaphragms.freedoms[:1 if how == "roof" else model.n, :2].ravel()
    rows = modes.shapes[floors]
    lead = np.argmax(np.abs(rows), axis=0)
    size = rows[lead, np.arange(modes.count)]
    return np.asarray(modes.shapes / np.where(np.abs(size) > 1e-30, size, 1.0))


def find_modes(
    solver: Solver, target: float = 0.9, count: int | None = None, shortest: float | None = None,
    how: Shapes = "natural", least: float = 0.0, vertical: bool = False,
) -> Modes:
    """The modes, and how many reach the mass ``target`` (a ratio) in X and in Y, in Z where
    ``vertical`` asks for it.

    ``count`` keeps at least that many, ``shortest`` (s) every mode of at least that period. The cut
    never parts close modes: those correlated above :data:`CLOSE` with the last one follow it. Every
    mode of a model of up to :data:`EVERY` freedoms, 50 rigid floors, is found; of a larger one as
    many as these ask for. Load-dependent vectors take their place where ``how`` asks for them: all
    that are found are used. Of those in use the ones that carry less than the share ``least`` of
    the mass in every direction, and in rotation, are left out then.
    """
    return _without_light(_found(solver, target, count, shortest, how, vertical), least)


def _without_light(found: Modes, least: float) -> Modes:
    """Without the modes that carry less than a share of the mass."""
    light = found.mass_ratios.max(axis=1) < least
    if not light.any():
        return found
    own = np.flatnonzero(~light)
    if not own.size:
        raise AnalysisError(f"No mode carries {least:.3g} of the mass. Give analysis.least_mass a "
                            "smaller share.")
    kept = max(int(np.count_nonzero(own < found.kept)), 1)
    return replace(_only(found, own), kept=kept, least=least)


def _only(found: Modes, own: NDArray[np.intp]) -> Modes:
    """Some of the modes, by their places."""
    return replace(found, omega=found.omega[own], shapes=found.shapes[:, own],
                   participation=found.participation[own],
                   effective_mass=found.effective_mass[own], shares=found.shares[own],
                   complete=False, number=tuple(found.numbers[i] for i in own.tolist()))


def _found(
    solver: Solver, target: float, count: int | None, shortest: float | None, how: Shapes,
    vertical: bool,
) -> Modes:
    model = solver.model
    every = int(np.count_nonzero(model.mass.diagonal()))
    if how == "load-dependent":
        return _load_dependent(solver, target, count, shortest, every, vertical)
    if model.freedoms.count <= EVERY:
        return _modes(model, *vibration(solver), target, count, shortest, True, vertical)
    ask = max(count or 0, 30)
    while True:
        found = _modes(model, *vibration(solver, min(ask, every)), target, count, shortest,
                       ask >= every, vertical)
        enough = bool(np.all(found.cumulative[-1, found.judged] >= target - 1e-12))
        slow = shortest is None or found.periods[-1] < shortest
        after = found.kept < found.count  # whether the mode after the cut is close must be known
        if found.complete or (enough and slow and after and found.count >= (count or 0)):
            return found
        ask *= 2


def _load_dependent(
    solver: Solver, target: float, count: int | None, shortest: float | None, every: int,
    vertical: bool,
) -> Modes:
    """As many vectors as asked for, or blocks of them until they carry the mass."""
    ask = count or len(solver.model.components)
    while True:
        omega, shapes = load_dependent(solver, min(ask, every))
        found = _modes(solver.model, omega, shapes, target, omega.size, shortest,
                       omega.size >= every, vertical)
        slow = shortest is None or found.periods[-1] < shortest
        if found.count < ask or found.complete or (
                slow and np.all(found.cumulative[-1, found.judged] >= target - 1e-12)):
            return replace(found, how="load-dependent")
        ask += len(solver.model.components)


def modes_between(solver: Solver, shortest: float, longest: float) -> Modes:
    """The modes with periods (s) from ``shortest`` to ``longest``, both ends counted."""
    found = find_modes(solver, 0.0, None, shortest * (1 - 1e-9))
    t = found.periods
    own = np.flatnonzero((t >= shortest * (1 - 1e-9)) & (t <= longest * (1 + 1e-9)))
    return replace(_only(found, own), kept=own.size, excerpt=True)


def _held(model: Model, omega: Floats, shapes: Floats) -> None:
    """Refuse a structure that hardly resists: no building sways for a minute."""
    period = 2 * np.pi / float(omega[0]) if omega.size and omega[0] > 0 else np.inf
    if period <= LONGEST:
        return
    worst = int(np.argmax(np.abs(shapes[:, 0]) * np.sqrt(model.mass.diagonal())))
    said = f"{period:.3g} s" if np.isfinite(period) else "endless"
    raise AnalysisError(
        f"The longest period is {said}: level {model.freedoms.level[worst]!r} has almost no "
        f"stiffness for motion {model.freedoms.component[worst]}. Likely cause: lateral lines that "
        "are nearly parallel or nearly concurrent, or a stiffness, modulus or section in the wrong "
        "unit.")


def _whole_clusters(omega: Floats, kept: int) -> int:
    """As many modes, or more: close ones are all used or all left out."""
    while kept < omega.size and \
            correlation(omega[kept - 1 : kept + 1], 0.05)[0, 1] > CLOSE:
        kept += 1
    return kept


def _modes(
    model: Model, omega: Floats, shapes: Floats, target: float, count: int | None,
    shortest: float | None, complete: bool, vertical: bool = False,
) -> Modes:
    _held(model, omega, shapes)
    influence = model.influence(model.shaken)
    carried = np.asarray(model.mass @ influence)
    participation = shapes.T @ carried  # unit modal mass
    total = np.einsum("ij,ij->j", influence, carried)
    energy = shapes * np.asarray(model.mass @ shapes)
    shares = np.column_stack([energy[model.freedoms.of(c)].sum(axis=0)
                              for c in (*COMPONENTS, WITHIN, "Z")])
    effective = participation**2
    along = _judged(total, vertical)
    enough = np.all(np.cumsum(effective[:, along], axis=0) / total[along] >= target - 1e-12, axis=1)
    kept = int(np.argmax(enough)) + 1 if enough.any() else omega.size
    slow = 0 if shortest is None else int(np.sum(2 * np.pi / omega >= shortest * (1 - 1e-9)))
    kept = _whole_clusters(omega, min(max(kept, count or 0, slow), omega.size))
    return Modes(omega, shapes, participation, effective, total, shares, kept, target, complete,
                 vertical=vertical)


def _judged(total: Floats, vertical: bool) -> list[int]:
    """Components of ground motion in which the mass target holds."""
    return [i for i in np.flatnonzero(total).tolist() if i < 2 or (i == 3 and vertical)]
