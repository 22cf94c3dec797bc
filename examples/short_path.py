"""Before anything is drawn: heights and weights give a base shear in a minute.

The same made-up depot from one weight and one height, then story by story, then under another
standard: what a first meeting needs.
"""

import undatum as ud

site = {"ss": 1.1, "s1": 0.42, "long_period": 8, "site_class": "C", "risk_category": "II"}
system = {"X": {"row": "B.2"}, "Y": {"row": "B.2"}}
rough = ud.run_stack(ud.make_stack(
    title="Depot, one weight", standard="asce7-16", results_in="kN and m", site=site, system=system,
    stack={"heights": {"Roof": 18.0}, "weights": {"Roof": 2.4e7}, "plan": [40.0, 24.0]}))
finer = ud.run_stack(ud.make_stack(
    title="Depot, story by story", standard="asce7-16", results_in="kN and m", site=site,
    system=system,
    stack={"heights": {"L1": 6.0, "L2..L3": 4.0, "Roof": 4.0},
           "weights": {"L1..L3": 6.4e6, "Roof": 4.8e6}, "plan": [40.0, 24.0]}))
elsewhere = ud.run_stack(ud.make_stack(
    title="Depot, EN 1998-1", standard="en1998", results_in="kN and m",
    site={"reference_acceleration": 0.28, "ground_type": "B", "importance_class": "II",
          "use": "E"},
    system={d: {"row": "steel diagonal bracing", "regular_in_plan": True,
                "regular_in_elevation": True} for d in ("X", "Y")},
    stack={"heights": {"L1": 6.0, "L2..L3": 4.0, "Roof": 4.0},
           "weights": {"L1..L3": 6.4e6, "Roof": 4.8e6}, "plan": [40.0, 24.0]}))

for r in (rough, finer, elsewhere):
    shear = r.statics["X", "strength"].shear
    print(f"{r.project.title:24} V = {shear.base_shear / 1e3:6.0f} kN = {shear.coefficient:.4f} W, "
          f"T = {shear.period:.3f} s ({shear.why}); {shear.governing}")
print()
print(finer.statics["X", "strength"].table().to_frame(finer.units).round(3).to_string(index=False))
print("\nOne mass at the roof puts all of the force there; story by story it is spread. What needs "
      "stiffness\n(drift, torsion, P-Delta) is named as not judged in the findings of every run.")
