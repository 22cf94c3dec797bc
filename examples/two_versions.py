"""Concepts and what became of them: archive and clinic by lateral lines, and with members."""

import undatum as ud

for concept, detailed in (("archive", "archive_frames"), ("clinic", "clinic_frames")):
    versions = {"lines": ud.run(ud.shipped_project(concept)),
                "members": ud.run(ud.shipped_project(detailed))}
    unit = versions["lines"].units.label("force")

    print(f"{versions['lines'].project.title:34}{'lines':>12}{'members':>12}{'ratio':>9}")
    for axis, d in enumerate(versions["lines"].laterals):
        rows = {
            f"period in {d} (s)": [
                float(r.modes.periods[r.modes.governing(axis)]) for r in versions.values()],
            f"static base shear {d} ({unit})": [
                r.units.show(r.statics[d, "strength"].shear.base_shear, "force")
                for r in versions.values()],
            f"spectrum base shear {d} ({unit})": [
                r.units.show(r.dynamic[axis].base_shear, "force") for r in versions.values()],
            f"largest drift over limit {d}": [
                float(r.drift.use[r.drift.governing(axis)][axis]) for r in versions.values()],
        }
        for name, (lines, members) in rows.items():
            print(f"{name:34}{lines:12.4g}{members:12.4g}{members / lines:9.2f}")

    weights = [r.units.show(r.weights.total, "force") for r in versions.values()]
    print(f"{f'seismic weight ({unit})':34}{weights[0]:12.4g}{weights[1]:12.4g}"
          f"{weights[1] / weights[0]:9.2f}\n")
