"""One job on disk or in Python: in, through, out."""

from undatum.project.alternatives import SideBySide, side_by_side
from undatum.project.calculation import Calculation, calculate
from undatum.project.reader import read, shipped_project
from undatum.project.results import Results
from undatum.project.runner import analyze, project_of, run
from undatum.project.schema import Project, json_schema
from undatum.project.site_only import SiteSpectra, site_spectra
from undatum.project.stack import StackForces, StackProject, read_stack, run_stack, stack_of
from undatum.project.store import load

__all__ = [
    "Calculation",
    "Project",
    "Results",
    "SideBySide",
    "SiteSpectra",
    "StackForces",
    "StackProject",
    "analyze",
    "calculate",
    "json_schema",
    "load",
    "project_of",
    "read",
    "read_stack",
    "run",
    "run_stack",
    "shipped_project",
    "side_by_side",
    "site_spectra",
    "stack_of",
]
