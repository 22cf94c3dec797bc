"""The project: everything one job needs, as one validated description."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal, cast

from pydantic import BaseModel, Field, create_model, model_validator
from pydantic_core import PydanticCustomError

from undatum import standards
from undatum.building.concept import ConceptBuilding
from undatum.building.outline import Point
from undatum.described import Described
from undatum.ground.spectrum import Beyond, Interpolation
from undatum.standards.answers import DirectionalCombination, ModalCombination
from undatum.units import SYSTEMS, Measure, Share

DEFAULT_STANDARD = "asce7-16"
Damping = Annotated[float, Measure("ratio", above=0.0, most=0.5, plausible=(0.01, 0.2))]
GapWidth = Annotated[float, Measure("length", above=0.0, most=1e3, plausible=(0.005, 10.0))]
Sway = Annotated[float, Measure("length", least=0.0, most=10.0, plausible=(0.0005, 1.0))]
MassTarget = Annotated[float, Measure("ratio", above=0.0, most=1.0, plausible=(0.5, 1.0))]
Occupancy = Literal[
    "residential", "office", "school", "health care", "storage", "industrial", "other"
]


class SpectrumSource(Described):
    """Ordinates from one file, or from several of which the envelope or the mean is taken."""

    file: str | None = Field(
        None, min_length=1, description="CSV file beside the project, units in its header, such "
        'as "period (s), acceleration (g)"; ordinates before any reduction by R. Columns such as '
        '"2 % (g)" are curves by damping, read at the damping of the modes'
    )
    files: list[str] = Field(default=[], description="Several such files in place of one")
    of_several: Literal["envelope", "mean"] = Field(
        "envelope", description="What to take of several files at each period"
    )
    damping: Damping = Field(0.05, description="Damping ratio of a file with a single curve")
    interpolation: Interpolation = Field("linear", description="How to read between the rows")
    beyond: Beyond = Field(
        "refuse", description="What happens past the last period: an error, the last ordinate, or "
        "a fall with the period or its square"
    )

    @model_validator(mode="after")
    def _one_way(self) -> SpectrumSource:
        if self.file and self.files:
            raise PydanticCustomError("advice", "give either file or files")
        return self

    @property
    def names(self) -> list[str]:
        """The files, in order."""
        return [self.file] if self.file else self.files


class SpectrumTable(SpectrumSource):
    """The ``[spectrum]`` table: ordinates from files in place of the standard's spectrum."""

    X: SpectrumSource | None = Field(None, description="Another spectrum for direction X")
    Y: SpectrumSource | None = Field(None, description="Another spectrum for direction Y")
    vertical: SpectrumSource | None = Field(
        None, description="Vertical spectrum; by the standard where it has one and this is left out"
    )
    vertical_share: Share | None = Field(
        None, description="Vertical spectrum as a share of the horizontal one"
    )
    site_specific: bool = Field(
        False, description="The ordinates are those of a site-specific study: where the standard "
        "sets a floor under it, the floor holds"
    )
    adjust_damping: bool = Field(
        False, description="Adjust the ordinates to the damping of the modes by the standard's rule"
    )

    @model_validator(mode="after")
    def _whole(self) -> SpectrumTable:
        own = [d is not None and bool(d.names) for d in (self.X, self.Y)]
        if not self.names and any(own) and not all(own):
            raise PydanticCustomError(
                "advice", "one direction has a spectrum and the other has none; give both, or a "
                "file for both")
        if self.site_specific and not self.names and not all(own):
            raise PydanticCustomError("advice", "site_specific needs the file of the study")
        if self.vertical is not None and self.vertical_share is not None:
            raise PydanticCustomError("advice", "give either vertical or vertical_share")
        return self

    @property
    def said(self) -> str:
        """Where the ordinates come from, in a few words."""
        names = [*self.names, *(n for d in (self.X, self.Y) if d is not None for n in d.names)]
        text = f"from {', '.join(dict.fromkeys(names))}" if names else "by the standard"
        text += ", over the standard's floor" if self.site_specific else ""
        return text + (", vertical of its own" if self.vertical or self.vertical_share else "")


class Analysis(Described):
    """The ``[analysis]`` table: choices left to the engineer."""

    modal_combination: ModalCombination | None = Field(
        None, description="Combination of modes; by the standard (CQC) where left out"
    )
    directional_combination: DirectionalCombination | None = Field(
        None, description="Combination of the two directions; by the standard where left out"
    )
    damping: Damping = Field(0.05, description="Modal damping ratio, for the combination of modes")
    mass_target: MassTarget | None = Field(
        None, description="Share of the mass the modes must carry; by the standard where left out"
    )
    modes: int | None = Field(None, ge=1, description="Use at least this many modes")
    residual_mass: bool = Field(
        False, description="Carry the mass the modes leave out by a static response, all modes "
        "slower than the standard's rigid period being used"
    )
    accidental_torsion: Literal["as required", "always"] = Field(
        "as required", description="When accidental torsion goes into forces and drift"
    )


class PlumbPoint(Described):
    """A named plan point on which drift is read."""

    name: str = Field(min_length=1, description="Name in the drift tables")
    at: Point = Field(description="Plan point [x, y]")


