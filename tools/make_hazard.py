"""Make the hazard of a made-up region in examples/located: a smooth field around one fault."""

from __future__ import annotations

from pathlib import Path

import numpy as np

OUT = Path(__file__).parent.parent / "examples" / "located"
HEAD = ("# source: Hazard map of the made-up Marrowby region\n# edition: 2026-1\n"
        "# Empty cells are sea.\n")


def main() -> None:
    rows = []
    for lat in np.arange(-41.0, -38.99, 0.25):
        for lon in np.arange(-22.0, -18.99, 0.25):
            away = abs((lat + 40.2) - 0.4 * (lon + 20.5)) / np.hypot(1, 0.4) * 111.0  # km
            ss = 0.25 + 1.25 * np.exp(-((away / 45.0) ** 2))
            s1 = 0.09 + 0.46 * np.exp(-((away / 55.0) ** 2))
            sea = lon > -19.4 and lat > -39.6
            values = ",," if sea else f"{ss:.3f},{s1:.3f},{0.4 * ss:.3f}"
            rows.append(f"{lat:.2f},{lon:.2f},{values},{6 if lon < -20.6 else 8}")
    head = "latitude (deg),longitude (deg),ss (g),s1 (g),reference_acceleration (g)," \
           "long_period (s) nearest\n"
    (OUT / "hazard.csv").write_text(HEAD + head + "\n".join(rows) + "\n", encoding="utf-8",
                                    newline="\n")
    zones = "place,zone\nMarrowby Haven,IV\nUpper Corvane,III\nOstrel,V\nLow Tidmere,II\n"
    (OUT / "zones.csv").write_text(
        HEAD.replace("Hazard map", "Zones").replace("# Empty cells are sea.\n", "") + zones,
        encoding="utf-8", newline="\n")


if __name__ == "__main__":
    main()
