"""Two-stage static procedure: each portion against the same portion described by itself."""

from __future__ import annotations

import pickle
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, Command, shear_building
from undatum.finding import Finding, Severity

K, M = 4e7, 2e5
UBC = {"zone": "3", "soil": "SB", "occupancy_category": "standard"}
ROOMS: dict[str, dict[str, Any]] = {
    "asce7-05": {"site": SITE, "rows": ("A.13", "B.5")},
    "asce7-16": {"site": SITE, "rows": ("A.15", "B.4")},
    "ubc97": {"site": UBC, "rows": ("3.1a", "1.2a")}}


def job(stiffness: list[float], mass: list[float], standard: str = "asce7-16",
        two_stage: dict[str, Any] | None = None, row: str = "", **more: Any) -> ud.Job:
    room = ROOMS[standard]
    extra = {"regular": False} if standard == "ubc97" else {}
    given: dict[str, Any] = {
        "title": "t", "standard": standard, "site": room["site"], "results_in": "kN and m",
        "building": more.pop("building", None) or shear_building(stiffness, mass),
        "system": {d: {"row": row or room["rows"][0], **extra, **more.pop(f"of_{d}", {})}
                   for d in "XY"}, **more}
    if two_stage is not None:
        lower = {"row": room["rows"][1], **extra}
        given["two_stage"] = {"level": "L1", "X": lower, "Y": lower, **two_stage}
    return ud.calculate(ud.make_project(**given))


def found(of: ud.Job, check: str) -> list[Finding]:
    return [f for f in of.findings if f.check == check]


@pytest.mark.parametrize("standard", ROOMS)
def test_each_portion_is_that_of_a_building_by_itself(standard: str) -> None:
    """Forces, periods and shears of three stories on a stiff one, and of each described alone."""
    whole = job([K, K, K, 20 * K], [M, M, M, 2 * M], standard, {})
    upper = job([K] * 3, [M] * 3, standard)
    lower = job([20 * K], [2 * M], standard, row=ROOMS[standard]["rows"][1],
                of_X={"computed_period": False}, of_Y={"computed_period": False})
    assert whole.two_stages is not None
    for one in whole.two_stages.found:
        d = one.direction
        assert one.upper.forces[:3] == pytest.approx(upper.strength_statics[d].forces)
        assert one.upper.forces[3] == 0
        assert one.lower.forces == pytest.approx([0, 0, 0, *lower.strength_statics[d].forces])
        assert one.periods == pytest.approx((whole.computed[d], upper.computed[d]))
        assert one.stiffness == pytest.approx((20, 20))
        up, low = (x.laterals[d] for x in (upper, lower))
        ratio = max(1.0, (up.reduction / up.redundancy)  # type: ignore[operator]
                    / (low.reduction / low.redundancy))  # type: ignore[operator]
        assert one.ratio == pytest.approx(ratio)
        sets = {s.name: s for s in whole.own_sets}
        for name, base in ((f"upper portion {d}", upper.strength_statics[d].forces.sum()),
                           (f"lower portion {d}", ratio * upper.strength_statics[d].forces.sum()
                            + lower.strength_statics[d].forces.sum())):
            own = [s for key, s in sets.items() if key.startswith(name)]
            assert len(own) in (1, 2)
            for s in own:
                shear = s.of(whole.model.at_base("story shear", component=d))
                assert abs(float(shear[0])) == pytest.approx(base)
    assert {f.severity for f in found(whole, "two-stage procedure")} == {Severity.OK}
    assert not found(upper, "two-stage procedure")


def test_the_factor_is_never_below_one_and_redundancy_is_that_of_each() -> None:
    less = job([K] * 3 + [20 * K], [M] * 4, two_stage={d: {"row": "C.1"} for d in "XY"})
    assert [one.ratio for one in less.two_stages.found] == [1, 1]  # type: ignore[union-attr]
    own = {"redundancy": 1.0, "redundancy_reason": "made up"}
    one = job([K] * 3 + [20 * K], [M] * 4, two_stage={}, of_X=own, of_Y=own)
    same = job([K] * 3 + [20 * K], [M] * 4, two_stage={
        d: {"row": "B.4", **own} for d in "XY"}, of_X=own, of_Y=own)
    usual = 6.5 / 6.0
    assert one.two_stages.found[0].ratio == pytest.approx(1.3 * usual)  # type: ignore[union-attr]
    assert same.two_stages.found[0].ratio == pytest.approx(usual)  # type: ignore[union-attr]
    section = one.results.section("two stages", "X")
    assert (section["R_u"].value, section["rho_l"].value) == (6.5, 1.3)


