"""One reading: section forces, drift, nodes and stories under sets, cases and combinations.

    python examples/anything_under_anything.py
"""

from __future__ import annotations

import undatum as ud
from undatum.readings.layouts import Reading

terrace = ud.shipped_project("terrace").varied({
    "drift.columns": ["columns on B"],
    "combinations": [{"name": "sustained", "kind": "service", "reason": "serviceability brief",
                      "factors": {"dead": 1.0, "live": 0.3}}]})
r = ud.run(terrace)


def show(title: str, reading: Reading, rows: int) -> None:
    print(f"\n{title}")
    print(reading.table().to_frame(r.units).head(rows).to_string(index=False))


show("How far the floors lean under dead load", r.read("drift", "center of mass", "dead"), 6)
show("How far a node moves in a combination of one's own",
     r.read("motion", "columns on A1 at Roof", "sustained"), 2)
show("What a column is designed for at once",
     r.read("forces", "column B2 at L1", "1.4 D", at=(0.0,)), 1)
show("The largest and smallest reactions of a foot",
     r.read("reactions", "B2", "strength, redundancy"), 6)
show("Story forces, mode by mode", r.read("stories", "L1", "mode 1"), 2)

array = r.read("drift", "center of mass", "static*drift").array
first = ", ".join(array.axes[0].labels["set"][:2])
print(f"\n{array.values.shape[0]} sets as an array with labels: {first} ...")
