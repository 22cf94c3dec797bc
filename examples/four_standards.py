"""One clinic under four standards: what each asks of the same frames and walls.

Not a contest: hazard levels, reductions and limits of a standard belong together.
"""

from collections.abc import Callable

import undatum as ud

clinic = ud.shipped_project("clinic")
jobs = {r.project.standard: r for r in ud.side_by_side(clinic).of_structure
        if r.project.standard in ("asce7-16", "en1998", "is1893-2016", "ubc97")}

print(f"{'':30}" + "".join(f"{key:>14}" for key in jobs))
rows: dict[str, Callable[[ud.Results], float]] = {
    "weight (kN)": lambda r: r.weights.total / 1e3,
    "period of Y (s)": lambda r: float(r.modes.periods[r.modes.governing(1)]),
    "static base shear Y over W": lambda r: r.statics["Y", "strength"].shear.coefficient,
    "spectrum base shear Y (kN)": lambda r: r.dynamic[1].base_shear / 1e3,
    "factor on spectrum forces Y": lambda r: next(
        s.answer.factor for s in r.scaling if s.direction == "Y" and s.state == r.strength),
    "drift over its limit, Y": lambda r: r.drift.largest_use("Y"),
    "accidental eccentricity": lambda r: max(
        (abs(s.accidental / s.forces)[s.forces > 0].max()
         / r.model.diaphragms.across("Y")[0] for s in r.static_sets
         if s.direction == "Y" and s.state == r.strength), default=0.0),
}
for name, of in rows.items():
    print(f"{name:30}" + "".join(f"{of(r):14.4g}" for r in jobs.values()))
print("\nThe period used for the static forces, and why:")
for key, r in jobs.items():
    shear = r.statics["Y", "strength"].shear
    print(f"  {key:12} {shear.period:.3f} s, {shear.why}; {shear.governing}")
