"""Ways to a spectrum: files, damping, directions, the vertical component, a study's floor."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from conftest import SITE, Command, Room, analyze, shear_building, site_of
from undatum import standards
from undatum.ground import CombinedSpectrum, TabulatedSpectrum, read_curves, read_spectrum
from undatum.results.results import Results
from verification import Verify

G = 9.80665
BUILDING = shear_building([6e7] * 3, [2e5] * 3)
EN: dict[str, Any] = {
    "standard": "en1998",
    "site": {"reference_acceleration": 0.25, "ground_type": "B", "importance_class": "II",
             "use": "B"},
    "system": {d: {"row": "concrete frame", "regular_in_plan": True, "regular_in_elevation": True}
               for d in "XY"},
}


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "curves.csv").write_text(
        "# a made-up study\nperiod (s), 2 % (g), 5 % (g), 10 % (g)\n"
        "0.0, 0.30, 0.30, 0.30\n0.5, 1.20, 0.90, 0.70\n4.0, 0.20, 0.15, 0.12\n")
    for name, size in (("a", 1.0), ("b", 2.0)):
        (tmp_path / f"{name}.csv").write_text(
            f"period (s), acceleration (g)\n0, {0.4 / size}\n1, {0.6}\n4, {0.1 * size}\n")
    return tmp_path


def run(folder: Path, spectrum: dict[str, Any], **more: Any) -> Results:
    from undatum.project.project_file import validate

    given = {"title": "t", "standard": "asce7-16", "site": SITE, "units": "N and m",
             "system": {d: {"row": "C.1"} for d in "XY"}, "building": BUILDING,
             "spectrum": spectrum, **more}
    project, faults = validate(given, folder)
    if project is None:
        raise ud.InputError(faults)
    return ud.run(project, folder)


@pytest.mark.parametrize(
    ("damping", "at_half"),
    [(0.02, 1.2), (0.05, 0.9), (0.10, 0.7),
     (0.03, 1.2 - 0.3 * np.log(1.5) / np.log(2.5)), (0.07, 0.9 - 0.2 * np.log(1.4) / np.log(2))],
)
def test_curves_by_damping(folder: Path, damping: float, at_half: float) -> None:
    s = read_spectrum(folder / "curves.csv", damping=damping)
    assert float(s(0.5)) / G == pytest.approx(at_half)
    assert s.damping == damping
    r = run(folder, {"file": "curves.csv"}, analysis={"damping": damping})
    assert float(r.spectrum(0.5)) / G == pytest.approx(at_half)
    assert not [f for f in r.findings if f.check == "damping"]


def test_damping_outside_the_curves_is_refused(folder: Path) -> None:
    with pytest.raises(ud.InputError, match=r"0\.02, 0\.05, 0\.1; 0\.2 lies outside"):
        read_curves(folder / "curves.csv").at(0.2)


@pytest.mark.parametrize(
    ("head", "words"),
    [("period (s), Sa (g), Sv (g)", "which curve is for which damping"),
     ("period (s), 5 % (g), 5 % (g)", "same damping"),
     ("period (s), 5 % (g), 0 % (g)", "same damping, or one is for none"),
     ("period (s), 5 % (g), 2 % (m)", "does not measure an acceleration")],
)
def test_faulty_heads(tmp_path: Path, head: str, words: str) -> None:
    (tmp_path / "x.csv").write_text(f"{head}\n0, 0.1, 0.1\n1, 0.2, 0.2\n")
    with pytest.raises(ud.InputError, match=words):
        read_curves(tmp_path / "x.csv")


@pytest.mark.parametrize(
    ("beyond", "factor"), [("hold", 1.0), ("1/T", 0.5), ("1/T2", 0.25)])
def test_beyond_the_table(beyond: Any, factor: float) -> None:
    s = TabulatedSpectrum("s", (0.0, 1.0, 4.0), (1.0, 3.0, 2.0), beyond=beyond)
    assert s(np.array([4.0, 8.0])) == pytest.approx([2.0, 2.0 * factor])
    assert s.last_period == np.inf
    with pytest.raises(ud.InputError, match="beyond"):
        TabulatedSpectrum("s", (0.0, 4.0), (1.0, 2.0))(5.0)


@given(st.floats(0.0, 4.0))
def test_envelope_mean_and_least(t: float) -> None:
    a = TabulatedSpectrum("a", (0.0, 4.0), (1.0, 3.0))
    b = TabulatedSpectrum("b", (0.0, 4.0), (2.0, 1.0))
    values = [1.0 + t / 2, 2.0 - t / 4]
    for how, hand in (("envelope", max(values)), ("mean", sum(values) / 2), ("least", min(values))):
        assert float(CombinedSpectrum("c", (a, b), how)(t)) == pytest.approx(hand)  # type: ignore[arg-type]


def test_several_files(folder: Path) -> None:
    t = np.array([0.0, 0.5, 1.0, 2.0, 3.5])
    a, b = (np.interp(t, [0, 1, 4], y) for y in ([0.4, 0.6, 0.1], [0.2, 0.6, 0.2]))
    for how, hand in (("envelope", np.maximum(a, b)), ("mean", (a + b) / 2)):
        r = run(folder, {"files": ["a.csv", "b.csv"], "of_several": how})
        assert r.spectrum(t) / G == pytest.approx(hand)


def test_another_spectrum_for_each_direction(folder: Path) -> None:
    r = run(folder, {"X": {"file": "a.csv"}, "Y": {"file": "b.csv"}})
    x = run(folder, {"file": "a.csv"})
    y = run(folder, {"file": "b.csv"})
    assert r.dynamic[0].base_shear == pytest.approx(x.dynamic[0].base_shear, rel=1e-12)
    assert r.dynamic[1].base_shear == pytest.approx(y.dynamic[1].base_shear, rel=1e-12)
    assert r.dynamic[0].base_shear != pytest.approx(r.dynamic[1].base_shear)
    heads = list(r.to_frame("spectrum").columns)
    assert "acceleration, X (g)" in heads
    assert "acceleration, Y (g)" in heads
    with pytest.raises(ud.InputError, match="give both"):
        run(folder, {"X": {"file": "a.csv"}})


def test_vertical_as_a_share_or_from_a_file(folder: Path) -> None:
    r = run(folder, {"file": "a.csv", "vertical_share": 0.6})
    assert r.shaking.vertical is not None
    assert float(r.shaking.vertical(1.0)) / G == pytest.approx(0.36)
    r = run(folder, {"vertical": {"file": "b.csv"}})
    assert r.shaking.vertical is not None
    assert float(r.shaking.vertical(1.0)) / G == pytest.approx(0.6)
    with pytest.raises(ud.InputError, match="either vertical or vertical_share"):
        run(folder, {"vertical": {"file": "b.csv"}, "vertical_share": 0.5})


# Table 11.9-1 of ASCE 7-16 written out again.
CV = {"B": (0.7, 0.8, 0.9, 0.9, 0.9), "C": (0.7, 0.8, 1.0, 1.1, 1.3),
      "D": (0.7, 0.9, 1.1, 1.3, 1.5)}


@pytest.mark.parametrize("name", CV)
@pytest.mark.parametrize("i", range(5))
def test_vertical_spectrum_of_asce7(name: str, i: int, verify: Verify) -> None:
    ss = (0.2, 0.3, 0.6, 1.0, 2.0)[i]
    room = standards.get("asce7-16")
    given = {**SITE, "ss": ss, "s1": 0.05, "site_class": name}
    a = site_of(room, **given)
    v = room.ground(room.site_input(**given)).vertical(a)
    assert v is not None
    sms = a.parameters["S_MS"]
    for t, shape in ((0.01, 0.3), (0.04, 20 * 0.015 + 0.3), (0.1, 0.8),
                     (0.5, 0.8 * (0.15 / 0.5) ** 0.75)):
        hand = max(2 / 3 * CV[name][i] * sms * shape, 0.5 * float(a.spectrum(t)) / G)
        verify("asce7", "vertical design acceleration, g, 7-16",
               f"class {name}, S_S {ss}, T_v {t} s", float(v.spectrum(t)) / G, hand)
    assert v.working["C_v"].value == pytest.approx(CV[name][i])
    early = standards.get("asce7-10")
    assert early.ground(early.site_input(**given)).vertical(a) is None


@pytest.mark.parametrize(("kind", "share"), [(1, 0.9), (2, 0.45)])
def test_vertical_spectrum_of_en1998(kind: int, share: float, verify: Verify) -> None:
    room = standards.get("en1998")
    part = room.ground(room.site_input(**{**EN["site"], "spectrum_type": kind,
                                          "ground_type": "D"}))
    v = part.vertical(part.site())
    assert v is not None
    for t, shape in ((0.0, 1.0), (0.025, 2.0), (0.1, 3.0), (0.3, 1.5), (2.0, 3 * 0.15 / 4)):
        verify("en1998", "vertical elastic acceleration, g", f"type {kind}, T {t} s",
               float(v.spectrum(t)) / G, share * 0.25 * shape)


def test_vertical_spectra_of_the_others() -> None:
    old, late, ubc = (standards.get(k) for k in ("is1893-2002", "is1893-2016", "ubc97"))
    given = {"zone": "IV", "soil": "II", "importance_factor": "1.0"}
    a, b = (site_of(r, **given) for r in (old, late))
    t = np.array([0.05, 0.3, 1.0, 3.0])
    v, w = (r.ground(r.site_input(**given)).vertical(x) for r, x in ((old, a), (late, b)))
    assert v is not None
    assert w is not None
    assert v.spectrum(t) == pytest.approx(2 / 3 * a.spectrum(t))
    assert w.spectrum(t) / G == pytest.approx(2 / 3 * 0.12 * 2.5)
    c = site_of(ubc, zone="3", soil="SC", occupancy_category="standard")
    u = Room("ubc97", {"zone": "3", "soil": "SC", "occupancy_category": "standard"},
             {"row": "3.1a", "regular": True}).ground.vertical(c)
    assert u is not None
    assert u.spectrum(t) == pytest.approx(2 / 3 * c.spectrum(t))


# -- damping by the standard's rule ----------------------------------------------------------------


def test_adjusted_by_the_standards_own_rule(folder: Path) -> None:
    r = run(folder, {"file": "a.csv", "adjust_damping": True}, **EN, analysis={"damping": 0.02})
    plain = run(folder, {"file": "a.csv"}, **EN)
    assert float(r.spectrum(1.0) / plain.spectrum(1.0)) == pytest.approx(np.sqrt(10 / 7))
    assert r.spectrum.damping == 0.02
    old = {"standard": "is1893-2002",
           "site": {"zone": "IV", "soil": "II", "importance_factor": "1.0"},
           "system": {d: {"row": "RC SMRF", "regular": True} for d in "XY"}}
    r = run(folder, {"file": "a.csv", "damping": 0.10, "adjust_damping": True}, **old,
            analysis={"damping": 0.02})
    assert float(r.spectrum(1.0)) / G == pytest.approx(0.6 * 1.4 / 0.8)
    with pytest.raises(ud.InputError, match="gives no rule"):
        run(folder, {"file": "a.csv", "adjust_damping": True}, analysis={"damping": 0.02})


def test_damping_of_each_direction_is_looked_at(folder: Path) -> None:
    r = run(folder, {"X": {"file": "a.csv"}, "Y": {"file": "b.csv", "damping": 0.02}})
    told = [f for f in r.findings if f.check == "damping"]
    assert [f.where for f in told] == ["spectrum, direction Y"]
    adjusted = run(folder, {"file": "a.csv", "adjust_damping": True}, **EN,
                   analysis={"damping": 0.02})
    lines = [step for s in adjusted.working if s.title.startswith("Damping of") for step in s]
    assert lines
    assert all(step.clause for step in lines)


def test_elastic_spectrum_at_another_damping_and_annex_a(verify: Verify) -> None:
    room = standards.get("en1998")
    a = site_of(room, **{**EN["site"], "damping": 0.10})
    eta = np.sqrt(10 / 15)
    assert float(a.spectrum(0.3)) / G == pytest.approx(0.25 * 1.2 * 2.5 * eta)
    assert a.working["eta"].value == pytest.approx(eta)
    dg = 0.025 * 0.25 * G * 1.2 * 0.5 * 2.0
    for t, hand in ((7.5, dg * (2.5 * eta + 0.5 * (1 - 2.5 * eta))), (10.0, dg), (15.0, dg)):
        verify("en1998", "displacement by Annex A, m", f"10 % damping, ground B, T {t} s",
               float(a.spectrum.displacement(t)), hand)
    assert float(a.spectrum.displacement(3.0)) == pytest.approx(
        float(a.spectrum(3.0)) * (3.0 / (2 * np.pi)) ** 2)


# -- the floor under a study -----------------------------------------------------------------------


@pytest.mark.parametrize(
    ("standard", "site", "sds", "sd1"),
    [
        ("asce7-16", {"site_class": "C"}, 1.2 * 1.0, 1.5 * 0.4),
        ("asce7-16", {"site_class": "D"}, 1.1 * 1.0, 2.5 * 0.4),
        ("asce7-16", {"site_class": "D", "s1": 0.1}, 1.1 * 1.0, 2.4 * 0.1),
        ("asce7-16", {"site_class": "E"}, 1.0 * 1.0, 4.0 * 0.4),
        ("asce7-16", {"site_class": "E", "ss": 0.5, "s1": 0.1}, 1.7 * 0.5, 4.2 * 0.1),
        ("asce7-16", {"site_class": "F"}, 1.0 * 1.0, 4.0 * 0.4),
        ("asce7-10", {"site_class": "D"}, 1.1 * 1.0, 1.6 * 0.4),
        ("asce7-05", {"site_class": "E"}, 0.9 * 1.0, 2.4 * 0.4),
        ("asce7-22", {"site_class": "D", "sms": 1.4, "sm1": 0.9}, 1.4, 0.9),
    ],
)
def test_80_percent_of_the_general_spectrum(
    standard: str, site: dict[str, Any], sds: float, sd1: float, verify: Verify
) -> None:
    room = standards.get(standard)
    study = {"sds": 0.9, "sd1": 0.6, "reason": "made-up study"}
    part = room.ground(room.site_input(**{**SITE, **site, "study": study}))
    floor = part.floor(part.site())
    assert floor is not None
    for t in (0.4, 3.0):
        hand = 0.8 * 2 / 3 * min(sds, sd1 / t)
        verify("asce7", "floor under a site-specific spectrum, g",
               f"{standard[4:]}, {', '.join(f'{k} {v}' for k, v in site.items())}, T {t} s",
               float(floor.spectrum(t)) / G, hand)


def test_the_floor_lifts_the_study(folder: Path) -> None:
    r = run(folder, {"file": "a.csv", "site_specific": True})
    floor = 0.8 * 2 / 3 * 1.2  # class C, S_S 1.0
    assert float(r.spectrum(0.3)) / G == pytest.approx(floor)
    assert float(r.spectrum(1.0)) / G == pytest.approx(0.6)  # above 0.8 of S_D1
    note = next(f for f in r.findings if f.check == "site-specific spectrum")
    assert "holds over" in note.text
    en = run(folder, {"file": "a.csv", "site_specific": True}, **EN)
    assert float(en.spectrum(0.3)) / G == pytest.approx(0.46)
    assert "sets no lower bound" in next(
        f for f in en.findings if f.check == "site-specific spectrum").text
    with pytest.raises(ud.InputError, match="file of the study"):
        run(folder, {"site_specific": True})


# -- a site without a building ---------------------------------------------------------------------


def test_site_without_a_building() -> None:
    s = ud.site_spectra(standard="asce7-16", site=SITE, title="Yard")
    whole = analyze(BUILDING)
    assert s.site.parameters == whole.site.parameters
    t = np.linspace(0, 4, 50)
    assert s.shaking.horizontal["X"](t) == pytest.approx(whole.spectrum(t))
    assert "Yard" in str(s)
    heads = s.table("spectrum").heads(s.units)
    assert not [h for h in heads if h.startswith("reduced")]
    assert "vertical (g)" in heads
    for section in s.working:
        for step in section:
            if step.formula:
                assert step.evaluate() == pytest.approx(step.value)
    with pytest.raises(ud.InputError, match=r"site\.risk_category.*missing"):
        ud.site_spectra(site={k: v for k, v in SITE.items() if k != "risk_category"})
    with pytest.raises(TypeError, match="buildings"):
        ud.site_spectra(site=SITE, buildings={})  # type: ignore[call-arg]


def test_site_from_its_file(tmp_path: Path, command: Command) -> None:
    import shutil


    here = Path(__file__).parent.parent / "examples" / "located"
    for path in here.iterdir():
        shutil.copy(path, tmp_path / path.name)
    plot = tmp_path / "s.png"
    assert command(["spectrum", str(tmp_path / "site.toml"), "--plot", str(plot)]) == 0
    said = command.said.out
    assert "a_g" in said
    assert "Vertical: EN 1998-1 vertical" in said
    assert plot.read_bytes()[:4] == b"\x89PNG"
    text = (tmp_path / "site.toml").read_text().replace('ground_type = "C"', 'ground_type = "H"')
    (tmp_path / "site.toml").write_text(text)
    assert command(["spectrum", str(tmp_path / "site.toml")]) == 2
    assert "site.ground_type (line 9)" in command.said.err


def test_a_table_that_begins_after_the_building_is_refused_or_held_aloud(folder: Path) -> None:
    """Modes below the first ordinate: an error, or by request the first one, with a warning."""
    (folder / "late.csv").write_text("period (s), acceleration (g)\n1.0, 0.5\n4.0, 0.1\n")
    with pytest.raises(ud.InputError, match=r'begins at 1 s [\s\S]*before = "hold"'):
        run(folder, {"file": "late.csv"})
    r = run(folder, {"file": "late.csv", "before": "hold"})
    assert r.modes.periods[0] < 1.0
    assert float(r.spectrum(0.3)) == pytest.approx(0.5 * G)
    found, *_ = [f for f in r.findings if f.check == "ordinates where none are given"]
    assert (found.severity.value, "spectrum.before" in found.text) == ("warning", True)


@pytest.mark.parametrize(("unit", "size", "doubted"), [("g", 1.0, False), ("m/s^2", 1.0, True),
                                                      ("m/s^2", G, False), ("g", G, True)])
def test_ordinates_are_held_against_those_of_the_standard(
    folder: Path, unit: str, size: float, doubted: bool
) -> None:
    """The standard's own spectrum from a file, in the right unit and in a wrong one."""
    usual = analyze(BUILDING).spectrum
    t = np.linspace(0, 4, 81)
    (folder / "own.csv").write_text(f"period (s), acceleration ({unit})\n" + "".join(
        f"{a:.4f}, {size * b / G:.6f}\n" for a, b in zip(t, usual(t), strict=True)))
    r = run(folder, {"file": "own.csv"})
    (found,) = [f for f in r.findings if f.check == "spectrum beside the standard's"]
    assert (found.severity.value == "warning") is doubted
    scales = [f for f in r.findings if f.check == "scale factor"]
    small = doubted and unit == "m/s^2"  # static forces by the standard: the modal ones are scaled
    assert bool(scales) is small
    assert ("right" in found.advice) is doubted


