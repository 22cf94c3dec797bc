"""The shipped archive drifts too far: where that comes from, and the cheapest cure."""

import undatum as ud

project = ud.shipped_project("archive")
job = ud.calculate(project)
sources = ud.drift_sources(job, "X")
print(f"{sources.use:.2f} of the limit in story {sources.story}, {sources.point}:")
for one in sources.sources[:4]:
    print(f"  {one.group:<14} {one.part / sources.elastic:6.1%} of the drift")

frames = [f"building.lines[Frame {name}].stiffness" for name in "ACE"]
alike = ud.cure(project, frames)
dear = ud.cure(project, frames, costs=[3, 1, 1])  # the front is hard to reach
for name, found in (("alike", alike), ("Frame A three times as dear", dear)):
    factors = ", ".join(f"{path[15:22]} {f:.2f}"
                        for path, f in zip(found.paths, found.factors, strict=True))
    before, after = found.before[0][1], found.after[0][1]
    print(f"{name}: {factors}; use {before:.3f} -> {after:.3f}, cost {found.cost:.2f}")
