"""Modes against closed forms and invariances."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import sparse

import undatum as ud
from conftest import analyze, shear_building, solver_of
from undatum.analysis.modes import find_modes, normalized
from undatum.mechanics import factorize
from undatum.mechanics.cantilever import shear_flexure_line, shear_line
from undatum.results.results import Results
from verification import Verify


@pytest.mark.parametrize("n", [1, 2, 5, 12, 40, 100])
def test_uniform_shear_building(n: int, verify: Verify) -> None:
    """omega_j = 2 sqrt(k/m) sin((2j-1) pi / (2 (2n+1))), every mode of both directions."""
    k, m = 3.0e8, 2.0e5
    modes = find_modes(solver_of(shear_building([k] * n, [m] * n)), count=3 * n)
    j = np.arange(1, n + 1)
    exact = 2 * np.sqrt(k / m) * np.sin((2 * j - 1) * np.pi / (2 * (2 * n + 1)))
    for axis in (0, 1):
        own = modes.omega[modes.shares[:, axis] > 0.5]
        for mode in {1, (n + 1) // 2, n}:
            verify("mechanics", "frequency of a uniform shear building, rad/s",
                   f"{n} stories, mode {mode}, {'XY'[axis]}", own[mode - 1], exact[mode - 1])
        assert own == pytest.approx(exact, rel=1e-9)
    torsional = modes.omega[modes.shares[:, 2] > 0.5]
    # Lines at the edges of a 10 x 6 plan: K_theta = k (b/2)^2 + k (a/2)^2, J = m (a^2+b^2)/12.
    assert torsional == pytest.approx(exact * np.sqrt(3.0), rel=1e-9)


def test_one_story_torsionally_coupled(verify: Verify) -> None:
    """Two by two problem of a one-story system with eccentricity in one direction.

    (w/w_y)^2 = (1 + O^2)/2 -+ sqrt(((1 - O^2)/2)^2 + (e/r)^2), O = w_theta/w_y about the center
    of mass; Chopra, Dynamics of Structures, section 9.3.
    """
    k, m, a, b = 4.0e8, 3.0e5, 20.0, 12.0
    building = shear_building([k], [m], plan=(a, b), lines_y=[(0.0, 0.35), (a, 0.65)])
    modes = find_modes(solver_of(building))
    e = (0.65 - 0.35) * a / 2
    r = np.sqrt((a**2 + b**2) / 12)
    wy = np.sqrt(k / m)
    k_theta = k * (b / 2) ** 2 + k * (a / 2) ** 2
    big = k_theta / (m * r**2) / wy**2
    root = np.sqrt(((1 - big) / 2) ** 2 + (e / r) ** 2)
    exact = wy * np.sqrt([(1 + big) / 2 - root, (1 + big) / 2 + root])
    coupled = modes.omega[modes.shares[:, 0] < 0.5]
    for i in (0, 1):
        verify("mechanics", "coupled frequency of one story, rad/s",
               f"e/r {e / r:.4f}, mode {i + 1}", coupled[i], exact[i])
    assert modes.omega[modes.shares[:, 0] > 0.5] == pytest.approx([wy], rel=1e-9)


def test_prismatic_cantilever_stiffness() -> None:
    """Tip: delta = P L^3/3EI + P L/GA, and the first bending frequency of a uniform beam."""
    ei, ga, length = 5.0e9, 2.0e9, 30.0
    for n in (1, 2, 7):
        k, _ = shear_flexure_line([ei] * n, [ga] * n, [length / n] * n)
        load = np.zeros(n)
        load[0] = 1e5
        tip = np.linalg.solve(k, load)[0]
        assert tip == pytest.approx(1e5 * length**3 / (3 * ei) + 1e5 * length / ga, rel=1e-9)
    n = 60
    k, _ = shear_flexure_line([ei] * n, [1e15] * n, [length / n] * n)
    mass = np.full(n, 2000.0 * length / n)
    mass[0] /= 2
    squared = np.linalg.eigvalsh(k / np.sqrt(mass[:, None] * mass))
    exact = 1.8751040687**2 * np.sqrt(ei / (2000.0 * length**4))
    assert np.sqrt(squared[0]) == pytest.approx(exact, rel=1e-3)


def test_stepped_cantilever_against_beam_elements() -> None:
    """The condensed line against Timoshenko beam elements with their rotations solved for."""
    ei, ga, h = [2e9, 4e9, 9e9], [6e8, 9e8, 2e9], [3.0, 3.5, 4.5]
    n = 3
    big = np.zeros((2 * (n + 1), 2 * (n + 1)))
    for s in range(n):  # story s lies between node s (top) and s + 1 (bottom); u, r at each node
        e, g, z = ei[s], ga[s], h[s]
        phi = 12 * e / (g * z**2)
        c = e / (z**3 * (1 + phi))
        beam = c * np.array([
            [12, 6 * z, -12, 6 * z],
            [6 * z, (4 + phi) * z**2, -6 * z, (2 - phi) * z**2],
            [-12, -6 * z, 12, -6 * z],
            [6 * z, (2 - phi) * z**2, -6 * z, (4 + phi) * z**2],
        ])
        at = [2 * s, 2 * s + 1, 2 * s + 2, 2 * s + 3]
        big[np.ix_(at, at)] += beam
    free = big[: 2 * n, : 2 * n]
    u, r = np.arange(0, 2 * n, 2), np.arange(1, 2 * n, 2)
    condensed = free[np.ix_(u, u)] - free[np.ix_(u, r)] @ np.linalg.solve(
        free[np.ix_(r, r)], free[np.ix_(r, u)])
    stiffness, shear = shear_flexure_line(ei, ga, h)
    assert stiffness == pytest.approx(condensed, rel=1e-9)
    assert shear == pytest.approx(np.cumsum(condensed, axis=0), rel=1e-9)


def test_stiff_in_bending_is_a_shear_line() -> None:
    k = [1e8, 2e8, 3e8]
    flexure = shear_flexure_line([1e22] * 3, [x * 3.0 for x in k], [3.0] * 3)
    for ours, exact in zip(flexure, shear_line(k), strict=True):  # stiffness, rows of the shear
        assert ours == pytest.approx(exact, rel=1e-6, abs=1e3)


@pytest.mark.parametrize("project", ["starter", "archive", "clinic", "terrace"])
def test_effective_masses_and_orthogonality(results: dict[str, Results], project: str) -> None:
    r = results[project]
    modes, mass = r.modes, r.model.mass.diagonal()
    assert modes.effective_mass.sum(axis=0) == pytest.approx(modes.total_mass, rel=1e-9)
    assert modes.total_mass[:2] == pytest.approx(r.model.diaphragms.mass.sum())
    phi = modes.shapes
    assert phi.T @ (mass[:, None] * phi) == pytest.approx(np.eye(modes.count), abs=1e-9)
    squared = phi.T @ (r.model.stiffness @ phi)
    assert np.diag(squared) == pytest.approx(modes.omega**2, rel=1e-9)
    off = squared - np.diag(np.diag(squared))
    assert np.abs(off).max() < 1e-9 * modes.omega[-1] ** 2
    assert modes.shares.sum(axis=1) == pytest.approx(np.ones(modes.count))
    assert np.all(modes.cumulative[modes.kept - 1, :2] >= 0.9)
    last = modes.kept - 1  # back to the first of the close modes that end the cut
    while last and modes.omega[last - 1] / modes.omega[last] > 0.906:
        last -= 1
    if last:
        assert np.any(modes.cumulative[last - 1, :2] < 0.9)


@pytest.mark.parametrize("how", ["largest component", "roof"])
def test_participation_times_shape_is_invariant(archive: Results, how: str) -> None:
    """Whatever the scale of the shape, shape times its participation factor is the same."""
    modes, mass = archive.modes, archive.model.mass.diagonal()
    influence = archive.model.influence()
    other = normalized(modes, archive.model, how)  # type: ignore[arg-type]
    factors = (other.T @ (mass[:, None] * influence)) / np.einsum(
        "im,i,im->m", other, mass, other)[:, None]
    for axis in range(3):
        mine = modes.shapes * modes.participation[:, axis]
        scale = np.abs(mine).max()
        assert other * factors[:, axis] == pytest.approx(mine, abs=1e-9 * scale)


def test_massless_basement_is_condensed_exactly(archive: Results) -> None:
    """A tiny mass on the basement level gives the same low modes as none at all."""
    from dataclasses import replace

    model = archive.model
    mass = model.mass.diagonal()
    tiny = np.where(mass > 0, mass, 1e-6 * mass[mass > 0].min())
    near = find_modes(factorize(replace(model, mass=sparse.csr_array(np.diag(tiny)))))
    assert near.omega[:10] == pytest.approx(archive.modes.omega[:10], rel=1e-4)
    assert archive.modes.count == 24  # eight levels with mass, three each


@pytest.mark.parametrize(
    ("lines", "words"),
    [
        ([("X", (0.0, 0.0)), ("X", (0.0, 6.0))], "in Y"),
        ([("Y", (0.0, 0.0)), ("Y", (6.0, 0.0))], "in X"),
        ([("X", (0.0, 0.0)), ("Y", (0.0, 0.0))], "rotation about Z"),
        ([("X", (0.0, 3.0)), ("X", (4.0, 3.0)), ("Y", (5.0, 0.0))], "rotation about Z"),
    ],
)
def test_mechanism_is_named(lines: list[tuple[str, tuple[float, float]]], words: str) -> None:
    b = shear_building([1e8, 1e8], [1e5, 1e5])
    b = ud.Building(levels=b.levels, lines=[
        ud.Line(name=f"line {i}", at=at, direction=d, bottom="Ground", top="L2", stiffness=1e8)
        for i, (d, at) in enumerate(lines)])
    with pytest.raises(ud.AnalysisError, match=f"mechanism: level .* {words}.*cause.*line 0"):
        analyze(b)


def test_mechanism_in_one_story_names_that_story() -> None:
    b = shear_building([1e8] * 4, [1e5] * 4)
    lines = [line for line in b.lines if line.name.startswith("X")]
    for bottom, top in (("Ground", "L2"), ("L3", "L4")):  # nothing along Y between L2 and L3
        lines += [ud.Line(name=f"Y{x}{bottom}", at=(x, 3.0), direction="Y", bottom=bottom, top=top,
                          stiffness=1e8) for x in (0.0, 10.0)]
    with pytest.raises(ud.AnalysisError, match="level 'L3' can move in Y"):
        analyze(ud.Building(levels=b.levels, lines=lines))
