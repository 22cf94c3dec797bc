"""Every row of every table of lateral systems against a second derivation, made apart from it."""

from __future__ import annotations

import csv
from importlib.resources import files
from pathlib import Path

import pytest

from undatum import standards
from verification import Verify

HERE = Path(__file__).parent / "tables"


def lines(name: str) -> list[str]:
    text = (HERE / f"{name}.txt").read_text(encoding="utf-8")
    return [line for line in text.splitlines() if line and not line.startswith("#")]


def shipped(key: str) -> dict[str, tuple[str, ...]]:
    return {str(row[0]): tuple(map(str, row[1:])) for row in
            standards.get(key).systems_table().rows()}


@pytest.mark.parametrize("key", ["asce7-05", "asce7-10", "asce7-16", "ubc97"])
def test_numbered_tables(key: str, verify: Verify) -> None:
    second = {r[0]: r[1:] for r in (x.split() for x in lines(key.replace("-10", "-16")))}
    ours = shipped(key)
    assert list(ours) == list(second)
    names = ("R", "Omega_0", "C_d")[: 2 if key == "ubc97" else 3]
    apart = set()
    for row, own in second.items():
        found = list(ours[row][2:])
        for name, a, b in zip(names, found, own, strict=False):
            verify(key.split("-")[0], f"{name} of the systems table, {key}", f"row {row}",
                   float(a), float(b))
        limits = [x.rstrip("?") for x in found[len(names):]]
        if limits != own[len(names):]:
            apart.add(row)
    assert not apart


# New in 2022, by words of the system: R, overstrength, C_d.
NEW_2022 = {
    "ductile coupled wall": (8.0, 2.5, 8.0), "coupled composite plate": (8.0, 2.5, 5.5),
    "high aspect ratio": (4.0, 3.0, 4.0), "timber shear wall": (3.0, 3.0, 3.0),
}


def test_rows_of_2022(verify: Verify) -> None:
    """The rows taken over are those of 2016 in their order; the new ones have these factors."""
    ours = list(standards.get("asce7-22").systems_table().rows())
    old = [tuple(row[3:]) for row in standards.get("asce7-16").systems_table().rows()]
    rest = []
    for row in ours:
        new = next((v for words, v in NEW_2022.items() if words in str(row[2]).lower()), None)
        if new is None:
            rest.append(tuple(row[3:]))
            continue
        for name, a, b in zip(("R", "Omega_0", "C_d"), row[3:6], new, strict=True):
            verify("asce7", f"{name} of the systems table, asce7-22", f"{row[2]} ({row[0]})",
                   float(str(a)), b)
    assert len(ours) - len(rest) == 7
    assert rest == old


def test_behavior_factors(verify: Verify) -> None:
    text = (files("undatum.standards.en1998") / "data" / "systems.csv").read_text(encoding="utf-8")
    ours = {r["row"]: r for r in csv.DictReader(
        x for x in text.splitlines() if not x.startswith("#"))}
    second = {row.strip(): left.split() for left, row in (x.split("|") for x in lines("en1998"))}
    assert set(ours) == set(second)
    for row, (medium, high, ratio) in second.items():
        r = ours[row]
        assert (r["DCM"], r["DCH"]) == (medium, high), row
        verify("en1998", "default overstrength ratio", row, float(r["ratio"]), float(ratio))
        for name, value in (("DCM", medium), ("DCH", high)):
            if value != "NA":
                verify("en1998", f"basic behavior factor, {name}", row,
                       float(r[name].rstrip("*")), float(value.rstrip("*")))


@pytest.mark.parametrize(("edition", "column"), [("2016", 0), ("2002", 1)])
def test_reduction_factors(edition: str, column: int, verify: Verify) -> None:
    ours = shipped(f"is1893-{edition}")
    second = {row.strip(): left.split()[column] for left, row in
              (x.split("|") for x in lines("is1893"))}
    second = {row: value for row, value in second.items() if value != "-"}
    assert set(ours) == set(second)
    for row, value in second.items():
        verify("is1893", f"R, {edition}", row, float(ours[row][0]), float(value))
