"""A core with doors: its actions, its coupling beams, and what half the mesh would change."""

import undatum as ud

ENDS = {"south": ((4, 4), (11, 4)), "east": ((11, 4), (11, 10)), "north": ((11, 10), (4, 10)),
        "west": ((4, 10), (4, 4))}
DOOR = ud.Opening(from_start="2.8 m", width="1.4 m", height="2.3 m")


def core(mesh: str) -> ud.Project:
    plan = [(0, 0), (15, 0), (15, 14), (0, 14)]
    building = ud.Building(
        stories=ud.Stories(heights={"L1": "4 m", "L2..L6": "3.2 m"}, outline="plan", floor="floor"),
        outlines={"plan": plan}, wall_mesh=mesh, cores={"lift": list(ENDS)},
        floors={"floor": [ud.Load(name="slab", kind="dead", per_area="7 kPa")]},
        walls=[ud.Wall(name=name, between=ends, thickness="250 mm", material="C35/45",
                       openings=[DOOR] if name in ("south", "north") else [])
               for name, ends in ENDS.items()])
    return ud.make_project(
        title="Core", standard="asce7-16", building=building, results_in="kN and m",
        site={"ss": 0.8, "s1": 0.3, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={"X": {"row": "B.4"}, "Y": {"row": "B.4"}})


results = ud.run(core("1 m"))
print(results.read("cores", "lift", "static X, strength").table().to_frame(
    results.units).tail(4).to_string(index=False))
beams = results.read("walls", "south", "envelope")
largest = max((v[1], story) for part, story, v in zip(
    beams.thing.places["part"], beams.thing.places["story"], beams.values[0], strict=True)
    if part.startswith("over"))
print(f"\nlargest shear of a coupling beam: {largest[0] / 1e3:.0f} kN, over the door at "
      f"{largest[1]}")
finer = ud.run(core("0.5 m"))
print("half the mesh: periods", ", ".join(
    f"{b / a - 1:+.2%}" for a, b in zip(results.modes.periods[:3], finer.modes.periods[:3],
                                        strict=True)))
