"""Units at the edge: SI inside, the engineer's own units outside.

Inside the library every number is coherent SI (m, N, kg, s, rad). A value that comes in may be a
plain number (then it is in the project's unit system, or SI in Python), a text with its unit
(``"12 ft"``, ``"12 ft 6 in"``, ``"3.2 kPa"``, ``"5 %"``) or a Pint quantity. A value that goes out
is converted by :meth:`UnitSystem.show` and the unit stands in the name of its column.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from functools import cache
from types import MappingProxyType
from typing import TYPE_CHECKING, Annotated, Any, get_args

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.fields import FieldInfo
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from undatum.errors import InputError

if TYPE_CHECKING:
    import pint

STANDARD_GRAVITY = 9.80665  # m/s2, exact by definition (3rd CGPM, 1901)

#: dimension -> (unit in SI, an example a person would write)
DIMENSIONS: Mapping[str, tuple[str, str]] = MappingProxyType({
    "length": ("m", "12 ft"),
    "displacement": ("m", "0.5 in"),
    "area": ("m^2", "1200 ft^2"),
    "force": ("N", "250 kip"),
    "moment": ("N*m", "900 kip*ft"),
    "stiffness": ("N/m", "1500 kip/in"),
    "rotational stiffness": ("N*m", "2e6 kip*ft"),
    "stiffness per length": ("N/m^2", "200 MN/m^2"),
    "bending stiffness": ("N*m^2", "4e7 kN*m^2"),
    "area load": ("N/m^2", "80 psf"),
    "line load": ("N/m", "0.4 kip/ft"),
    "unit weight": ("N/m^3", "25 kN/m^3"),
    "stress": ("N/m^2", "30 GPa"),
    "second moment of area": ("m^4", "0.8 m^4"),
    "mass": ("kg", "120 t"),
    "rotational inertia": ("kg*m^2", "5000 t*m^2"),
    "acceleration": ("m/s^2", "0.4 g"),
    "acceleration in g": ("g", "0.4 g"),  # as mapped values are published
    "velocity": ("m/s", "0.2 m/s"),
    "time": ("s", "8 s"),
    "frequency": ("1/s", "2 Hz"),
    "angle": ("rad", "30 deg"),
    "ratio": ("", "0.05"),
})

_METRIC = {
    "length": "m",
    "displacement": "mm",
    "area": "m^2",
    "area load": "kN/m^2",
    "stress": "MPa",
    "second moment of area": "m^4",
    "mass": "t",
    "rotational inertia": "t*m^2",
}
_COMMON = {
    "acceleration": "g",
    "acceleration in g": "g",
    "time": "s",
    "frequency": "Hz",
    "angle": "rad",
    "ratio": "",
}


def _system(
    force: str, length: str, shown: dict[str, str]
) -> tuple[Mapping[str, str], Mapping[str, str]]:
    """(units of bare numbers, units of output) of a coherent system of force and length."""
    bare = {
        "length": length,
        "displacement": length,
        "area": f"{length}^2",
        "force": force,
        "moment": f"{force}*{length}",
        "stiffness": f"{force}/{length}",
        "rotational stiffness": f"{force}*{length}",
        "stiffness per length": f"{force}/{length}^2",
        "bending stiffness": f"{force}*{length}^2",
        "area load": f"{force}/{length}^2",
        "line load": f"{force}/{length}",
        "unit weight": f"{force}/{length}^3",
        "stress": f"{force}/{length}^2",
        "velocity": f"{length}/s",
        "second moment of area": f"{length}^4",
        "mass": f"{force}*s^2/{length}",
        "rotational inertia": f"{force}*s^2*{length}",
        **_COMMON,
    }
    return MappingProxyType(bare), MappingProxyType({**bare, **shown})


_MILLIMETERS = {"area load": "kN/m^2", "unit weight": "kN/m^3", "stress": "MPa", "mass": "t",
                "rotational inertia": "t*m^2", "velocity": "m/s"}
_US = {"displacement": "in", "area load": "psf", "stress": "ksi", "velocity": "in/s"}
_SYSTEMS = MappingProxyType({
    "N and m": _system("N", "m", {"mass": "kg", "rotational inertia": "kg*m^2"}),
    "kN and m": _system("kN", "m", _METRIC),
    "kip and ft": _system("kip", "ft", _US),
    "kip and in": _system("kip", "in", _US),
    "N and mm": _system("N", "mm", _MILLIMETERS),
    "kN and mm": _system("kN", "mm", _MILLIMETERS),
})

_PRETTY = str.maketrans({"^": "", "*": "·", "2": "²", "3": "³", "4": "⁴"})
_UGLY = str.maketrans({"·": "*", "²": "^2", "³": "^3", "⁴": "^4"})


#: Size in SI and dimension of the units engineers write, exact by definition (foot and pound of
#: 1959, standard gravity of 1901). Others, and prefixes not listed, are left to Pint.
_POUND = 0.45359237 * STANDARD_GRAVITY
_FOOT = 0.3048
_KNOWN: Mapping[str, tuple[float, str]] = MappingProxyType({
    "m": (1.0, "L"), "mm": (1e-3, "L"), "cm": (1e-2, "L"), "km": (1e3, "L"),
    "ft": (_FOOT, "L"), "in": (_FOOT / 12, "L"), "mi": (5280 * _FOOT, "L"),
    "N": (1.0, "F"), "kN": (1e3, "F"), "MN": (1e6, "F"), "lbf": (_POUND, "F"),
    "kip": (1e3 * _POUND, "F"),
    "kg": (1.0, "M"), "t": (1e3, "M"),
    "s": (1.0, "T"), "min": (60.0, "T"), "Hz": (1.0, "/T"),
    "Pa": (1.0, "P"), "kPa": (1e3, "P"), "MPa": (1e6, "P"), "GPa": (1e9, "P"),
    "psi": (_POUND / (_FOOT / 12) ** 2, "P"), "ksi": (1e3 * _POUND / (_FOOT / 12) ** 2, "P"),
    "psf": (_POUND / _FOOT**2, "P"), "ksf": (1e3 * _POUND / _FOOT**2, "P"),
    "plf": (_POUND / _FOOT, "Q"), "klf": (1e3 * _POUND / _FOOT, "Q"),
    "pcf": (_POUND / _FOOT**3, "V"), "kcf": (1e3 * _POUND / _FOOT**3, "V"),
    "rad": (1.0, ""), "deg": (math.pi / 180, ""), "1": (1.0, ""),
})
_POWERS: Mapping[str, tuple[int, int, int]] = MappingProxyType({  # of m, kg, s
    "": (0, 0, 0), "L": (1, 0, 0), "F": (1, 1, -2), "M": (0, 1, 0), "T": (0, 0, 1),
    "/T": (0, 0, -1), "P": (-1, 1, -2), "Q": (0, 1, -2), "V": (-2, 1, -2),
})
_ATOM = re.compile(r"([A-Za-z]+|1(?!\d))(?:\^?(-?\d))?")  # m^2, m2


@cache
def _plain(unit: str) -> tuple[float, tuple[int, ...]] | None:
    """SI size and powers of m, kg and s of a unit of known parts, ``None`` for any other."""
    if len(unit) > 60:
        return None
    size, powers, sign = 1.0, (0, 0, 0), 1
    # a blank between two units is a product, which is Pint's: "m m" is no millimeter
    for part in re.split(r"\s*([*/])\s*", unit.strip().replace("**", "^")):
        if part in ("*", "/"):
            sign = -1 if part == "/" else 1
            continue
        match = _ATOM.fullmatch(part)
        if match is None or match[1] not in _KNOWN:
            return None
        one, kind = _KNOWN[match[1]]
        power = sign * int(match[2] or 1)
        size *= one**power
        a, b, c = _POWERS[kind]
        powers = (powers[0] + power * a, powers[1] + power * b, powers[2] + power * c)
    return size, powers


@cache
def registry() -> pint.UnitRegistry[Any]:
    """The Pint registry, made on first use (it takes a moment to load)."""
    import pint

    found: pint.UnitRegistry[Any] = pint.UnitRegistry()
    for line in (
        "psf = lbf / foot ** 2",
        "ksf = kip / foot ** 2",
        "plf = lbf / foot",
        "klf = kip / foot",
        "pcf = lbf / foot ** 3",
        "kcf = kip / foot ** 3",
        "@alias standard_gravity = g0 = gravity",
    ):
        found.define(line)
    return found


#: Powers of powers, and exponents of two digits, which no unit has and which could run away.
_RUNAWAY = re.compile(r"(\*\*|\^)\s*[-+(]*\s*(\d{2,}|\d*\.?\d*\s*(\*\*|\^))")


@cache
def factor(unit: str, dimension: str) -> float:
    """How many SI units of ``dimension`` one ``unit`` is.

    ``g`` is the acceleration of gravity wherever an acceleration is meant (never the gram).
    Raises ValueError when the unit is unknown or measures something else.
    """
    si = DIMENSIONS[dimension][0]
    if unit == si:
        return 1.0
    if dimension == "acceleration" and unit == "g":
        return STANDARD_GRAVITY
    if dimension == "acceleration in g":
        return factor(unit, "acceleration") / STANDARD_GRAVITY
    if dimension == "ratio" and unit in {"%", "percent"}:
        return 0.01
    text = unit.translate(_UGLY)
    if (known := _plain(text)) is not None:
        wanted = _plain(si or "1")
        if wanted is not None and known[1] == wanted[1]:
            return known[0] / wanted[0]
        raise ValueError(f"the unit {unit!r} does not measure a{_an(dimension)}")
    if len(text) > 60 or text.count("*") > 8 or _RUNAWAY.search(text):
        raise ValueError(f"the unit {unit[:60]!r} cannot be read")
    import pint

    ureg = registry()
    text = text.replace("^", "**")
    try:
        parsed = ureg.parse_units(text)
        return float(ureg.Quantity(1.0, parsed).to(si or "dimensionless").magnitude)
    except pint.errors.UndefinedUnitError as error:
        raise ValueError(f"the unit {unit!r} is not known") from error
    except pint.errors.DimensionalityError as error:
        raise ValueError(f"the unit {unit!r} does not measure a{_an(dimension)}") from error
    except Exception as error:  # Pint raises many kinds on malformed text
        raise ValueError(f"the unit {unit!r} cannot be read") from error


def _an(dimension: str) -> str:
    return ("n " if dimension[0] in "aeio" else " ") + dimension


@dataclass(frozen=True, slots=True)
class UnitSystem:
    """A coherent system of force and length, such as ``"kN and m"`` or ``"kip and ft"``.

    ``bare`` gives the unit of a plain number by dimension (always coherent in force and length),
    ``shown`` the unit results are written in (drifts in mm or in, loads in psf, and so on).
    """

    name: str

    def __post_init__(self) -> None:
        if self.name not in _SYSTEMS:
            raise InputError(
                f"units = {self.name!r} is not a unit system; choose one of "
                + ", ".join(repr(name) for name in _SYSTEMS)
            )

    @property
    def bare(self) -> Mapping[str, str]:
        return _SYSTEMS[self.name][0]

    @property
    def shown(self) -> Mapping[str, str]:
        return _SYSTEMS[self.name][1]

    def show(self, value: Any, dimension: str, *, coherent: bool = False) -> Any:
        """``value`` (SI, number or array) in this system's output (or coherent) unit."""
        return value / self.size(dimension, coherent=coherent)

    def size(self, dimension: str, *, coherent: bool = False) -> float:
        """The SI size of one unit of ``dimension`` as written by this system."""
        if dimension not in DIMENSIONS:  # a fixed unit such as "ft" is written as it stands
            return 1.0
        return factor((self.bare if coherent else self.shown)[dimension], dimension)

    def label(self, dimension: str, *, coherent: bool = False) -> str:
        """The unit as people write it: ``kN·m``, ``kN/m²``, empty for a ratio."""
        if dimension not in DIMENSIONS:
            return dimension.translate(_PRETTY)
        unit = (self.bare if coherent else self.shown)[dimension]
        return {"psf": "psf", "ksi": "ksi"}.get(unit, unit.translate(_PRETTY))


