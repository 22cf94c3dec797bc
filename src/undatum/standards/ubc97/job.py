"""UBC 1997: what the parts of the room are bound to."""

from __future__ import annotations

from undatum.standards.contract import Job
from undatum.standards.ubc97.site import SiteInput
from undatum.standards.ubc97.system import SystemInput

UbcJob = Job[SiteInput, SystemInput]
