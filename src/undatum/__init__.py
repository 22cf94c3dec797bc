"""Undatum: seismic analysis of buildings, traceable to the clause.

From a file::

    results = ud.run(ud.read("project.toml"))
    print(results)                                  # the summary
    results.table("findings")                       # every table by its name
    results.read("drift", under="envelope").table() # anything under anything
    ud.write_all(results, "out")                    # records, workbook, figures, tables

From Python: :func:`make_project` takes the keys of a project file, :func:`analyze` runs them at
once. :func:`calculate` gives the :class:`Job`, whose stages (``job.modes``, ``job.statics``) are
worked out when they are read, and kept in ``job.varied({...})`` where nothing they need changed.
What is described: :class:`Building`, :class:`Level`, :class:`Line`, :class:`MemberRule`,
:class:`CrossSection`, :class:`Load` and the classes they name; ``help(ud.Level)`` lists the fields.
Numbers in Python are SI; any value may carry its unit as text (``"12 ft"``).

Everything here is loaded when first used, so that ``import undatum`` is quick.
"""

from __future__ import annotations

from importlib import import_module

from undatum.version import VERSION

TYPE_CHECKING = False  # as typing.TYPE_CHECKING, without loading typing

__version__ = VERSION

if TYPE_CHECKING:
    from undatum.building import (
        Axes,
        AxisFamily,
        BraceEnds,
        Cantilever,
        CrossSection,
        DeformingFloor,
        Flange,
        GivenProperties,
        GroundSprings,
        Infill,
        KeptShares,
        Level,
        Line,
        Load,
        LoadCase,
        Material,
        MemberLoad,
        MemberRule,
        OnLevels,
        OnMembers,
        OnSupports,
        Opening,
        Outline,
        Placed,
        Rays,
        Releases,
        Rings,
        SectionPart,
        Stack,
        Stories,
        Stretch,
        Support,
        Wall,
        WallFoot,
        WallShares,
        read_members,
        read_sections,
        read_walls,
    )
    from undatum.errors import AnalysisError, InputError, UndatumError
    from undatum.ground import (
        GroundMotion,
        Location,
        Spectrum,
        TabulatedSpectrum,
        look_up,
        read_curves,
        read_motion,
        read_spectrum,
        response_spectra,
        rotated_spectra,
    )
    from undatum.job import (
        Job,
        Project,
        Results,
        SideBySide,
        SiteSpectra,
        StackForces,
        StackProject,
        analyze,
        calculate,
        compared,
        load,
        load_stack,
        make_project,
        make_stack,
        read,
        read_stack,
        run,
        run_stack,
        shipped_project,
        side_by_side,
        site_spectra,
    )
    from undatum.labelled import Labelled
    from undatum.layout import Building
    from undatum.project.varying import KeptValue, Lognormal, Normal, Parameter, Variants
    from undatum.report import figures
    from undatum.report.files import write_all
    from undatum.units import si
    from undatum.variants import (
        Cure,
        DriftSources,
        Family,
        FamilyResults,
        cure,
        drift_sources,
        family_of,
        load_family,
        run_family,
    )

_HOMES = {
    "undatum.building": (
        "Axes", "AxisFamily", "BraceEnds", "Cantilever", "CrossSection", "DeformingFloor", "Flange",
        "GivenProperties", "GroundSprings", "Infill", "KeptShares", "Level", "Line", "Load",
        "LoadCase", "Material", "MemberLoad", "MemberRule", "OnLevels", "OnMembers", "OnSupports",
        "Opening", "Outline", "Placed", "Rays", "Releases", "Rings", "SectionPart", "Stack",
        "Stories", "Stretch", "Support", "Wall", "WallFoot", "WallShares", "read_members",
        "read_sections", "read_walls"),
    "undatum.errors": ("AnalysisError", "InputError", "UndatumError"),
    "undatum.ground": ("GroundMotion", "Location", "Spectrum", "TabulatedSpectrum", "look_up",
                       "read_curves", "read_motion", "read_spectrum", "response_spectra",
                       "rotated_spectra"),
    "undatum.labelled": ("Labelled",),
    "undatum.job": (
        "Job", "Project", "Results", "SideBySide", "SiteSpectra", "StackForces",
        "StackProject", "analyze", "calculate", "compared", "load", "load_stack", "make_project",
        "make_stack", "read", "read_stack", "run", "run_stack", "shipped_project", "side_by_side",
        "site_spectra"),
    "undatum.report.files": ("write_all",),
    "undatum.layout": ("Building",),
    "undatum.project.varying": ("KeptValue", "Lognormal", "Normal", "Parameter", "Variants"),
    "undatum.units": ("si",),
    "undatum.variants": ("Cure", "DriftSources", "Family", "FamilyResults", "cure",
                         "drift_sources", "family_of", "load_family", "run_family"),
}
_HOME_OF = {name: home for home, names in _HOMES.items() for name in names}

__all__ = [
    "AnalysisError",
    "Axes",
    "AxisFamily",
    "BraceEnds",
    "Building",
    "Cantilever",
    "CrossSection",
    "Cure",
    "DeformingFloor",
    "DriftSources",
    "Family",
    "FamilyResults",
    "Flange",
    "GivenProperties",
    "GroundMotion",
    "GroundSprings",
    "Infill",
    "InputError",
    "Job",
    "KeptShares",
    "KeptValue",
    "Labelled",
    "Level",
    "Line",
    "Load",
    "LoadCase",
    "Location",
    "Lognormal",
    "Material",
    "MemberLoad",
    "MemberRule",
    "Normal",
    "OnLevels",
    "OnMembers",
    "OnSupports",
    "Opening",
    "Outline",
    "Parameter",
    "Placed",
    "Project",
    "Rays",
    "Releases",
    "Results",
    "Rings",
    "SectionPart",
    "SideBySide",
    "SiteSpectra",
    "Spectrum",
    "Stack",
    "StackForces",
    "StackProject",
    "Stories",
    "Stretch",
    "Support",
    "TabulatedSpectrum",
    "UndatumError",
    "Variants",
    "Wall",
    "WallFoot",
    "WallShares",
    "analyze",
    "calculate",
    "compared",
    "cure",
    "drift_sources",
    "family_of",
    "figures",
    "load",
    "load_family",
    "load_stack",
    "look_up",
    "make_project",
    "make_stack",
    "read",
    "read_curves",
    "read_members",
    "read_motion",
    "read_sections",
    "read_spectrum",
    "read_stack",
    "read_walls",
    "response_spectra",
    "rotated_spectra",
    "run",
    "run_family",
    "run_stack",
    "shipped_project",
    "si",
    "side_by_side",
    "site_spectra",
    "write_all",
]


def __getattr__(name: str) -> object:
    if name == "figures":
        return import_module("undatum.report.figures")
    if name in _HOME_OF:
        return getattr(import_module(_HOME_OF[name]), name)
    raise AttributeError(f"module 'undatum' has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted([*globals(), *__all__])
