"""A tower on a podium: what the podium's floor takes back from the core, with a floor that is stiff
and one that is cracked, and the envelope of both."""

import numpy as np

import undatum as ud

Points = list[tuple[float, float]]
TOWER: Points = [(12, 9), (30, 9), (30, 24), (12, 24)]
PODIUM: Points = [(0, 0), (42, 0), (42, 33), (0, 33)]
CORE: Points = [(18, 13.5), (24, 13.5), (24, 19.5), (18, 19.5)]


def tower(kept: float) -> ud.Results:
    """Ten stories on two, with this share of the stiffness of the podium's floors kept."""
    def ring(prefix: str, points: Points, thickness: str,
             levels: str = "all") -> list[ud.Wall]:
        return [ud.Wall(name=f"{prefix} {side}", between=[a, b], levels=levels,
                        thickness=thickness, material="C35/45")
                for side, a, b in zip(("south", "east", "north", "west"), points,
                                      [*points[1:], points[0]], strict=True)]

    floor = ud.DeformingFloor(
        deforms="300 mm", material="C35/45", mesh="3 m",
        kept=ud.WallShares(bending=kept, shear=kept, reason="bound of the floor's stiffness"))
    loads = [ud.Load(name="slab", kind="dead", per_area="8 kPa")]
    levels = [
        *(ud.Level(name=f"T{k}", height="3.4 m", outline=TOWER, loads=loads)
          for k in range(10, 0, -1)),
        *(ud.Level(name=f"P{k}", height="4 m", outline=PODIUM, loads=loads) for k in (2, 1)),
        ud.Level(name="Ground", outline=PODIUM)]
    return ud.run(ud.make_project(
        title="Tower on a podium", standard="asce7-22", results_in="kN and m",
        site={"sms": 1.1, "sm1": 0.6, "s1": 0.35, "ss": 0.9, "long_period": 8, "site_class": "C",
              "risk_category": "II"},
        system={d: {"row": "B.4"} for d in ("X", "Y")},
        building=ud.Building(
            levels=levels, cores={"core": [f"core {s}" for s in ("south", "east", "north",
                                                                 "west")]},
            walls=[*ring("core", CORE, "350 mm"), *ring("edge", PODIUM, "300 mm", "P1..P2")],
            axes=ud.Axes(across_x=ud.AxisFamily(names="1..8", spacing=6.0),  # to cut floors along
                         across_y=ud.AxisFamily(names="A..G", spacing=5.5)),
            wall_mesh="2 m", diaphragms={"P1..P2": floor})))


found = {}
for kept in (1.0, 0.1):
    results = tower(kept)
    load = next(s.name for s in results.static_sets if s.direction == "Y" and s.sign >= 0)
    read = results.read("cores", "core", under=load)
    places = zip(read.thing.places["story"], read.thing.places["at"], strict=True)
    found[kept] = dict(zip(places, np.asarray(read.values[0]).reshape(-1, 6), strict=True))
    passed = results.table("floor_transfer_forces").to_frame("kN and m").filter(like="shear")
    print(f"floor with {kept:.0%} of its stiffness: first period {results.modes.periods[0]:.3f} s,"
          f" largest transfer shear in a cut {passed.abs().max().item():.0f} kN")

print("\nstory   shear Y of the core (kN): stiff   cracked   moment X at its foot (MN m): stiff"
      "   cracked   envelope")
for story in ("T2", "T1", "P2", "P1"):
    stiff, soft = (found[kept][story, "foot"] for kept in (1.0, 0.1))
    print(f"{story:5s} {stiff[2] / 1e3:33.0f} {soft[2] / 1e3:9.0f} {stiff[4] / 1e6:36.1f}"
          f" {soft[4] / 1e6:9.1f} {max(abs(stiff[4]), abs(soft[4])) / 1e6:10.1f}")
