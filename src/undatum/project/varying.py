"""What a family of buildings varies, how its members are drawn, and what is kept of each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import advice
from undatum.described import Described, Named, one_or_list
from undatum.record import FixedDict

Scalar = bool | float | str
Paths = Annotated[
    Annotated[str, Tag("one")] | Annotated[tuple[str, ...], Tag("list")],
    Discriminator(one_or_list)]
Design = Literal["grid", "one at a time", "latin hypercube", "sobol", "random", "indices"]
Taken = Literal["largest", "smallest", "largest size"]
#: What is kept by one word: see :mod:`undatum.variants.kept`.
Kept = Literal["weight", "periods", "base shear", "spectrum base shear", "drift", "findings",
               "key numbers"]
MOST = 1_000_000
USUAL: tuple[Kept, ...] = ("weight", "periods", "base shear", "drift", "findings")


class Normal(Described):
    """A normal distribution.

    >>> ud.Normal(mean=1.0, deviation=0.1).mean
    1.0
    """

    mean: float | str = Field(description="Mean")
    deviation: float | str = Field(description="Standard deviation")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(self, *, mean: float | str, deviation: float | str) -> None: ...


class Lognormal(Described):
    """A lognormal distribution.

    >>> ud.Lognormal(spread=0.2).median
    1.0
    """

    median: float | str = Field(default=1.0, description="Median")
    spread: float = Field(gt=0, le=3, description="Standard deviation of the logarithm")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(self, *, spread: float, median: float | str = 1.0) -> None: ...


class Parameter(Described):
    """What is varied: one value of the description, or several together.

    >>> ud.Parameter(name="site class", path="site.site_class", values=["C", "D"]).paths
    ('site.site_class',)
    """

    name: str = Field(min_length=1, max_length=60, description="Name, unique in the family")
    path: Paths = Field(
        description='Where it stands, such as "site.ss" or '
        '"building.lines[direction=X].stiffness", or a list of such; "standard" varies among '
        'the alternatives, "project" among project files')
    values: tuple[Scalar, ...] = Field(default=(), description="The values it takes")
    weights: tuple[float, ...] = Field(
        default=(), description="How likely each of the values is; alike if left out")
    between: tuple[float | str, float | str] | None = Field(
        default=None, description="From and to; every value between is as likely")
    steps: int | None = Field(
        default=None, ge=2, le=1000, description="Of a grid: how many values between")
    normal: Normal | None = Field(default=None, description="Normally distributed")
    lognormal: Lognormal | None = Field(default=None, description="Lognormally distributed")
    times: bool = Field(
        default=False, description="The values are factors on what stands in the project")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, path: str | Sequence[str],
            values: Sequence[bool | float | str] = (), weights: Sequence[float] = (),
            between: Sequence[float | str] | None = None, steps: int | None = None,
            normal: Normal | None = None, lognormal: Lognormal | None = None, times: bool = False,
        ) -> None: ...

    @property
    def paths(self) -> tuple[str, ...]:
        """Where it stands."""
        return (self.path,) if isinstance(self.path, str) else self.path

    @model_validator(mode="after")
    def _one_way(self) -> Parameter:
        ways = [bool(self.values), self.between is not None, self.normal is not None,
                self.lognormal is not None]
        if sum(ways) != 1:
            raise advice("give one of values, between, normal, lognormal")
        if self.weights and (len(self.weights) != len(self.values) or min(self.weights) < 0
                             or sum(self.weights) <= 0):
            raise advice("give a weight of 0 or more for each of the values")
        if self.times and any(isinstance(v, str | bool) for v in self.values):
            raise advice("factors are plain numbers")
        return self


class KeptValue(Described):
    """A value kept of every variant: a cell of a table, or what is read.

    >>> ud.KeptValue(name="roof", table="drift_x", column="use",
    ...              where={"story": "Roof"}).column
    'use'
    """

    name: str = Field(min_length=1, max_length=80, description="Name, unique in the family")
    table: str | None = Field(default=None, description="Name of a table of the results")
    column: str | None = Field(default=None, description="Name of its column, without the unit")
    where: Named[str, str | float] = Field(
        default_factory=FixedDict, description="Which rows: cells of other columns by their name")
    read: str | None = Field(
        default=None, description="What is read, as 'undatum read' takes it: forces, walls, drift")
    which: str = Field(default="", description="Of which members, walls or lines; all if left out")
    under: str = Field(default="", description="Under what: a set, a case, envelope")
    component: str | None = Field(default=None, description="Which component, such as moment_z")
    take: Taken = Field(default="largest size", description="What is taken of several values")
    use: bool = Field(
        default=False, description="It is a share of a limit, which more than 1 exceeds")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, table: str | None = None, column: str | None = None,
            where: Mapping[str, str | float] = ..., read: str | None = None, which: str = "",
            under: str = "", component: str | None = None, take: Taken = "largest size",
            use: bool = False,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_way(self) -> KeptValue:
        if (self.table is None) == (self.read is None):
            raise advice("give a table and its column, or what is read and its component")
        if self.table is not None and self.column is None:
            raise advice("name the column of the table")
        if self.read is not None and self.component is None:
            raise advice("name the component that is kept")
        return self


class Variants(Described):
    """The ``[variants]`` table: a family of buildings around the one described.

    >>> ud.Variants(vary=[ud.Parameter(name="S1", path="site.s1", between=[0.3, 0.5])],
    ...             design="sobol", count=64).design
    'sobol'
    """

    vary: tuple[Parameter, ...] = Field(default=(), description="What is varied")
    design: Design = Field(
        default="grid", description='How variants are drawn: "grid" takes every combination, "one '
        'at a time" each value alone, "indices" what Sobol indices need; the others are samples')
    count: int = Field(
        default=64, ge=1, le=MOST, description="Size of a sample; a power of 2 for sobol and "
        "indices")
    seed: int = Field(default=1, ge=0, description="Of the sample: the same gives the same")
    keep: tuple[Kept | KeptValue, ...] = Field(
        default_factory=lambda: USUAL,
        description="What is kept of every variant")
    table: str | None = Field(
        default=None, description="Table (CSV) of variants beside the project, a row each: heads "
        "are the names of parameters, or paths")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, vary: Sequence[Parameter] = (), design: Design = "grid", count: int = 64,
            seed: int = 1, keep: Sequence[Kept | KeptValue] = ..., table: str | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _sound(self) -> Variants:
        for names, what in (([p.name for p in self.vary], "parameters"),
                            ([k if isinstance(k, str) else k.name for k in self.keep], "kept")):
            if len(set(names)) < len(names):
                raise advice(f"each of the {what} needs a name of its own")
        if not self.vary and self.table is None:
            raise advice("say what is varied, or name a table of variants")
        if self.design in ("sobol", "indices") and self.count & (self.count - 1):
            low = 1 << (self.count.bit_length() - 1)
            raise advice(f"{self.count} is no power of 2, which {self.design} needs; take {low} or "
                         f"{2 * low}")
        return self
