"""A computed value beside one found in another way."""

from __future__ import annotations

from undatum.record import record


@record
class Comparison:
    """A computed value beside a hand estimate, and the difference that is still believed."""

    name: str
    where: str
    computed: float
    estimate: float
    dimension: str
    tolerance: float
    how: str
    least: float | None = None  # the lower end where it is not the tolerance itself
    scale: float | None = None  # what the difference is relative to; the estimate if left out

    @property
    def difference(self) -> float:
        """Relative to the estimate, or to a scale of its own."""
        if self.scale:
            return (self.computed - self.estimate) / self.scale
        return self.computed / self.estimate - 1 if self.estimate else float(self.computed != 0)

    @property
    def believed(self) -> bool:
        least = -self.tolerance if self.least is None else self.least
        return least <= self.difference <= self.tolerance
