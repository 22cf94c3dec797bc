"""IS 1893 (Part 1): what the parts of the room are bound to."""

from __future__ import annotations

from undatum.standards.contract import Job
from undatum.standards.is1893.site import SiteInput, SiteInput2002
from undatum.standards.is1893.system import SystemInput

IndianJob = Job[SiteInput | SiteInput2002, SystemInput]