SI = UnitSystem("N and m")
SYSTEMS = tuple(_SYSTEMS)

_SPOKEN: ContextVar[UnitSystem] = ContextVar("units of messages", default=SI)


@contextmanager
def speaking(system: UnitSystem) -> Iterator[None]:
    """Messages made inside name values in the units of ``system``; see :func:`said`."""
    before = _SPOKEN.set(system)
    try:
        yield
    finally:
        _SPOKEN.reset(before)


def said(value: float, dimension: str = "length", digits: str = "4g") -> str:
    """A value (SI) with its unit for a message, as the project at hand writes it."""
    system = _SPOKEN.get()
    return f"{system.show(value, dimension):.{digits}} {system.label(dimension)}"


def beside_feet(*lengths: float, between: str = ", ") -> str:
    """What stands behind lengths in ft where the project is in other units, such as `` (22.3 m)``;
    nothing where it is in ft."""
    return "" if _SPOKEN.get().shown["length"] == "ft" else f" ({between.join(map(said, lengths))})"

_NUMBER = r"[-+]?(?:\d+(?:_\d+)*\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_TEXT = re.compile(rf"\s*({_NUMBER})\s*(.*?)\s*")
_FEET_INCHES = re.compile(rf"\s*({_NUMBER})\s*(?:ft|')\s*-?\s*({_NUMBER})\s*(?:in|\")\s*")


