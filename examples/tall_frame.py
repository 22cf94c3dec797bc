"""Twelve stories of slender moment frames: drift governs, and gravity makes it worse.

A made-up hotel. First with the standard's factor on drift, then with second order in the stiffness,
then with columns and beams a size larger.
"""

import undatum as ud


def hotel(column: str, beam: str) -> ud.Building:
    """Frames on a grid of 7 m, columns and beams of one size."""
    return ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..4", spacing=7.0),
                     across_y=ud.AxisFamily(names="A..C", spacing=7.0)),
        stories=ud.Stories(heights={"L1": 4.8, "L2..L11": 3.3, "Roof": 3.3}, outline="all",
                           floor="rooms"),
        outlines={"all": ud.Stretch(between=("A1", "C4"), beyond=0.5)},
        floors={"rooms": [ud.Load(name="slab", kind="dead", per_area="5.5 kPa"),
                          ud.Load(name="partitions", kind="partition", per_area="1.0 kPa"),
                          ud.Load(name="rooms", kind="live", per_area="2.0 kPa")]},
        sections={"column": ud.CrossSection(rectangle=column, material="C35/45"),
                  "beam": ud.CrossSection(rectangle=beam, material="C35/45")},
        members=(ud.MemberRule(columns="all", section="column", kept=ud.KeptShares(
                     bending_y=0.7, bending_z=0.7, reason="cracked columns")),
                 ud.MemberRule(beams="all", section="beam", kept=ud.KeptShares(
                     bending_y=0.35, bending_z=0.35, reason="cracked beams"))))


print("columns       beams         second order    T_X (s)  theta  drift/limit X  governing story")
for column, beam in (("550 x 550 mm", "300 x 550 mm"), ("700 x 700 mm", "400 x 700 mm")):
    for how in ("by factor", "by axial force"):
        r = ud.analyze(
            title="Hotel", standard="asce7-16", results_in="kN and m", building=hotel(column, beam),
            site={"ss": 1.35, "s1": 0.52, "long_period": 8, "site_class": "C",
                  "risk_category": "II"},
            system={"X": {"row": "C.5"}, "Y": {"row": "C.5"}},
            analysis={"second_order": how, "modes": 12})
        theta = max(float(s.answer.coefficient.max()) for s in r.stability if s.direction == "X")
        place = r.drift.governing(0)
        print(f"{column:14}{beam:14}{how:15} {r.modes.periods[r.modes.governing(0)]:7.3f}"
              f"  {theta:5.3f}  {r.drift.use[place][0]:13.2f}  {r.drift.levels[place[2]]}")
second = r.model.second_order
assert second is not None
print(f"\nGravity would have to grow {second.buckling:.1f} times for the larger frames to buckle. "
      "Where theta is\nabove 0.1 the factor on drift and the stiffness with gravity in it tell "
      "nearly the same story.")
