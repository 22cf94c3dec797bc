"""How sure is a drift? Stiffness, mass and shaking of a frame with their spread."""

import tempfile

import undatum as ud

project = ud.shipped_project("starter")
family = ud.Family(project, ud.Variants(
    vary=[ud.Parameter(name="shaking", path=["site.ss", "site.s1"], times=True,
                       lognormal=ud.Lognormal(spread=0.25)),
          ud.Parameter(name="stiffness", path="building.lines[*].stiffness", times=True,
                       lognormal=ud.Lognormal(spread=0.2)),
          ud.Parameter(name="dead load", times=True,
                       path="building.floors.office[slab on deck].per_area",
                       normal=ud.Normal(mean=1.05, deviation=0.1))],
    design="sobol", count=64, keep=["weight", "periods", "base shear", "drift"]))
nominal = ud.run(project)
with tempfile.TemporaryDirectory() as folder:
    found = ud.run_family(family, f"{folder}/family")
for name in ("drift use X", "drift use Y"):
    values = sorted(found.of(name))
    print(f"{name}: {nominal.drift.largest_use(name[-1]):.2f} nominal, "
          f"{values[3]:.2f} to {values[60]:.2f} in nine of ten, "
          f"above the limit {(found.of(name) > 1).mean():.0%}")
print(found.influence("drift use X").to_frame(found.units).to_string(index=False))
