"""Pages as PDF, through a browser that is installed and shows no window."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Sequence
from pathlib import Path
from tempfile import TemporaryDirectory

from undatum.errors import Fault, InputError

#: Names under which browsers that can print without a window are installed.
BROWSERS = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "chrome",
            "microsoft-edge", "msedge")


def browser() -> str:
    """Where the browser is. Raises InputError where there is none."""
    for name in BROWSERS:
        if found := shutil.which(name):
            return found
    raise InputError([Fault("--pdf", "no browser is installed that prints without a window "
                            f"(looked for {', '.join(BROWSERS[:3])} and others)",
                            "open record.html in any browser and print it from there")])


def print_pages(pages: Sequence[Path], program: str) -> list[Path]:
    """A PDF beside each page, by a browser. Raises InputError where it fails."""
    written = []
    with TemporaryDirectory() as work:
        for page in pages:
            made = page.with_suffix(".pdf")
            try:
                done = subprocess.run(
                    [program, "--headless", "--no-sandbox", "--disable-gpu",
                     "--no-pdf-header-footer", f"--user-data-dir={work}/profile",
                     f"--print-to-pdf={made.resolve()}", page.resolve().as_uri()],
                    capture_output=True, timeout=180, check=False)
                failed = bool(done.returncode) or not made.is_file()
            except (OSError, subprocess.TimeoutExpired):
                failed = True
            if failed:
                raise InputError([Fault("--pdf", f"{Path(program).name} could not print "
                                        f"{page.name}; all else is written",
                                        "open the page in a browser and print it from there")])
            written.append(made)
    return written
