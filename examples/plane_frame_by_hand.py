"""A portal by hand and by program: stiffness, period, base shear and the moment at a foot.

One bay of 6 m, one story of 4 m, columns clamped, the beam of finite stiffness. Slope deflection
gives K = 24 E I_c / h^3 (6 k + 1) / (6 k + 4) with k = (I_b / L) / (I_c / h).
"""

import math

import undatum as ud

E, h, L, width = 30e9, 4.0, 6.0, 5.0
column, beam = 0.40, (0.30, 0.60)  # square; width and depth
load = 8.0e3  # N/m2 on the strip of floor that the frame carries

portal = ud.Building(
    plane="X", self_weight=False,
    axes=ud.Axes(across_x=ud.AxisFamily(names="1..2", spacing=L),
                 across_y=ud.AxisFamily(names=["A"], at=(0.0,))),
    stories=ud.Stories(heights={"Roof": h}, outline="strip", floor="roof"),
    outlines={"strip": ud.Outline(points=[(0, -width / 2), (L, -width / 2), (L, width / 2),
                                          (0, width / 2)])},
    floors={"roof": [ud.Load(name="roof", kind="dead", per_area=load)]},
    materials={"stiff": ud.Material(modulus=E, poisson=0.2, unit_weight=24e3)},
    sections={"C": ud.CrossSection(rectangle=(column, column), material="stiff"),
              "B": ud.CrossSection(rectangle=beam, material="stiff")},
    members=(ud.MemberRule(columns="all", section="C", shear_deformation=False,
                           axial_deformation=False),
             ud.MemberRule(beams="all", section="B", shear_deformation=False)))
r = ud.analyze(
    title="Portal", standard="asce7-16", results_in="kN and m", building=portal,
    system={"X": {"row": "C.7"}},
    site={"ss": 0.8, "s1": 0.3, "long_period": 8, "site_class": "C", "risk_category": "II"},
    analysis={"accidental_torsion": "as required"})

I_c, I_b = column**4 / 12, beam[0] * beam[1] ** 3 / 12
k = (I_b / L) / (I_c / h)
stiffness = 24 * E * I_c / h**3 * (6 * k + 1) / (6 * k + 4)
weight = load * L * width
period = 2 * math.pi * math.sqrt(weight / 9.80665 / stiffness)
shear = r.statics["X", "strength"].shear
foot = shear.base_shear * h / 2 * (3 * k + 1) / (6 * k + 1)  # of each column, from the same formula
foot_forces = r.read("forces", "column A1 at Roof", "static X, strength", at=(0.0,))
forces = foot_forces.table().to_frame(r.units)
own = float(abs(forces["moment_z (kN·m)"].iloc[0]))

print(f"{'':34}{'by hand':>12}{'by program':>12}")
for name, by_hand, found in (
    ("seismic weight (kN)", weight / 1e3, r.weights.total / 1e3),
    ("period (s)", period, float(r.modes.periods[0])),
    ("S_DS / (R / I_e)", r.site.parameters["S_DS"] / 3.0, shear.coefficient),
    ("base shear (kN)", r.site.parameters["S_DS"] / 3.0 * weight / 1e3, shear.base_shear / 1e3),
    ("moment at the foot (kN m)", foot / 1e3, own),
    ("elastic drift (mm)", shear.base_shear / stiffness * 1e3,
     float(r.drift.elastic[0, 0, 0, 0]) * 1e3),
):
    print(f"{name:34}{by_hand:12.4f}{found:12.4f}")