@pytest.mark.parametrize(("stiffness", "standard", "severity"), [
    ([K, K, K, 10.01 * K], "asce7-16", Severity.OK),
    ([K, K, K, 9.99 * K], "asce7-16", Severity.EXCEEDED),
    ([K, K, 1.2 * K, 11 * K], "asce7-16", Severity.WARNING),  # by the means, not by the worst
    ([K, K, 1.2 * K, 11 * K], "ubc97", Severity.OK),
    ([K, K, 1.2 * K, 10.6 * K], "ubc97", Severity.EXCEEDED)])
def test_stiffness_ten_times(stiffness: list[float], standard: str, severity: Severity) -> None:
    of = job(stiffness, [M, M, M, 0.1 * M], standard, {})
    assert {f.severity for f in found(of, "two-stage procedure")} == {severity}


def test_period_of_the_whole() -> None:
    """A heavy lower floor on ten times the stiffness slows the whole; a light one does not."""
    told = []
    for mass in (0.1 * M, 20 * M, 300 * M):
        of = job([K, 12 * K], [M, mass], two_stage={})
        whole, alone = of.two_stages.found[0].periods  # type: ignore[union-attr]
        assert alone == pytest.approx(2 * np.pi * np.sqrt(M / K))
        # by hand: both springs in a row, the quadratic of two masses
        a, b, c = M * mass, -(K * (M + mass) + 12 * K * M), 12 * K * K
        first = (-b - np.sqrt(b * b - 4 * a * c)) / (2 * a)
        assert whole == pytest.approx(2 * np.pi / np.sqrt(first))
        told.append((whole / alone <= 1.1, found(of, "two-stage procedure")[0].severity))
    assert told == [(True, Severity.OK), (False, Severity.EXCEEDED), (False, Severity.EXCEEDED)]


def test_what_can_not_be_parted_is_said() -> None:
    def wrong(text: str, **more: Any) -> None:
        with pytest.raises(ud.InputError, match=text):
            job([K, K, 20 * K], [M] * 3, **more)

    wrong(r"two_stage\.level: 'L4' has no stories above", two_stage={"level": "L4"})
    wrong(r"'L3' has no stories above it and below it", two_stage={"level": "L3"})
    wrong(r"two_stage\.X: is missing", two_stage={"X": None})
    wrong(r"two_stage\.Y\.row: 'B\.99' is not a row", two_stage={"Y": {"row": "B.99"}})
    calm = ud.make_project(
        title="t", standard="asce7-16", building=shear_building([K] * 3, [M] * 3),
        site={**SITE, "ss": 0.1, "s1": 0.03}, system={d: {"row": "A.15"} for d in "XY"},
        two_stage={"level": "L1", "X": {"row": "B.4"}, "Y": {"row": "B.4"}})
    with pytest.raises(ud.InputError, match="category A is exempt"):
        ud.run(calm)
    with pytest.raises(ud.InputError, match="not known to have a two-stage procedure"):
        ud.make_project(
            title="t", standard="is1893-2016", building=shear_building([K] * 3, [M] * 3),
            site={"zone": "IV", "soil": "II", "importance_factor": "1.0"},
            system={d: {"row": "RC SMRF", "regular": False} for d in "XY"},
            two_stage={"level": "L1", **{d: {"row": "RC SMRF", "regular": False} for d in "XY"}})


def test_a_file_with_two_stages_runs_and_comes_back(tmp_path: Path, command: Command) -> None:
    b = shear_building([K] * 3 + [20 * K], [M] * 4)
    of = job([], [], two_stage={}, building=b)
    path = tmp_path / "podium.toml"
    text = (Path(ud.__file__).parent / "project/starters/archive.toml").read_text("utf-8")
    stages = '[two_stage]\nlevel = "L2"\nX.row = "B.4"\nY.row = "B.4"\n\n[analysis]'
    path.write_text(text.replace("[analysis]", stages, 1), "utf-8")
    assert command(["run", str(path), "--out", str(tmp_path / "out")]) == 1
    found_again = ud.load(tmp_path / "out")
    table = found_again.to_frame("two_stage")
    assert set(table["portion"]) == {"upper", "lower"}
    assert "forces of two stages" in {f.check for f in found_again.findings}
    assert "Two-stage procedure" in (tmp_path / "out" / "record.html").read_text("utf-8")
    read = of.results.read("lines", "", "lower portion X*")
    assert np.abs(read.values).max() > 0


def test_a_project_with_two_stages_is_pickled_and_varied() -> None:
    one = job([K] * 3 + [20 * K], [M] * 4, two_stage={})
    again = pickle.loads(pickle.dumps(one.project))
    assert again == one.project
    assert again.two_stage.X.row == "B.4"
    other = one.varied({"two_stage.X.row": "C.1"})
    assert other.two_stages.found[0].ratio == 1  # type: ignore[union-attr]
    assert other.two_stages.found[1].ratio > 1  # type: ignore[union-attr]
