"""One building, three earthquakes: criteria of an owner with a limit state for each.

The frequent earthquake asks for stiffness, the design one for strength, the rare one for room to
move. The criteria are `owner/three_hazards.toml`; which limit governs is told story by story.
"""

from pathlib import Path

import undatum as ud

OUTLINE = [(0, 0), (24, 0), (24, 15), (0, 15)]
building = ud.Building(
    levels=[*(ud.Level(name=name, height=height, outline=OUTLINE, loads=[
        ud.Load(name="floor", kind="dead", per_area="4.2 kPa"),
        ud.Load(name="equipment", kind="equipment", per_area="1.1 kPa")])
        for name, height in (("Roof", 4.0), ("L3", 4.0), ("L2", 4.0), ("L1", 5.0))),
        ud.Level(name="Ground", outline=OUTLINE)],
    lines=[ud.Line(name=f"{d} {k}", at=at, direction=d, bottom="Ground", top="Roof",
                   stiffness=["24 MN/m", "28 MN/m", "32 MN/m", "30 MN/m"])
           for d, places in (("X", [(12, 0), (12, 15)]), ("Y", [(0, 7.5), (24, 7.5)]))
           for k, at in enumerate(places, 1)])

project = ud.make_project(
    title="Filter house", standard="three_hazards.toml", results_in="kN and m", building=building,
    site={}, system={d: {"row": "steel frame"} for d in "XY"},
    drift={"structure": "process structures"}, folder=Path(__file__).parent / "owner")
r = ud.run(project)

print("limit state   V_X static (kN)   largest drift / h along X and Y   limit")
for state in r.states:
    static = r.statics["X", state.key].shear.base_shear / 1e3
    line = f"{state.key:13} {static:15.0f}"
    if state.role == "drift":
        check = r.drifts[state.key]
        most = [check.largest_use(d) * check.limits[c] for c, d in enumerate("XY")]
        line += f" {most[0]:21.4f} {most[1]:10.4f} {check.limits[0]:9.4f}"
        line += "  exceeded" if max(check.largest_use(d) for d in "XY") > 1 else ""
    print(line)
story = r.drift.levels[r.drift.governing(1)[2]]
use = r.drift.largest_use("Y")
print(f"\nThe {r.drift.state.key} earthquake decides: {use:.0%} of its limit along Y, in {story}.")
paths = [f"building.lines[direction={d}].stiffness" for d in "XY"]
cure = ud.cure(project, paths)
print("Stiffness that meets the limits of all three: "
      + ", ".join(f"{d} times {f:.2f}" for d, f in zip("XY", cure.factors, strict=True)))
