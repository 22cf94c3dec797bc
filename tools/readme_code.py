"""Print the Python of the README as one program, to be typed and run like an example."""

from __future__ import annotations

import re
from pathlib import Path


def code(text: str) -> str:
    """Every block marked as Python, in order."""
    return "\n".join(re.findall(r"```python\n(.*?)```", text, re.S))


if __name__ == "__main__":
    print(code((Path(__file__).parents[1] / "README.md").read_text(encoding="utf-8")))
