"""What a stage is, and the list of all: what it needs and what it gives, by name."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage: what it needs and what it gives, by name.

    ``settles`` says that an equal result is taken for the same: what comes after is not done again.
    """

    name: str
    make: Callable[..., Any]
    inputs: tuple[str, ...]
    outputs: tuple[str, ...]
    settles: bool


STAGES: list[Stage] = []


def stage(*outputs: str, settles: bool = False) -> Callable[[Callable[..., Any]], Any]:
    """Register a function as a stage. With several outputs it returns a tuple."""

    def add(make: Callable[..., Any]) -> Callable[..., Any]:
        inputs = tuple(inspect.signature(make).parameters)
        name = make.__name__.strip("_")
        STAGES.append(Stage(name, make, inputs, outputs or (name,), settles))
        return make

    return add
