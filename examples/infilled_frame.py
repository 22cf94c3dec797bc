"""Brick infills above an open story: what they do to period, base shear and the story below them.

A made-up hostel. The frame is first described bare, then with a strut in every bay that is filled,
as wide as the standard's rule says, then with the shops at street level closed as well.
"""

import undatum as ud

BRICK = ud.Material(modulus="3.2 GPa", poisson=0.15, unit_weight="19 kN/m^3",
                    source="550 times the strength of the masonry, 5.8 MPa")


def hostel(filled: str = "") -> ud.Building:
    """Five stories on a grid of 5 m; infills on the long sides and the ends."""
    braces = [ud.MemberRule(braces=f"on {axis} at {filled}", pattern="rising", section="infill")
              for axis in ("A", "C", "1", "5")] if filled else []
    return ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..5", spacing=5.0),
                     across_y=ud.AxisFamily(names="A..C", spacing=4.5)),
        stories=ud.Stories(heights={"L1": 3.6, "L2..L5": 3.1}, outline="all", floor="rooms"),
        outlines={"all": ud.Stretch(between=("A1", "C5"))},
        floors={"rooms": [ud.Load(name="slab", kind="dead", per_area="4.5 kPa"),
                          ud.Load(name="infills", kind="dead", per_area="1.8 kPa"),
                          ud.Load(name="rooms", kind="live", per_area="2.0 kPa")]},
        materials={"brick": BRICK},
        sections={"column": ud.CrossSection(rectangle="400 x 400 mm", material="M25"),
                  "beam": ud.CrossSection(rectangle="300 x 450 mm", material="M25"),
                  "infill": ud.CrossSection(material="brick", infill=ud.Infill(
                      thickness="230 mm", rule="IS 1893:2016"))},
        members=(ud.MemberRule(columns="all", section="column"),
                 ud.MemberRule(beams="all", section="beam"), *braces))


print("infills         T_X (s)   V_X (kN)   stiffness of L1 over L2 along X   soft stories along X")
for words, stories in (("none", ""), ("L2 to L5", "L2..L5"), ("L1 to L5", "L1..L5")):
    r = ud.analyze(
        title="Hostel", standard="is1893-2016", results_in="kN and m", building=hostel(stories),
        site={"zone": "IV", "soil": "II", "importance_factor": "1.2"},
        system={d: {"row": "RC SMRF", "regular": stories != "L2..L5", "infilled": bool(stories)}
                for d in "XY"})
    first, second = r.shape.stiffness[0][::-1][:2]
    shear = r.statics["X", "strength"].shear.base_shear / 1e3
    soft = [f.where.rpartition(" ")[2] for f in r.findings
            if f.check == "soft story" and f.severity != "ok" and "direction X" in f.where]
    print(f"{words:14} {r.computed['X']:8.3f} {shear:10.0f} {first / second:22.2f}"
          f"            {', '.join(soft) or 'none'}")
    if stories == "L2..L5":
        struts = r.to_frame("struts")
strut = struts.iloc[0]
print(f"\nA strut of {strut['clear length (m)']:.1f} m by {strut['clear height (m)']:.2f} m is "
      f"{strut['width (m)']:.2f} m wide ({strut['clause']}): {strut['why']}.")
