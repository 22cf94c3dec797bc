"""Rules that make members, and supports: one ordered list, later rules overriding earlier ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Any, Literal, get_args

import numpy as np
from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import advice
from undatum.building.lines import Bearing
from undatum.building.naming import selection
from undatum.building.outline import Point
from undatum.described import Described, Given, Named, one_or_table
from undatum.units import KeptShare, Length, Measure, Share, Stiffness

Kind = Literal["column", "beam", "brace"]
Hinged = Literal["no", "start", "end", "both"]
Component = Literal["axial", "shear_y", "shear_z", "torsion", "moment_y", "moment_z"]
COMPONENTS: tuple[Component, ...] = get_args(Component)
Pattern = Literal["rising", "falling", "X", "V", "chevron"]
RotationalStiffness = Annotated[float, Measure("rotational stiffness", least=0.0, most=1e15)]


def _name_or_point(value: Any) -> str:
    return "name" if isinstance(value, str) else "point"


SectionNames = Annotated[
    Annotated[str, Tag("one")] | Annotated[Named[str, str], Tag("table")],
    Discriminator(one_or_table),
]
Place = Annotated[
    Annotated[str, Tag("name")] | Annotated[Point, Tag("point")], Discriminator(_name_or_point)]


class KeptShares(Described):
    """Shares of the gross stiffness that are kept, for instance of cracked concrete.

    >>> ud.KeptShares(bending_y=0.35, bending_z=0.35, reason="cracked beams").bending_y
    0.35
    """

    bending_y: KeptShare = Field(default=1.0, description="In bending about local y")
    bending_z: KeptShare = Field(default=1.0, description="In bending about local z")
    torsion: KeptShare = Field(default=1.0, description="In torsion")
    axial: KeptShare = Field(default=1.0, description="Along the member")
    shear: KeptShare = Field(default=1.0, description="In shear, both ways")
    concrete_only: bool = Field(
        default=False, description="Members of another material keep their gross stiffness")
    reason: str = Field(min_length=1, description="Why, for the record")


EndsShare = Annotated[float, Measure("ratio", above=0.0, most=0.95)]


class BraceEnds(Described):
    """Stiffer ends of a brace: their section, and their share of the length, both together.

    The brace is as stiff along itself as core and ends in a row; it weighs what its core weighs.

    >>> ud.BraceEnds(section="plate", share="20 %").share
    0.2
    """

    section: str = Field(min_length=1, description="Name of the section of the ends")
    share: EndsShare = Field(description="Share of the length that both ends take together")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(self, *, section: str, share: Given) -> None: ...


def _word_or_shares(value: Any) -> str:
    return "word" if isinstance(value, str) else "shares"


Kept = Annotated[
    Annotated[Literal["by standard"], Tag("word")] | Annotated[KeptShares, Tag("shares")],
    Discriminator(_word_or_shares)]
LateralStrength = Annotated[float, Measure("force", above=0.0, most=1e10)]
MomentStrength = Annotated[float, Measure("moment", above=0.0, most=1e11)]


class Releases(Described):
    """What the ends of a member don't pass on to the nodes, in local components.

    >>> ud.Releases(start=["moment_y", "torsion"]).start
    ('moment_y', 'torsion')
    """

    start: tuple[Component, ...] = Field(default=(), description="At the start")
    end: tuple[Component, ...] = Field(default=(), description="At the end")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, start: Sequence[Component] = (), end: Sequence[Component] = (),
        ) -> None: ...

    @model_validator(mode="after")
    def _held_somewhere(self) -> Releases:
        if not self.start and not self.end:
            raise advice(f"nothing is released; choose from: {', '.join(COMPONENTS)}")
        for name in ("axial", "torsion", "shear_y", "shear_z"):
            if name in self.start and name in self.end:
                raise advice(f"a member released in {name} at both ends is held by nothing that "
                             "way; release one end")
        return self

    @property
    def said(self) -> str:
        """For tables."""
        return "; ".join(f"{end}: {', '.join(names)}"
                         for end, names in (("start", self.start), ("end", self.end)) if names)


class MemberRule(Described):
    """Columns, beams or braces at the places a selection names.

    ``columns`` stand at crossings of axes, one a story, named by the level at their top;
    ``beams`` run along axes from crossing to crossing, or along ``line``; ``braces`` stand in the
    bays of axes. What a later rule gives overrides what an earlier one gave to the same member; a
    rule without a section makes none, it changes or removes those that are there.

    >>> ud.MemberRule(columns="A1..A4", section="C60").kind
    'column'
    """

    columns: str | None = Field(default=None, description='Which: "all", "on B", "C2 at L1..L2"')
    beams: str | None = Field(default=None, description='Which: "all", "on A..D at Roof"')
    braces: str | None = Field(
        default=None, description='Which bays: "on A between 1 and 2 at L1..L3"')
    section: SectionNames | None = Field(
        default=None, description="Name of a section, or a table of names by ranges of levels")
    pattern: Pattern | None = Field(
        default=None, description="How braces fill a bay; rising: from the foot at the first axis")
    line: tuple[Place, Place] | None = Field(
        default=None, description="Both ends of a beam off the axes: crossings or points [x, y]")
    turned: Bearing | None = Field(
        default=None, description="Angle from X to the local y of columns, such as \"90 deg\"")
    hinged: Hinged | None = Field(
        default=None, description="Ends without bending moments; both for braces if left out")
    released: Releases | None = Field(
        default=None, description="Single actions that the ends don't pass on, beside hinges")
    stiff_ends: Share | None = Field(
        default=None,
        description="Share of the size of the meeting members that doesn't deform; 0 if left out")
    kept: Kept | None = Field(
        default=None, description='Shares of the gross stiffness, with their reason; '
        '"by standard": those that the standard names for cracked concrete')
    kept_for_drift: Kept | None = Field(
        default=None, description="Shares that are kept where the forces for drift act, if others "
        "than for strength; a second model is then made for them")
    shear_deformation: bool | None = Field(
        default=None, description="false: no shear deformation")
    axial_deformation: bool | None = Field(
        default=None, description="false: axially rigid (100,000 times as stiff)")
    shifted: tuple[Length, Length] | None = Field(
        default=None, description="Distance [y, z] along local y and z from the line between its "
        "nodes to the axis of the member, tied rigidly: [0, -0.3] hangs a beam below")
    ends: BraceEnds | None = Field(
        default=None, description="Ends of braces that are stiffer than the core")
    strength: LateralStrength | None = Field(
        default=None, description="Lateral strength of a column in its story, or the axial "
        "strength of a brace; without it weak stories are not judged")
    moment_strength: MomentStrength | None = Field(
        default=None, description="Strength in bending of a beam at either end, the mean of both "
        "senses; without it redundancy is not judged by beams")
    secondary: bool | None = Field(
        default=None, description="true: columns and beams that carry gravity and no lateral "
        "force; their ends pass on no bending moment, and what follows from the displacements of "
        "the structure is given apart")
    transfer: bool = Field(
        default=False, description="Allow a beam to carry a column here (transfer)")
    remove: bool = Field(default=False, description="No members here")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, columns: str | None = None, beams: str | None = None,
            braces: str | None = None, section: str | Mapping[str, str] | None = None,
            pattern: Pattern | None = None, line: Sequence[str | Sequence[Given]] | None = None,
            turned: Given | None = None, hinged: Hinged | None = None,
            released: Releases | None = None, stiff_ends: Given | None = None,
            kept: Literal["by standard"] | KeptShares | None = None,
            kept_for_drift: Literal["by standard"] | KeptShares | None = None,
            shear_deformation: bool | None = None, axial_deformation: bool | None = None,
            shifted: Sequence[Given] | None = None, ends: BraceEnds | None = None,
            strength: Given | None = None, moment_strength: Given | None = None,
            secondary: bool | None = None, transfer: bool = False, remove: bool = False,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> MemberRule:
        given = [k for k in ("columns", "beams", "braces") if getattr(self, k) is not None]
        if len(given) != 1:
            raise advice("give one of columns, beams and braces; found "
                         + (" and ".join(given) if given else "none"))
        try:
            chosen = selection(self.which)
        except ValueError as error:
            raise advice(str(error)) from None
        if self.braces is not None and self.section is not None and self.pattern is None:
            raise advice("braces need a pattern; choose from: rising, falling, X, V or chevron")
        if self.pattern is not None and self.braces is None:
            raise advice("a pattern goes with braces only; take it out")
        if self.line is not None and (self.beams is None or chosen.on):
            raise advice('a line goes with beams only, and with levels; write beams = "at L1..L3"')
        if self.turned is not None and self.columns is None:
            raise advice("turned goes with columns only; take it out")
        if self.ends is not None and self.braces is None:
            raise advice("ends of their own go with braces only; take them out")
        if self.strength is not None and self.beams is not None:
            raise advice("a strength goes with columns and braces only; take it out")
        if self.moment_strength is not None and self.beams is None:
            raise advice("a moment_strength goes with beams only; take it out")
        if self.secondary and self.braces is not None:
            raise advice("secondary goes with columns and beams; leave a secondary brace out")
        if self.transfer and not (self.remove and self.columns is not None):
            raise advice("transfer goes with columns that are removed; write remove = true beside "
                         "it, or take it out")
        return self

    @property
    def kind(self) -> Kind:
        """What it makes."""
        return "column" if self.columns is not None else \
            "beam" if self.beams is not None else "brace"

    @property
    def which(self) -> str:
        """The selection text."""
        return self.columns or self.beams or self.braces or ""


class Support(Described):
    """How columns stand on the lowest level; what no support names is fixed.

    >>> ud.Support(at="A1, A4", hold="pinned").hold
    'pinned'
    """

    at: str = Field(min_length=1, description='Which: "all", "on A" or crossings "A1, B2"')
    hold: Literal["fixed", "pinned"] = Field(
        default="fixed", description="pinned: free to rotate about X and Y")
    rotation_x: RotationalStiffness | None = Field(
        default=None, description="Spring against rotation about X, of a pinned support")
    rotation_y: RotationalStiffness | None = Field(
        default=None, description="Spring against rotation about Y, of a pinned support")
    along_x: Stiffness | None = Field(
        default=None, description="Spring against motion along X; held if left out")
    along_y: Stiffness | None = Field(
        default=None, description="Spring against motion along Y; held if left out")
    along_z: Stiffness | None = Field(
        default=None, description="Spring against motion along Z, up and down; held if left out")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, at: str, hold: Literal["fixed", "pinned"] = "fixed",
            rotation_x: Given | None = None, rotation_y: Given | None = None,
            along_x: Given | None = None, along_y: Given | None = None,
            along_z: Given | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> Support:
        if self.hold == "fixed" and (self.rotation_x, self.rotation_y) != (None, None):
            raise advice('a spring against rotation goes with a hinge; write hold = "pinned"')
        return self

    @property
    def springs(self) -> tuple[float, ...]:
        """Against motion along X, Y and Z and rotation about them; infinite where it is held."""
        turn = (np.inf, np.inf) if self.hold == "fixed" else \
            (self.rotation_x or 0.0, self.rotation_y or 0.0)
        return (*(np.inf if k is None else k for k in (self.along_x, self.along_y, self.along_z)),
                *turn, np.inf)
