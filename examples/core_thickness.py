"""How thick must a core be? Its thickness and the concrete against drift, period and base shear."""

import tempfile

import undatum as ud

ENDS = {"south": ((4, 4), (10, 4)), "east": ((10, 4), (10, 9)), "north": ((10, 9), (4, 9)),
        "west": ((4, 9), (4, 4))}
building = ud.Building(
    stories=ud.Stories(heights={"L1": "4 m", "L2..L18": "3.2 m"}, outline="plan", floor="floor"),
    outlines={"plan": [(0, 0), (14, 0), (14, 13), (0, 13)]}, wall_mesh="3 m",
    cores={"lift": list(ENDS)},
    floors={"floor": [ud.Load(name="slab", kind="dead", per_area="7 kPa")]},
    walls=[ud.Wall(name=name, between=ends, thickness="250 mm", material="C35/45",
                   openings=[ud.Opening(from_start="2.3 m", width="1.4 m", height="2.3 m")]
                   if name in ("south", "north") else [],
                   kept=ud.WallShares(bending=0.5, shear=0.5, reason="cracked"))
           for name, ends in ENDS.items()])
project = ud.make_project(
    title="Core", standard="asce7-16", building=building, results_in="kN and m",
    site={"ss": 1.2, "s1": 0.42, "long_period": 8, "site_class": "D", "risk_category": "II"},
    system={"X": {"row": "B.4"}, "Y": {"row": "B.4"}})

family = ud.Family(project, ud.Variants(
    vary=[ud.Parameter(name="thickness", path="building.walls[*].thickness",
                       between=("200 mm", "500 mm"), steps=4),
          ud.Parameter(name="concrete", path="building.walls[*].material",
                       values=["C25/30", "C35/45"])],
    keep=["periods", "base shear", "drift"]))
with tempfile.TemporaryDirectory() as folder:
    found = ud.run_family(family, f"{folder}/family")
print("thickness  concrete    period  base shear X  drift use X")
for i in range(len(found)):
    thickness, concrete = found.settings[i]
    print(f"{thickness:>9}  {concrete:>8}  {found.of('period of mode 1')[i]:6.2f} s  "
          f"{found.of('static base shear X')[i] / 1e3:9.0f} kN  {found.of('drift use X')[i]:11.2f}")
enough = [i for i in range(len(found)) if max(found.of("drift use X")[i],
                                              found.of("drift use Y")[i]) <= 1]
least = min(enough, key=lambda i: float(found.settings[i][0].split()[0]))
print(f"\nthe thinnest that meets the drift limit: {found.settings[least][0]} of "
      f"{found.settings[least][1]}")
