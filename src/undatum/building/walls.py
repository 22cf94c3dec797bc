"""Walls as they are described: from point to point in plan over a range of stories, with openings.

A wall is a flat piece that stands upright. Walls that meet along a line are joined along it; a
core is a group of walls whose actions are read together.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import advice
from undatum.building.rules import Place
from undatum.described import Described, Given, Named, one_or_table
from undatum.units import Extent, KeptShare, Length, Measure

WallThickness = Annotated[
    float, Measure("length", above=0.0, most=10.0, plausible=(0.08, 2.0))]
PanelSize = Annotated[float, Measure("length", least=0.05, most=20.0, plausible=(0.2, 4.0))]
LineStiffness = Annotated[float, Measure("stiffness per length", above=0.0, most=1e15)]
Thicknesses = Annotated[
    Annotated[WallThickness, Tag("one")] | Annotated[Named[str, WallThickness], Tag("table")],
    Discriminator(one_or_table)]
WallStrength = Annotated[float, Measure("force", above=0.0, most=1e10)]
Strengths = Annotated[
    Annotated[WallStrength, Tag("one")] | Annotated[Named[str, WallStrength], Tag("table")],
    Discriminator(one_or_table)]
Materials = Annotated[
    Annotated[str, Tag("one")] | Annotated[Named[str, str], Tag("table")],
    Discriminator(one_or_table)]


class Opening(Described):
    """An opening of a wall, alike in every story it is named for.

    >>> ud.Opening(from_start="1.2 m", width="1 m", height="2.1 m").width
    1.0
    """

    at: str = Field(default="all", min_length=1, description='Stories, by the level at their top, '
                    'such as "L1..L3"; every story of the wall if left out')
    from_start: Length = Field(description="Distance of its nearer edge from the start of the wall")
    width: Extent = Field(description="Width along the wall")
    height: Extent = Field(description="Clear height")
    sill: Length = Field(default=0.0, description="Height of its lower edge above the floor; 0 for "
                         "a door")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, from_start: Given, width: Given, height: Given, at: str = "all",
            sill: Given = 0.0,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> Opening:
        if self.from_start < 0 or self.sill < 0:
            raise advice("from_start and sill run from the start of the wall and from the floor; "
                         "give values of 0 or more")
        return self


class WallShares(Described):
    """Shares of the gross stiffness of a wall that are kept, for instance of cracked concrete.

    >>> ud.WallShares(bending=0.5, shear=0.4, reason="cracked").by_part
    (0.5, 0.4, 0.5, 0.4)
    """

    bending: KeptShare = Field(
        default=1.0, description="Of the stiffness along the panels, up and sideways: bending and "
        "axial stiffness of the wall; bending across it too")
    shear: KeptShare = Field(default=1.0, description="Of the shear stiffness in its plane")
    coupling_beams: KeptShare | None = Field(
        default=None, description="Of both, in the parts over and under openings; as the wall if "
        "left out")
    reason: str = Field(min_length=1, description="Why, for the record")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, reason: str, bending: Given = 1.0, shear: Given = 1.0,
            coupling_beams: Given | None = None,
        ) -> None: ...

    @property
    def by_part(self) -> tuple[float, float, float, float]:
        """Bending and shear of the wall, then of coupling beams."""
        over = self.coupling_beams
        return self.bending, self.shear, *((self.bending, self.shear) if over is None else
                                           (over, over))


def _word_or_shares(value: Any) -> str:
    return "word" if isinstance(value, str) else "shares"


def _name_or_width(value: Any) -> str:
    return "word" if isinstance(value, str) and not value[:1].isdigit() else "width"


SharesByName = Literal["by standard", "ACI 318-19 uncracked", "ACI 318-19 cracked"]
KeptOfWall = Annotated[
    Annotated[SharesByName, Tag("word")] | Annotated[WallShares, Tag("shares")],
    Discriminator(_word_or_shares)]
#: Shares of a concrete standard by its name; axial stiffness goes with that in bending.
NAMED_SHARES: Mapping[str, WallShares] = {
    f"ACI 318-19 {word}": WallShares(
        bending=share, coupling_beams=0.35, reason=f"ACI 318-19, Table 6.6.3.1.1(a): walls {word} "
        f"{share:g} I_g, beams 0.35 I_g, shear on the whole section")
    for word, share in (("uncracked", 0.70), ("cracked", 0.35))}

FlangesByName = Literal[
    "by standard", "ACI 318-19", "ACI 318-14", "ACI 318-08", "ACI 318-05", "EN 1992-1-1"]
FlangesOfWall = Annotated[
    Annotated[FlangesByName, Tag("word")] | Annotated[Extent, Tag("width")],
    Discriminator(_name_or_width)]


class WallFoot(Described):
    """How a wall stands on the ground: fixed, free to lean across itself, on springs along its
    foot, which let it rock.

    >>> ud.WallFoot(vertical="120 MN/m^2").vertical
    120000000.0
    """

    vertical: LineStiffness | None = Field(
        default=None, description="Stiffness up and down per length; held if left out")
    hold: Literal["fixed", "pinned"] = Field(
        default="fixed", description="pinned: free to lean across the wall")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, vertical: Given | None = None, hold: Literal["fixed", "pinned"] = "fixed",
        ) -> None: ...


class Wall(Described):
    """A wall from one point of the plan to another, over a range of stories.

    It is divided into flat panels by itself: at levels, openings, crossings and where beams end,
    then to a size of at most ``mesh``.

    >>> wall = ud.Wall(name="core west", between=["B2", "C2"], levels="L1..L12",
    ...                thickness="250 mm", material="C30/37",
    ...                openings=[ud.Opening(from_start="1.2 m", width="1 m", height="2.1 m")])
    >>> wall.thickness
    0.25
    """

    name: str = Field(min_length=1, max_length=60, description="Name, unique among the walls")
    between: tuple[Place, Place] = Field(
        description='Start and end: crossings of axes such as "B2", or points [x, y]')
    levels: str = Field(
        default="all", min_length=1, description='Stories it stands in, by the level at their top, '
        'such as "L1..L12"; every story if left out, '
        "of floors side by side those whose outline holds the wall")
    thickness: Thicknesses = Field(
        description="Thickness, or a table of thicknesses by ranges of levels")
    material: Materials = Field(
        description="Name of a material, or a table of names by ranges of levels")
    openings: tuple[Opening, ...] = Field(default=(), description="Doors and windows")
    kept: KeptOfWall | None = Field(
        default=None, description='Shares of the gross stiffness, with their reason; "by standard":'
        " those that the standard names for cracked walls")
    kept_for_drift: KeptOfWall | None = Field(
        default=None, description="Shares that are kept where the forces for drift act, if others")
    flanges: FlangesOfWall | None = Field(
        default=None, description='Also read it together with the walls that meet it, as a part '
        '"with flanges": effective width from its face on either side, "by standard", or the name '
        "of a concrete standard")
    strength: Strengths | None = Field(
        default=None, description="Lateral strength of the wall along itself in a story, or a "
        "table of strengths by ranges of levels; without it weak stories are not judged")
    foot: WallFoot = Field(
        default_factory=lambda: WallFoot(), description="How it stands on the lowest level; fixed "
        "if left out")
    mesh: PanelSize | None = Field(
        default=None, description="Largest side of a panel, in place of building.wall_mesh")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, between: Sequence[str | Sequence[Given]],
            thickness: Given | Mapping[str, Given], material: str | Mapping[str, str],
            levels: str = "all", openings: Sequence[Opening] = (),
            kept: SharesByName | WallShares | None = None,
            kept_for_drift: SharesByName | WallShares | None = None,
            flanges: FlangesByName | Given | None = None,
            strength: Given | Mapping[str, Given] | None = None, foot: WallFoot = ...,
            mesh: Given | None = None,
        ) -> None: ...

    def shares(self, *, for_drift: bool = False) -> WallShares | None:
        """What is kept of the stiffness; nothing said is all of it."""
        given = self.kept_for_drift if for_drift and self.kept_for_drift is not None else self.kept
        return NAMED_SHARES.get(given) if isinstance(given, str) else given
