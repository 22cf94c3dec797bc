"""Choices of stiffness: other shares for drift, shifted axes, deformations left out; which modes
count, and damping of chosen members."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import ROOMS, frame_of, shear_building
from test_frames import BAY, HEIGHT, E, building, model_of, slender, sway_stiffness
from test_gravity import SHORT
from undatum.analysis.combine import combiner
from undatum.analysis.modes import _without_light
from undatum.mechanics.elements import elements_of
from undatum.mechanics.model import Model

HALF = ud.KeptShares(bending_y=0.5, bending_z=0.5, reason="hand sheet 2")
THIRD = ud.KeptShares(bending_y=0.3, bending_z=0.35, torsion=0.1, reason="hand sheet 3")


def frame(kept: Any = None, for_drift: Any = None, kind: str = "columns", **more: Any
          ) -> ud.Building:
    rule: dict[str, Any] = {kind: "all", "kept": kept, "kept_for_drift": for_drift}
    real = ud.CrossSection(material="stuff", rectangle=(0.4, 0.5))
    return building(real, real, stories=3, rules=(ud.MemberRule(**rule),), x=(6.0, 6.0), **more)


def roof_sway(model: Model) -> float:
    """Displacement along X of the highest floor under a unit force there."""
    load = model.loads("X", np.eye(model.n)[0])
    return float(np.linalg.solve(model.stiffness.toarray(), load)[model.diaphragms.freedoms[0, 0]])


def judged(one: ud.Building, key: str = "asce7-16", **more: Any) -> ud.Results:
    from conftest import OWN

    site, system, *_ = ROOMS[key]
    return ud.analyze(title="frame", standard=key, results_in="kN and m", site=site, folder=OWN,
                      system={"X": system, "Y": system}, building=one, **more)


# -- two stiffnesses in one run --------------------------------------------------------------------


@pytest.mark.parametrize("key", ["asce7-16", "en1998", "is1893-2016", "ubc97"])
@pytest.mark.parametrize("how", ["by factor", "by story weight", "by axial force"])
def test_one_run_holds_what_two_runs_do(key: str, how: str) -> None:
    """Forces are those of the run with the shares for strength, drift that of those for drift."""
    more: dict[str, Any] = {"analysis": {"second_order": how}}
    both = judged(frame(HALF, THIRD), key, **more)
    strong, soft = judged(frame(HALF), key, **more), judged(frame(THIRD), key, **more)
    for r in (strong, soft):
        assert r.drift_modes is None
    assert both.drift_modes is not None
    assert both.modes.periods == pytest.approx(strong.modes.periods, rel=1e-9)
    assert both.drift_modes.periods == pytest.approx(soft.modes.periods, rel=1e-9)
    for name in ("shears_by_story", "reactions", "static_x_strength", "modal_base_shears"):
        ours, theirs = both.to_frame(name), strong.to_frame(name)
        for c in theirs.select_dtypes("number"):
            assert ours[c].to_numpy() == pytest.approx(
                theirs[c].to_numpy(), rel=1e-8, abs=1e-8, nan_ok=True)
    drift = next(iter(both.drifts.values()))
    own = next(iter(soft.drifts.values()))
    assert drift.elastic == pytest.approx(own.elastic, rel=1e-8, abs=1e-12, nan_ok=True)
    assert drift.design == pytest.approx(own.design, rel=1e-8, abs=1e-12, nan_ok=True)
    assert not np.allclose(drift.elastic, next(iter(strong.drifts.values())).elastic)
    for d in ("X", "Y"):
        scale = [next(s.modal_base_shear for s in r.scaling
                      if s.direction == d and s.state.role == role)
                 for r, role in ((both, "forces"), (strong, "forces"), (both, "drift"),
                                 (soft, "drift"))]
        assert scale[0] == pytest.approx(scale[1])
        assert scale[2] == pytest.approx(scale[3])
    assert both.to_frame("modal_drift")["period (s)"].dropna().to_numpy() == pytest.approx(
        soft.to_frame("modal_drift")["period (s)"].dropna().to_numpy())
    said = next(f for f in both.findings if f.check == "stiffness for drift")
    assert "hand sheet 3" in said.text
    assert f"{soft.modes.periods[soft.modes.governing(0)]:.3f} s in X" in said.text


def test_walls_take_shares_for_drift() -> None:
    def with_wall(**shares: Any) -> ud.Building:
        base = shear_building([2e8] * 3, [2e5] * 3)
        wall = ud.Line(name="wall", at=(5, 3), direction="X", bottom="Ground", top="L3",
                       cantilever=ud.Cantilever(modulus=30e9, length=3.0, thickness=0.25, **shares))
        return base.model_copy(update={"lines": (*base.lines, wall)})

    both = judged(with_wall(flexural_share=0.7, flexural_share_for_drift=0.4,
                            shear_share_for_drift=0.2))
    soft = judged(with_wall(flexural_share=0.4, shear_share=0.2))
    strong = judged(with_wall(flexural_share=0.7))
    assert both.drift.elastic == pytest.approx(soft.drift.elastic, rel=1e-9, nan_ok=True)
    assert both.modes.periods == pytest.approx(strong.modes.periods, rel=1e-12)


def test_a_later_rule_changes_the_shares_it_names_alone() -> None:
    """Shares for drift stay when a later rule gives others for strength, and the other way
    round."""
    rules = (ud.MemberRule(columns="all", kept=HALF, kept_for_drift=THIRD),
             ud.MemberRule(columns="on 1", kept=ud.KeptShares(bending_y=0.9, reason="post")))
    real = ud.CrossSection(material="stuff", rectangle=(0.4, 0.5))
    made = building(real, real, rules=rules).frame
    assert made is not None
    column = made.kinds == "column"
    first = column & (made.points[made.ends[:, 0], 0] == 0)
    assert made.kept[first][:, :2] == pytest.approx(np.tile([0.9, 1.0], (first.sum(), 1)))
    assert made.kept_for_drift[column][:, :3] == pytest.approx(
        np.tile([0.3, 0.35, 0.1], (column.sum(), 1)))
    assert made.kept[~column] == pytest.approx(1.0)
    assert made.kept_for_drift[~column] == pytest.approx(1.0)


def test_by_the_standard_for_drift_alone() -> None:
    """EN 1998-1 4.3.1(7): half of the stiffness; the others name none and refuse."""
    concrete = ud.CrossSection(material="C30/37", rectangle=(0.4, 0.5))
    one = building(concrete, concrete, stories=2,
                   rules=(ud.MemberRule(columns="all", kept_for_drift="by standard"),))
    found = judged(one, "en1998")
    half = judged(building(concrete, concrete, stories=2, rules=(ud.MemberRule(
        columns="all", kept=ud.KeptShares(bending_y=0.5, bending_z=0.5, shear=0.5,
                                          reason="4.3.1(7)")),)), "en1998")
    assert found.drift_modes is not None
    assert found.drift_modes.periods[0] == pytest.approx(half.modes.periods[0], rel=1e-6)
    with pytest.raises(ud.InputError, match="kept_for_drift"):
        judged(one, "asce7-16")


def test_two_stiffnesses_are_kept_and_come_back(tmp_path: Any) -> None:
    both = judged(frame(HALF, THIRD))
    both.save(tmp_path / "out")
    back = ud.load(tmp_path / "out")
    assert back == both
    assert back.table_names == both.table_names
    assert "modes_for_drift" in back.table_names


def test_masses_are_moved_in_the_model_of_each_purpose() -> None:
    more: dict[str, Any] = {"analysis": {"accidental_torsion": "always",
                                         "moved_masses": "in place"}}
    both, soft = (judged(frame(*kept), **more) for kept in ((HALF, THIRD), (THIRD,)))
    strong = judged(frame(HALF), **more)
    for one in both.spectrum_sets:
        of = strong if one.state == both.strength else soft
        same = next(s for s in of.spectrum_sets if s.name == one.name)
        assert one.sign == same.sign != 0
        assert one.periods == pytest.approx(same.periods, rel=1e-9)


# -- shifted axes ----------------------------------------------------------------------------------


@pytest.mark.parametrize("shift", [(0.0, -0.4), (0.25, 0.0), (0.2, -0.3)])
def test_a_shifted_beam_by_hand(shift: tuple[float, float]) -> None:
    """Turning its ends stretches the beam: EA z^2 / L beside 4 EI / L, and less carried over."""
    real = ud.CrossSection(material="stuff", rectangle=(0.3, 0.5))
    one = building(real, real, rules=(
        ud.MemberRule(beams="all", shifted=shift, shear_deformation=False),)).frame
    assert one is not None
    e = int(np.flatnonzero(one.kinds == "beam")[0])
    k = elements_of(one)[0].stiffness[e]
    length, area = one.lengths[e], 0.15
    about_y, about_z = 0.3 * 0.5**3 / 12, 0.5 * 0.3**3 / 12
    y, z = shift
    for turn, inertia, arm in ((4, about_y, z), (5, about_z, -y)):
        assert k[turn, turn] == pytest.approx(E * (4 * inertia + area * arm**2) / length, rel=1e-9)
        assert k[turn, turn + 6] == pytest.approx(
            E * (2 * inertia - area * arm**2) / length, rel=1e-9)
    # turning the start by theta moves the axis there by theta x (0, y, z)
    assert k[0, 4] == pytest.approx(E * area * z / length, rel=1e-9, abs=1e-3)
    assert k[0, 5] == pytest.approx(-E * area * y / length, rel=1e-9, abs=1e-3)
    assert k[1, 3] == pytest.approx(-z * 12 * E * about_z / length**3, rel=1e-9, abs=1e-3)
    assert k[2, 3] == pytest.approx(y * 12 * E * about_y / length**3, rel=1e-9, abs=1e-3)
    rigid = np.zeros((12, 6))  # no forces when the whole moves as a rigid body
    rigid[:6], rigid[6:] = np.eye(6), np.eye(6)
    rigid[7, 5], rigid[8, 4] = length, -length
    assert np.abs(k @ rigid).max() < 1e-9 * np.abs(k).max()


def test_a_shifted_beam_and_one_on_stubs() -> None:
    """The same beam hung under the floor by short members as good as rigid; the columns of the
    other have stiff ends as long."""
    stub, low = ud.CrossSection(material="stuff", rectangle=(8.0, 8.0)), 0.3
    given: dict[str, Any] = {
        "axes": ud.Axes(across_x=ud.AxisFamily(names="1..2", spacing=(BAY,)),
                        across_y=ud.AxisFamily(names="A..B", spacing=(SHORT,))),
        "outlines": {"all": ud.Stretch(between=("A1", "B2"))},
        "materials": {"stuff": ud.Material(modulus=E, poisson=0.25, unit_weight=0.0)},
        "floors": {"all": [ud.Load(name="slab", kind="dead", per_area=6e3, path="columns")]},
        "sections": {"real": ud.CrossSection(material="stuff", rectangle=(0.3, 2 * low)),
                     "stub": stub},
    }

    given["supports"] = (ud.Support(at="on 1", hold="pinned"),)  # so that both ends turn apart

    def hung(shift: float) -> ud.Building:
        return ud.Building(
            stories=ud.Stories(heights={"L1": HEIGHT}, outline="all", floor="all"),
            members=(ud.MemberRule(columns="all", section="real", stiff_ends=1.0),
                     ud.MemberRule(beams="all", section="real", shifted=(0.0, shift))), **given)

    stubs = ud.Building(
        levels=[ud.Level(name="L1", height=low, outline="all", floor="all"),
                ud.Level(name="below", height=HEIGHT - low, outline="all", seismic_mass=False),
                ud.Level(name="base", outline="all")],
        diaphragms={"below": "none"},
        members=(ud.MemberRule(columns="all", section="real"),
                 ud.MemberRule(columns="all at L1", section="stub"),
                 ud.MemberRule(beams="all at below", section="real")), **given)
    shifted = 1 / roof_sway(model_of(hung(-low)))
    assert shifted == pytest.approx(1 / roof_sway(model_of(stubs)), rel=1e-4)
    assert shifted > 1.02 / roof_sway(model_of(hung(0.0)))  # the beams' own length joins in


def test_gravity_on_shifted_members_is_in_balance() -> None:
    real = ud.CrossSection(material="stuff", rectangle=(0.3, 0.5))
    for rule in (ud.MemberRule(beams="all", shifted=(0.0, -0.25)),
                 ud.MemberRule(columns="all", shifted=(0.1, 0.15)),
                 ud.MemberRule(beams="on A", shifted=(0.15, -0.1), stiff_ends=0.5)):
        r = judged(building(real, real, stories=2, rules=(rule,)))
        for _, case in r.load_cases().on_members:
            assert case.residual < 1e-9
            assert case.reactions[:, 2].sum() == pytest.approx(
                2 * BAY * SHORT * 6e3, rel=1e-9)


def test_a_shifted_column_bends_under_its_load() -> None:
    """A load P beside the axis by e, on a column free to sway at the top: M = P e all the way."""
    real = ud.CrossSection(material="stuff", rectangle=(0.4, 0.4))
    e = 0.2
    one = building(real, real, rules=(
        ud.MemberRule(columns="all", shifted=(e, 0.0)), ud.MemberRule(beams="all", hinged="both")),
        x=(BAY,), y=(SHORT,))
    one = one.model_copy(update={"floors": {"all": [
        ud.Load(name="slab", kind="dead", per_area=6e3, path="columns")]}})
    r = judged(one)
    forces = frame_of(r, "forces", "column A1 at L1", "cases", at=(0.0, 0.5, 1.0))
    load = BAY * SHORT / 4 * 6.0  # kN
    assert forces["axial (kN)"].to_numpy() == pytest.approx(-load, rel=1e-6)
    assert np.abs(forces["moment_z (kN·m)"].to_numpy()) == pytest.approx(load * e, rel=1e-6)


# -- deformations left out -------------------------------------------------------------------------


def test_columns_without_shear_deformation() -> None:
    stiff = slender(1e4, other=1e4)
    short = ud.CrossSection(material="stuff", rectangle=(0.8, 0.8))
    inertia, shear = 0.8**4 / 12, 5 / 6 * 0.64 * E / 2.5
    bend = HEIGHT**3 / (12 * E * inertia)
    for on, expected in ((True, 4 / (bend + HEIGHT / shear)), (False, 4 / bend)):
        one = building(short, stiff, rules=(ud.MemberRule(
            columns="all", shear_deformation=on, axial_deformation=False),))
        assert sway_stiffness(model_of(one)) == pytest.approx(expected, rel=2e-4)


def test_columns_without_axial_deformation() -> None:
    """A slender frame overturns by its columns' axial deformation, or does not at all."""
    def roof(area: float, on: bool) -> float:
        thin = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
            area=area, bending_y=4e-3, bending_z=4e-3, torsion=1e-9))
        one = building(thin, slender(1e-12, other=8e-3), stories=10, x=(3.0,), rules=(
            ud.MemberRule(columns="all", axial_deformation=on),))
        return roof_sway(model_of(one))

    assert roof(0.05, False) == pytest.approx(roof(0.2, False), rel=2e-4)
    assert roof(0.05, False) == pytest.approx(roof(1e3, True), rel=1e-3)
    # chord drift of two plane frames, each of two columns 3 m apart under half of the load; the
    # columns themselves take a little of the moment at the foot
    height = 10 * HEIGHT
    for area in (0.05, 0.2):
        extra = 0.5 * 2 * height**3 / (3 * E * area * 3.0**2)
        assert roof(area, True) - roof(area, False) == pytest.approx(extra, rel=0.05)


