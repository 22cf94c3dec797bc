"""Walls as panels: elements by patch tests and closed forms, sections in equilibrium, cores by the
theory of thin walls, weight and gravity, and the same findings however a building is turned."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

import undatum as ud
from conftest import OWN, ROOMS, analyze
from undatum.finding import Severity
from undatum.layout import weigh
from undatum.layout.weight import FloorMasses
from undatum.mechanics import Solver, factorize, idealize
from undatum.mechanics.actions import reactions
from undatum.mechanics.cuts import core_sections, section_rows, wall_sections
from undatum.mechanics.panels import across, in_plane, in_triangle
from undatum.standards.answers import WeightShare

Floats = NDArray[np.float64]
E, NU = 30e9, 0.2
G = E / (2 * (1 + NU))
PLAIN = ud.Material(modulus=E, poisson=NU, unit_weight=25e3)
ALL = (lambda *_: WeightShare(1.0, "", ""), lambda *_: (1.0, ""))


def building(
    walls: Sequence[ud.Wall], stories: int = 3, height: float = 3.0,
    outline: Sequence[tuple[float, float]] = ((0, 0), (12, 0), (12, 9), (0, 9)), load: float = 6e3,
    **more: Any,
) -> ud.Building:
    levels = [ud.Level(name=f"L{stories - i}", height=height, outline=outline, loads=[
        ud.Load(name="slab", kind="dead", per_area=load)]) for i in range(stories)]
    return ud.Building(levels=[*levels, ud.Level(name="Base", outline=outline)], walls=walls,
                       materials={"plain": PLAIN}, **more)


def wall(name: str, start: Any, end: Any, thickness: float = 0.25, **more: Any) -> ud.Wall:
    return ud.Wall(name=name, between=[start, end], thickness=thickness, material="plain", **more)


def solved(one: ud.Building) -> tuple[Solver, FloorMasses]:
    masses = weigh(one, *ALL)
    found = FloorMasses(masses.levels, masses.mass, masses.centers, masses.inertia, masses.counted)
    return factorize(idealize(one, found)), found


def top(solver: Solver, direction: str | None, forces: Any = 0.0, torques: Any = 0.0) -> Floats:
    """Motion (3,) of the uppermost floor along X, Y and in rotation."""
    motion = solver.solve(solver.model.loads(direction, forces, torques))
    return np.asarray(motion[solver.model.diaphragms.freedoms[0]])


DOOR = ud.Opening(from_start=2.0, width=1.2, height=2.1)
CORE = tuple(wall(name, a, b, openings=[DOOR] if name == "south" else []) for name, a, b in (
    ("south", (3, 2), (9, 2)), ("east", (9, 2), (9, 7)), ("north", (9, 7), (3, 7)),
    ("west", (3, 7), (3, 2))))


# -- elements ----------------------------------------------------------------------------------

corner = st.tuples(st.floats(-0.2, 0.2), st.floats(-0.2, 0.2))


@given(st.tuples(corner, corner, corner, corner), st.floats(0.0, 0.45))
def test_any_panel_passes_the_patch_test(
    shifts: tuple[tuple[float, float], ...], nu: float
) -> None:
    """Any constant strain and curvature, by any four corners, costs what it costs a continuum."""
    square = np.array([[0, 0], [1, 0], [1, 1], [0, 1.0]]) + np.array(shifts)
    area = 0.5 * abs(sum(np.cross([*square[i], 0], [*square[(i + 1) % 4], 0])[2]
                         for i in range(4)))
    d = np.array([[1, nu, 0], [nu, 1, 0], [0, 0, (1 - nu) / 2]]) / (1 - nu**2)
    strain, spin = np.array([0.7, -0.3, 0.5]), 0.4
    one, shear = np.array([1 / (1 - nu**2)]), np.array([1 / (2 * (1 + nu))])
    for corners, make in ((square, in_plane), (square[:3], in_triangle)):
        k = make(corners[None], one, shear, np.array([nu]))[0]
        x, y = corners.T
        moved = np.column_stack([
            strain[0] * x + (strain[2] / 2 - spin) * y, (strain[2] / 2 + spin) * x + strain[1] * y,
            np.full(len(x), spin)]).ravel()
        own = area if len(corners) == 4 else 0.5 * abs(np.cross(
            [*(corners[1] - corners[0]), 0], [*(corners[2] - corners[0]), 0])[2])
        assert moved @ k @ moved == pytest.approx(strain @ d @ strain * own, rel=1e-9)
        rigid = np.column_stack([1 - 0.3 * y, 2 + 0.3 * x, np.full(len(x), 0.3)]).ravel()
        assert np.abs(k @ rigid).max() < 1e-12 * np.abs(k).max()
    k = across(square[None], one, shear, np.array([nu]))[0]
    x, y = square.T
    bent = np.column_stack([0.35 * x**2 + 0.25 * x * y - 0.15 * y**2, 0.25 * x - 0.3 * y,
                            -0.7 * x - 0.25 * y]).ravel()
    assert bent @ k @ bent == pytest.approx(
        np.array([0.7, -0.3, 0.5]) @ d @ np.array([0.7, -0.3, 0.5]) * area, rel=1e-9)


def test_a_clamped_plate_bends_as_published() -> None:
    """Square, clamped, under uniform load: w = 0.00126 q a^4 / D (Timoshenko and
    Woinowsky-Krieger, Theory of Plates and Shells, table 35)."""
    n, a, t = 16, 4.0, 0.1
    d = E * t**3 / (12 * (1 - NU**2))
    side = a / n
    k = across(np.array([[[0, 0], [side, 0], [side, side], [0, side]]]), np.array([d]),
               np.array([G * t**3 / 12]), np.array([NU]))[0]
    number = np.arange((n + 1)**2).reshape(n + 1, n + 1)
    whole, load = np.zeros((3 * (n + 1)**2,) * 2), np.zeros(3 * (n + 1)**2)
    for i in range(n):
        for j in range(n):
            nodes = [number[i, j], number[i + 1, j], number[i + 1, j + 1], number[i, j + 1]]
            at = (3 * np.array(nodes)[:, None] + np.arange(3)).ravel()
            whole[np.ix_(at, at)] += k
            load[at[::3]] += 1e3 * side**2 / 4
    inner = (3 * number[1:-1, 1:-1].ravel()[:, None] + np.arange(3)).ravel()
    moved = np.zeros(load.size)
    moved[inner] = np.linalg.solve(whole[np.ix_(inner, inner)], load[inner])
    assert moved[3 * number[n // 2, n // 2]] == pytest.approx(0.00126 * 1e3 * a**4 / d, rel=0.02)


def clamped(n: int, m: int, point: Any, make: Any) -> tuple[Floats, NDArray[np.intp]]:
    """Motion under a unit load spread over the last side, along each freedom in turn, of a panel
    field that the first side holds; the numbers of its nodes."""
    at = np.array([[point(i / n, j / m) for j in range(m + 1)] for i in range(n + 1)])
    number = np.arange((n + 1) * (m + 1)).reshape(n + 1, m + 1)
    whole = np.zeros((3 * number.size,) * 2)
    for i, j in np.ndindex(n, m):
        round_ = [(i, j), (i + 1, j), (i + 1, j + 1), (i, j + 1)]
        freedoms = np.ravel([3 * number[k] + np.arange(3) for k in round_])
        whole[np.ix_(freedoms, freedoms)] += make(np.array([[at[k] for k in round_]]))[0]
    load = np.zeros((3 * number.size, 2))
    for c in (0, 1):
        load[3 * number[-1] + c, c] = np.array([0.5, *[1.0] * (m - 1), 0.5]) / m
    moved, free = np.zeros_like(load), 3 * (m + 1)
    moved[free:] = np.linalg.solve(whole[free:, free:], load[free:])
    return moved, number


def test_skew_and_curved_fields_of_panels_move_as_published() -> None:
    """Cook's skew membrane, 23.96 at the middle of its free end (Cook, Malkus and Plesha, Concepts
    and Applications of Finite Element Analysis); a curved beam in its plane, 0.08734 (MacNeal and
    Harder, A proposed standard set of problems to test finite element accuracy, 1985)."""
    def plane(e: float, t: float, nu: float) -> Any:
        return lambda corners: in_plane(corners, np.array([e * t / (1 - nu**2)]),
                                        np.array([e * t / 2 / (1 + nu)]), np.array([nu]))

    skew = [clamped(n, n, lambda a, b: (48 * a, 44 * a + b * (44 - 28 * a)), plane(1, 1, 1 / 3))
            for n in (8, 16, 32)]
    errors = [1 - moved[3 * number[-1, len(number) // 2] + 1, 1] / 23.96 for moved, number in skew]
    assert 0 < errors[2] < errors[1] < errors[0] < 0.015
    assert errors[2] < 0.0015
    moved, number = clamped(24, 2, lambda a, b: (
        (4.32 - 0.2 * b) * np.sin(np.pi / 2 * a), (4.32 - 0.2 * b) * np.cos(np.pi / 2 * a)),
        plane(1e7, 0.1, 0.25))
    assert abs(moved[3 * number[-1], 0].mean()) == pytest.approx(0.08734, rel=0.015)


# -- single walls and cores --------------------------------------------------------------------


def sway_of_cantilever(length: float, height: float, thickness: float) -> float:
    """Tip under a unit force: bending and shear of a rectangle."""
    return height**3 / (3 * E * thickness * length**3 / 12) + height / (
        G * 5 / 6 * thickness * length)


def alone(length: float, stories: int, mesh: float, thickness: float = 0.25) -> Floats:
    one = building([wall("w", (0, 0), (length, 0), thickness, mesh=mesh)], stories, plane="X")
    return top(solved(one)[0], "X", [1.0, *[0.0] * (stories - 1)])


def test_a_slender_wall_is_a_cantilever_and_the_mesh_converges() -> None:
    exact = sway_of_cantilever(4.0, 36.0, 0.25)
    errors = [abs(alone(4.0, 12, mesh)[0] / exact - 1) for mesh in (3.0, 1.0)]
    assert errors[0] < 0.04
    assert errors[1] < 0.012  # floors and the foot hold the width of the wall: a plate, not a bar


@pytest.mark.parametrize("openings", [(), (ud.Opening(from_start=3.9, width=0.2, height=0.2,
                                                      sill=1.4),)])
def test_a_tiny_opening_changes_nothing_to_speak_of(openings: tuple[ud.Opening, ...]) -> None:
    plain, holed = (top(solved(building([
        wall("w", (0, 0), (8, 0), openings=own)], 3, plane="X"))[0], "X", [1.0, 0, 0])[0]
        for own in ((), openings))
    assert holed == pytest.approx(plain, rel=0.01)


@pytest.mark.parametrize("depth", [0.4, 0.9])
def test_coupled_walls_lie_between_two_continuous_media(depth: float) -> None:
    """Beams spread over the height, of the clear span and of one longer by half of their depth
    (Chitty, On the cantilever composed of a number of parallel beams interconnected by cross bars,
    1947): walls yield a little where beams end, never more."""
    h, n, length, b, t = 3.0, 20, 5.0, 2.0, 0.3
    high, inertia, arm = n * h, 2 * t * length**3 / 12, length + b
    forces = np.array([h / 2, *[h] * (n - 1)])
    door = ud.Opening(from_start=length, width=b, height=h - depth)
    sway = top(solved(building([wall("w", (0, 0), (2 * length + b, 0), t, openings=[door])],
                               n, h, plane="X"))[0], "X", forces)[0]

    def medium(span: float) -> float:
        bends = t * depth**3 / 12
        shears = 1 + 12 * E * bends / (G * t * depth / 1.2 * span**2)
        k = 12 * bends / shears / (h * span**3)
        a2 = k * (arm**2 / inertia + 2 / (t * length))
        a, g = np.sqrt(a2), k * arm / inertia
        c1 = -g / a2**2
        c2 = -(g * high / a2 + a * c1 * np.sinh(a * high)) / (a * np.cosh(a * high))
        x = np.linspace(0, high, 4001)
        axial = g / a2 * (x**2 / 2 + 1 / a2) + c1 * np.cosh(a * x) + c2 * np.sinh(a * x)
        bent = (x**2 / 2 - axial * arm) * x
        return float(np.sum((bent[1:] + bent[:-1]) / 2 * np.diff(x)) / (E * inertia)
                     + high**2 / 2 / (G * 2 * t * length / 1.2))

    assert medium(b) * 0.99 < sway < medium(b + depth / 2)
    assert medium(b + depth / 2) < 1.12 * medium(b)


def tube(stories: int, a: float, b: float, t: float, **more: Any) -> ud.Building:
    ends = [(0, 0), (a, 0), (a, b), (0, b)]
    return building([wall(n, ends[i], ends[(i + 1) % 4], t, **more)
                     for i, n in enumerate("sena")], stories, 3.5)


def test_a_closed_core_twists_by_bredt() -> None:
    a, b, t, stories = 6.0, 5.0, 0.25, 20
    twist = top(solved(tube(stories, a, b, t))[0], None, torques=[1.0, *[0.0] * (stories - 1)])[2]
    bredt = 4 * (a * b)**2 * t / (2 * (a + b))
    warped = 1 - 3.5 * 0.9 / 70  # near the foot warping is held
    assert twist == pytest.approx(70 / (G * bredt), rel=0.05)
    assert twist < 70 / (G * bredt) * (1 + 1e-9)
    assert twist > 70 / (G * bredt) * warped * 0.97


def test_an_open_core_twists_by_warping_torsion() -> None:
    """A channel clamped at the foot, free to warp at the top, a torque there (Vlasov): its
    sectorial constant is that of a thin channel."""
    b, h, t, stories = 6.0, 5.0, 0.25, 14  # flanges and web
    one = building([wall("f1", (b, 0), (0, 0), t), wall("web", (0, 0), (0, h), t),
                    wall("f2", (0, h), (b, h), t)], stories, 3.5)
    height = 3.5 * stories
    e = 3 * b**2 / (h + 6 * b)  # shear center beyond the web
    warping = t * h**2 * b**3 / 12 * (2 * h + 3 * b) / (h + 6 * b)
    torsion = (2 * b + h) * t**3 / 3
    k = np.sqrt(G * torsion / (E / (1 - NU**2) * warping))
    # floors hold the walls' width, so that flanges bend like plates
    x = k * height
    exact = height / (G * torsion) * (1 - np.tanh(x) / x)
    solver, _ = solved(one)
    twist = top(solver, None, torques=[1.0, *[0.0] * (stories - 1)])[2]
    assert twist == pytest.approx(exact, rel=0.06)
    rotation_axis = top(solver, "Y", [1.0, *[0.0] * (stories - 1)])
    center = solver.model.diaphragms.centers[0]
    assert center[0] - rotation_axis[2] / twist == pytest.approx(-e, abs=0.35)


def test_sections_balance_the_forces_above() -> None:
    """Cores and stories to round-off, under forces and torques; walls add up to their core."""
    one = building(CORE, 4, cores={"lift": [w.name for w in CORE]})
    solver, _ = solved(one)
    model = solver.model
    assert model.framed is not None
    frame = model.framed.frame
    forces, torques = np.array([4.0, 3, 2, 1]) * 1e5, np.array([1.0, 0, 2, 0]) * 1e5
    motion = solver.solve(model.loads("X", forces, torques))
    moved = model.framed.follow @ motion
    cores = core_sections(frame)
    values = (section_rows(frame, cores) @ moved).reshape(-1, 6)
    d = model.diaphragms
    for s, (axial, x, y, torsion, about_x, about_y) in zip(cores, values, strict=True):
        above = slice(0, s.story + 1)
        arm = d.elevations[above] - s.place[2]
        assert x == pytest.approx(forces[above].sum(), rel=1e-9)
        assert [axial, y, about_x] == pytest.approx([0.0] * 3, abs=1e-3)
        assert about_y == pytest.approx(float(forces[above] @ arm), rel=1e-9, abs=1e-2)
        lever = d.centers[above, 1] - s.place[1]
        assert torsion == pytest.approx(
            float(torques[above].sum() - forces[above] @ lever), rel=1e-9)
    sections = wall_sections(frame)
    parts = (section_rows(frame, sections) @ moved).reshape(-1, 6)
    whole = [k for k, s in enumerate(sections) if (s.part, s.story, s.at) == ("whole wall", 3,
                                                                              "foot")]
    assert sum(parts[k, 0] for k in whole) == pytest.approx(0.0, abs=1e-3)
    plan = sum(sections[k].axes[:3].T @ parts[k, :3] for k in whole)
    assert plan[:2] == pytest.approx([forces.sum(), 0.0], rel=1e-9, abs=1e-3)
    door = [k for k, s in enumerate(sections) if s.story == 2 and s.wall == "south"
            and s.part.startswith("segment") and s.at == "foot"]
    beam = {s.at: parts[k] for k, s in enumerate(sections) if s.story == 2
            and s.part == "over opening 1"}
    assert len(door) == 2
    # a coupling beam: the moment changes by shear times span
    assert beam["end"][5] - beam["start"][5] == pytest.approx(1.2 * beam["start"][1], rel=1e-6)
    lines = model.quantities["line shear"]
    shear = lines.of(motion, motion)
    for i, name in enumerate(model.levels):
        own = [k for k, (line, story) in enumerate(zip(
            lines.labels["line"], lines.labels["story"], strict=True))
            if story == name and "y =" in line]
        assert shear[own].sum() == pytest.approx(forces[:i + 1].sum(), rel=1e-9)
    at_feet = reactions(model).of(motion, motion)
    assert at_feet.reshape(-1, 6)[:, 0].sum() == pytest.approx(-forces.sum(), rel=1e-9)


def test_weight_goes_down_in_the_walls() -> None:
    """What the walls weigh, less their openings, and the floors: at the feet to round-off."""
    one = building(CORE, 3, cores={"lift": [w.name for w in CORE]})
    weights = weigh(one, *ALL)
    own = 25e3 * 0.25 * (22.0 * 9.0 - 3 * 1.2 * 2.1)
    assert sum(x.amount for x in weights.lines if x.basis == "self-weight") == pytest.approx(
        own - 25e3 * 0.25 * (22.0 * 1.5 - 1.2 * 2.1 / 2), rel=1e-9)  # half a story is the ground's
    project = made(one)
    results = ud.run(project)
    table = results.read("reactions", "lift", "dead").values[0, 0]
    assert table[2] == pytest.approx(own + 3 * 6e3 * 108.0, rel=1e-8)
    found = results.read("cores", "lift", "dead")
    places = list(zip(found.thing.places["story"], found.thing.places["at"], strict=True))
    for k, story in enumerate(("L3", "L2", "L1")):  # a cut carries all that lies above it
        for at, walls in (("head", k), ("foot", k + 1)):
            above = (k + 1) * 6e3 * 108.0 + walls * own / 3
            assert -found.values[0, places.index((story, at)), 0] == pytest.approx(above, rel=1e-8)
    assert balanced(results)


# -- turned, mirrored, renamed -------------------------------------------------------------------

def made(one: ud.Building, units: str = "kN and m", **more: Any) -> ud.Project:
    return ud.make_project(
        title="walls", standard="asce7-16", results_in=units, building=one,
        site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={d: {"row": "B.4"} for d in one.directions}, **more)


def turned(points: Sequence[Sequence[float]], angle: float, mirror: bool) -> list[list[float]]:
    c, s = np.cos(angle), np.sin(angle)
    return [[c * x - s * y, s * x + c * y] for x, y in (
        ((-x, y) if mirror else (x, y)) for x, y in points)]


@pytest.mark.parametrize(("angle", "mirror"), [(np.pi / 2, False), (0.0, True), (0.7, True)])
def test_a_turned_or_mirrored_building_says_the_same(angle: float, mirror: bool) -> None:
    """Periods, weight and feet of a building with a core, a wall apart and a floor that deforms."""
    outline = ((0.0, 0.0), (12.0, 0.0), (12.0, 9.0), (0.0, 9.0))
    ends = [*((w.name, *w.between, w.openings) for w in CORE),
            ("apart", (12.0, 0.0), (12.0, 9.0), ())]
    found = []
    for turn, flip in ((0.0, False), (angle, mirror)):
        walls = [wall(name, *turned([a, b], turn, flip), openings=openings)
                 for name, a, b, openings in ends]
        one = building(walls, 2, outline=turned(outline, turn, flip), diaphragms={
            "L1": ud.DeformingFloor(deforms=0.15, material="plain", mesh=1.0)})
        solver, masses = solved(one)
        d = solver.model.diaphragms
        push = solver.solve(solver.model.loads(None, torques=[1e6, 1e6]))
        found.append((ud.calculate(made(one)).modes.periods[:6], masses.mass, masses.inertia,
                      abs(push[d.freedoms[0, 2]])))
    for one_, other in zip(*found, strict=True):
        # lines divide a straight floor, triangles a turned one
        assert other == pytest.approx(one_, rel=1e-9 if angle != 0.7 else 0.02)


def test_units_and_names_change_nothing() -> None:
    one = building(CORE, 2, cores={"lift": [w.name for w in CORE]})
    other = building([wall(f"w{i}", *w.between, openings=w.openings) for i, w in enumerate(CORE)],
                     2, cores={"shaft": [f"w{i}" for i in range(4)]})
    first, second = ud.run(made(one)), ud.run(made(other, units="kip and ft"))
    assert second.modes.periods == pytest.approx(first.modes.periods, rel=1e-12)
    values = [r.read("cores", "", "static X*").values for r in (first, second)]
    assert values[1] == pytest.approx(values[0], rel=1e-9)
    assert [f.severity for f in first.findings] == [f.severity for f in second.findings]


# -- floors that deform ----------------------------------------------------------------------------


HALL = (wall("west", (0, 0), (0, 12)), wall("east", (36, 0), (36, 12)),
        wall("south", (14, 0), (22, 0)), wall("north", (14, 12), (22, 12)))
PLAN = ((0, 0), (36, 0), (36, 12), (0, 12))


def hall(floor: ud.DeformingFloor | None, walls: Sequence[ud.Wall] = HALL, **more: Any
         ) -> ud.Building:
    return building(walls, 2, 4.0, PLAN, diaphragms={} if floor is None else {"L1..L2": floor},
                    **more)


def test_a_floor_that_stiffens_tends_to_a_rigid_one() -> None:
    thick, rigid = (solved(hall(one))[0] for one in (
        ud.DeformingFloor(deforms=10.0, material="plain", mesh=2.0), None))
    soft = solved(hall(ud.DeformingFloor(deforms=0.12, material="plain", mesh=2.0)))[0]
    for direction in ("X", "Y"):
        stiff, exact, bent = (top(s, direction, [2e6, 1e6])["XY".index(direction)]
                              for s in (thick, rigid, soft))
        assert stiff == pytest.approx(exact, rel=0.06)
        assert bent > stiff
    model = soft.model
    assert model.framed is not None
    motion = soft.solve(model.loads("Y", [2e6, 1e6]))
    middle = [n for one in model.open_floors if one.level == 0
              for n, at in zip(one.nodes, one.at, strict=True) if abs(at[0] - 18) < 0.1]
    end = [n for one in model.open_floors if one.level == 0
           for n, at in zip(one.nodes, one.at, strict=True) if at[0] < 0.1]
    moved = (model.framed.follow @ motion).reshape(-1, 6)[:, 1]
    assert moved[middle].mean() > 3 * moved[end].mean()


def moved_at(solver: Solver, motion: Floats, *xs: float) -> Floats:
    """Motion along Y of the uppermost floor of the hall on its axis, at ``xs``."""
    assert solver.model.framed is not None
    moved = (solver.model.framed.follow @ motion).reshape(-1, 6)[:, 1]
    upper = next(f for f in solver.model.open_floors if f.level == 0)
    return np.array([next(moved[n] for n, at in zip(upper.nodes, upper.at, strict=True)
                          if abs(at[0] - x) < 0.3 and abs(at[1] - 6) < 0.6) for x in xs])


def beam_of_floor(force: float) -> float:
    """Deflection of a slab of 150 mm from end to end of the hall, in bending and in shear."""
    w, span, depth, t = force / 36, 36.0, 12.0, 0.15
    return 5 * w * span**4 / (384 * E * t * depth**3 / 12) \
        + w * span**2 / (8 * G * t * depth * 5 / 6)


def test_a_floor_bends_and_shears_as_a_beam_between_end_walls() -> None:
    """Deflection in the middle: bending and shear of a beam under its own inertia."""
    walls = HALL[:2]
    one = hall(ud.DeformingFloor(deforms=0.15, material="plain", mesh=1.0), [
        *walls, wall("s", (16, 6), (20, 6))], self_weight=False)  # on the axis of the floor
    solver, _ = solved(one)
    force = 1e6
    line = moved_at(solver, solver.solve(solver.model.loads("Y", [force, 0.0])), 0, 18, 36)
    assert line[1] - (line[0] + line[2]) / 2 == pytest.approx(beam_of_floor(force), rel=0.05)


def test_cuts_of_a_floor_balance_its_loads() -> None:
    """Shear along every cut: the inertia beyond it less what walls beyond it take."""
    axes = ud.Axes(across_x=ud.AxisFamily(names="1..7", spacing=6.0),
                   across_y=ud.AxisFamily(names="A..C", spacing=6.0))
    one = hall(ud.DeformingFloor(deforms=0.15, material="plain", mesh=1.5), axes=axes)
    results = ud.run(made(one))
    load = next(s for s in results.static_sets if s.direction == "Y" and s.sign <= 0
                and s.state == results.strength)
    found = results.read("floors", "L2", load.name)
    cuts = dict(zip(found.thing.places["cut"], found.values[0], strict=True))
    heads = results.read("walls", "", load.name)
    walls = {(w, p, s, a): v for w, p, s, a, v in zip(*(
        heads.thing.places[k] for k in ("wall", "part", "story", "at")), heads.values[0],
        strict=True)}
    floor = next(f for f in results.model.open_floors if f.level == 0)
    inertia = results.statics["Y", results.strength.key].forces[0]
    assert floor.reads is not None
    there = np.abs(floor.at[:, 0]) < 1e-6  # what lies on the wall itself goes straight into it
    own = inertia * floor.reads[1, len(floor.at):][there].sum()
    taken = abs(walls["west", "whole wall", "L2", "head"][1])
    assert abs(cuts["axis 1"][1]) + own == pytest.approx(taken, rel=1e-6)
    assert abs(cuts["axis 4"][1]) < 0.02 * inertia + 0.05 * taken  # by symmetry none
    assert cuts["axis 4"][2] / 12.0 == pytest.approx(cuts["axis 4"][3], rel=1e-9)
    assert floor.deforms
    table = results.table("floor_deflection")
    assert "12.3.1.3" in table.to_frame()["clause"].iloc[0]


def test_floors_are_cut_and_read_anywhere() -> None:
    """Between nodes the shear stands and the moment follows it; on a line of nodes it is the mean
    of both sides. A point of drift between nodes is refused with the nearest one."""
    axes = ud.Axes(across_x=ud.AxisFamily(names="1..4", at=(5.0, 5.3, 5.6, 6.3)),
                   across_y=ud.AxisFamily(names="A..B", at=(0.0, 4.3)))
    one = hall(ud.DeformingFloor(deforms=0.15, material="plain", mesh=1.5), axes=axes)
    results = ud.run(made(one))
    load = next(s for s in results.static_sets if s.direction == "Y" and s.sign <= 0
                and s.state == results.strength)
    found = results.read("floors", "L2", load.name)
    _, shear, moment, _ = (dict(zip(found.thing.places["cut"], found.values[0][:, k], strict=True))
                           for k in range(4))
    assert shear["axis 1"] == pytest.approx(shear["axis 2"], rel=1e-9)
    assert abs(moment["axis 2"] - moment["axis 1"]) == pytest.approx(
        abs(0.3 * shear["axis 1"]), rel=1e-6)
    assert (shear["axis 1"] + shear["axis 4"]) / 2 == pytest.approx(shear["axis 3"], rel=1e-9)
    assert "axis B" in shear
    with pytest.raises(ud.InputError, match=r"drift.points\[0\].at: point 'p' lies between"):
        ud.run(made(one, drift={"points": [{"name": "p", "at": (4.3, 4.0)}]}))


THREE = (*HALL, wall("mid", (12, 0), (12, 12)))


def test_a_flexible_floor_gives_each_line_what_is_tributary_to_it() -> None:
    solver, _ = solved(building(THREE, 2, 4.0, PLAN, diaphragms={"L1..L2": "flexible"},
                                self_weight=False))
    model = solver.model
    motion = solver.solve(model.loads("Y", [2e6, 1e6]))
    read = model.quantities["line shear"]
    taken = dict(zip(zip(read.labels["line"], read.labels["story"], strict=True),
                     read.of(motion, motion) / 3e6, strict=True))
    shares = [taken[f"walls at x = {x:.3f} m", "L1"] for x in (0, 12, 36)]
    # between 12 and 36 walls across stand in the middle and are bent: what they take is missing
    across_them = taken["walls at x = 18.000 m", "L1"]
    assert shares == pytest.approx([1 / 6, 1 / 2 - 0.75 * across_them, 1 / 3 - 0.25 * across_them],
                                   abs=1e-4)


@pytest.mark.parametrize(("standard", "severity", "clause"), [
    ("asce7-22", "note", "12.3.1.1"), ("asce7-05", "note", "12.3.1.1"),
    ("en1998", "warning", "4.3.1(4)"), ("criteria.toml", "warning", "")])
def test_who_permits_a_flexible_floor_and_what_follows(
    standard: str, severity: str, clause: str
) -> None:
    site, system, _, _ = ROOMS[standard]
    found = []
    for which in ("L1..L2", "L1"):
        one = building(THREE, 2, 4.0, PLAN, diaphragms={which: "flexible"})
        found.append(analyze(one, standard=str(OWN / standard) if "." in standard else standard,
                             site=site, system={"X": system, "Y": system}))
    said = next(f for f in found[0].findings if f.check == "floors said to be flexible")
    assert (said.severity, said.clause) == (severity, clause)
    # no floor turns as one where all are flexible: exempt, or left out and said
    assert [{s.sign for s in one.static_sets} == {0} for one in found] == [True, False]
    assert ("accidental torsion is left out" in said.text) == (severity == "warning")


def test_frames_beside_walls_keep_the_extent_of_the_system_up_the_height() -> None:
    """Frames take little at the foot of a wall building and much at its top: one extent."""
    results = ud.run(made(building([wall("t", "A1", "A2"), wall("u", "B1", "B2")], 14, **FRAMED)))
    found = [f for f in results.findings if f.check == "vertical geometry"]
    assert found
    assert {f.severity for f in found} == {"ok"}


def test_accidental_torsion_asked_for_in_vain_is_said() -> None:
    one = building(THREE, 2, 4.0, PLAN, diaphragms={"L1..L2": "flexible"})
    results = ud.run(made(one, analysis={"accidental_torsion": "always"}))
    said = [f for f in results.findings if f.clause == "analysis.accidental_torsion"]
    assert [f.severity for f in said] == ["warning"]


def test_columns_hold_a_flexible_floor_where_walls_are_not_enough() -> None:
    """One wall along X and columns beside it: two lines, and half of the mass on each."""
    solver, _ = solved(building([wall("t", "A1", "A3"), wall("u", "A1", "B1"),
                                 wall("v", "A3", "B3")], 1, self_weight=False, **FRAMED,
                                diaphragms={"L1": "flexible"}))
    model = solver.model
    motion = solver.solve(model.loads("X", [1e6]))
    read = model.quantities["line shear"]
    shear = dict(zip(read.labels["line"], read.of(motion, motion) / 1e6, strict=True))
    wall_line = next(v for k, v in shear.items() if "y = 0" in k or k.endswith(" A"))
    assert wall_line == pytest.approx(0.5, abs=0.03)


def test_a_flexible_floor_on_one_line_is_refused() -> None:
    with pytest.raises(ud.AnalysisError, match="along Y one line holds it"):
        ud.run(made(building((HALL[0], *HALL[2:]), 2, 4.0, PLAN,
                             diaphragms={"L1..L2": "flexible"})))


def test_forces_of_a_floor_are_its_own_and_those_that_pass_through() -> None:
    """Under the static set every cut has the sum of what the floor's own force does alone and of
    transfer; what walls take of one floor is its diaphragm force."""
    axes = ud.Axes(across_x=ud.AxisFamily(names="1..7", spacing=6.0),
                   across_y=ud.AxisFamily(names="A..C", spacing=6.0))
    floor = ud.DeformingFloor(deforms=0.15, material="plain", mesh=2.0)
    results = ud.run(made(building(
        (*HALL, wall("lower", (12, 0), (12, 12), levels="L1")), 2, 4.0, PLAN, axes=axes,
        diaphragms={"L1..L2": floor}),
        analysis={"accidental_torsion": "none", "torsion_reason": "to compare"}))
    whole = results.read("floors", "", next(
        s.name for s in results.static_sets
        if s.direction == "Y" and s.state == results.strength))
    alone, passing = (results.table(n).to_frame() for n in (
        "floor_design_forces", "floor_transfer_forces"))
    own = {(r["level"], r["cut"]): r for r in alone.to_dict("records") if r["direction"] == "Y"}
    size = np.abs(whole.values).max()
    shear = next(c for c in passing if c.startswith("shear"))
    design = next(c for c in alone if c.startswith("diaphragm force"))
    assert passing[shear].abs().max() > 0.03 * passing[shear.replace("shear", "force of the floor")
                                                       ].abs().max()
    for row in (r for r in passing.to_dict("records") if r["direction"] == "Y"):
        place = next(k for k, pair in enumerate(zip(*(
            whole.thing.places[n] for n in ("level", "cut")), strict=True))
            if pair == (row["level"], row["cut"]))
        mine = own[row["level"], row["cut"]]
        share = row[shear.replace("shear", "force of the floor")] / mine[design]
        both = row[shear] + share * mine[shear]
        assert both == pytest.approx(
            whole.values.reshape(-1, 4)[place, 1], abs=1e-6 * size)
    taken = results.table("floor_to_walls").to_frame().query("level == 'L2' and direction == 'Y'")
    along = taken[taken["wall"].isin(["west", "east"])]
    column = next(c for c in taken if c.startswith("taken"))
    pushed = next(c for c in taken if c.startswith("diaphragm force"))
    assert along[column].sum() == pytest.approx(along[pushed].iloc[0], rel=0.02)
    over = next(c for c in taken if c.startswith("for collectors"))
    assert (taken[over] / taken[column]).to_numpy() == pytest.approx(2.5)


def test_two_modes_of_a_hall_against_all_of_its_mass() -> None:
    """The polynomials that stand for the inertia of a floor, against mass at every node."""
    from scipy import sparse
    from scipy.sparse.linalg import eigsh

    from undatum.mechanics.floors import node_weights
    from undatum.mechanics.framing import assembled

    one = hall(ud.DeformingFloor(deforms=0.15, material="plain", mesh=2.0))
    solver, masses = solved(one)
    framed = solver.model.framed
    assert framed is not None
    mass = np.zeros((len(framed.frame.points), 6))
    mass[:, :2] = node_weights(one, framed.frame, masses.counted)[:, None] / 9.80665
    assert mass[:, 0].sum() == pytest.approx(masses.mass.sum(), rel=1e-6)
    free = framed.owner
    k = assembled(framed.frame, framed.elements)[free][:, free]
    exact, _ = eigsh(sparse.csc_array(k), k=4, M=sparse.csc_array(
        sparse.diags_array(mass.ravel()[free])), sigma=0.0)
    found = ud.calculate(made(one)).modes.periods[:4]
    assert found == pytest.approx(2 * np.pi / np.sqrt(np.sort(exact)), rel=2e-3)


@pytest.mark.parametrize(("mesh", "severity"), [(1.0, "note"), (4.0, "warning")])
def test_half_the_mesh_is_told_as_a_run_with_it_says(mesh: float, severity: str) -> None:
    door = ud.Opening(from_start=2.4, width=1.2, height=2.1)
    doors = (wall("a", (0, 0), (6, 0), openings=[door]), wall("b", (0, 9), (12, 9)),
             wall("c", (0, 0), (0, 9)))
    floor = {"L1": ud.DeformingFloor(deforms=0.2, material="plain", mesh=2 * mesh)}
    results = ud.run(made(building(doors, 2, wall_mesh=mesh, diaphragms=floor),
                          analysis={"halve_mesh": True}))
    told = results.mesh_halved
    assert told is not None
    half = ud.run(made(building(doors, 2, wall_mesh=mesh / 2, diaphragms={
        "L1": ud.DeformingFloor(deforms=0.2, material="plain", mesh=mesh)})))
    periods = [one for one in told.moved if one.dimension == "time"]
    for k, one in enumerate(periods):
        assert (one.value, one.halved) == pytest.approx(
            (results.modes.periods[k], half.modes.periods[k]), rel=1e-6)
    panels = [r.model.framed.frame for r in (results, half) if r.model.framed]
    assert told.panels == tuple(
        len(f.panels) + len(f.slabs) for f in panels if f.panels and f.slabs)
    finding = next(f for f in results.findings if f.check == "mesh halved")
    assert finding.severity == severity
    assert results.table("mesh_halved").to_frame()["change"].max() == pytest.approx(finding.demand)


@pytest.mark.parametrize("deforms", [True, False])
def test_a_floor_is_drawn_where_it_moves_to(deforms: bool) -> None:
    """The largest displacement is written where it is; what is drawn lies where the nodes go."""
    from matplotlib.collections import LineCollection

    from undatum.report.moved import floor_moved

    floor = ud.DeformingFloor(deforms=0.2, material="plain", mesh=3.0)
    one = building(THREE, 2, 4.0, PLAN, diaphragms={"L1..L2": floor} if deforms else {})
    results = ud.run(made(one))
    model = results.model
    chosen = next(s for s in results.static_sets if s.direction == "Y")
    motion = model.framed.moved(factorize(model).solve(chosen.nodal))
    frame = model.framed.frame
    own = np.unique(frame.panels.nodes[:, 2:][frame.floors[frame.panels.nodes[:, 2:]] == 0])
    moved = motion.reshape(-1, 6)[own, :2]
    peak = np.hypot(*motion.reshape(-1, 6)[frame.floors == 0, :2].T).max()
    figure = floor_moved(results, "L2", chosen.name)
    ax = figure.axes[0]
    assert any(t.get_text() == f"{1e3 * peak:.4g} mm" for t in ax.texts)
    drawn = np.array([point for c in ax.collections if isinstance(c, LineCollection)
                      for segment in c.get_segments() for point in segment])
    scale = 0.06 * 36 / peak
    there = frame.points[own, :2] + scale * moved
    away = np.min(np.hypot(*(drawn[:, None] - there[None]).transpose(2, 0, 1)), axis=1)
    assert away.max() < 1e-3


# -- through the job -------------------------------------------------------------------------------


def test_walls_are_saved_and_loaded_and_read_alike(tmp_path: Any) -> None:
    one = building(CORE, 2, cores={"lift": [w.name for w in CORE]}, diaphragms={
        "L1": ud.DeformingFloor(deforms=0.2, material="plain")})
    results = ud.run(made(one))
    ud.write_all(results, tmp_path / "out")
    back = ud.load(tmp_path / "out")
    for what in ("walls", "cores", "reactions"):
        for under in ("sets", "cases", "envelope"):
            a, b = (r.read(what, under=under) for r in (results, back))
            assert b.high == pytest.approx(a.high, rel=1e-9, abs=1e-6)
    assert back.table("wall_forces").title == results.table("wall_forces").title


def test_second_order_and_vertical_motion_hold_walls() -> None:
    plain, pressed = (ud.run(made(building(CORE, 6, load=2e4), analysis=choice)) for choice in (
        {}, {"second_order": "by story weight"}))
    assert pressed.modes.periods[0] > plain.modes.periods[0]
    up = ud.run(made(building(CORE, 2, vertical_mass=True)))
    assert up.model.freedoms.of("Z").any()
    lifted = up.model.mass.diagonal()[up.model.freedoms.of("Z")].sum()
    assert lifted == pytest.approx(up.weights.mass.sum(), rel=1e-8)


def test_a_wall_on_springs_rocks() -> None:
    """A rigid wall on line springs: the foot turns by M / (k L^3 / 12)."""
    k, length, height = 2e7, 6.0, 12.0
    one = building([wall("w", (0, 0), (length, 0), 8.0 / 2, foot=ud.WallFoot(vertical=k),
                         mesh=0.75)], 4, 3.0, plane="X")
    sway = top(solved(one)[0], "X", [1.0, 0, 0, 0])[0]
    rocking = height**2 / (k * length**3 / 12)
    assert sway == pytest.approx(rocking + sway_of_cantilever(length, height, 4.0), rel=0.02)


AXES = ud.Axes(across_x=ud.AxisFamily(names="1..3", spacing=6.0),
               across_y=ud.AxisFamily(names="A..B", spacing=6.0))
FRAMED: dict[str, Any] = {
    "axes": AXES, "outline": ((0, 0), (12, 0), (12, 6), (0, 6)),
    "sections": {"C": ud.CrossSection(rectangle=(0.6, 0.6), material="C30/37"),
                 "B": ud.CrossSection(rectangle=(0.4, 0.8), material="C30/37")},
    "members": [ud.MemberRule(columns="all", section="C"), ud.MemberRule(beams="all", section="B")]}
SLAB = ud.DeformingFloor(deforms=0.2, material="plain")
ODD: dict[str, tuple[Any, dict[str, Any], tuple[str, ...]]] = {
    "on a transfer beam": (lambda: building([wall("t", "A1", "A2", levels="L2..L3")], **FRAMED),
                           {}, ()),
    "on column heads": (lambda: building([wall("t", "A1", "A2", levels="L2..L3")], **FRAMED | {
        "members": [*FRAMED["members"], ud.MemberRule(beams="on A between 1 and 2 at L1",
                                                      remove=True)]}), {},
                        ("walls on column heads",)),
    "crossing in the middle": (lambda: building(
        [wall("a", (1, 4), (9, 4)), wall("b", (5, 1), (5, 8)), wall("c", (11, 2), (11, 8))]), {},
        ()),
    "doors of full height": (lambda: building([
        wall("a", (0, 0), (8, 0), openings=[ud.Opening(from_start=3, width=1.5, height=3.0)]),
        wall("b", (4, 5), (8, 5)), wall("c", (10, 2), (10, 8))]), {}, ()),
    "second order on a floor that deforms": (
        lambda: building([wall("t", "A1", "B1")], diaphragms={"L1..L2": SLAB}, **FRAMED),
        {"second_order": "by axial force"}, ()),
    "vertical mass on a floor that deforms": (
        lambda: building(CORE, 2, vertical_mass=True, diaphragms={"L1..L2": SLAB}), {}, ()),
    "in a plane": (lambda: building([wall("a", (0, 0), (8, 0))], plane="X",
                                    diaphragms={"L2": SLAB}), {}, ()),
    "a coarse mesh": (lambda: building(CORE, 2, wall_mesh=5.0), {}, ("mesh of walls",)),
}


def balanced(results: ud.Results) -> bool:
    """Whether reactions balance the loads as given, and every node is in balance."""
    table = results.table("plausibility").to_frame()
    own = table[table["check"].str.contains("balance")]
    assert own["passes"].dtype == bool
    return len(own) > 2 and bool(own["passes"].all())


@pytest.mark.parametrize("name", ODD)
def test_odd_buildings_stand_and_balance(name: str) -> None:
    make, analysis, named = ODD[name]
    results = ud.run(made(make(), analysis=analysis))
    said = {f.check: f for f in results.findings}
    assert balanced(results)
    for check in ("walls on column heads", "mesh of walls"):
        assert (check in said) == (check in named)
    if name == "on a transfer beam":
        assert any(m.name == "beam A 1-2 at L1" for m in results.members())


def test_a_basement_around_a_core_loses_no_load() -> None:
    """The floor between outer walls and core is a ring: all of it lands, wherever it is nearest."""
    corners = ((0, 0), (12, 0), (12, 9), (0, 9))
    ring = [wall(f"r{i}", corners[i], corners[(i + 1) % 4], levels="L1") for i in range(4)]
    one = building([*CORE, *ring], 3, base="L1", held_by_ground={"L1": "fully"})
    results = ud.run(made(one))
    assert balanced(results)


def test_walls_from_a_table(tmp_path: Any) -> None:
    path = tmp_path / "walls.csv"
    path.write_text("wall,start x (ft),start y (ft),end x (ft),end y (ft),levels,thickness (in),"
                    "material\nsouth,0,0,20,0,L1..L2,10,C30/37\nnorth,0,20,20,20,,10,C30/37\n",
                    encoding="utf-8")
    first, second = ud.read_walls(path)
    assert first.between == ((0.0, 0.0), (pytest.approx(6.096), 0.0))
    assert (first.levels, second.levels) == ("L1..L2", "all")
    assert first.thickness == pytest.approx(0.254)


@pytest.mark.parametrize("foot", [None, ud.WallFoot(vertical=200e6)])
def test_line_reactions_along_feet_sum_to_the_reactions(foot: ud.WallFoot | None) -> None:
    """Forces and moments of every foot, of whatever brings them: sets, cases, a column within."""
    more: dict[str, Any] = {} if foot is None else {"foot": foot}
    one = building([wall("t", "A1", "A2", openings=[DOOR], **more), wall("u", "A1", "B1", **more)],
                   2, **FRAMED)
    results = ud.run(made(one))
    runs = {w.name: w for w in results.model.framed.frame.panels.walls}
    for under in ("cases", results.static_sets[0].name, results.static_sets[-1].name):
        found = results.read("feet", "", under)
        ends = np.array([[float(x) for x in text.removesuffix(" m").split(" .. ")]
                         for text in found.thing.places["from start"]])
        along = np.array([runs[name].along for name in found.thing.places["wall"]])
        up, on, across = np.moveaxis(
            found.values.reshape(len(found.values), -1, 3) * np.diff(ends, axis=1), 2, 0)
        brought = np.stack([on * along[:, 0] - across * along[:, 1],
                            on * along[:, 1] + across * along[:, 0], up], axis=2).sum(axis=1)
        whole = results.read("reactions", "", under)
        where = [whole.thing.places["foot"].index(name) for name in ("t, u", "t")]  # by a door
        forces = whole.values.reshape(len(whole.values), -1, 6)[:, where, :3].sum(axis=1)
        assert brought == pytest.approx(  # places are written to a millimeter
            forces, abs=2e-4 * np.abs(forces).max())


def test_panels_over_a_section_add_up_to_its_force() -> None:
    """Forces per length along the lowest row of a wall, times their widths: its axial force."""
    results = ud.run(made(building(CORE, 2, cores={"lift": [w.name for w in CORE]})))
    framed = results.model.framed
    assert framed is not None
    panels = framed.frame.panels
    assert panels is not None
    for under in ("dead", "static X*strength"):
        found = results.read("panels", "east", under)
        own = np.array([int(k) for k in found.thing.places["panel"]])
        row = np.abs(panels.box[own, 2] - panels.box[own, 2].min()) < 1e-9
        widths = (panels.box[own, 1] - panels.box[own, 0])[row]
        walls = results.read("walls", "east", under)
        at = list(zip(walls.thing.places["story"], walls.thing.places["at"], strict=True))
        axial, shear = walls.values[0, at.index(("L1", "foot")), :2]
        assert found.values[0, row, 1] @ widths == pytest.approx(axial, rel=0.02)
        if under != "dead":
            assert found.values[0, row, 2] @ widths == pytest.approx(shear, rel=0.1)


def test_a_beam_that_ends_on_a_wall_is_fixed_over_its_depth() -> None:
    """Propped by a column at its other end: w L2 / 8 at the wall, 3/8 w L on the prop."""
    light = {"C30/37": ud.Material(modulus=E, unit_weight=0.0), "plain": PLAIN}
    load = ud.LoadCase(name="line", on_members=[
        ud.OnMembers(on="beams on A", per_length=1e4)])
    one = building([wall("a", "A1", "A2", 1.0), wall("b", "A1", "B1", 1.0)], 1, **FRAMED | {
        "members": [ud.MemberRule(columns="A3, B3", section="C", hinged="both"),
                    ud.MemberRule(beams="on A between 2 and 3", section="B")],
        "sections": {"C": ud.CrossSection(rectangle=(1.0, 1.0), material="C30/37"),
                     "B": ud.CrossSection(rectangle=(0.2, 0.6), material="C30/37")}},
        cases=[load]).model_copy(update={"materials": light})
    results = ud.run(made(one))
    beam = next(m.name for m in results.members() if m.kind == "beam")
    found = results.read("forces", beam, "line").values[0]
    assert abs(found[0, 4]) == pytest.approx(1e4 * 36 / 8, rel=0.05)
    assert abs(found[1, 2]) == pytest.approx(3 / 8 * 1e4 * 6, rel=0.03)


def test_feet_that_all_settle_alike_strain_nothing() -> None:
    down = ud.LoadCase(name="down", on_supports=[ud.OnSupports(at="all", down=0.01)])
    part = ud.LoadCase(name="part", on_supports=[ud.OnSupports(at="on A", down=0.01)])
    results = ud.run(made(building([wall("t", "A1", "B1")], cases=[down, part], **FRAMED)))
    whole, some = (np.abs(results.read("walls", "t", name).values).max()
                   for name in ("down", "part"))
    assert whole < 1e-6 * some
    moved = results.read("motion", "columns on B", "down").values[0, :, 2]
    assert moved == pytest.approx(-0.01, rel=1e-9)


@pytest.mark.parametrize(("length", "said"), [(36.0, False), (36.01, True)])
def test_a_long_floor_taken_as_rigid_is_named(length: float, said: bool) -> None:
    """Beyond three times its depth (ASCE 7-16, 12.3.1.2), just beyond counts."""
    plan = ((0, 0), (length, 0), (length, 12), (0, 12))
    one = building([wall("west", (0, 0), (0, 12)), wall("east", (length, 0), (length, 12)),
                    wall("south", (14, 0), (22, 0)), wall("north", (14, 12), (22, 12))], 1, 4.0,
                   plan)
    found = [f for f in ud.run(made(one)).findings if f.check == "floors taken as rigid"]
    assert bool(found) == said
    assert all(f.clause == "12.3.1.2" for f in found)


# -- flanges -----------------------------------------------------------------------------------

TEE = (("stem", (6, 1), (6, 6)), ("bar", (1, 6), (11, 6)))


def tee(flanges: Any, bar: Sequence[tuple[str, Any, Any]] = TEE, stories: int = 6, **more: Any
        ) -> ud.Results:
    walls = [wall(name, a, b, flanges=flanges if name == "stem" else None, mesh=0.5)
             for name, a, b in bar]
    return ud.run(made(building(walls, stories), **more))


def flanged(results: ud.Results, story: str, at: str = "foot", part: str = "with flanges",
            case: str = "static Y*") -> Floats:
    found = results.read("walls", "stem", case)
    places = found.thing.places
    k = list(zip(places["part"], places["story"], places["at"], strict=True)).index(
        (part, story, at))
    return np.asarray(found.values[0, k])


def rows_of(results: ud.Results, table: str) -> list[dict[str, Any]]:
    found = results.table(table)
    return [dict(zip([c.name for c in found.columns], row, strict=True)) for row in found.rows()]


def test_effective_flanges_by_hand() -> None:
    """A tee of six stories of 3 m, web 0.25 m: a quarter of the height above the section, at most
    what is there; a second stem halves the clear distance; the other standards say the same."""
    rows = {(r["story"], r["at"]): r for r in rows_of(tee("by standard"), "wall_flanges")}
    for story, at, above in (("L1", "foot", 18.0), ("L1", "head", 15.0), ("L6", "foot", 3.0),
                             ("L6", "head", 0.0)):
        width = min(above / 4, 5.0 - 0.125)
        row = rows[story, at]
        assert row["width towards the start"] == pytest.approx(width)
        assert row["from the start"] == pytest.approx(5.0 - 0.125 - width)
        assert row["to"] == pytest.approx(5.0 + 0.125 + width)
        assert row["clause"] == "ACI 318-14, 18.10.5.2"
    two = tee("EN 1992-1-1", (*TEE, ("second", (8, 1), (8, 6))))
    row = next(r for r in rows_of(two, "wall_flanges")
               if (r["story"], r["at"]) == ("L1", "foot"))
    assert row["width towards the end"] == pytest.approx((2.0 - 0.25) / 2)
    assert row["governed there by"] == "half the distance to the next web"
    assert row["width towards the start"] == pytest.approx(18 / 4)
    assert row["clause"] == "EN 1998-1, 5.4.3.4.1(4)"


def test_a_part_with_flanges_is_what_its_panels_are() -> None:
    """Of the whole flange: the core of both walls. Of none beyond the web: nearly the web alone.
    Between two widths that end on panels: the forces of the panels there."""
    full = tee(20.0)
    together = ud.run(made(building(
        [wall(n, a, b, mesh=0.5, flanges=20.0 if n == "stem" else None) for n, a, b in TEE], 6,
        cores={"tee": ["stem", "bar"]})))
    own, whole = flanged(together, "L1"), together.read("cores", "tee", "static Y*")
    k = list(zip(whole.thing.places["story"], whole.thing.places["at"], strict=True)).index(
        ("L1", "foot"))
    axial, _, y, _, about_x, _ = whole.values[0, k]
    assert own[0] == pytest.approx(axial, abs=1e-3 * abs(y))
    assert own[1] == pytest.approx(y, rel=1e-9)
    assert abs(own[5]) == pytest.approx(abs(about_x), rel=1e-9)
    assert flanged(full, "L1") == pytest.approx(own, rel=1e-6, abs=1.0)
    narrow, wide = (flanged(tee(w - 0.125), "L1") for w in (1.0, 2.0))
    field = full.read("panels", "bar", "static Y*")
    box = rows_of(full, "wall_panels")
    inside = [k for k, row in enumerate(r for r in box if r["wall"] == "bar")
              if row["story"] == "L1" and row["elevation from"] < 0.01
              and 1.0 <= abs((row["from the start"] + row["to"]) / 2 - 5.0) <= 2.0]
    assert len(inside) == 4
    assert wide[0] - narrow[0] == pytest.approx(0.5 * field.values[0, inside, 1].sum(), rel=0.06)
    alone = flanged(full, "L1", part="whole wall")[0]
    assert abs(alone) > abs(narrow[0]) > abs(wide[0]) > abs(own[0])  # the bar balances the stem


def test_flanges_are_refused_where_no_rule_is_known() -> None:
    with pytest.raises(ud.InputError, match=r"(?s)walls\[0\].flanges.*give the width"):
        ud.run(ud.make_project(
            title="t", standard="is1893-2016",
            building=building([wall("stem", (6, 1), (6, 6), flanges="by standard"),
                               wall("bar", (1, 6), (11, 6))]),
            site={"zone": "IV", "soil": "II", "importance_factor": 1.0},
            system={d: {"row": "ductile RC walls", "regular": True} for d in "XY"}))


# -- what stands apart, on nothing, or in a chain of its own ---------------------------------------

RING = ud.Outline(points=[(0, 0), (24, 0), (24, 12), (0, 12)],
                  holes=[[(8, 4), (14, 4), (14, 8), (8, 8)]])
AROUND = [wall("a", (0, 0), (0, 12)), wall("b", (24, 0), (24, 12)), wall("c", (4, 0), (20, 0)),
          wall("d", (4, 12), (20, 12))]


@pytest.mark.parametrize("floors", [{}, {
    "L1..L2": ud.DeformingFloor(deforms=0.2, material="plain", mesh=1.5)}])
def test_a_wall_that_no_floor_holds_is_named_and_left_alone(floors: Any) -> None:
    """In a hole, of weightless stuff: periods, drift and the test of the floor as without it."""
    air = ud.Material(modulus=30e9, poisson=0.2, unit_weight=0.0)
    free = ud.Wall(name="free", between=[(9, 6), (13, 6)], thickness=0.2, material="air")
    levels = building(AROUND, 2, outline=RING).levels
    one, other = (ud.run(made(ud.Building(
        levels=levels, walls=walls, materials={"plain": PLAIN, "air": air}, diaphragms=floors)))
        for walls in (AROUND, [*AROUND, free]))
    assert other.modes.periods[:3] == pytest.approx(one.modes.periods[:3], rel=1e-6)
    assert np.nanmax(other.drift.use) == pytest.approx(np.nanmax(one.drift.use), rel=1e-6)
    assert [f.ratio for f in other.floors] == pytest.approx([f.ratio for f in one.floors], rel=1e-6)
    assert np.abs(other.read("walls", "free", "sets").values).max() < 1.0
    told = [f for f in other.findings if f.check == "standing apart"]
    assert [(f.where, f.severity) for f in told] == [("wall free", Severity.WARNING)]
    assert "L1, L2" in told[0].text
    assert not [f for f in one.findings if f.check == "standing apart"]


@pytest.mark.parametrize("openings", [
    [(0.0, 6.0)], [(0.0, 3.0), (3.0, 3.0)], [(0.0, 4.0), (4.0, 2.0)]])
@pytest.mark.parametrize("story", ["L1", "L2"])
def test_openings_that_leave_nothing_of_a_wall_are_refused(
    openings: list[tuple[float, float]], story: str
) -> None:
    cut = wall("cut", (3, 4), (9, 4), openings=[ud.Opening(
        at=story, from_start=a, width=w, height=2.0) for a, w in openings])
    with pytest.raises(ud.InputError, match=f"leave nothing of wall 'cut' in the story of {story}"):
        made(building([*AROUND, cut], 2, outline=RING))


def test_a_wall_without_levels_keeps_to_the_floors_that_hold_it() -> None:
    """A tower on half of a podium: walls of the other half end at the podium."""
    whole, half = [(0, 0), (24, 0), (24, 12), (0, 12)], [(0, 0), (12, 0), (12, 12), (0, 12)]
    load = [ud.Load(name="slab", kind="dead", per_area=6e3)]
    levels = [ud.Level(name="T1", height=3.0, outline=half, loads=load, stands_on="P"),
              ud.Level(name="W1", height=3.0, outline=[(16, 0), (24, 0), (24, 12), (16, 12)],
                       loads=load, stands_on="P"),
              ud.Level(name="P", height=3.0, outline=whole, loads=load),
              ud.Level(name="Base", outline=whole)]
    walls = [wall("a", (0, 0), (0, 12)), wall("b", (12, 0), (12, 12)), wall("c", (2, 0), (10, 0)),
             wall("d", (24, 0), (24, 12)), wall("e", (17, 12), (23, 12)),
             wall("f", (13, 6), (15, 6)), wall("g", (16, 0), (16, 12)),
             wall("h", (2, 12), (10, 12))]
    one = ud.Building(levels=levels, walls=walls, materials={"plain": PLAIN})
    frame = one.frame
    assert frame is not None
    assert frame.panels is not None
    names = {run.name: [one.levels[i].name for i in run.stories] for run in frame.panels.walls}
    assert names == {"a": ["T1", "P"], "b": ["T1", "P"], "c": ["T1", "P"], "h": ["T1", "P"],
                     "d": ["W1", "P"], "e": ["W1", "P"], "g": ["W1", "P"], "f": ["P"]}


def test_a_mechanism_names_walls() -> None:
    """A wall on hinges in a hole falls over."""
    hinged = wall("hinged", (9, 6), (13, 6), foot=ud.WallFoot(hold="pinned"))
    with pytest.raises(ud.AnalysisError, match="What meets there: wall hinged"):
        ud.run(made(building([*AROUND, hinged], 2, outline=RING)))
