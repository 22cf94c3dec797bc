"""Floors that deform in their plane, as they are described."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import advice
from undatum.building.materials import Material
from undatum.building.walls import PanelSize, WallShares, WallThickness
from undatum.described import Described, Given
from undatum.units import Stiffness

DECK = 0.02  # of a deck's shear stiffness: what it resists along itself, so that it hangs together


class DeformingFloor(Described):
    """A floor that deforms in its plane: a slab by its thickness, or a deck by its shear stiffness.

    It carries its mass where its loads lie, and bends and shears between what holds it.

    >>> ud.DeformingFloor(deforms="180 mm", material="C30/37").deforms
    0.18
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

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, deforms: Given | None = None, material: str | None = None,
            shear_stiffness: Given | None = None, kept: WallShares | None = None,
            mesh: Given = 1.5,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_way(self) -> DeformingFloor:
        if (self.deforms is None) == (self.shear_stiffness is None):
            raise advice("the stiffness of the floor is not clear; give either deforms (the "
                         "thickness of a slab) or shear_stiffness (of a deck)")
        if self.deforms is not None and self.material is None:
            raise advice("a slab has a material; name it beside its thickness")
        if self.shear_stiffness is not None and (self.material or self.kept):
            raise advice("material and kept go with a slab; take them out")
        return self

    def sizes(self, one: Material | None) -> tuple[float, float, float]:
        """Stiffness along its plane and in shear, N/m, and the Poisson ratio; ``one`` is its
        material, if it has one."""
        if self.deforms is None or one is None:
            assert self.shear_stiffness is not None
            return DECK * self.shear_stiffness, self.shear_stiffness, 0.0
        along, shear = (1.0, 1.0) if self.kept is None else (self.kept.bending, self.kept.shear)
        return (one.modulus * self.deforms / (1 - one.poisson**2) * along,
                one.shear_modulus * self.deforms * shear, one.poisson)


def _word_or_table(value: Any) -> str:
    return "table" if isinstance(value, Mapping | DeformingFloor) else "word"


Diaphragm = Annotated[
    Annotated[str, Tag("word")] | Annotated[DeformingFloor, Tag("table")],
    Discriminator(_word_or_table)]
