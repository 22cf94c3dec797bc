"""Which floors are rigid in their plane: all, unless levels say otherwise."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import advice
from undatum.building.materials import SHIPPED
from undatum.building.naming import known_names
from undatum.building.walls import PanelSize, WallShares, WallThickness
from undatum.described import Described, Given
from undatum.errors import Fault, nearest
from undatum.units import Stiffness

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding

NONE = "none"
WHOLE = "rigid"
DECK = 0.02  # of a deck's shear stiffness: what it resists along itself, so that it hangs together


class Deforming(Described):
    """A floor that deforms in its plane: a slab by its thickness, or a deck by its shear stiffness.

    It carries its mass where its loads lie, and bends and shears between what holds it.
    """

    deforms: WallThickness | None = Field(
        default=None, description="Thickness of the slab; with its material")
    material: str | None = Field(default=None, description="Name of its material")
    shear_stiffness: Stiffness | None = Field(
        default=None, description="Of a deck in place of both: shear force per width over the "
        "angle of shear; beams along its edges are its chords")
    kept: WallShares | None = Field(
        default=None, description="Shares of the gross stiffness of a slab, with their reason")
    mesh: PanelSize = Field(default=1.5, description="Largest side of its panels")

    if TYPE_CHECKING:  # what the constructor takes; the fields hold SI numbers

        def __init__(
            self, *, deforms: Given | None = None, material: str | None = None,
            shear_stiffness: Given | None = None, kept: WallShares | None = None,
            mesh: Given = 1.5,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_way(self) -> Deforming:
        if (self.deforms is None) == (self.shear_stiffness is None):
            raise advice("the stiffness of the floor is not clear; give either deforms (the "
                         "thickness of a slab) or shear_stiffness (of a deck)")
        if self.deforms is not None and self.material is None:
            raise advice("a slab has a material; name it beside its thickness")
        if self.shear_stiffness is not None and (self.material or self.kept):
            raise advice("material and kept go with a slab; take them out")
        return self

    def sizes(self, building: PlainBuilding) -> tuple[float, float, float]:
        """Stiffness along its plane and in shear, N/m, and the Poisson ratio."""
        if self.deforms is None:
            assert self.shear_stiffness is not None
            return DECK * self.shear_stiffness, self.shear_stiffness, 0.0
        assert self.material is not None
        one = building.material(self.material)
        along, shear = (1.0, 1.0) if self.kept is None else (self.kept.bending, self.kept.shear)
        return (one.modulus * self.deforms / (1 - one.poisson**2) * along,
                one.shear_modulus * self.deforms * shear, one.poisson)


def _word_or_table(value: Any) -> str:
    return "table" if isinstance(value, Mapping | Deforming) else "word"


Diaphragm = Annotated[
    Annotated[str, Tag("word")] | Annotated[Deforming, Tag("table")], Discriminator(_word_or_table)]


def diaphragms_by_level(building: PlainBuilding) -> dict[int, str | Deforming]:
    """``none``, the name of an outline or how it deforms by place of the level, for those not
    rigid as a whole.

    Later ranges go before earlier ones. Raises ValueError for a range that names no level.
    """
    order = [level.name for level in building.levels]
    upwards = order[:-1][::-1]
    found: dict[int, str | Deforming] = {}
    for text, said in building.diaphragms.items():
        for name in known_names(text, upwards, "levels that move"):
            found[order.index(name)] = said
    return {i: said for i, said in found.items() if said != WHOLE}


def diaphragm_faults(building: PlainBuilding) -> list[Fault]:
    """Names that are none, levels without members there, lines that need what is missing."""
    found = [Fault(f"outlines.{name}", f"{name!r} says of a diaphragm what it is",
                   "give the outline another name")
             for name in (NONE, WHOLE) if building.diaphragms and name in building.outlines]
    known = [NONE, WHOLE, *building.outlines]
    for text, said in building.diaphragms.items():
        if isinstance(said, Deforming):
            materials = [*building.materials, *SHIPPED]
            if said.material is not None and said.material not in materials:
                near = nearest(said.material, materials)
                found.append(Fault(
                    f"diaphragms.{text}.material", f"{said.material!r} is not among the materials",
                    f"did you mean {near!r}?" if near else f"known: {', '.join(materials)}"))
        elif said not in known:
            near = nearest(said, known)
            found.append(Fault(f"diaphragms.{text}", f"{said!r} is neither none nor the name of an "
                               "outline", f"did you mean {near!r}?" if near else
                               f"known: {', '.join(known)}"))
    try:
        by_level = diaphragms_by_level(building)
    except ValueError as error:
        return [*found, Fault("diaphragms", str(error))]
    if found or not by_level:
        return found
    if not building.has_members:
        return [Fault("diaphragms", "there are no members or walls that could move by themselves",
                      "leave it out: lateral lines stand on rigid floors")]
    for i, line in enumerate(building.lines):
        for level in building.span(line):
            if level in by_level:
                found.append(Fault(
                    f"lines[{i}]", f"line {line.name!r} reaches level "
                    f"{building.levels[level].name!r}, whose floor is not rigid as a whole",
                    "end it below, or make it of members"))
                break
    return found
