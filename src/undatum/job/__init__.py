"""One job: what is worked out, in what order, from what; what did not change is not done again."""

from undatum.job.by_standards import SideBySide, side_by_side
from undatum.job.entry import analyze, calculate, load, run
from undatum.job.heights_and_weights import load_stack, run_stack
from undatum.job.job import Job
from undatum.job.site_only import SiteSpectra, site_spectra
from undatum.project.from_python import make_project
from undatum.project.heights import StackProject, make_stack, read_stack
from undatum.project.project_file import read, shipped_project
from undatum.project.schema import Project, json_schema
from undatum.results.compared import compared
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces

__all__ = [
    "Job",
    "Project",
    "Results",
    "SideBySide",
    "SiteSpectra",
    "StackForces",
    "StackProject",
    "analyze",
    "calculate",
    "compared",
    "json_schema",
    "load",
    "load_stack",
    "make_project",
    "make_stack",
    "read",
    "read_stack",
    "run",
    "run_stack",
    "shipped_project",
    "side_by_side",
    "site_spectra",
]
