"""Every public name has an example in its docstring, and what it shows is what it gives."""

from __future__ import annotations

import doctest
import inspect
from pathlib import Path
from typing import Any

import pytest

import undatum as ud

NAMES = [name for name in ud.__all__ if name != "figures"]


@pytest.mark.parametrize("name", NAMES)
def test_the_example_of_a_public_name(name: str, tmp_path: Path) -> None:
    """``folder`` in examples is an empty folder."""
    text = inspect.getdoc(getattr(ud, name)) or ""
    given: dict[str, Any] = {"ud": ud, "folder": tmp_path}
    found = doctest.DocTestParser().get_doctest(text, given, name, None, None)
    assert found.examples, "no example"
    told: list[str] = []
    result = doctest.DocTestRunner(verbose=False).run(found, out=told.append)
    assert result.failed == 0, "".join(told)
