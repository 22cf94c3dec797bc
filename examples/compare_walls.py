"""How long must the walls be? The same clinic with walls from 2.5 to 5 m, drift against limit."""

import undatum as ud

clinic = ud.shipped_project("clinic")
walls = ("Wall W", "Wall E")

print("wall length (m)   T_Y (s)   static V/W   drift Y over limit")
for length in (2.5, 3.0, 4.0, 5.0):
    results = ud.run(clinic.varied({
        f"building.lines[{wall}].cantilever.length": length for wall in walls}))
    place = results.drift.governing(1)
    print(f"{length:15.1f} {results.modes.periods[results.modes.governing(1)]:9.3f} "
          f"{results.statics['Y', 'strength'].shear.coefficient:12.4f} "
          f"{results.drift.use[place][1]:20.2f}")
