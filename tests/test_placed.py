"""Members and sections from tables: the same building as by rules, and advice where it is not."""

from __future__ import annotations

import tomllib
from pathlib import Path

import pytest

import undatum as ud
from conftest import Command, starter_text
from test_frames import building, real, slender

HEAD = "member,kind,section,start x (m),start y (m),start z (m),end x (m),end y (m),end z (m)"


def by_table(one: ud.Building, path: Path) -> ud.Building:
    """The same building with the members that its rules made, from a table."""
    from undatum.report.files import csv_text
    from undatum.stages.members import members_table
    from undatum.units import UnitSystem

    assert one.frame is not None
    path.write_text(csv_text(members_table(one.frame), UnitSystem("kip and ft")), newline="")
    transfer = set(one.frame.transfer)
    placed = [p.model_copy(update={"transfer": True}) if p.name in transfer else p
              for p in ud.read_members(path)]
    return one.model_copy(update={"members": (), "placed": tuple(placed)})


def test_rules_change_what_a_table_placed(tmp_path: Path) -> None:
    one = by_table(real(), tmp_path / "members.csv")
    assert one.frame is not None
    kept = ud.KeptShares(bending_y=0.5, reason="test")
    other = one.model_copy(update={"members": (ud.MemberRule(beams="all", kept=kept),)})
    assert other.frame is not None
    beams = other.frame.kinds == "beam"
    assert set(other.frame.kept[beams, 0]) == {0.5}
    assert set(other.frame.kept[~beams, 0]) == {1.0}
    fewer = one.model_copy(update={"members": (ud.MemberRule(beams="on A at L3", remove=True),)})
    assert fewer.frame is not None
    assert len(fewer.frame.members) < len(one.frame.members)


def test_a_project_names_its_tables(tmp_path: Path, command: Command) -> None:
    """The terrace by its own table of members and of sections: the same first period."""
    path = tmp_path / "terrace.toml"
    path.write_text(starter_text("terrace"))
    results = ud.run(ud.read(path))
    assert command(["members", str(path), "--table", str(tmp_path / "members.csv")]) == 0
    frame = results.to_frame("input_sections")
    frame.rename(columns=lambda c: c.replace("²", "^2").replace("⁴", "^4")).to_csv(
        tmp_path / "sections.csv", index=False)
    text = (tmp_path / "members.csv").read_text().splitlines()
    head = text[0] + ",transfer"
    rows = [row + (",yes" if row.startswith("column C2 at L3") else ",") for row in text[1:]]
    (tmp_path / "members.csv").write_text("\n".join([head, *rows]) + "\n")
    data = tomllib.loads(starter_text("terrace"))
    kept = [r for r in data["building"]["members"] if not r.get("remove")]
    start = starter_text("terrace").index("[building.sections]")
    other = tmp_path / "other.toml"
    other.write_text(starter_text("terrace")[:start].replace(
        "[building.axes]", "[building]\nmembers_file = \"members.csv\"\n"
        "sections_file = \"sections.csv\"\n[building.axes]")
        + "".join(f"[[building.members]]\n{kind} = 'all'\nkept = {{ {shares}, reason = 'as is' }}\n"
                  for kind, shares in (("columns", "bending_y = 0.7, bending_z = 0.7"),
                                       ("beams", "bending_y = 0.35"))))
    assert len(kept) == 2
    again = ud.run(ud.read(other))
    assert again.modes.periods == pytest.approx(results.modes.periods, rel=1e-6)
    (tmp_path / "members.csv").write_text(head.replace("start z", "start w") + "\n")
    assert command(["check", str(other)]) == 2
    said = command.said.err
    assert "building.members_file" in said
    assert "has no column 'start z'" in said
    (tmp_path / "members.csv").unlink()
    assert command(["check", str(other)]) == 2
    assert "there is no file 'members.csv'" in command.said.err


WRONG = {
    "off its level": ("c,column,column,0,0,0,0,0,3.9", "3.9 m, which is no level\n    "
                      "L1 is at 4 m"),
    "leaning column": ("c,column,column,0,0,0,1,0,4", "is a column that leans"),
    "leaning beam": ("b,beam,beam,0,0,0,6,0,4", "beam between two levels"),
    "level brace": ("b,brace,beam,0,0,4,6,5,4", "brace on one level"),
    "no length": ("b,beam,beam,0,0,4,0,0,4", "has no length"),
    "unknown section": ("b,beam,bean,0,0,4,6,0,4", "'bean' is not among the sections\n    did "
                        "you mean 'beam'"),
    "unknown kind": ("b,strut,beam,0,0,4,6,0,4", "kind"),
    "no number": ("b,beam,beam,zero,0,4,6,0,4", "start"),
    "hanging": ("b,beam,beam,1,1,4,2,1,4", "hangs in the air"),
    "twice": ("c,column,column,0,0,0,0,0,4\nd,column,column,0,0,0,0,0,4", "'d' stands where"),
    "cells missing": ("b,beam,beam,0,0,4", "has 6 cells where the header has 9"),
}


@pytest.mark.parametrize("name", WRONG)
def test_wrong_tables_say_where(name: str, tmp_path: Path) -> None:
    rows, text = WRONG[name]
    path = tmp_path / "members.csv"
    path.write_text(f"{HEAD}\n{rows}\n")
    one = building(slender(2e-3), slender(2e-3))
    with pytest.raises(ud.InputError) as error:
        one.model_copy(update={"placed": ud.read_members(path)})
    assert text in str(error.value)


def test_files_belong_to_project_files() -> None:
    with pytest.raises(ud.InputError, match="read_members"):
        building(slender(2e-3), slender(2e-3), members_file="x.csv")


def test_braces_of_a_table_are_hinged_and_columns_are_not(tmp_path: Path) -> None:
    path = tmp_path / "members.csv"
    path.write_text(f"{HEAD}\nb,brace,beam,0,0,0,6,0,4\nt,brace,beam,0,5,0,6,5,4\n")
    rows = ud.read_members(path)
    one = building(slender(2e-3), slender(2e-3)).model_copy(update={
        "placed": (rows[0], rows[1].model_copy(update={"hinged": "no"}))})
    assert one.frame is not None
    found = {m.name: one.frame.hinged[m.elements[0]].tolist() for m in one.frame.members}
    assert found["b"] == [True, True]
    assert found["t"] == [False, False]
    assert found["column A1 at L1"] == [False, False]
