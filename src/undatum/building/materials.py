"""Materials: modulus, Poisson ratio and unit weight; usual ones by name with their source."""

from __future__ import annotations

import math
from collections.abc import Mapping
from types import MappingProxyType
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from undatum.described import Described, Given
from undatum.units import STANDARD_GRAVITY, InUnit, Measure, Modulus

UnitWeight = Annotated[
    float, Measure("unit weight", least=0.0, most=3e5, plausible=(2e3, 90e3))]

Strength = Annotated[float, Measure("stress", above=0.0, most=5e9, plausible=(2e6, 1e9))]


class Material(Described):
    """An elastic material.

    >>> ud.Material(modulus="30 GPa", poisson=0.2, unit_weight="25 kN/m^3").modulus
    30000000000.0
    """

    modulus: Modulus = Field(description="Modulus of elasticity")
    poisson: float = Field(default=0.2, ge=0, lt=0.5, description="Poisson ratio")
    unit_weight: UnitWeight = Field(description="Weight per volume, for the self-weight")
    kind: Literal["concrete", "steel", "other"] = Field(
        default="other", description="What it is; concrete cracks")
    strength: Strength | None = Field(
        default=None, description="Strength the plain section is held against: f_ck of concrete, "
        "f_y of steel")
    expansion: Annotated[float | None, InUnit("1/K")] = Field(
        default=None, gt=0, lt=1e-3, description="Coefficient of thermal expansion, 1/K")
    source: str = Field(default="", description="Where the values come from, for the record")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, modulus: Given, unit_weight: Given, poisson: float = 0.2,
            kind: Literal["concrete", "steel", "other"] = "other", strength: Given | None = None,
            expansion: float | None = None, source: str = "",
        ) -> None: ...

    @property
    def shear_modulus(self) -> float:
        """Pa."""
        return self.modulus / (2 * (1 + self.poisson))


def _shipped() -> Mapping[str, Material]:
    found = {}
    for strength in (20, 25, 30, 35, 40, 45, 50):
        cube = {20: 25, 25: 30, 30: 37, 35: 45, 40: 50, 45: 55, 50: 60}[strength]
        found[f"C{strength}/{cube}"] = Material(
            modulus=22e9 * ((strength + 8) / 10) ** 0.3, poisson=0.2, unit_weight=25e3,
            kind="concrete", strength=strength * 1e6, expansion=10e-6,
            source="EN 1992-1-1, Table 3.1: E_cm = 22 (f_cm / 10)^0.3 GPa; 3.1.3(5): 10e-6 / K; "
            "EN 1991-1-1, Table A.1: 25 kN/m3 reinforced")
    found["steel EN"] = Material(
        modulus=210e9, poisson=0.3, unit_weight=78.5e3, kind="steel",
        expansion=12e-6,
        source="EN 1993-1-1, 3.2.6: 210 GPa, 0.3 and 12e-6 / K; EN 1991-1-1, Table A.4: 78.5 kN/m3")
    found["steel US"] = Material(
        modulus="29000 ksi", poisson=0.3, unit_weight="490 lbf/ft^3",
        kind="steel",
        source="ANSI/AISC 360: 29 000 ksi; 490 pcf")
    for strength in (235, 275, 355):
        found[f"S{strength}"] = found["steel EN"].model_copy(update={
            "strength": strength * 1e6, "source": "EN 1993-1-1, 3.2.6 and Table 3.1 up to 40 mm: "
            "f_y of EN 10025-2; EN 1991-1-1, Table A.4: 78.5 kN/m3"})
    for name, strength in (("A36", 36), ("A992", 50)):
        found[name] = found["steel US"].model_copy(update={
            "strength": f"{strength} ksi", "source": f"ANSI/AISC 360: 29 000 ksi; ASTM {name}: F_y "
            f"{strength} ksi; 490 pcf"})
    for ksi in (3, 4, 5, 6, 8):
        found[f"{ksi} ksi"] = Material(
            modulus=f"{57 * math.sqrt(1000 * ksi):.12g} ksi", poisson=0.2, unit_weight="150 pcf",
            kind="concrete", strength=f"{ksi} ksi",
            source="ACI 318-19, 19.2.2.1(b), normalweight: 57 000 sqrt(f'c) psi; Poisson ratio 0.2 "
            "and 150 pcf reinforced as is usual")
    for strength in (20, 25, 30, 35, 40, 50):
        found[f"M{strength}"] = Material(
            modulus=5000e6 * math.sqrt(strength), poisson=0.2, unit_weight=25e3, kind="concrete",
            strength=strength * 1e6,
            source="IS 456:2000, 6.2.3.1: 5000 sqrt(f_ck) MPa; 19.2.1: 25 kN/m3; Poisson ratio 0.2 "
            "as is usual")
    found["steel IS"] = Material(
        modulus=200e9, poisson=0.3, unit_weight=7850 * STANDARD_GRAVITY, kind="steel",
        expansion=12e-6, source="IS 800:2007, 2.2.4.1: 200 GPa, 0.3, 12e-6 / K, 7850 kg/m3")
    return MappingProxyType(found)


SHIPPED: Mapping[str, Material] = _shipped()
