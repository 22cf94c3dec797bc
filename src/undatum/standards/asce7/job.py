"""ASCE 7: what the parts of the room are bound to."""

from __future__ import annotations

from undatum.standards.asce7.inputs import SiteInput, SiteInput22
from undatum.standards.asce7.system import SystemInput
from undatum.standards.contract import Job

AsceJob = Job[SiteInput | SiteInput22, SystemInput]
