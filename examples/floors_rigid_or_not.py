"""A hall between end walls and one in the middle: what a rigid floor hides, and a deck changes."""

import undatum as ud

LENGTH, DEPTH = 48.0, 12.0
PLAN = [(0, 0), (LENGTH, 0), (LENGTH, DEPTH), (0, DEPTH)]


def hall(floor: ud.DeformingFloor | None) -> ud.Project:
    walls = [
        *(ud.Wall(name=name, between=[(x, 0), (x, DEPTH)], thickness="250 mm", material="C30/37")
          for name, x in (("west", 0.0), ("middle", LENGTH / 2), ("east", LENGTH))),
        *(ud.Wall(name=f"{side} {k}", between=[(x, y), (x + 4, y)], thickness="200 mm",
                  material="C30/37") for side, y in (("south", 0.0), ("north", DEPTH))
          for k, x in enumerate((10.0, 34.0), 1))]
    building = ud.Building(
        levels=[ud.Level(name="Roof", height="6 m", outline=PLAN, loads=[
            ud.Load(name="roof", kind="dead", per_area="4.5 kPa")]),
            ud.Level(name="Ground", outline=PLAN)],
        walls=walls, diaphragms={} if floor is None else {"Roof": floor})
    return ud.make_project(
        title="Hall", standard="asce7-16", building=building, results_in="kN and m",
        site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={"X": {"row": "B.4"}, "Y": {"row": "B.4"}})


print("floor                first period (s)   of the shear along Y, middle wall   test 12.3.1.3")
for name, floor in (
    ("rigid", None), ("slab of 150 mm", ud.DeformingFloor(deforms="150 mm", material="C30/37")),
    ("deck, 15 MN/m", ud.DeformingFloor(shear_stiffness="15 MN/m")),
):
    results = ud.run(hall(floor))
    load = next(s.name for s in results.static_sets if s.direction == "Y")
    read = results.read("walls", under=load)
    shear = {wall: abs(values[1]) for wall, part, at, values in zip(
        read.thing.places["wall"], read.thing.places["part"], read.thing.places["at"],
        read.values[0], strict=True) if at == "head"}
    share = shear["middle"] / sum(shear[w] for w in ("west", "middle", "east"))
    judged = [j for j in results.floors if j.direction == "Y"]
    test = f"{judged[0].ratio:.2f} of {judged[0].test.limit:g}" if judged else "taken as rigid"
    print(f"{name:20s} {results.modes.periods[0]:16.3f} {share:36.1%}   {test}")
