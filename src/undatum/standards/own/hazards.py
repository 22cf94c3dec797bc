"""The spectra of the limit states of criteria of one's own, before and after their reduction."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from undatum.errors import Fault, InputError
from undatum.expression import expression
from undatum.ground.spectrum import ReshapedSpectrum, ScaledSpectrum, Spectrum
from undatum.record import fixed
from undatum.standards.contract import Job
from undatum.standards.facts import Floats
from undatum.standards.own.rules import Rules, SiteInput, SystemInput
from undatum.standards.terms import Direction, LimitState

OwnJob = Job[SiteInput, SystemInput]


def hazard(job: OwnJob, rules: Rules, direction: Direction, state: LimitState) -> Spectrum:
    """The spectrum of a limit state before any reduction."""
    base, rule = job.spectra[direction], rules.limit_states.get(state.key)
    if rule is None:
        return base
    if rule.spectrum is not None:
        return rule.spectrum.make(state.key, job.site.importance if rule.importance else 1.0)
    assert rule.spectrum_factor is not None
    return ScaledSpectrum(f"{rule.spectrum_factor:.3g} times", base, rule.spectrum_factor)


@dataclass(frozen=True, slots=True)
class DividedSpectrum(ReshapedSpectrum):
    """Another spectrum over a divisor that is a formula of the period T, in s; ``values`` are its
    other symbols."""

    name: str
    base: Spectrum
    divisor: str
    values: Mapping[str, Any]

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        divisor = np.asarray(expression(self.divisor).evaluate({**self.values, "T": t}))
        if not (np.isfinite(divisor) & (divisor > 0)).all():
            raise InputError([Fault("divisor_by_period", f"{self.divisor!r} gives no divisor above "
                                    "zero at every period", "mend the formula in the criteria")])
        return np.asarray(self.base(t) / divisor)