def to_si(value: Any, dimension: str, system: UnitSystem = SI) -> float:
    """``value`` as an SI number: a number in ``system``, a text with a unit or a Pint quantity.

    Raises ValueError with advice when it is none of these, has a unit of another dimension, or
    is not a finite number.
    """
    example = DIMENSIONS[dimension][1]
    bare = system.bare[dimension]
    expected = f"expected a{_an(dimension)}, a number" + (f" in {bare}" if bare else "")
    expected += f' or a text with its unit such as "{example}"' if bare else f" such as {example}"
    if isinstance(value, bool) or value is None:
        raise ValueError(f"{value!r} is not a{_an(dimension)}; {expected}")
    if isinstance(value, str):
        number = _text_to_si(value, dimension, expected)
    elif hasattr(value, "magnitude") and hasattr(value, "units"):
        number = float(value.magnitude) * factor(f"{value.units:~}".replace(" ", ""), dimension)
    else:
        try:
            number = float(value) * factor(bare, dimension)
        except (TypeError, ValueError, OverflowError):
            raise ValueError(f"{value!r} is not a{_an(dimension)}; {expected}") from None
    if not math.isfinite(number):
        raise ValueError(f"{value!r} is not a finite number; {expected}")
    return number


def _text_to_si(text: str, dimension: str, expected: str) -> float:
    if dimension in {"length", "displacement"} and (both := _FEET_INCHES.fullmatch(text)):
        feet, inches = float(both[1]), float(both[2])
        return math.copysign(abs(feet) + inches / 12, feet) * factor("ft", "length")
    match = _TEXT.fullmatch(text)
    if not match:
        raise ValueError(f"{text!r} does not begin with a number; {expected}")
    number, unit = float(match[1].replace("_", "")), match[2]
    if not unit and dimension != "ratio":
        raise ValueError(f"{text!r} comes without a unit; {expected}")
    try:
        return number * (factor(unit, dimension) if unit else 1.0)
    except ValueError as error:
        raise ValueError(f"{text!r}: {error}; {expected}") from None