# -- which modes count, damping of chosen members --------------------------------------------------


def test_light_modes_are_left_out_and_named_by_number() -> None:
    one = shear_building([3e8, 4e8, 5e8, 6e8], [2e5] * 4, lines_x=[(0.0, 0.6), (6.0, 0.4)])
    whole = judged(one, analysis={"mass_target": 0.9999})
    least = 0.06
    found = judged(one, analysis={"mass_target": 0.9999, "least_mass": least})
    stay = [i for i in range(whole.modes.kept) if whole.modes.mass_ratios[i].max() >= least]
    assert 1 < len(stay) < whole.modes.kept
    assert found.modes.kept == len(stay)
    assert found.modes.numbers[: len(stay)] == tuple(i + 1 for i in stay)
    assert found.modes.periods[: len(stay)] == pytest.approx(whole.modes.periods[stay])
    for a, b in zip(found.dynamic, whole.dynamic, strict=True):
        alone = combiner("CQC", 2 * np.pi / b.periods[stay], b.damping[stay])
        assert a.base_shear == pytest.approx(float(alone.peaks(b.modal[stay])))
    assert "0.06" in found.table("modes").note
    assert list(found.to_frame("modes")["mode"])[: len(stay)] == [i + 1 for i in stay]
    assert list(found.to_frame("modal_base_shears")["mode"]) == [str(i + 1) for i in stay]
    target = judged(one, analysis={"mass_target": 0.9}).modes
    sizes = target.mass_ratios.max(axis=1)
    lightest = float(np.sort(sizes)[:2].mean())  # one mode is lighter than this
    few = judged(one, analysis={"mass_target": 0.9, "least_mass": lightest}).modes
    assert few.count == target.count - 1
    assert few.kept == np.count_nonzero(sizes[: target.kept] >= lightest) < few.count
    with pytest.raises(ud.AnalysisError, match="least_mass"):
        _without_light(replace(whole.modes, effective_mass=whole.modes.effective_mass / 10), 0.5)


def test_chosen_members_have_damping_of_their_own() -> None:
    real = ud.CrossSection(material="stuff", rectangle=(0.4, 0.5))
    one = building(real, real, stories=2)

    def ratios(own: dict[str, float], usual: float = 0.05) -> Any:
        return judged(one, analysis={"damping_of": own, "damping": usual}).dynamic[0].damping

    low, high = ratios({"columns": 0.02}), ratios({"beams": 0.02})
    assert low + high == pytest.approx(0.05 + 0.02)  # what is strained is columns or beams
    assert ratios({"columns": 0.02, "beams": 0.03}) == pytest.approx(
        ratios({"columns": 0.02, "stuff": 0.03}))  # a selection goes before a material
    assert ratios({"all": 0.2, "columns": 0.02, "beams": 0.02}) == pytest.approx(0.02)
    assert ratios({"columns on 1": 0.02, "columns": 0.04, "beams": 0.04}) == pytest.approx(0.04)
    with pytest.raises(ud.InputError, match="braces at L9"):
        ratios({"braces at L9": 0.02})
