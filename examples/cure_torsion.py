"""A library twists: one wall stands near the west end. Where must the second one stand?

Four stories on the made-up Pollard Street, frames along X, walls along Y. Every step moves the
east wall further out and asks the same questions again.
"""

import undatum as ud

plan = [(0, 0), (36, 0), (36, 15), (0, 15)]
floor = [ud.Load(name="slab and finishes", kind="dead", per_area="6.0 kPa"),
         ud.Load(name="books", kind="storage", per_area="4.0 kPa"),
         ud.Load(name="facade", kind="cladding", per_edge="4.0 kN/m")]
levels = [*(ud.Level(name=f"L{n}", height="4.2 m", outline=plan, loads=floor)
            for n in (4, 3, 2, 1)), ud.Level(name="Street", outline=plan)]
wall = ud.Cantilever(modulus="30 GPa", length="5 m", thickness="300 mm", flexural_share=0.5,
                     shear_share=0.5)


def library(east: float) -> ud.Building:
    """The building with its second wall at ``east`` m."""
    frames = [ud.Line(name=f"frame {side}", at=(18, y), direction="X", bottom="Street", top="L4",
                      stiffness="210 kN/mm") for side, y in (("south", 0), ("north", 15))]
    walls = [ud.Line(name=f"wall {side}", at=(x, 7.5), direction="Y", bottom="Street", top="L4",
                     cantilever=wall) for side, x in (("west", 2), ("east", east))]
    return ud.Building(levels=levels, lines=[*frames, *walls])


print("east wall (m)  CM-CR (m)  torsion ratio  A_x     drift/limit Y  what the standard says")
for east in (12, 20, 28, 34):
    r = ud.analyze(
        title="Library on Pollard Street", standard="asce7-16", results_in="kN and m",
        site={"ss": 1.0, "s1": 0.38, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={"X": {"row": "C.1"}, "Y": {"row": "B.4"}}, building=library(east))
    apart = float(r.model.diaphragms.centers[0, 0] - r.rigidity[0, 0])
    torsion = r.torsion["Y"]
    ratio = float(torsion.facts.drift_ratios[:, :4].max())
    said = next(f for f in r.findings
                if f.check == "torsional irregularity" and f.where.startswith("direction Y"))
    print(f"{east:13}  {apart:9.2f}  {ratio:13.2f}  {torsion.factors.max():4.2f}"
          f"  {r.drift.largest_use('Y'):13.2f}  {said.text.split(':')[0]}")
print("\nThe wall near the middle leaves the east end free to swing; at 34 m the center of rigidity"
      "\nlies under the center of mass, and what is left is the accidental eccentricity.")
