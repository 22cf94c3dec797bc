"""One reading: every thing under every source, against plain loops over rows and factors."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest
from scipy import sparse

import undatum as ud
from conftest import Command, frame_of, starter_text
from undatum.analysis.response import SpectrumSet
from undatum.mechanics.quantity import Quantity
from undatum.readings import things
from undatum.readings.combinations import story_factors

OWN = [{"name": "mine", "kind": "mine", "factors": {"dead": 1.0}, "earthquake": {"X": 1.0},
        "sets": {"spectrum X, strength": 0.5}}]


def buildings() -> Iterator[tuple[str, ud.Results]]:
    """Walls and frames, frames alone with a case of wind, a plane frame."""
    for name, more in (("clinic_frames", {}), ("terrace", {}), ("arcade", {})):
        project = ud.shipped_project(name).varied({"combinations": OWN, **more})
        yield name, ud.run(project)


BUILDINGS = list(buildings())
THINGS = ("forces", "stress", "reactions", "motion", "lines", "stories", "drift")


def by_hand(
    r: ud.Results, one: things.Thing, kind: str, method: str
) -> tuple[list[float], list[float]]:
    """Largest and smallest of every value over the combinations of a kind, term by term."""
    q, k = one.quantity, len(one.quantity)
    grown = one.grown(story_factors(r.stability, method, r.model))  # type: ignore[arg-type]
    high, low = [-np.inf] * k, [np.inf] * k
    for row in r.combiner().rows:
        if row.kind != kind:
            continue
        still = np.zeros(k)
        for case in r.load_cases().cases:
            if row.factor(case.name):
                still = still + row.factor(case.name) * one.still(case)
        parts: list[Any] = []
        for d, f in zip("XYZ", row.quake, strict=True):
            own = [s for s in r.sets_for_strength if s.direction == d and not s.own
                   and (s.method == method or d == "Z")]
            if f and own:
                factor = grown.get(d, np.ones(k))  # type: ignore[call-overload]
                parts.append([f * factor[i] * max(abs(s.of(q)[i]) for s in own)
                              for i in range(k)])
        for name, f in row.sets.items():
            s = next(s for s in r.sets_for_strength if s.name == name)
            both = abs(f) * grown.get(s.direction, np.ones(k)) * s.of(q)
            if s.method == "static":
                still = still + np.sign(f) * both
            else:
                parts.append(list(both))
        for i in range(k):
            own_parts = [p[i] for p in parts]
            size = sum(x**2 for x in own_parts)**0.5 if row.how == "SRSS" else sum(own_parts)
            high[i] = np.maximum(high[i], still[i] + size)  # of nothing nothing
            low[i] = np.minimum(low[i], still[i] - size)
    return high, low


@pytest.mark.parametrize(("name", "r"), BUILDINGS, ids=[n for n, _ in BUILDINGS])
@pytest.mark.parametrize("what", THINGS)
def test_everything_under_everything(what: str, name: str, r: ud.Results) -> None:
    """Sets, modes, cases, single combinations and extremes, value by value."""
    which = "columns at " + r.model.levels[-1] if what in ("forces", "stress", "motion") else ""
    at = (0.0, 0.4)
    one = things.thing(r.structure, what, which, at)
    q = one.quantity
    sets = r.read(what, which, at=at)
    for head, row in zip(sets.heads[0].cells, sets.high, strict=True):
        of = next(s for s in r.every_set if s.name == head)
        assert row == pytest.approx(of.of(q), rel=1e-12)
    modes = r.read(what, which, "modes", at=at)
    lead = 0
    for s in (s for s in r.every_set if s.name in modes.heads[0].cells):
        assert isinstance(s, SpectrumSet)
        for m in range(len(s.labels)):
            assert modes.high[lead] == pytest.approx(
                s.scale * q.of(s.modal[:, m], s.nodal[:, m]), rel=1e-9, abs=1e-9)
            lead += 1
    if what == "lines" and name != "clinic_frames":  # those of members do not follow gravity
        with pytest.raises(ud.InputError, match="read forces"):
            r.read(what, which, "envelope")
        return
    cases = r.read(what, which, "cases", at=at)
    for head, row in zip(cases.heads[0].cells, cases.high, strict=True):
        case = next(c for c in r.load_cases().cases if c.name == head)
        np.testing.assert_allclose(row, one.still(case))
    for method in ("spectrum", "static"):
        found = r.read(what, which, "envelope", at=at, by=method)  # type: ignore[arg-type]
        each = r.read(what, which, "each", at=at, by=method)  # type: ignore[arg-type]
        for kind, high, low in zip(found.heads[0].cells, found.high, found.low, strict=True):
            for mine, own in zip(by_hand(r, one, kind, method), (high, low), strict=True):
                np.testing.assert_allclose(own, mine, rtol=1e-9, atol=1e-9 * np.nanmax(
                    np.abs(high), initial=1.0))
            rows = [k for k, own in enumerate(each.heads[0].cells) if own == kind]
            by_row: dict[str, Any] = {}
            for k in rows:
                by_row.setdefault(each.heads[1].cells[k], []).append(each.high[k])
            np.testing.assert_allclose(high, np.max([sum(v) for v in by_row.values()], axis=0),
                                       rtol=1e-9, atol=1e-9 * np.nanmax(np.abs(high), initial=1.0))


def test_names_patterns_and_what_fits_nothing() -> None:
    r = dict(BUILDINGS)["terrace"]

    def rows(under: str, **more: Any) -> tuple[str, ...]:
        return r.read("drift", "center of mass", under, **more).names

    assert rows("static X*strength") == ("static X, +e, strength", "static X, −e, strength")
    assert rows("dead; live") == ("dead", "live")
    assert [name.rpartition(", ")[2] for name in rows("mode 2")] == ["2", "2"]
    assert rows("mine") == ("mine",)  # a kind before a single combination of that name
    assert set(rows("modes of spectrum X, strength")) <= set(rows("modes of spectrum *"))
    assert len(rows("")) == len(rows("sets"))
    assert all("drift" in name for name in rows("sets"))  # where drift is judged
    for under, said in (("static Q", "nothing here is named"), ("sets; dead", "stands alone"),
                        ("dead; static X*", "not of one kind"), ("modes of static X*", "no modes"),
                        ("together", "designed for at once")):
        with pytest.raises(ud.InputError, match=said):
            rows(under)
    for under in ("modes", "modes of spectrum X, strength", "dead"):
        with pytest.raises(ud.InputError, match="goes with sets"):
            rows(under, signed=True)
    with pytest.raises(ud.InputError, match="did you mean 'forces'"):
        r.read("force")
    signed = r.read("lines", "", "spectrum X, strength", signed=True)
    s = next(s for s in r.spectrum_sets if s.name == "spectrum X, strength")
    base = r.model.at_base("story shear", component="X")
    lead = int(np.argmax(np.abs(s.modal_values(base)[0])))
    q = signed.thing.quantity
    assert signed.high[0] == pytest.approx(
        np.where(q.of(s.modal[:, lead], s.nodal[:, lead]) < 0, -1, 1) * s.of(q))
    array = r.read("drift", "", "static X*drift").array
    one = array.sel(set="static X, +e, drift", point="center of mass", component="drift X")
    table = frame_of(r, "drift", "center of mass", "static X, +e, drift")
    assert one.values.ravel() * 1e3 == pytest.approx(table["drift X (mm)"].to_numpy())


def test_drift_with_gravity_leans_as_the_sway_under_it() -> None:
    """Of a case alone the drift read is the difference of what the floors move by."""
    r = dict(BUILDINGS)["terrace"]
    found = frame_of(r, "drift", "center of mass", "dead").set_index("story")
    case = next(c for c in r.load_cases().cases if c.name == "dead")
    d = r.model.diaphragms
    for i, level in enumerate(r.model.levels):
        x, y, _ = case.motion[d.freedoms[i]]
        k = int(d.below[i])
        if k >= 0:
            bx, by, bturn = case.motion[d.freedoms[k]]
            arm = d.centers[i] - d.centers[k]
            x, y = x - (bx - arm[1] * bturn), y - (by + arm[0] * bturn)
        assert found.loc[level, "drift X (mm)"] == pytest.approx(1e3 * x, rel=1e-8, abs=1e-9)
        assert found.loc[level, "drift Y (mm)"] == pytest.approx(1e3 * y, rel=1e-8, abs=1e-9)


def tilt(on: things.Structure, which: str, at: Sequence[float]) -> things.Thing:
    """Rotation of every floor about the vertical axis, as a package of its own would add it."""
    m = on.model
    turn = m.diaphragms.freedoms[:, 2]
    rows = sparse.csr_array((np.ones(m.n), (np.arange(m.n), turn)), shape=(m.n, m.freedoms.count))
    q = Quantity("floor twist", "angle", rows, {"level": m.levels})
    return things.Thing("floor_twist", "Twist of the floors", q, {"level": m.levels},
                        (("twist", "angle"),), lambda case: q.of(case.motion, case.nodal),
                        lambda factors: factors, of_floors=True)


def test_a_thing_from_outside_is_read_like_ours(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    """In Python, by command, in tables and the record, touching no file of ours."""
    monkeypatch.setattr(things, "THINGS", dict(things.THINGS))
    things.register("twist", tilt)
    with pytest.raises(ValueError, match="taken"):
        things.register("drift", tilt)
    text = starter_text("terrace") + \
        '\n[record]\nreadings = [{ what = "twist", under = "envelope" }]\n'
    path = tmp_path / "t.toml"
    path.write_text(text, encoding="utf-8")
    monkeypatch.chdir(tmp_path)
    assert command(["read", "t.toml", "twist", "--under", "static X*strength", "--table",
                    "t.csv"]) == 0
    r = ud.run(ud.read(path))
    written = pd.read_csv("t.csv")
    own = frame_of(r, "twist", "", "static X*strength")
    assert written["twist (rad)"].to_numpy() == pytest.approx(own["twist (rad)"].to_numpy())
    sets = [s for s in r.static_sets if s.direction == "X" and s.state == r.strength]
    assert own[own["set"] == sets[0].name]["twist (rad)"].to_numpy() == pytest.approx(
        sets[0].displacement[r.model.diaphragms.freedoms[:, 2]])
    assert "picked_1" in r.table_names
    assert command(["run", "t.toml", "--out", "out"]) in (0, 1)
    assert "Twist of the floors" in (tmp_path / "out" / "record.html").read_text(encoding="utf-8")


@pytest.mark.parametrize(("words", "said"), [
    (["terrace", "forces", "column A1 at L1", "--under", "together", "--by", "static"], "signs"),
    (["terrace", "stress", "column A1 at L1", "--under", "envelope"], "MPa"),
    (["terrace", "reactions", "B2", "--under", "cases"], "under load cases"),
    (["terrace", "motion", "columns at Roof", "--under", "each"], "earthquake ±"),
    (["terrace", "forces", "column B2 at L1", "--signed"], "largest base shear"),
    (["clinic", "lines", "Wall E", "--under", "modes"], "mode by mode"),
    (["clinic", "stories", "Roof", "--under", "envelope", "--by", "static"], "static forces")])
def test_by_command_as_table_and_sheet(
    words: list[str], said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command,
) -> None:
    (tmp_path / f"{words[0]}.toml").write_text(starter_text(words[0]))
    monkeypatch.chdir(tmp_path)
    for file in ("t.csv", "t.xlsx"):
        assert command(["read", f"{words[0]}.toml", *words[1:], "--table", file]) == 0
        assert said in " ".join(command.said.out.split())
    plain, sheet = pd.read_csv("t.csv"), pd.read_excel("t.xlsx", header=2).replace("–", np.nan)
    assert list(plain.columns) == list(sheet.columns)
    for head in plain:
        if plain[head].dtype.kind == "f":
            np.testing.assert_allclose(plain[head], sheet[head].astype(float), rtol=1e-9)


@pytest.mark.parametrize(("words", "said"), [
    (["terrace", "reactions", "B9"], "there is no foot"),
    (["clinic", "lines", "Wal E"], "'Wall E'"),
    (["clinic", "forces"], "read clinic.toml lines"),
    (["terrace", "forces", "columns on Q"], "'Q'"),
    (["terrace", "forces", "columns on B", "--at", "2"], "no fraction"),
    (["terrace", "forces", "columns on B", "--at", "x"], "no list"),
    (["terrace", "forces", "columns on B", "--by", "hand"], "--by"),
    (["terrace", "forces", "columns on B", "--under", "both"], "nothing here is named"),
    (["terrace", "forces", "columns on B", "--plot", "x.png"], "one is drawn"),
    (["terrace", "drift", "--plot", "x.png"], "no picture"),
    (["clinic", "lines", "--plot", "x.png"], "no line"),
    (["clinic", "lines", "Wall E", "--table", "t.pdf"], "neither CSV"),
    (["clinic", "lines", "Wall E", "--plot", "x.pdf"], "no PNG")])
def test_what_cannot_be_read_says_why(
    words: list[str], said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command,
) -> None:
    (tmp_path / f"{words[0]}.toml").write_text(starter_text(words[0]))
    monkeypatch.chdir(tmp_path)
    assert command(["read", f"{words[0]}.toml", *words[1:]]) == 2
    assert said in " ".join(command.said.err.split())
    assert len(list(tmp_path.iterdir())) == 1
