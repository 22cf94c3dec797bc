"""A building, a site, and a checked design in about fifteen lines."""

import undatum as ud

plan = [(0, 0), (24, 0), (24, 15), (0, 15)]
floor = [ud.Load(name="floor", kind="dead", per_area="5.4 kPa"),
         ud.Load(name="facade", kind="cladding", per_edge="3.2 kN/m")]
levels = [ud.Level(name=n, height="3.6 m", outline=plan, loads=floor) for n in ("L4", "L3", "L2")]
levels.append(ud.Level(name="Ground", outline=plan))
lines = [ud.Line(name=f"{d} at {at}", at=at, direction=d, bottom="Ground", top="L4", stiffness=k)
         for d, at, k in [("X", (12, 0), "110 kN/mm"), ("X", (12, 15), "110 kN/mm"),
                          ("Y", (0, 7.5), "160 kN/mm"), ("Y", (24, 7.5), "160 kN/mm")]]
results = ud.analyze(
    title="Three stories", standard="asce7-16", results_in="kN and m",
    site={"ss": 0.9, "s1": 0.35, "long_period": 8, "site_class": "C", "risk_category": "II"},
    system={"X": {"row": "C.1"}, "Y": {"row": "B.2"}},
    building=ud.Building(levels=levels, lines=lines))
print(results)
print(results.to_frame("drift_x")[["story", "set", "design drift (mm)", "use"]])
