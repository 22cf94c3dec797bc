"""The hazard of several places from one gridded file, and what it does to a base shear."""

from pathlib import Path

import undatum as ud

folder = Path(__file__).parent / "located"
plan = [(0, 0), (24, 0), (24, 15), (0, 15)]
floor = [ud.Load(name="floor", kind="dead", per_area="5.4 kPa")]
levels = [ud.Level(name=n, height="3.6 m", outline=plan, loads=floor) for n in ("L4", "L3", "L2")]
levels.append(ud.Level(name="Ground", outline=plan))
lines = [ud.Line(name=f"{d} at {at}", at=at, direction=d, bottom="Ground", top="L4", stiffness=k)
         for d, at, k in [("X", (12, 0), "110 kN/mm"), ("X", (12, 15), "110 kN/mm"),
                          ("Y", (0, 7.5), "160 kN/mm"), ("Y", (24, 7.5), "160 kN/mm")]]
building = ud.Building(levels=levels, lines=lines)

print("longitude   S_S (g)   S_DS (g)   V/W in X   vertical plateau (g)")
for longitude in (-21.5, -21.0, -20.5, -20.0):
    place = ud.Location(latitude=-40.1, longitude=longitude, file="hazard.csv")
    found = ud.look_up(place, folder)
    site = {"location": place, "looked_up": found, "site_class": "C", "risk_category": "II"}
    results = ud.analyze(title="Shop", standard="asce7-16", building=building, site=site,
                         system={"X": {"row": "C.1"}, "Y": {"row": "B.2"}})
    p = results.site.parameters
    vertical = results.shaking.vertical
    up = float(vertical(0.1)) / 9.80665 if vertical else float("nan")
    print(f"{longitude:9.1f} {p['S_S']:9.3f} {p['S_DS']:10.3f}"
          f"{results.statics['X', 'strength'].shear.coefficient:11.4f} {up:14.3f}")
print(f"{found.source}, edition {found.edition}; {found.how}")
