"""Run a shipped project, read single results, and write everything a colleague needs."""

import sys
from importlib.resources import files
from pathlib import Path

import undatum as ud
from undatum.report.files import write_all

out = Path(sys.argv[1] if len(sys.argv) > 1 else "clinic-results")
project = ud.read(str(files("undatum.project") / "starters" / "clinic.toml"))
results = ud.run(project)

# Every number from the standard carries its working.
print(results.statics["X", "strength"].shear.working)

# Arrays, in SI, by level from the top down.
print("story shears, kN:", results.statics["X", "strength"].story_shears / 1e3)
print("periods, s:", results.modes.periods[:3].round(3), results.modes.kinds[:3])

# What was judged, and how close it is.
for finding in results.findings:
    if finding.ratio is not None:
        print(f"{finding.severity:8} {finding.ratio:5.2f}  {finding.check}: {finding.where}")

ud.figures.drift(results)  # a Matplotlib figure, to show or to save
for path in write_all(results, out):
    print(path)
