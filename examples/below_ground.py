"""A basement below offices: how firmly does the soil hold its floors, and what does that change?

Four stories of frames on two basements with walls around them, on the made-up Tanner's Wharf. The
same building stands on basements the soil does not touch, on soil springs, and on ground that
holds the floors fully; base shear, period and drift follow, and what the ground takes.
"""

import undatum as ud

plan = [(0, 0), (30, 0), (30, 18), (0, 18)]
floor = [ud.Load(name="slab and finishes", kind="dead", per_area="6.2 kPa"),
         ud.Load(name="facade", kind="cladding", per_edge="5.0 kN/m")]
levels = [*(ud.Level(name=name, height="3.6 m", outline=plan, loads=floor)
            for name in ("L4", "L3", "L2", "L1")),
          *(ud.Level(name=name, height="3.2 m", outline=plan, loads=floor)
            for name in ("Street", "B1")),
          ud.Level(name="B2", outline=plan, elevation="-6.4 m")]
wall = ud.Cantilever(modulus="30 GPa", length="30 m", thickness="300 mm", flexural_share=0.5,
                     shear_share=0.5)
short = ud.Cantilever(modulus="30 GPa", length="18 m", thickness="300 mm", flexural_share=0.5,
                      shear_share=0.5)
lines = [
    *(ud.Line(name=f"frame {d}{k}", at=at, direction=d, bottom="B2", top="L4",
              stiffness="160 kN/mm")
      for d, places in (("X", [(15, 1), (15, 17)]), ("Y", [(1, 9), (29, 9)]))
      for k, at in enumerate(places, 1)),
    *(ud.Line(name=f"basement wall {d}{k}", at=at, direction=d, bottom="B2", top="Street",
              cantilever=section)
      for d, section, places in (("X", wall, [(15, 0), (15, 18)]),
                                 ("Y", short, [(0, 9), (30, 9)]))
      for k, at in enumerate(places, 1)),
]
springs = ud.GroundSprings(along_x="2000 kN/mm", along_y="1500 kN/mm")

print("held by the ground      T_X (s)  V_X (kN)  drift/limit X  ground at Street and B1 (kN)")
for said, held in (("not at all", {}), ("springs at Street", {"Street": springs}),
                   ("springs at both", {"B1..Street": springs}),
                   ("fully at both", {"B1..Street": "fully"})):
    r = ud.analyze(
        title="Offices on Tanner's Wharf", standard="asce7-16", results_in="kN and m",
        site={"ss": 1.1, "s1": 0.42, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={"X": {"row": "C.1"}, "Y": {"row": "C.1"}},
        building=ud.Building(levels=levels, lines=lines, base="Street", held_by_ground=held))
    shear = r.statics["X", "strength"].shear.base_shear / 1e3
    taken = ""
    if held:
        own = r.static_sets[0].of(r.model.quantities["ground force"].where(component="X"))
        taken = ", ".join(f"{abs(v) / 1e3:.0f}" for v in own)
    print(f"{said:22}  {r.computed['X']:7.3f}  {shear:8.0f}  {r.drift.largest_use('X'):13.2f}"
          f"  {taken}".rstrip())
print("\nThe walls around the basement are stiff enough by themselves: period and drift hardly"
      "\nchange. What changes is what they carry; ground that holds the street floor takes all.")
