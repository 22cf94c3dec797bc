"""Laws that hold for every standard, driven through the questions all of them answer."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import SITE, analyze, shear_building
from undatum import standards
from undatum.project.results import Results
from undatum.standards.answers import PURPOSES, StructureFacts
from undatum.standards.contract import Standard

OWN = Path(__file__).parent.parent / "examples" / "owner"
#: By key: the site, the system, and site values from the least to the greatest importance.
ROOMS: dict[str, tuple[dict[str, Any], dict[str, Any], str, tuple[str, ...]]] = {
    **{f"asce7-{e}": ({**SITE, **({"sms": 1.2, "sm1": 0.6} if e == "22" else {})}, {"row": "C.1"},
                      "risk_category", ("I", "II", "III", "IV")) for e in ("05", "10", "16", "22")},
    "en1998": ({"reference_acceleration": 0.25, "ground_type": "C", "importance_class": "II",
                "use": "B"},
               {"row": "concrete frame", "regular_in_plan": True, "regular_in_elevation": True},
               "importance_class", ("I", "II", "III", "IV")),
    **{f"is1893-{e}": ({"zone": "IV", "soil": "II", "importance_factor": "1.0"},
                       {"row": "RC SMRF", "regular": True}, "importance_factor", grades)
       for e, grades in (("2002", ("1.0", "1.5")), ("2016", ("1.0", "1.2", "1.5")))},
    "ubc97": ({"zone": "4", "soil": "SC", "occupancy_category": "standard", "source_type": "B",
               "source_distance": 6e3}, {"row": "3.1a", "regular": True}, "occupancy_category",
              ("standard", "essential")),
    "criteria.toml": ({"importance": "ordinary"}, {"row": "steel frame"}, "importance",
                      ("ordinary", "process")),
}
DIVISOR = {"en1998": "q", "criteria.toml": "R"}


def room(key: str) -> Standard:
    return standards.get(key, OWN)


def shear(
    key: str, purpose: Any, period: float | None, site: dict[str, Any] | None = None,
    system: dict[str, Any] | None = None, height: float = 14.0,
) -> float:
    r, (usual, frame, _, _) = room(key), ROOMS[key]
    a = r.site(r.SiteInput(**{**usual, **(site or {})}))
    facts = StructureFacts(height, 4, (height / 4,) * 4, 1e7, (20.0, 12.0), 240.0)
    lateral = r.system("X", r.SystemInput(**{**frame, **(system or {})}), a, facts)
    return r.base_shear(purpose, a, lateral, r.period(lateral, a, facts), period, facts).base_shear


@pytest.mark.parametrize("key", ROOMS)
def test_spectra_are_continuous_at_their_corners(key: str) -> None:
    """The corner ordinates of IS 1893 are rounded in print: 1.36/0.55 is 2.473, not 2.5."""
    r = room(key)
    a = r.site(r.SiteInput(**ROOMS[key][0]))
    step = 0.012 if key.startswith("is1893") else 1e-6
    vertical = r.vertical_spectrum(a)
    for s in (a.spectrum, *([vertical.spectrum] if vertical else [])):
        for corner in s.corners.values():
            if 0 < corner < min(s.last_period, 4.0 if key == "is1893-2002" else 40.0):
                low, high = (float(s(corner * x)) for x in (1 - 1e-9, 1 + 1e-9))
                assert high == pytest.approx(low, rel=step), (s.name, corner)


@pytest.mark.parametrize("key", ROOMS)
def test_spectra_rise_to_the_plateau_and_fall_from_it(key: str) -> None:
    r = room(key)
    s = r.site(r.SiteInput(**ROOMS[key][0])).spectrum
    t = np.linspace(0.0, 3.99, 800)
    a = np.asarray(s(t))
    top = a.max()
    up, down = a[: np.argmax(a >= top * (1 - 1e-9))], a[np.argmax(a >= top * (1 - 1e-9)):]
    assert np.all(np.diff(up) >= -1e-12 * top)
    assert np.all(np.diff(down) <= 1e-12 * top)
    assert a.min() > 0


@pytest.mark.parametrize("key", ROOMS)
@settings(deadline=None, max_examples=25)
@given(period=st.floats(0.05, 3.9))
def test_base_shear_never_falls_with_importance(key: str, period: float) -> None:
    _, _, name, grades = ROOMS[key]
    for purpose in PURPOSES:
        found = [shear(key, purpose, period, {name: g}) for g in grades]
        assert all(b >= a * (1 - 1e-12) for a, b in itertools.pairwise(found))


@pytest.mark.parametrize("key", ROOMS)
@settings(deadline=None, max_examples=25)
@given(period=st.floats(0.05, 3.9), low=st.floats(1.5, 5.0), more=st.floats(1.0, 3.0))
def test_base_shear_never_rises_with_the_divisor(
    key: str, period: float, low: float, more: float
) -> None:
    """Except on the ramp of EN 1998-1, which pivots on 2/3 at T = 0."""
    def with_divisor(value: float, purpose: Any) -> float:
        own = {"symbol": DIVISOR.get(key, "R"), "value": value, "reason": "law"}
        return shear(key, purpose, period, system={"replace": [own]})

    for purpose in PURPOSES:
        assert with_divisor(low * more, purpose) <= with_divisor(low, purpose) * (1 + 1e-12)


@pytest.mark.parametrize("key", ROOMS)
@settings(deadline=None, max_examples=20)
@given(weights=st.lists(st.floats(1e4, 1e8), min_size=1, max_size=20), period=st.floats(0.1, 3.9))
def test_forces_add_up_to_the_base_shear(key: str, weights: list[float], period: float) -> None:
    r, (usual, frame, _, _) = room(key), ROOMS[key]
    a = r.site(r.SiteInput(**usual))
    n = len(weights)
    facts = StructureFacts(3.5 * n, n, (3.5,) * n, sum(weights), (20.0, 12.0), 240.0)
    lateral = r.system("X", r.SystemInput(**frame), a, facts)
    one = r.base_shear("strength", a, lateral, r.period(lateral, a, facts), period, facts)
    heights = [3.5 * (n - i) for i in range(n)]
    found = r.distribution(lateral, one, weights, heights, heights).forces
    assert found.sum() == pytest.approx(one.base_shear, rel=1e-12)
    assert np.all(found >= 0)


@pytest.fixture(scope="module")
def whole() -> dict[str, Results]:
    from undatum.project.reader import validate
    from undatum.project.runner import run

    found = {}
    for key, (site, system, _, _) in ROOMS.items():
        project, faults = validate({
            "title": "t", "standard": key, "units": "N, m", "site": site,
            "system": {"X": system, "Y": system},
            "building": shear_building([6e7] * 4, [2e5] * 4, lines_y=[(0.0, 0.6), (10.0, 0.4)]),
            "gaps": [{"name": "g", "direction": "X", "distance": 0.5, "neighbor": 0.02}],
        }, OWN)
        assert project is not None, [str(f) for f in faults]
        found[key] = run(project, OWN)
    return found


@pytest.mark.parametrize("key", ROOMS)
def test_every_recorded_formula_gives_its_recorded_value(
    whole: dict[str, Results], key: str
) -> None:
    count = 0
    for section in whole[key].working:
        for step in section:
            if step.formula and "replaced" not in step.branch:
                assert step.evaluate() == pytest.approx(step.value, rel=1e-12), step.symbol
                count += 1
    assert count > 10


@pytest.mark.parametrize("key", ROOMS)
def test_every_line_from_a_standard_names_its_clause(whole: dict[str, Results], key: str) -> None:
    for section in whole[key].working:
        for step in section:
            assert step.clause, (section.title, step.symbol)
            assert step.meaning


@pytest.mark.parametrize("key", ROOMS)
def test_combinations_hold_each_direction_at_full_strength(
    whole: dict[str, Results], key: str
) -> None:
    """Dead load always acts, and some row of every kind has the whole of X and of Y."""
    answer = whole[key].combinations
    assert answer is not None
    assert all(row.dead > 0 and min(row.live, row.snow) >= 0 for row in answer.rows)
    for kind in {row.kind for row in answer.rows}:
        own = [row.quake for row in answer.rows if row.kind == kind]
        assert max(q[0] for q in own) > 0
        assert max(q[1] for q in own) > 0


@pytest.mark.parametrize("key", ROOMS)
def test_separation_grows_with_both_displacements(key: str) -> None:
    r, (usual, frame, _, _) = room(key), ROOMS[key]
    a = r.site(r.SiteInput(**usual))
    facts = StructureFacts(14.0, 4, (3.5,) * 4, 1e7, (20.0, 12.0), 240.0)
    lateral = r.system("X", r.SystemInput(**frame), a, facts)

    def least(own: float, neighbor: float | None) -> float:
        found = r.separation(a, lateral, own, neighbor, False)
        assert found is not None
        return found.required

    assert least(0.02, None) <= least(0.02, 0.01) < least(0.02, 0.03) < least(0.03, 0.03)


def symbols(r: Results, titles: tuple[str, ...]) -> set[str]:
    """Single values of the sections with these titles that a project may replace."""
    return {step.symbol for s in r.working if s.title.startswith(titles) for step in s
            if isinstance(step.value, float)}


@pytest.mark.parametrize("key", ROOMS)
def test_every_single_value_can_be_replaced(whole: dict[str, Results], key: str) -> None:
    """Site values and those of direction X: 2 % more is recorded and used in every formula."""
    from undatum.project.reader import validate
    from undatum.project.runner import run

    site, system, _, _ = ROOMS[key]
    own = symbols(whole[key], ("Site",))
    of_x = symbols(whole[key], ("Lateral system in X", "Period in X", "Base shear in X",
                                "Drift limit in X")) - own
    for table, names in (("site", own), ("system", of_x)):
        for name in sorted(names):
            old = next(step.value for s in whole[key].working for step in s if step.symbol == name)
            assert isinstance(old, float)
            note = {"replace": [{"symbol": name, "value": 1.02 * old + 1e-9, "reason": "law"}]}
            project, faults = validate({
                "title": "t", "standard": key, "units": "N, m",
                "site": {**site, **(note if table == "site" else {})},
                "system": {"X": {**system, **(note if table == "system" else {})}, "Y": system},
                "building": shear_building([6e7] * 4, [2e5] * 4),
            }, OWN)
            assert project is not None, [str(f) for f in faults]
            r = run(project, OWN)
            told = [step for s in r.working for step in s
                    if step.symbol == name and step.branch.startswith("replaced in the project")]
            assert told, (key, name)
            assert told[0].value == pytest.approx(1.02 * old + 1e-9)
            for s in r.working:
                for step in s:
                    if step.formula:
                        assert step.evaluate() == pytest.approx(step.value, rel=1e-9), (name, step)


@pytest.mark.parametrize(("key", "symbol", "corner"), [
    ("en1998", "T_C", "TC"), ("is1893-2016", "T_2", "T2"), ("asce7-16", "T_L", "TL"),
    ("ubc97", "T_s", "Ts")])
def test_a_replaced_corner_moves_the_spectrum(key: str, symbol: str, corner: str) -> None:
    r = room(key)
    note = {"replace": [{"symbol": symbol, "value": 0.777 if symbol != "T_L" else 5.5,
                         "reason": "law"}]}
    s = r.site(r.SiteInput(**{**ROOMS[key][0], **note})).spectrum
    assert s.corners[corner] == pytest.approx(0.777 if symbol != "T_L" else 5.5)


def test_importance_of_the_same_building_by_name() -> None:
    """The laws above use the contract; this one drives the whole job."""
    b = shear_building([6e7] * 3, [2e5] * 3)
    found = [analyze(b, site={**SITE, "risk_category": c}) for c in ("II", "III", "IV")]
    shears = [r.statics["X", "strength"].shear.base_shear for r in found]
    assert shears == sorted(shears)
    assert shears[-1] / shears[0] == pytest.approx(1.5)
