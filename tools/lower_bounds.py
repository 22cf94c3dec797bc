"""Print the lower bound of every dependency as a pip constraint, for ``make lower-bounds``."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path


def bounds(text: str) -> list[str]:
    """``name==version`` for what the package and its extras for users need."""
    project = tomllib.loads(text)["project"]
    extras = project["optional-dependencies"]
    wanted = [*project["dependencies"],
              *(one for extra in ("service", "view", "fast", "cluster") for one in extras[extra])]
    return [re.sub(r">=", "==", one.split(";")[0].strip()) for one in wanted]


if __name__ == "__main__":
    print("\n".join(bounds((Path(__file__).parents[1] / "pyproject.toml").read_text())))