@pytest.mark.parametrize("factor", [1.0, 1.5, 9.0, 1e-3])
def test_factors_on_the_spectrum_far_from_one_are_questioned(folder: Path, factor: float) -> None:
    r = run(folder, {"file": "a.csv", "factor": factor, "factor_reason": "asked by the owner"})
    found = [f for f in r.findings if f.check == "factor on the spectrum"
             and f.severity.value == "warning"]
    assert bool(found) is (factor not in (1.0, 1.5))


@pytest.mark.parametrize("k", [5e9, 6e8, 6e7, 3e6])
@pytest.mark.parametrize("importance", ["II", "IV"])
def test_en1998_reduces_another_spectrum_as_its_own(
    folder: Path, k: float, importance: str
) -> None:
    """Its elastic spectrum in a table: the same forces on ramp, plateau and falling branches, with
    the importance factor in the ordinates, and that is said."""
    site = {**EN["site"], "importance_class": importance}
    one = shear_building([k] * 3, [2e5] * 3)
    own = analyze(one, **{**EN, "site": site})
    t = np.unique(np.concatenate([np.linspace(0, 0.15, 4), np.linspace(0.15, 4, 2001)]))
    (folder / "en.csv").write_text("period (s), acceleration (m/s^2)\n" + "".join(
        f"{a:.12g}, {b:.12g}\n" for a, b in zip(t, own.spectrum(t), strict=True)))
    other = analyze(one, **{**EN, "site": site}, spectrum={"file": "en.csv"}, folder=folder)
    for state in ("strength", "displacement", "drift"):
        if ("X", state) in own.statics:
            a, b = (r.statics["X", state].shear.base_shear for r in (own, other))
            assert b == pytest.approx(a, rel=1e-3)
            assert other.reduced["X", state](t[t < 3]) == pytest.approx(
                own.reduced["X", state](t[t < 3]), rel=1e-3)
    (said,) = [f for f in other.findings if f.check == "spectrum of one's own"]
    assert f"gamma_I = {1 if importance == 'II' else 1.4}" in said.text
