"""Three light stories on a stiff one: two portions, each a structure of its own."""

import undatum as ud

outline = [(0, 0), (24, 0), (24, 15), (0, 15)]
levels = [
    {"name": name, "height": height, "outline": outline, "loads": [
        {"name": "floor", "kind": "dead", "per_area": load}]}
    for name, height, load in (("Roof", "3 m", "1.5 kPa"), ("L3", "3 m", "2.5 kPa"),
                               ("L2", "3 m", "2.5 kPa"), ("Podium", "4 m", "9 kPa"))]
lines = [
    {"name": f"{word} {d}{k}", "at": at, "direction": d, "bottom": bottom, "top": top,
     "stiffness": stiffness}
    for word, bottom, top, stiffness in (("panel", "Podium", "Roof", "25 MN/m"),
                                         ("wall", "Street", "Podium", "900 MN/m"))
    for d, places in (("X", [(12, 0), (12, 15)]), ("Y", [(0, 7.5), (24, 7.5)]))
    for k, at in enumerate(places)]
project = ud.make_project(
    title="Rooms over shops", standard="asce7-16", results_in="kN and m",
    site={"ss": 1.2, "s1": 0.45, "long_period": 8, "site_class": "C", "risk_category": "II"},
    system={"X": {"row": "A.15"}, "Y": {"row": "A.15"}},  # the upper portion: light-frame walls
    two_stage={"level": "Podium",  # the lower one: concrete walls
               "X": {"row": "A.1"}, "Y": {"row": "A.1"}},
    building={"levels": [*levels, {"name": "Street", "outline": outline}], "lines": lines})

results = ud.run(project)
for finding in results.findings:
    if "two-stage" in finding.check and "X" in finding.where:
        print(finding.text)
table = results.to_frame("two_stage")
print(table[table["direction"] == "X"].to_string(index=False))
shears = results.read("lines", "wall X0", "lower portion X*").table()
print(shears.to_frame(results.units).to_string(index=False))