class Drift(Described):
    """The ``[drift]`` table."""

    structure: str | None = Field(
        None, description="Structure type in the standard's drift table; its first if left out"
    )
    judged_by: Literal["both", "static", "spectrum"] = Field(
        "both", description="Analysis whose story drift is held against the limit"
    )
    corners: bool = Field(True, description="Read drift at every corner of the outlines")
    points: list[PlumbPoint] = Field(default=[], description="Further plan points")


class Irregularities(Described):
    """The ``[irregularities]`` table: what the description cannot show, as the engineer judged it.

    What is left out is not judged, and the results say so.
    """

    diaphragm_discontinuity: bool | None = Field(
        None, description="Abrupt change of diaphragm stiffness from floor to floor; large "
        "openings are found by themselves"
    )
    out_of_plane_offset: bool | None = Field(
        None, description="A lateral line continues below in another plane"
    )
    in_plane_offset: bool | None = Field(
        None, description="A lateral line is offset in its own plane"
    )
    reason: str = Field("", description="What the judgement rests on, for the record")

    @property
    def stated(self) -> dict[str, bool]:
        """The judgements that were made."""
        return {k: v for k, v in self.model_dump().items() if isinstance(v, bool)}


class Gap(Described):
    """A ``[[gaps]]`` table: the distance to a neighbor or to the property line."""

    name: str = Field(min_length=1, description="Which side, for the record")
    direction: Literal["X", "Y"] = Field(description="Direction across the gap")
    distance: GapWidth = Field(description="Distance provided")
    level: str | None = Field(
        None, description="Level of the neighbor's roof; this building's own roof if left out"
    )
    neighbor: Sway | None = Field(
        None, description="Displacement of the neighbor at that level, with the same meaning as "
        "here; left out, the distance is to the property line"
    )
    same_floors: bool = Field(False, description="Floors of both buildings are at the same levels")


class Alternative(Described):
    """The same building by another standard: an ``[alternatives.KEY]`` table."""

    site: dict[str, Any] = Field(description="The [site] table of that standard")
    system: dict[str, Any] = Field(description="The [system] tables of that standard, X and Y")
    structure: str | None = Field(None, description="Row of that standard's drift table")


class SiteProject(Described):
    """A site without a building: what its spectra need."""

    title: str = Field("Site", min_length=1, max_length=200, description="Name of the job")
    units: Literal["kN, m", "kip, ft", "kip, in", "N, m"] = Field(
        "kN, m", description="Unit system of plain numbers in this file and of all results"
    )
    standard: str = Field(DEFAULT_STANDARD, description="Key of the standard")
    site: Any = Field(description="Site parameters the standard asks for")
    spectrum: SpectrumTable | None = Field(None, description="Spectrum from a file")
    analysis: Analysis = Field(default=Analysis(), description="Choices of analysis")


class Project(SiteProject):
    """One job. ``site`` and ``system`` hold what the standard asks for."""

    title: str = Field(min_length=1, max_length=200, description="Name of the job")
    description: str = Field("", description="A few words on the building, for the record")
    prepared_by: str = Field("", description="Who made the calculation, for the record")
    occupancy: Occupancy = Field(
        "other", description="Use of the building, for the plausible range of its weight"
    )
    system: Any = Field(description="Lateral system in X and in Y")
    building: ConceptBuilding = Field(description="Levels and lateral lines")
    irregularities: Irregularities = Field(
        default=Irregularities(), description="Irregularities judged by the engineer"
    )
    gaps: list[Gap] = Field(default=[], description="Distances to neighbors and property lines")
    drift: Drift = Field(default=Drift(), description="Where and against what drift is judged")
    alternatives: dict[str, Alternative] = Field(
        default={}, description="Other standards by key, for a comparison side by side"
    )


assert set(SYSTEMS) == set(cast(Any, Project.model_fields["units"].annotation).__args__)


def project_model(key: str, folder: Path | None = None) -> type[Project]:
    """The project as one standard wants it: with its own ``[site]`` and ``[system]`` tables."""
    if key.endswith(".toml"):  # the file may change between two calls
        return _model(standards.get(key, folder))
    return _shipped_model(standards.get(key).key)


@cache
def _shipped_model(key: str) -> type[Project]:
    return _model(standards.get(key))


def _model(standard: standards.Standard) -> type[Project]:
    system_input: Any = standard.SystemInput
    directions = create_model(
        "Directions", __base__=Described,
        __doc__="The lateral system of each direction.",
        X=(system_input, Field(description="Lateral system in X")),
        Y=(system_input, Field(description="Lateral system in Y")),
    )
    return cast(type[Project], create_model(
        "Project", __base__=Project, __doc__=f"One job by {standard.title}.",
        site=(cast(Any, standard.SiteInput), Field(description="Site parameters")),
        system=(directions, Field(description="Lateral system by direction")),
    ))


def site_project_model(key: str, folder: Path | None = None) -> type[SiteProject]:
    """A site without a building, with the ``[site]`` table of one standard."""
    standard = standards.get(key, folder)
    return cast(type[SiteProject], create_model(
        "SiteProject", __base__=SiteProject, __doc__=f"A site by {standard.title}.",
        site=(cast(Any, standard.SiteInput), Field(description="Site parameters")),
    ))


def json_schema(key: str = DEFAULT_STANDARD) -> dict[str, Any]:
    """JSON Schema (2020-12) of the project file for one standard."""
    model: type[BaseModel] = project_model(key)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Undatum project file, {standards.get(key).title}",
        **{k: v for k, v in model.model_json_schema().items() if k != "title"},
    }
