"""Choices of the spectrum and of the analysis: the ``[spectrum]`` and ``[analysis]`` tables."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.analysis.modes import Shapes
from undatum.described import Described, Named
from undatum.ground.spectrum import Before, Beyond, Interpolation
from undatum.record import FixedDict
from undatum.standards.terms import DirectionalCombination, ModalCombination
from undatum.units import Measure, Share

Damping = Annotated[float, Measure("ratio", above=0.0, most=0.5, plausible=(0.01, 0.2))]
MassTarget = Annotated[float, Measure("ratio", above=0.0, most=1.0, plausible=(0.5, 1.0))]
VerticalDivisor = Annotated[float, Measure("ratio", least=1.0, most=10.0, plausible=(1.0, 5.0))]
Duration = Annotated[float, Measure("time", above=0.0, most=600.0, plausible=(1.0, 120.0))]
ShakingAngle = Annotated[float, Measure("angle", least=-math.pi, most=2 * math.pi)]
MinorShare = Annotated[float, Measure("ratio", above=0.0, most=1.0, plausible=(0.5, 1.0))]
SpectrumFactor = Annotated[float, Measure("ratio", above=0.0, most=10.0, plausible=(0.5, 2.0))]
Eccentricity = Annotated[float, Measure("ratio", above=0.0, most=0.5, plausible=(0.02, 0.15))]
LeastMass = Annotated[float, Measure("ratio", above=0.0, most=0.5, plausible=(1e-9, 0.02))]
Frequency = Annotated[float, Measure("frequency", above=0.0, most=1e4, plausible=(0.5, 200.0))]


class SpectrumSource(Described):
    """Ordinates from one file, or from several of which the envelope or the mean is taken."""

    file: str | None = Field(
        default=None, min_length=1,
        description="CSV file beside the project, units in its header, such "
        'as "period (s), acceleration (g)"; ordinates before any reduction by R. Columns such as '
        '"2 % (g)" are curves by damping, read at the damping of the modes'
    )
    files: tuple[str, ...] = Field(default=(), description="Several such files in place of one")
    of_several: Literal["envelope", "mean"] = Field(
        default="envelope", description="What to take of several files at each period"
    )
    damping: Damping = Field(
        default=0.05, description="Damping ratio of a file with a single curve"
    )
    interpolation: Interpolation = Field(
        default="linear", description="How to read between the rows"
    )
    beyond: Beyond = Field(
        default="refuse",
        description="What happens past the last period: an error, the last ordinate, or "
        "a fall with the period or its square"
    )
    before: Before = Field(
        default="refuse",
        description="What happens at periods shorter than the first: an error, or the first "
        "ordinate"
    )

    @model_validator(mode="after")
    def _one_way(self) -> SpectrumSource:
        if self.file and self.files:
            raise PydanticCustomError("advice", "the source of the spectrum is not clear; give "
                                                "either file or files")
        return self

    @property
    def names(self) -> tuple[str, ...]:
        """The files, in order."""
        return (self.file,) if self.file else self.files


class SpectrumTable(SpectrumSource):
    """The ``[spectrum]`` table: ordinates from files in place of the standard's spectrum."""

    X: SpectrumSource | None = Field(default=None, description="Another spectrum for direction X")
    Y: SpectrumSource | None = Field(default=None, description="Another spectrum for direction Y")
    vertical: SpectrumSource | None = Field(
        default=None,
        description="Vertical spectrum; by the standard where it has one and this is left out"
    )
    vertical_share: Share | None = Field(
        default=None, description="Vertical spectrum as a share of the horizontal one"
    )
    site_specific: bool = Field(
        default=False,
        description="The ordinates are those of a site-specific study: where the standard "
        "sets a floor under it, the floor holds"
    )
    adjust_damping: Literal["EN 1998-1"] | bool = Field(
        default=False,
        description="Adjust the ordinates to the damping of the modes by the standard's rule, or, "
        "where it has none, by that of EN 1998-1, 3.2.2.2(3)"
    )
    factor: SpectrumFactor | None = Field(
        default=None, description="Factor of your own on the horizontal ordinates, after all else")
    factor_reason: str = Field(default="", description="Where the factor comes from")

    @model_validator(mode="after")
    def _whole(self) -> SpectrumTable:
        own = [d is not None and bool(d.names) for d in (self.X, self.Y)]
        if not self.names and any(own) and not all(own):
            raise PydanticCustomError(
                "advice", "one direction has a spectrum and the other has none; give both, or a "
                "file for both")
        if self.site_specific and not self.names and not all(own):
            raise PydanticCustomError("advice", "site_specific needs the file of the study; name "
                                                "it as file or files")
        if (self.factor is not None) != bool(self.factor_reason):
            raise PydanticCustomError("advice", "factor and factor_reason go together; give both, "
                                                "or take one out")
        if self.vertical is not None and self.vertical_share is not None:
            raise PydanticCustomError("advice", "the vertical spectrum is given twice; give "
                                                "either vertical or vertical_share")
        return self

    @property
    def said(self) -> str:
        """Where the ordinates come from, in a few words."""
        names = [*self.names, *(n for d in (self.X, self.Y) if d is not None for n in d.names)]
        text = f"from {', '.join(dict.fromkeys(names))}" if names else "by the standard"
        text += ", over the standard's floor" if self.site_specific else ""
        text += f", times {self.factor:g}" if self.factor is not None else ""
        return text + (", vertical of its own" if self.vertical or self.vertical_share else "")


