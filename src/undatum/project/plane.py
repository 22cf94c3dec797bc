"""What a plane building can't be asked."""

from __future__ import annotations

from collections.abc import Sequence

from undatum.errors import Fault
from undatum.project.ways import Analysis


def plane_faults(plane: str | None, gaps: Sequence[str], analysis: Analysis) -> list[Fault]:
    """What asks a plane building for its other direction (that of ``gaps``), or for torsion."""
    if plane is None:
        return []
    found = [Fault(f"gaps[{i}].direction", f"is {direction}, across the plane of the building",
                   f"a plane building moves along {plane} alone")
             for i, direction in enumerate(gaps) if direction != plane]
    if analysis.accidental_torsion == "always":
        found.append(Fault("analysis.accidental_torsion", "a plane building does not turn",
                           "take it out, or leave building.plane out"))
    if analysis.directional_combination is not None:
        found.append(Fault("analysis.directional_combination", "a plane building has one "
                           "direction", "take it out, or leave building.plane out"))
    return found
