"""How long must the walls be? The same clinic with walls from 2.5 to 5 m, drift against limit."""

from importlib.resources import files

import undatum as ud

clinic = ud.read(str(files("undatum.project") / "starters" / "clinic.toml"))

print("wall length (m)   T_Y (s)   static V/W   drift Y over limit")
for length in (2.5, 3.0, 4.0, 5.0):
    lines = [
        line.model_copy(update={
            "cantilever": line.cantilever.model_copy(update={"length": length})
        }) if line.name in ("Wall W", "Wall E") else line
        for line in clinic.building.lines
    ]
    building = clinic.building.model_copy(update={"lines": lines})
    results = ud.run(clinic.model_copy(update={"building": building}))
    place = results.drift.governing(1)
    print(f"{length:15.1f} {results.modes.periods[results.modes.governing(1)]:9.3f} "
          f"{results.statics['Y', 'strength'].shear.coefficient:12.4f} "
          f"{results.drift.use[place][1]:20.2f}")
