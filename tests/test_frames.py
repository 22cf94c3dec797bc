"""Frames of members against closed forms, an independent assembly and laws of symmetry."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

import undatum as ud
from undatum.layout.frame import Frame
from undatum.mechanics.actions import reactions
from undatum.mechanics.framing import FrameModel
from undatum.mechanics.model import Model

Floats = NDArray[np.float64]
E, NU = 30e9, 0.25
HEIGHT, BAY = 4.0, 6.0
SITE = {"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"}
SYSTEM = {"X": {"row": "C.5"}, "Y": {"row": "C.5"}}


def slender(inertia: float, torsion: float = 1e-9, other: float | None = None) -> ud.CrossSection:
    """A section that bends and does nothing else: as good as rigid along itself and in shear."""
    return ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=other or inertia, bending_z=inertia, torsion=torsion))


def building(
    columns: ud.CrossSection, beams: ud.CrossSection, *, stories: int = 1,
    rules: tuple[ud.MemberRule, ...] = (), x: tuple[float, ...] = (BAY,),
    y: tuple[float, ...] = (5.0,), **more: Any,
) -> ud.Building:
    """A frame on a rectangle of axes, named 1, 2... along X and A, B... along Y."""
    axes = ud.Axes(
        across_x=ud.AxisFamily(names=f"1..{len(x) + 1}", spacing=x),
        across_y=ud.AxisFamily(names=f"A..{chr(65 + len(y))}", spacing=y))
    last = f"{chr(65 + len(y))}{len(x) + 1}"
    return ud.Building(
        axes=axes,
        stories=ud.Stories(heights={f"L{i + 1}": HEIGHT for i in range(stories)},
                           outline="all", floor="all"),
        outlines={"all": ud.Stretch(between=("A1", last))},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=6e3)]},
        materials={"stuff": ud.Material(modulus=E, poisson=NU, unit_weight=0.0)},
        sections={"column": columns, "beam": beams},
        members=(ud.MemberRule(columns="all", section="column"),
                 ud.MemberRule(beams="all", section="beam"), *rules), **more)


def model_of(one: ud.Building) -> Model:
    """The model of a building, as a run makes it."""
    model: Model = ud.calculate(project_with(one)).model
    return model


def sway_stiffness(model: Model, direction: str = "X") -> float:
    """Force over displacement of a single floor along a direction."""
    load = model.loads(direction, [1.0])
    moved = np.linalg.solve(model.stiffness.toarray(), load)
    return float(1 / moved[model.diaphragms.freedoms[0, "XY".index(direction)]])


# -- closed forms ----------------------------------------------------------------------------------


@pytest.mark.parametrize("ratio", [0.01, 0.4, 1.0, 5.0, 1e4])
def test_portal_with_flexible_beam(ratio: float) -> None:
    """K = 24 E I / h^3 (6 k + 1) / (6 k + 4), k = (I_b / L) / (I_c / h); two portals side by side.

    Source: Kleinlogel, Rigid Frame Formulas, frame 1, by hand from slope deflection.
    """
    inertia = 2e-3
    beam = ratio * inertia / HEIGHT * BAY
    own = building(slender(inertia), slender(1e-12, other=beam))
    expected = 2 * 24 * E * inertia / HEIGHT**3 * (6 * ratio + 1) / (6 * ratio + 4)
    assert sway_stiffness(model_of(own)) == pytest.approx(expected, rel=1e-5)


@pytest.mark.parametrize("ratio", [0.05, 1.0, 20.0])
def test_portal_on_hinges(ratio: float) -> None:
    """K = 12 E I / h^3 k / (1 + 2 k): the columns are pinned at the foot."""
    inertia = 2e-3
    beam = ratio * inertia / HEIGHT * BAY
    own = building(slender(inertia), slender(1e-12, other=beam),
                   supports=(ud.Support(at="all", hold="pinned"),))
    expected = 2 * 12 * E * inertia / HEIGHT**3 * ratio / (1 + 2 * ratio)
    assert sway_stiffness(model_of(own)) == pytest.approx(expected, rel=1e-5)


@given(inertia=st.floats(1e-5, 1e-1), shear=st.floats(1e-3, 1.0))
@settings(deadline=None, max_examples=15)
def test_stiff_beams_give_shear_buildings(inertia: float, shear: float) -> None:
    """Four columns, each 12 E I / h^3 with the shear deformation beside it."""
    section = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=inertia, bending_z=inertia, torsion=1e-9, shear_y=shear, shear_z=shear))
    own = building(section, slender(1e4, other=1e4))
    g = E / 2 / (1 + NU)
    flexible = HEIGHT**3 / (12 * E * inertia) + HEIGHT / (g * shear)
    assert sway_stiffness(model_of(own)) == pytest.approx(4 / flexible, rel=1e-3)


def test_hinged_columns_are_cantilevers() -> None:
    own = building(slender(2e-3), slender(2e-3),
                   rules=(ud.MemberRule(columns="all", hinged="end"),
                          ud.MemberRule(beams="all", hinged="both")))
    with pytest.raises(ud.AnalysisError, match="hinged"):
        model_of(own)  # where every member ends in a hinge the node itself turns freely
    own = building(slender(2e-3), slender(2e-3),
                   rules=(ud.MemberRule(columns="all", hinged="end"),))
    assert sway_stiffness(model_of(own)) == pytest.approx(4 * 3 * E * 2e-3 / HEIGHT**3, rel=1e-5)


def test_brace_is_a_truss() -> None:
    """A brace adds E A cos^2 / L to a frame that is as good as hinged."""
    area = 0.004
    brace = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=area, bending_y=1e-12, bending_z=1e-12, torsion=1e-12))
    bare = building(slender(1e-7), slender(1e-7))
    braced = bare.model_copy(update={
        "sections": {**bare.sections, "brace": brace},
        "members": (*bare.members, ud.MemberRule(braces="on A, B", section="brace",
                                                 pattern="falling"))})
    length = np.hypot(BAY, HEIGHT)
    expected = 2 * E * area / length * (BAY / length) ** 2
    assert sway_stiffness(model_of(braced)) - sway_stiffness(model_of(bare)) == pytest.approx(
        expected, rel=1e-3)


def test_stiff_ends_shorten_the_columns() -> None:
    deep = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=1e4, bending_z=1e4, torsion=1e-9, depth=0.8))
    own = building(slender(2e-3), deep, rules=(ud.MemberRule(columns="all", stiff_ends=0.5),))
    clear = HEIGHT - 0.5 * 0.4  # at the foot there is no beam
    # The column above its foot, clamped at both ends of its clear height.
    for direction in "XY":
        assert sway_stiffness(model_of(own), direction) == pytest.approx(
            4 * 12 * E * 2e-3 / clear**3, rel=1e-3)


def test_stiff_ends_of_beams_follow_the_columns() -> None:
    """Half the size of the column along the beam, also of turned columns."""
    column = ud.CrossSection(rectangle="600 x 300 mm", material="C30/37")
    aside = 0.15 / np.sin(np.radians(30)), 0.15 / np.cos(np.radians(30))  # the nearer face
    for turned, sizes in (("X", (0.3, 0.15)), ("Y", (0.15, 0.3)), ("30 deg", aside)):
        frame = building(column, slender(2e-3), rules=(
            ud.MemberRule(beams="all", stiff_ends=1.0),
            ud.MemberRule(columns="all", turned=turned))).frame
        assert frame is not None
        for name, size in zip(("beam A 1-2 at L1", "beam 1 A-B at L1"), sizes, strict=True):
            e = next(m for m in frame.members if m.name == name).elements[0]
            assert frame.stiff[e] == pytest.approx([size, size])


def test_patterns_of_braces() -> None:
    """Rising from the foot at the first axis; V from the middle below, chevron to that above."""
    ways = {"rising": [((0, 0), (BAY, HEIGHT))], "falling": [((BAY, 0), (0, HEIGHT))],
            "X": [((0, 0), (BAY, HEIGHT)), ((BAY, 0), (0, HEIGHT))],
            "V": [((BAY / 2, 0), (0, HEIGHT)), ((BAY / 2, 0), (BAY, HEIGHT))],
            "chevron": [((0, 0), (BAY / 2, HEIGHT)), ((BAY, 0), (BAY / 2, HEIGHT))]}
    for pattern, expected in ways.items():
        frame = building(slender(2e-3), slender(2e-3), rules=(ud.MemberRule(
            braces="on A", section="beam", pattern=pattern),)).frame  # type: ignore[arg-type]
        assert frame is not None
        found = [((m.start[0], m.start[2]), (m.end[0], m.end[2])) for m in frame.members
                 if m.kind == "brace"]
        assert found == [(pytest.approx(a), pytest.approx(b)) for a, b in expected]


def test_moments_are_drawn_on_the_side_in_tension() -> None:
    """Pushed to the right, a column is in tension at the left of its foot, a beam below its left
    end and above its right one."""
    from undatum.report.diagrams import forces_on_axis

    results = ud.analyze(title="frame", standard="asce7-16", results_in="kN and m", site=SITE,
                         system=SYSTEM, building=building(slender(2e-3), slender(3e-3)))
    for axis, direction in (("A", "X"), ("1", "Y")):
        one = next(s for s in results.sets_for_strength
                   if s.direction == direction and s.method == "static")
        found, own, at = forces_on_axis(results, axis, "moment", one.name)
        drawn = {m.name: v[[0, -1]] for m, v in
                 zip(own, found.high[0].reshape(-1, len(at)), strict=True)}
        foot, head = drawn["column A1 at L1"]
        left, right = drawn[results.members(f"beams on {axis}")[0].name]
        assert foot > 0 > head
        assert left < 0 < right


def test_springs_stand_between_hinge_and_clamp() -> None:
    """A cantilever column on a spring: 1/K = h^3 / 3 E I + h^2 / k."""
    spring, inertia = 4e7, 2e-3
    own = building(slender(inertia), slender(1e-9), supports=(
        ud.Support(at="all", hold="pinned", rotation_x=spring, rotation_y=spring),))
    expected = 4 / (HEIGHT**3 / (3 * E * inertia) + HEIGHT**2 / spring)
    assert sway_stiffness(model_of(own)) == pytest.approx(expected, rel=1e-4)


def test_a_stiff_frame_rocks_on_springs() -> None:
    """Two portals on pairs of springs k, b apart: K = k b^2 / (2 h^2) each, along Y with its b."""
    k, solid = 3e7, slender(1e2, torsion=1e2, other=1e2)
    model = model_of(building(solid, solid, supports=(
        ud.Support(at="all", hold="pinned", along_z=k),)))
    for d, apart in (("X", BAY), ("Y", 5.0)):
        assert sway_stiffness(model, d) == pytest.approx(k * apart**2 / HEIGHT**2, rel=1e-3)


def test_a_foot_that_slides_is_a_spring_in_a_row() -> None:
    """1/K = 1 / (4 k_foot) + 1 / K_frame, along X and, another spring, along Y."""
    columns, beams = slender(2e-3), slender(1e4, other=1e4)
    fixed = model_of(building(columns, beams))
    found = model_of(building(columns, beams, supports=(
        ud.Support(at="all", along_x=2e7, along_y=5e7),)))
    for d, k in (("X", 2e7), ("Y", 5e7)):
        assert 1 / sway_stiffness(found, d) == pytest.approx(
            1 / sway_stiffness(fixed, d) + 1 / (4 * k), rel=1e-4)


def test_feet_on_springs_settle_by_what_they_carry_and_hold_the_base_shear() -> None:
    """Reaction over spring under every load case; reactions add up to the base shear."""
    k = 4e7
    r = ud.run(project_with(building(slender(2e-3), slender(2e-3), supports=(
        ud.Support(at="all", along_z=k), ud.Support(at="B2", hold="pinned", along_z=2 * k)))))
    assert r.model.framed is not None
    frame = r.model.framed.frame
    soft = frame.springs[:, 2]
    assert sorted(soft) == [k, k, k, 2 * k]
    for _, case in r.load_cases().on_members:
        down = case.displacement.reshape(-1, 6)[frame.supports, 2]
        assert case.reactions[:, 2] == pytest.approx(-soft * down, rel=1e-8)
        assert case.reactions[:, 2].sum() == pytest.approx(6e3 * BAY * 5.0, rel=1e-9)
        assert case.residual < 1e-9
    for s in r.static_sets:
        feet = s.of(reactions(r.model)).reshape(-1, 6)
        along = 0 if s.direction == "X" else 1
        assert feet[:, along].sum() == pytest.approx(-s.forces.sum(), rel=1e-9)
        assert feet[:, 2].sum() == pytest.approx(0.0, abs=1e-6 * s.forces.sum())


def project_with(one: ud.Building) -> ud.Project:
    return ud.make_project(title="frame", standard="asce7-16", results_in="kN and m", site=SITE,
                         system=SYSTEM, building=one)


def test_columns_twist_the_floor_by_their_distance() -> None:
    """Torsional stiffness about the middle: story stiffnesses times their arms squared, and G J."""
    j, own = 3e-3, building(slender(2e-3, torsion=3e-3), slender(1e4, other=1e4))
    model = model_of(own)
    turn = model.stiffness.toarray()[2, 2]
    k = 12 * E * 2e-3 / HEIGHT**3
    expected = 4 * (k * ((BAY / 2) ** 2 + 2.5**2) + E / 2 / (1 + NU) * j / HEIGHT)
    assert turn == pytest.approx(expected, rel=1e-3)


def test_kept_shares_reduce_what_they_name() -> None:
    whole = building(slender(2e-3), slender(1e4, other=1e4))
    cracked = building(slender(2e-3), slender(1e4, other=1e4), rules=(
        ud.MemberRule(columns="all", kept=ud.KeptShares(bending_y=0.35, reason="cracked")),))
    # y of a column is X: bending about y is the sway along Y
    assert sway_stiffness(model_of(cracked), "X") == pytest.approx(sway_stiffness(model_of(whole)))
    assert sway_stiffness(model_of(cracked), "Y") == pytest.approx(
        0.35 * sway_stiffness(model_of(whole), "Y"), rel=1e-3)


def test_turned_columns_exchange_their_axes() -> None:
    plain = building(slender(2e-3, other=5e-3), slender(1e4, other=1e4))
    turned = building(slender(2e-3, other=5e-3), slender(1e4, other=1e4),
                      rules=(ud.MemberRule(columns="all", turned="Y"),))
    assert sway_stiffness(model_of(plain), "Y") / sway_stiffness(model_of(plain), "X") \
        == pytest.approx(2.5, rel=1e-3)
    assert sway_stiffness(model_of(turned), "X") / sway_stiffness(model_of(turned), "Y") \
        == pytest.approx(2.5, rel=1e-3)


# -- a second method -------------------------------------------------------------------------------


def by_loops(frame: Frame, floors: int) -> Floats:
    """(6 M, 6 M) stiffness assembled member by member from flexibilities, supports held."""
    n = 6 * len(frame.points)
    k = np.zeros((n, n))
    for e, (a, b) in enumerate(frame.ends):
        p, (modulus, g, _) = frame.sections[frame.section[e]], frame.materials[frame.section[e]]
        length = float(np.linalg.norm(frame.points[b] - frame.points[a]))
        # Clamped at the start: flexibility of the end under six unit actions, by integration.
        f = np.zeros((6, 6))
        f[0, 0], f[3, 3] = length / (modulus * p.area), length / (g * p.torsion)
        for v, r, i, shear, s in ((1, 5, p.bending_z, p.shear_y, 1), (2, 4, p.bending_y,
                                                                      p.shear_z, -1)):
            f[v, v] = length**3 / (3 * modulus * i) + length / (g * shear)
            f[r, r] = length / (modulus * i)
            f[v, r] = f[r, v] = s * length**2 / (2 * modulus * i)
        at_end = np.linalg.inv(f)
        carry = np.eye(6)  # actions at the start that balance those at the end
        carry[4, 2], carry[5, 1] = -length, length
        whole = np.block([[carry @ at_end @ carry.T, -carry @ at_end],
                          [-at_end @ carry.T, at_end]])
        turn = np.kron(np.eye(4), frame.axes[e])
        where = [*range(6 * a, 6 * a + 6), *range(6 * b, 6 * b + 6)]
        k[np.ix_(where, where)] += turn.T @ whole @ turn
    held = (6 * frame.supports[:, None] + np.arange(6)).ravel()
    k[held, held] += 1e22
    return k


def real(**more: Any) -> ud.Building:
    """Three stories with real sections, a set-back, a transfer column, braces and a skew beam."""
    return ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..4", spacing=[5, 6, 4]),
                     across_y=ud.AxisFamily(names="A..C", spacing=[5, 7])),
        stories=ud.Stories(heights={"L1": 4.5, "L2..L3": 3.5}, floor="all",
                           outline={"L1..L2": "low", "L3": "high"}),
        outlines={"low": ud.Stretch(between=("A1", "C4"), beyond=0.5),
                  "high": ud.Stretch(between=("A1", "C3"))},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=6e3)]},
        sections={
            "C": ud.CrossSection(rectangle="500 x 600 mm", material="C30/37"),
            "B": ud.CrossSection(rectangle="300 x 600 mm", material="C30/37"),
            "D": ud.CrossSection(hollow_circle="219 x 8 mm", material="steel EN")},
        members=(ud.MemberRule(columns="all", section="C"),
                 ud.MemberRule(beams="all", section={"L1": "B", "L2..L3": "B"}),
                 ud.MemberRule(columns="B2 at L1", remove=True, transfer=True),
                 ud.MemberRule(beams="at L2", line=("A1", "B2"), section="B"),
                 ud.MemberRule(braces="on A between 2 and 3", section="D", pattern="chevron",
                               hinged="no")), **more)


def test_condensed_frame_is_the_whole_frame() -> None:
    """Against all freedoms with floors tied by stiff penalties, and loads on a floor."""
    model = model_of(real())
    framed = model.framed
    assert isinstance(framed, FrameModel)
    frame, d = framed.frame, model.diaphragms
    k = by_loops(frame, model.n)
    moves = np.random.default_rng(3).standard_normal(3 * model.n) * 1e-3
    # Floors moved as wanted, everything else free: solve with the floors' motion prescribed.
    prescribed, values = [], []
    for node in np.flatnonzero(framed.tied):
        i = frame.floors[node]
        arm = frame.points[node, :2] - d.centers[i]
        x, y, turn = moves[d.freedoms[i]]
        prescribed += [6 * node, 6 * node + 1, 6 * node + 5]
        values += [x - arm[1] * turn, y + arm[0] * turn, turn]
    free = np.setdiff1d(np.arange(len(k)), prescribed)
    u = np.zeros(len(k))
    u[prescribed] = values
    u[free] = np.linalg.solve(k[np.ix_(free, free)], -k[np.ix_(free, prescribed)] @ values)
    assert framed.follow @ moves == pytest.approx(u, rel=1e-7, abs=1e-10)
    energy = u @ k @ u
    assert moves @ model.stiffness.toarray() @ moves == pytest.approx(energy, rel=1e-8)


def test_mixture_of_line_and_frame_adds_up() -> None:
    """A line beside the frame adds its own stiffness, and moves no mass."""
    line = ud.Line(name="wall", at=(10, 5), direction="Y", bottom="Ground", top="L3",
                   stiffness=[2e8, 3e8, 4e8])
    plain, mixed = model_of(real()), model_of(real(lines=[line]))
    own = mixed.stiffness.toarray() - plain.stiffness.toarray()
    assert mixed.mass.toarray() == pytest.approx(plain.mass.toarray())
    y = mixed.diaphragms.freedoms[:, 1]
    expected = np.array([[2.0, -2.0, 0.0], [-2.0, 5.0, -3.0], [0.0, -3.0, 7.0]]) * 1e8
    assert own[np.ix_(y, y)] == pytest.approx(expected, rel=1e-6, abs=1.0)


# -- self-weight -----------------------------------------------------------------------------------


def test_self_weight_by_hand() -> None:
    """One story, four columns and four beams: half of the columns hangs on the floor."""
    one = building(ud.CrossSection(rectangle="400 x 400 mm", material="C30/37"),
                   ud.CrossSection(rectangle="300 x 600 mm", material="C30/37"))
    results = ud.analyze(title="weight", standard="asce7-16", results_in="kN and m", site=SITE,
                         system=SYSTEM, building=one)
    slab = BAY * 5 * 6e3
    beams = 0.3 * 0.6 * 25e3 * 2 * (BAY + 5)
    columns = 4 * 0.16 * 25e3 * HEIGHT / 2
    assert results.weights.total == pytest.approx(slab + beams + columns)
    inertia = results.weights.inertia[0] * 9.80665
    hand = slab * (BAY**2 + 25) / 12 + columns * ((BAY / 2) ** 2 + 2.5**2) + 0.3 * 0.6 * 25e3 * (
        2 * BAY * (BAY**2 / 12 + 2.5**2) + 2 * 5 * (25 / 12 + (BAY / 2) ** 2))
    assert inertia == pytest.approx(hand)
    without = one.model_copy(update={"self_weight": False})
    assert ud.analyze(title="weight", standard="asce7-16", results_in="kN and m", site=SITE,
                      system=SYSTEM,
                      building=without).weights.total == pytest.approx(slab)


def test_stiff_ends_turn_with_their_nodes() -> None:
    """An element moved as a rigid body carries nothing, whatever its ends; K stays symmetric."""
    from undatum.mechanics.elements import elements_of

    column = ud.CrossSection(rectangle="600 x 300 mm", material="C30/37")
    frame = building(column, column, rules=(
        ud.MemberRule(beams="all", stiff_ends=0.8), ud.MemberRule(columns="all", stiff_ends=0.5),
        ud.MemberRule(beams="on A", hinged="end"))).frame
    assert frame is not None
    for k, length in zip(elements_of(frame)[0].stiffness, frame.lengths, strict=True):
        rigid = np.zeros((12, 6))
        rigid[:6] = rigid[6:] = np.eye(6)
        rigid[7, 5], rigid[8, 4] = length, -length  # the end swings about the start
        assert np.abs(k @ rigid).max() < 1e-9 * np.abs(k).max() * length
        assert k == pytest.approx(k.T, abs=1e-9 * np.abs(k).max())


# -- planes and vibrations -------------------------------------------------------------------------


def test_independent_planes_add_up() -> None:
    """Frames in parallel planes, joined by beams that do nothing but follow: the floors sway as
    under the sum of the planes, each assembled by itself and condensed."""
    square = ud.CrossSection(rectangle="400 x 500 mm", material="C30/37")
    weak = slender(1e-12)

    def stiffness(rows: tuple[float, ...], *more: ud.MemberRule) -> Floats:
        one = building(square, square, stories=3, x=(6.0, 5.0), y=rows)
        one = one.model_copy(update={
            "sections": {**one.sections, "loose": weak},
            "members": (*one.members,
                        ud.MemberRule(beams="on 1, 2, 3", section="loose", hinged="both"), *more)})
        model = model_of(one)
        x = model.diaphragms.freedoms[:, 0]
        return np.asarray(model.stiffness.toarray()[np.ix_(x, x)])

    soft = ud.MemberRule(beams="on B", hinged="start")
    two = stiffness((5.0,))  # planes A and B alike
    mixed = stiffness((5.0,), soft)  # plane B softened
    three = stiffness((5.0, 4.0), soft)  # A, soft B, C
    assert three == pytest.approx(mixed + two / 2, rel=1e-6, abs=1e-6 * np.abs(two).max())


@pytest.mark.parametrize("count", [2, 4, 8, 16])
def test_tall_cantilever_vibrates_like_a_beam(count: int) -> None:
    """omega = 1.8751^2 sqrt(E I / m) / L^2 for a tube of ``count`` lumps, with the error of the
    lumps falling with the square of their number."""
    inertia, q, total = 2e-3, 6e3, 40.0
    one = building(slender(inertia), slender(1e-12), stories=count, rules=(
        ud.MemberRule(beams="all", hinged="both"),))
    height = total / count
    levels = [x.model_copy(update={"height": height, "floor": None, "loads": (ud.Load(
        name="slab", kind="dead", per_area=q * (0.5 if i == 0 else 1.0) / count),)})
        if i < count else x for i, x in enumerate(one.levels)]
    model_ = ud.calculate(ud.make_project(
        title="beam", standard="asce7-16", results_in="kN and m", site=SITE, system=SYSTEM,
        building=one.model_copy(update={"levels": tuple(levels)})))
    mass = q * BAY * 5.0 / 9.80665 / total  # per height
    expected = 1.8751041**2 * np.sqrt(4 * E * inertia / mass) / total**2
    found = 2 * np.pi / model_.computed["X"]
    error = abs(found / expected - 1)
    assert error < 0.9 / count**2
    if count == 16:
        assert error < 2e-3
