"""TBDY 2018: what the parts of the room are bound to."""

from __future__ import annotations

from undatum.standards.contract import Job
from undatum.standards.tbdy2018.site import SiteInput
from undatum.standards.tbdy2018.system import SystemInput

TbdyJob = Job[SiteInput, SystemInput]
