"""One job on disk or in Python: in, through, out."""

from undatum.project.alternatives import SideBySide, side_by_side
from undatum.project.reader import read
from undatum.project.results import Results
from undatum.project.runner import analyze, run
from undatum.project.schema import Project, json_schema
from undatum.project.site_only import SiteSpectra, site_spectra

__all__ = [
    "Project",
    "Results",
    "SideBySide",
    "SiteSpectra",
    "analyze",
    "json_schema",
    "read",
    "run",
    "side_by_side",
    "site_spectra",
]