def fixed_unit_value(value: float | str, unit: str) -> float:
    """A number, or a text with its unit, in a fixed unit such as ``ft``, ``s``, ``g`` or ``%``.

    Raises ValueError with advice when it is neither or measures something else.
    """
    if not isinstance(value, str):
        if isinstance(value, bool) or not math.isfinite(value):
            raise ValueError(f"{value!r} is not a finite number")
        return float(value)
    match = _TEXT.fullmatch(value)
    if not match:
        raise ValueError(f"{value!r} does not begin with a number")
    number, own = float(match[1].replace("_", "")), match[2]
    if not own or own == unit:
        return number
    if unit in ("", "%", "g"):
        dimension = "ratio" if unit != "g" else "acceleration in g"
        return number * factor(own, dimension) / (0.01 if unit == "%" else 1.0)
    mine, theirs = _plain(own.translate(_UGLY)), _plain(unit)
    if mine is None or theirs is None or mine[1] != theirs[1]:
        raise ValueError(f"{value!r}: the unit {own!r} can't be turned into {unit!r}")
    return number * mine[0] / theirs[0]


def si(text: str) -> float:
    """The SI number of a text with a unit, whatever it measures: ``si("12 ft")`` is 3.6576.

    ``g`` is the acceleration of gravity, never the gram.

    >>> round(ud.si("12 ft"), 4), ud.si("30 GPa")
    (3.6576, 30000000000.0)
    """
    match = _TEXT.fullmatch(text)
    gravity = match is not None and match[2] == "g"
    for dimension in ("acceleration",) if gravity else DIMENSIONS:
        try:
            return to_si(text, dimension)
        except ValueError:
            continue
    raise InputError(f'{text!r} is not a number with a unit, such as "12 ft" or "3.2 kPa"')


