"""One building by several standards."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

import pytest

import undatum as ud
from conftest import Command, starter_text, write_toml
from undatum.project.project_file import validate


@pytest.fixture
def clinic() -> dict[str, Any]:
    return tomllib.loads(starter_text("clinic"))


def test_each_column_is_the_job_by_that_standard(clinic: dict[str, Any]) -> None:
    project, faults = validate(clinic)
    assert not faults
    assert project is not None
    found = ud.side_by_side(project)
    keys = [r.project.standard for r in found.results]
    assert keys == ["asce7-16", "asce7-10", "en1998", "is1893-2016", "ubc97"]
    for r in found.results[1:]:
        alone = dict(clinic)
        other = alone.pop("alternatives")[r.project.standard]
        alone |= {"standard": r.project.standard, "site": other["site"], "system": other["system"]}
        single, wrong = validate(alone)
        assert not wrong
        assert single is not None
        again = ud.run(single)
        assert again.drift.use == pytest.approx(r.drift.use, nan_ok=True)
        assert again.dynamic[0].base_shear == pytest.approx(r.dynamic[0].base_shear)
    frame = found.table().to_frame()
    assert len(frame) == 10
    shears = [r.statics[d, "strength"].shear.coefficient for r in found.results for d in "XY"]
    assert list(frame["static V/W"]) == pytest.approx(shears)
    # Strength design: rho of 1.3 (ASCE), 1.0 (EN), 1.5 (IS), rho from r_max (UBC).
    factors = [1.3, 1.3, 1.3, 1.3, 1.0, 1.0, 1.5, 1.5]
    assert list(frame["earthquake factor"])[:8] == pytest.approx(factors)
    assert list(frame["V/W at design level"]) == pytest.approx(
        [f * v for f, v in zip(frame["earthquake factor"], shears, strict=True)])
    assert list(frame["R or q"]) == pytest.approx([6, 6, 6, 6, 3, 3, 4, 4, 5.5, 5.5])
    assert list(frame["importance"])[::2] == pytest.approx([1.5, 1.5, 1.4, 1.5, 1.25])
    assert frame["hazard level"].nunique() == 4
    assert list(frame["drift read"])[-2:] == ["edges", "edges"]


def test_a_barred_system_is_no_normal_row(clinic: dict[str, Any], tmp_path: Path) -> None:
    """Ordinary walls in zone V, and a spectrum of the project's own, are both said."""
    clinic["alternatives"]["is1893-2016"]["site"]["zone"] = "V"
    for d in "XY":
        clinic["alternatives"]["is1893-2016"]["system"][d]["row"] = "ordinary RC walls"
    (tmp_path / "s.csv").write_text("period (s), ordinate (g)\n0, 0.4\n0.6, 0.4\n9, 0.1\n")
    clinic["spectrum"] = {"file": "s.csv"}
    table = ud.side_by_side(ud.read(write_toml(clinic, tmp_path / "p.toml"))).table()
    cells = {c.name: c.cells for c in table.columns}
    worst = dict(zip(cells["standard"], cells["worst finding"], strict=True))
    assert worst["IS 1893 (Part 1):2016"] == "exceeded: ordinary system"
    assert set(table.marks) == {6, 7}
    assert "holds for ASCE/SEI 7-16 alone" in table.note


def test_faults_of_an_alternative_name_their_place(clinic: dict[str, Any], tmp_path: Path) -> None:
    clinic["alternatives"]["ubc97"]["site"]["zone"] = "5"
    clinic["alternatives"]["is1893-2016"]["system"]["X"]["row"] = "ductile walls"
    clinic["alternatives"]["en9988"] = {"site": {}, "system": {}}
    with pytest.raises(ud.InputError) as caught:
        ud.read(write_toml(clinic, tmp_path / "p.toml"))
    places = {f.place for f in caught.value.faults}
    assert "alternatives.ubc97.site.zone" in places
    assert "alternatives.is1893-2016.system.X.row" in places
    assert "alternatives.en9988.standard" in places
    assert all(f.line for f in caught.value.faults)


def test_command_writes_table_and_figure(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "clinic.toml"
    path.write_text(starter_text("clinic"), encoding="utf-8")
    out = tmp_path / "out"
    assert command(["side-by-side", str(path), "--out", str(out)]) == 0
    assert "EN 1998-1:2004" in command.said.out
    assert (out / "side_by_side.png").read_bytes().startswith(b"\x89PNG")
    assert "UBC 1997" in (out / "side_by_side.csv").read_text(encoding="utf-8")
    path.write_text(starter_text("archive"), encoding="utf-8")
    assert command(["side-by-side", str(path), "--out", str(out)]) == 2
    assert "names no other standard" in command.said.err
