"""Where in a TOML file each key stands, so that an error can name the line.

``tomllib`` reads the values; this scanner only follows the same text to note lines. It is run on
files that ``tomllib`` has accepted, so it need not judge them.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Iterable
from dataclasses import replace

from undatum.errors import Fault

Path = tuple[str | int, ...]


class Places:
    """Line numbers by key path of a valid TOML text."""

    def __init__(self, text: str) -> None:
        self._text = text
        self._at = 0
        self._ends = [i for i, c in enumerate(text) if c == "\n"]
        self._lines: dict[Path, int] = {}
        self._counts: dict[Path, int] = {}
        self._scan()

    def line(self, path: Path) -> int | None:
        """The line of ``path``, or of the nearest thing around it that stands in the file."""
        for length in range(len(path), 0, -1):
            if path[:length] in self._lines:
                return self._lines[path[:length]]
        return None

    def located(self, faults: Iterable[Fault]) -> list[Fault]:
        """The faults with their lines, in the order of the file."""
        found = (replace(f, line=f.line or self.line(path_of(f.place))) for f in faults)
        return sorted(found, key=lambda f: f.line or 0)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Places)  # it says where something stands, not what

    __hash__ = object.__hash__

    # -- scanning -----------------------------------------------------------------------------

    def _scan(self) -> None:
        prefix: Path = ()
        while self._skip_blank():
            if self._text.startswith("[[", self._at):
                prefix = self._resolve(self._header(2))
                index = self._counts.get(prefix, 0)
                self._counts[prefix] = index + 1
                prefix = (*prefix, index)
                self._note(prefix)
            elif self._text[self._at] == "[":
                prefix = self._resolve(self._header(1))
                self._note(prefix)
            else:
                self._pair(prefix)

    def _note(self, path: Path) -> None:
        line = bisect_left(self._ends, self._at) + 1
        for length in range(1, len(path) + 1):
            self._lines.setdefault(path[:length], line)

    def _resolve(self, path: Path) -> Path:
        """Put in the current index of every array of tables on the way to the last key."""
        found: Path = ()
        for key in path[:-1]:
            found = (*found, key)
            if found in self._counts:
                found = (*found, self._counts[found] - 1)
        return (*found, path[-1])

    def _header(self, brackets: int) -> Path:
        self._at += brackets
        path = self._key("]")
        self._at += brackets
        return path

    def _pair(self, prefix: Path) -> None:
        start = self._at
        path = (*prefix, *self._key("="))
        end, self._at = self._at, start
        self._note(path)
        self._at = end + 1
        self._value(path)

    def _key(self, stop: str) -> Path:
        parts: list[str] = []
        while self._text[self._at] != stop:
            c = self._text[self._at]
            if c in " \t.":
                self._at += 1
            elif c in "\"'":
                parts.append(self._string().strip(c))
            else:
                start = self._at
                while self._text[self._at] not in f" \t.{stop}":
                    self._at += 1
                parts.append(self._text[start : self._at])
        return tuple(parts)

    def _value(self, path: Path) -> None:
        self._skip_blank()
        c = self._text[self._at]
        if c == "[":
            self._at += 1
            index = 0
            while self._next_item("]"):
                self._note((*path, index))
                self._value((*path, index))
                index += 1
        elif c == "{":
            self._at += 1
            while self._next_item("}"):
                self._pair(path)
        elif c in "\"'":
            self._string()
        else:
            while self._at < len(self._text) and self._text[self._at] not in ",]}\n#":
                self._at += 1

    def _next_item(self, close: str) -> bool:
        """Step over blanks and commas; True when another item follows."""
        while self._skip_blank() and self._text[self._at] == ",":
            self._at += 1
        if self._text[self._at] == close:
            self._at += 1
            return False
        return True

    def _string(self) -> str:
        quote = self._text[self._at]
        mark = quote * 3 if self._text.startswith(quote * 3, self._at) else quote
        start = self._at
        self._at += len(mark)
        while not self._text.startswith(mark, self._at):
            self._at += 2 if self._text[self._at] == "\\" and quote == '"' else 1
        self._at += len(mark)
        while len(mark) == 3 and self._text.startswith(quote, self._at):
            self._at += 1  # a closing run may hold up to two quotes of the string itself
        return self._text[start : self._at]

    def _skip_blank(self) -> bool:
        """Step over white space and comments; False at the end."""
        while self._at < len(self._text):
            c = self._text[self._at]
            if c == "#":
                end = self._text.find("\n", self._at)
                self._at = len(self._text) if end < 0 else end
            elif c.isspace():
                self._at += 1
            else:
                return True
        return False


def path_of(place: str) -> Path:
    """The key path of a place written as ``levels[3].height``."""
    parts: list[str | int] = []
    for name, index in re.findall(r"([^.\[\]]+)|\[(\d+)\]", place):
        parts.append(int(index) if index else name)
    return tuple(parts)
