"""NZS 1170.5: rules that are left to the engineer."""

from __future__ import annotations

from undatum.standards.left import DETAIL, STRENGTH, Left

LEFT = (
    Left("", "Serviceability limit states",
         "the ultimate limit state is judged; run the project with the return period of another"),
    Left("4.1.2", "Empirical estimates of the period",
         "stand in the commentary and are not certain here; the computed period is used",
         "system.period"),
    Left("5.3.1", "Columns and walls shared by two ductile systems",
         "directions are analyzed one by one", "analysis.directional_combination"),
    Left("6.5", "The methods for P-delta effects, and what excuses low structures from them",
         "their numbers are not certain here; the stability coefficient is judged"),
    Left("4.2", "Snow in the seismic weight", "is not certain here: it does not count",
         "replace, building.levels.seismic_mass"),
    Left("", "Diaphragms: transfer and inertial forces",
         "the method of the amendment is not certain here"),
    Left("AS/NZS 1170.0, 4.2.2", "Combinations with snow and wind, long-term actions",
         "are load cases and combinations of your own", "combinations"),
    Left("", "Capacity design and overstrength", STRENGTH),
    Left("NZS 3101, NZS 3404", "Rules of materials, effective widths of slabs", DETAIL),
)
