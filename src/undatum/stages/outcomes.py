"""Small records of the spectrum analysis."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.record import record
from undatum.standards.answers import ScaleAnswer
from undatum.standards.terms import Direction, LimitState
from undatum.working import OwnValue

Floats = NDArray[np.float64]


@record
class Scaling:
    """The factor on one direction and limit state of the spectrum analysis."""

    direction: Direction
    state: LimitState
    modal_base_shear: float
    answer: ScaleAnswer


@record
class OwnEffect:
    """A value of the engineer's, and the base shears for strength by direction without it, N.

    There are none where the job can't be done without it.
    """

    own: OwnValue
    shears: Mapping[Direction, float]


@record
class SpectrumResult:
    """Base shear of the spectrum analysis in one direction, before scaling. SI.

    ``modal`` (m,) base shear of each mode, with its sign; ``ordinates`` (m,) spectral acceleration
    after reduction at ``periods`` (m,). The last may be the mass the modes leave out.
    """

    direction: Direction
    base_shear: float
    modal: Floats
    ordinates: Floats
    damping: Floats
    periods: Floats
