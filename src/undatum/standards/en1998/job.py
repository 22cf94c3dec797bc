"""EN 1998-1: what the parts of the room are bound to."""

from __future__ import annotations

from undatum.standards.contract import Job
from undatum.standards.en1998.site import SiteInput
from undatum.standards.en1998.system import SystemInput

EnJob = Job[SiteInput, SystemInput]