@dataclass(frozen=True, slots=True)
class Measure:
    """Pydantic annotation: a number of a given dimension, with its hard and its plausible range.

    All bounds are in SI. A value outside ``above``, ``least``, ``most`` is an error; one outside
    ``plausible`` is asked about by name (:mod:`undatum.stages.questions`).
    """

    dimension: str
    above: float | None = None
    least: float | None = None
    most: float | None = None
    plausible: tuple[float, float] | None = None

    def __get_pydantic_core_schema__(
        self, source: Any, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        return core_schema.with_info_plain_validator_function(
            self._validate, serialization=core_schema.plain_serializer_function_ser_schema(float)
        )

    def _validate(self, value: Any, info: core_schema.ValidationInfo) -> float:
        system: UnitSystem = (info.context or {}).get("units", SI)
        try:
            number = to_si(value, self.dimension, system)
        except ValueError as error:
            raise PydanticCustomError("quantity", "{text}", {"text": str(error)}) from None
        unit = system.label(self.dimension, coherent=True)
        size = system.size(self.dimension, coherent=True)
        for bound, ok, word in (
            (self.above, self.above is None or number > self.above, "greater than"),
            (self.least, self.least is None or number >= self.least, "at least"),
            (self.most, self.most is None or number <= self.most, "at most"),
        ):
            if bound is not None and not ok:
                given = value if isinstance(value, str) else f"{value:g} {unit}".strip()
                raise PydanticCustomError(
                    "bound",
                    "{given} is out of range; a{dimension} here is {word} {bound}",
                    {
                        "given": given,
                        "dimension": _an(self.dimension),
                        "word": word,
                        "bound": f"{bound / size:.4g} {unit}".strip(),
                    },
                )
        return number

    def __get_pydantic_json_schema__(
        self, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        return {
            "type": ["number", "string"],
            "x-dimension": self.dimension,
            "examples": [DIMENSIONS[self.dimension][1]],
        }



@dataclass(frozen=True, slots=True)
class InUnit:
    """What the plain number of a field is: a dimension, or a unit that no system changes."""

    dimension: str


def dimension_of(field: FieldInfo) -> str:
    """The dimension that the numbers in a field of a model have; empty where none is stated."""
    def stated(kind: Any) -> Iterator[str]:
        for one in (*getattr(kind, "__metadata__", ()), *getattr(kind, "metadata", ())):
            if isinstance(one, Measure | InUnit):
                yield one.dimension
        for inner in (*get_args(kind), *([kind.annotation] if isinstance(kind, FieldInfo) else ())):
            if not isinstance(inner, Measure | InUnit):
                yield from stated(inner)

    return next(stated(field), "")


Length = Annotated[float, Measure("length", least=-1e4, most=1e4)]
Height = Annotated[float, Measure("length", above=0.0, most=60.0, plausible=(2.0, 12.0))]
Extent = Annotated[float, Measure("length", above=0.0, most=1e4)]
AreaLoad = Annotated[float, Measure("area load", least=0.0, most=1e7, plausible=(0.0, 40e3))]
LineLoad = Annotated[float, Measure("line load", least=0.0, most=1e8, plausible=(0.0, 300e3))]
Force = Annotated[float, Measure("force", least=0.0, most=1e11)]
Stiffness = Annotated[
    float, Measure("stiffness", above=0.0, most=1e15, plausible=(1e5, 1e12))
]
Modulus = Annotated[float, Measure("stress", above=0.0, most=1e13, plausible=(0.5e9, 220e9))]
Area = Annotated[float, Measure("area", above=0.0, most=1e5)]
SecondMoment = Annotated[float, Measure("second moment of area", above=0.0, most=1e7)]
Period = Annotated[float, Measure("time", above=0.0, most=100.0)]
Share = Annotated[float, Measure("ratio", least=0.0, most=1.0)]
KeptShare = Annotated[float, Measure("ratio", above=0.0, most=1.0)]  # of a stiffness
Ratio = Annotated[float, Measure("ratio", above=0.0, most=1e3)]