class Analysis(Described):
    """The ``[analysis]`` table: choices left to the engineer."""

    modal_combination: ModalCombination | None = Field(
        default=None, description="Combination of modes; by the standard (CQC) where left out"
    )
    duration: Duration | None = Field(
        default=None, description="Duration of the strong motion, for modal_combination = "
        '"double sum"')
    rigid_between: tuple[Frequency, Frequency] | None = Field(
        default=None, description="Two key frequencies between which the response of a mode turns "
        "from periodic to rigid: rigid parts are added with their signs")
    directional_combination: DirectionalCombination | None = Field(
        default=None,
        description="Combination of the two directions; by the standard where left out"
    )
    shaking: tuple[ShakingAngle, ...] = Field(
        default=(), description="Directions of ground motion beside X and Y for which forces are "
        "found too, as angles from X")
    minor_component: MinorShare | None = Field(
        default=None, description="Find forces for the most unfavorable direction of ground motion "
        "too, by CQC3, with this ratio of the minor to the major horizontal component")
    damping: Damping = Field(
        default=0.05, description="Modal damping ratio, for the combination of modes"
    )
    damping_of: Named[str, Damping] = Field(
        default_factory=FixedDict, description="Damping ratios by material, of lateral lines "
        '(lines), or of members by a selection such as "braces at L1..L3": each mode takes them by '
        "the strain energy of what it moves, for the combination of modes"
    )
    damping_by_mode: tuple[Damping, ...] = Field(
        default=(), description="Damping ratios of the modes in place of one for all, the longest "
        "period first; the last one holds for every further mode"
    )
    mass_target: MassTarget | None = Field(
        default=None,
        description="Share of the mass the modes must carry; by the standard where left out"
    )
    modes: int | None = Field(default=None, ge=1, description="Use at least this many modes")
    to_frequency: Frequency | None = Field(
        default=None, description="Use at least every mode up to this frequency"
    )
    least_mass: LeastMass | None = Field(
        default=None, description="Leave out modes that carry less than this share of the mass in "
        "every direction and in rotation")
    shapes: Shapes = Field(
        default="natural", description="Exact modes, or vectors built up from the loads, of which "
        "fewer do"
    )
    residual_mass: bool = Field(
        default=False,
        description="Carry the mass the modes leave out by a static response, all modes "
        "slower than the standard's rigid period being used"
    )
    vertical_spectrum: bool = Field(
        default=False, description="Find the response to vertical ground motion too, modes "
        "carrying the mass vertically as well; needs building.vertical_mass")
    vertical_divisor: VerticalDivisor = Field(
        default=1.0, description="What the ordinates of the vertical spectrum are divided by, such "
        "as q up to 1.5 in EN 1998-1 or R / I in IS 1893; not reduced if left out")
    second_order: Literal["by factor", "by story weight", "by axial force"] = Field(
        default="by factor",
        description="Second order: by the standard's factor on drift; or in the stiffness, and so "
        "in modes, forces and drift, from the weight on each story or from the axial forces of "
        "members and the weight beside them"
    )
    halve_mesh: bool = Field(
        default=False, description="Solve again with panels of half the size and state what moves; "
        "of walls, and of floors that deform")
    accidental_torsion: Literal["as required", "always", "none"] = Field(
        default="as required", description="When accidental torsion goes into forces and drift; "
        "none needs torsion_reason"
    )
    eccentricity: Eccentricity | None = Field(
        default=None, description="Accidental eccentricity of your own in place of the standard's, "
        "as a share of the dimension across; needs torsion_reason")
    torsion_reason: str = Field(
        default="", description="Why accidental torsion is left out or another, for the record")
    plain_sets: bool = Field(
        default=False, description="Static sets without eccentricity, too, beside both signs")
    moved_masses: Literal["no", "beside", "in place"] = Field(
        default="no", description="Accidental torsion of the spectrum analysis by masses that are "
        "moved both ways, with modes of their own: beside static moments, to compare, or in place "
        "of them")

    @model_validator(mode="after")
    def _fitting(self) -> Analysis:
        if (self.modal_combination == "double sum") != (self.duration is not None):
            raise PydanticCustomError("advice", 'modal_combination = "double sum" and duration go '
                                      "together; give both, or take one out")
        other = self.accidental_torsion == "none" or self.eccentricity is not None
        if other != bool(self.torsion_reason):
            raise PydanticCustomError("advice", "accidental torsion left out or of your own and "
                                      "torsion_reason go together; give both, or take one out")
        if self.accidental_torsion == "none" and (
                self.eccentricity or self.moved_masses != "no"):
            raise PydanticCustomError("advice", "there is no accidental torsion to put otherwise; "
                                                "take moved_masses out")
        if self.moved_masses == "in place" and (self.shaking or self.minor_component):
            raise PydanticCustomError("advice", "shaking and minor_component go with accidental "
                                      'torsion by static moments; moved_masses = "beside" compares')
        if self.damping_of and self.damping_by_mode:
            raise PydanticCustomError("advice", "damping is given twice; give either damping_of "
                                                "or damping_by_mode")
        if self.rigid_between is not None:
            low, high = self.rigid_between
            if not low < high * (1 - 1e-9):
                raise PydanticCustomError("advice", "rigid_between runs from the lower frequency "
                                          "to the higher one; write the lower first")
            if self.modal_combination in ("absolute sum", "SRSS, close modes absolute"):
                raise PydanticCustomError("advice", "rigid_between goes with CQC, SRSS or double "
                                          "sum; take it out")
        return self
