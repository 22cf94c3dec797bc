"""NZS 1170.5: what the parts of the room are bound to."""

from __future__ import annotations

from undatum.standards.contract import Job
from undatum.standards.nzs1170.site import SiteInput
from undatum.standards.nzs1170.system import SystemInput

NzsJob = Job[SiteInput, SystemInput]
