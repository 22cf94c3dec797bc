"""A building, a site, and a checked design in about fifteen lines."""

import undatum as ud

floor = [
    ud.Load(name="slab and finishes", kind="dead", per_area="4.6 kPa"),
    ud.Load(name="partitions", kind="partition", per_area="0.8 kPa"),
    ud.Load(name="facade", kind="cladding", per_edge="3.2 kN/m"),
]
plan = [(0, 0), (24, 0), (24, 15), (0, 15)]
names = ["Roof", "L4", "L3", "L2"]
levels = [ud.Level(name=n, height="3.6 m", outline=plan, loads=floor) for n in names]
lines = [
    ud.Line(name=f"{d} at {at}", at=at, direction=d, bottom="Ground", top="Roof", stiffness=k)
    for d, at, k in [("X", (12, 0), 1.1e8), ("X", (12, 15), 1.1e8),
                     ("Y", (0, 7.5), 1.6e8), ("Y", (24, 7.5), 1.6e8)]
]
results = ud.analyze(
    title="Four stories", standard="asce7-16", units="kN, m",
    site={"ss": 0.9, "s1": 0.35, "long_period": 8, "site_class": "C", "risk_category": "II"},
    system={"X": {"row": "C.1"}, "Y": {"row": "B.2"}},
    building=ud.ConceptBuilding(levels=[*levels, ud.Level(name="Ground", outline=plan)],
                                lines=lines),
)
print(results)
print(results.to_frame("drift_x")[["story", "set", "design drift (mm)", "use"]])
