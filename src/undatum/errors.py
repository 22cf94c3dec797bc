"""Every error Undatum raises on purpose, in one hierarchy."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace


class UndatumError(Exception):
    """Base of all errors raised on purpose.

    >>> issubclass(ud.InputError, ud.UndatumError)
    True
    """


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing that is wrong in the input.

    ``place`` is the key path (``levels[3].height``), ``line`` the line of the project file where
    it can be found (``None`` when the input did not come from a file). A message that is given
    without a cure and says one behind a semicolon is taken apart.
    """

    place: str
    message: str
    cure: str = ""
    line: int | None = None

    def __post_init__(self) -> None:
        message, _, cure = self.message.partition("; ")
        if cure and not self.cure:
            object.__setattr__(self, "message", message)
            object.__setattr__(self, "cure", cure)

    def __str__(self) -> str:
        line = f"line {self.line}" if self.line else ""
        where = f"{self.place} ({line})" if self.place and line else self.place or line
        cure = f"\n    {self.cure}" if self.cure else ""
        return f"{where}: {self.message}{cure}" if where else f"{self.message}{cure}"


class InputError(UndatumError):
    """The input is wrong. ``faults`` holds everything that was found, not the first only.

    >>> try:
    ...     ud.Load(name="slab", kind="dead", per_area="6 apples")
    ... except ud.InputError as error:
    ...     print(error.faults[0].place)
    per_area
    """

    def __init__(self, faults: list[Fault] | tuple[Fault, ...] | str, source: str = "") -> None:
        if isinstance(faults, str):
            faults = [Fault("", faults)]
        self.faults = tuple(faults)
        self.source = source
        head = f"{source}: " if source else ""
        count = len(self.faults)
        lead = f"{head}{count} problems found\n" if count > 1 else head
        super().__init__(lead + "\n".join(str(fault) for fault in self.faults))

    def at_line(self, line: int) -> InputError:
        """The same, with the line of the file for every fault that has none."""
        return InputError([replace(f, line=f.line or line) for f in self.faults], self.source)


def once(faults: Sequence[Fault]) -> list[Fault]:
    """The faults, with one for all entries of a list or table that lack the same (over three)."""
    alike: dict[tuple[str, str, str], list[Fault]] = {}
    for f in faults:
        alike.setdefault((re.sub(r"'[^']*'|\d+", "", f.place), f.message, f.cure), []).append(f)
    found = []
    for first, *others in alike.values():
        if len(others) < 3:
            found += [first, *others]
            continue
        last = others[-1].place + (f" (line {others[-1].line})" if others[-1].line else "")
        found.append(replace(first, message=f"{first.message} (and at {len(others)} more places, "
                             f"the last {last})"))
    return found


class AnalysisError(UndatumError):
    """The input is well formed but the analysis cannot be done, for instance a mechanism.

    >>> issubclass(ud.AnalysisError, ud.UndatumError)
    True
    """


def nearest(word: str, choices: list[str]) -> str:
    """The choice most like ``word``, or an empty text when none comes close."""
    from difflib import get_close_matches

    folded = {choice.lower(): choice for choice in choices}
    found = get_close_matches(word.lower(), list(folded), n=1, cutoff=0.55)
    return folded[found[0]] if found else ""


def guess(word: str, choices: Iterable[str], before: str = "", after: str = "") -> str:
    """``did you mean 'x'?`` between two texts; nothing where no choice comes close."""
    near = nearest(word, list(choices))
    return f"{before}did you mean {near!r}?{after}" if near else ""


def one_of(word: str, choices: Iterable[str], lead: str = "known") -> str:
    """The cure for a word that is none of ``choices``: the nearest, and all of them."""
    every = list(choices)
    return f"{guess(word, every, after=' ')}{lead}: {', '.join(every)}" if every else \
        "there are none"
