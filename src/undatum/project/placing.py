"""Files put in place as one: a run's outputs are all there, or those of the run before.

Everything is made in a folder of its own inside the target, then a journal is written that says
what goes where, then the files are moved and the journal is taken away. After a kill at any moment
the next command finds either no journal (the half-made files are thrown away) or a whole one (the
moves are completed). A manifest remembers what was written: nothing else is ever replaced or
deleted.
"""

from __future__ import annotations

import errno
import hashlib
import json
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from undatum.errors import Fault, InputError

STATE = ".undatum"  # the folder, inside the target, that belongs to us


@contextmanager
def placing(folder: str | Path) -> Iterator[Path]:
    """Make files in the folder that is given, and have them put in place at the end.

    Raises InputError where ``folder`` can't be written, where a file of the same name is there that
    no run wrote (or that was changed since), or where another run is at work in it; then nothing
    in it has changed.
    """
    if not str(folder).strip():
        raise InputError([Fault("--out", "is empty", "name a folder")])
    target = Path(folder)
    if target.exists() and not target.is_dir():
        raise InputError([Fault("--out", f"{folder} is a file, not a folder", "name a folder")])
    new = not target.exists()
    try:
        state = target / STATE
        state.mkdir(parents=True, exist_ok=True)
        with _alone(state, folder):
            _recover(target)
            work = state / f"new-{os.getpid()}"
            work.mkdir()
            try:
                yield work
                _place(target, work)
            finally:
                if not (state / "journal.json").exists():
                    shutil.rmtree(work, ignore_errors=True)
    except OSError as error:
        if new:
            _drop_empty(target)
        raise InputError([Fault("--out", f"can't write into {folder} "
                                f"({error.strerror or error})", "choose another folder")]) from None
    except BaseException:
        if new:
            _drop_empty(target)
        raise


def recover(folder: str | Path) -> None:
    """Complete what a killed run had begun to put in place, or throw away what it had not."""
    target = Path(folder)
    state = target / STATE
    if not (state / "journal.json").exists():
        return
    try:
        with _alone(state, folder):
            _recover(target)
    except OSError as error:
        raise InputError([Fault(str(folder), "holds the files of two runs, and they can't be put "
                                f"in order ({error.strerror or error})",
                                "run the project again into another folder")]) from None


@contextmanager
def _alone(state: Path, folder: str | Path) -> Iterator[None]:
    """Hold the lock of a folder; it is let go even by a kill."""
    with (state / "lock").open("w") as lock:
        try:
            import fcntl

            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except ImportError:  # no such locks on this system
            pass
        except OSError as error:
            if error.errno not in (errno.EAGAIN, errno.EACCES):
                yield  # a file system without locks
                return
            raise InputError([Fault("--out", f"another run is writing into {folder}",
                                    "wait for it, or choose another folder")]) from None
        yield


def _place(target: Path, work: Path) -> None:
    """Journal, moves, manifest."""
    state = target / STATE
    before = _read(state / "manifest.json")
    made = {str(p.relative_to(work).as_posix()): _digest(p)
            for p in sorted(work.rglob("*")) if p.is_file()}
    strange = [name for name in made
               if (target / name).is_symlink() or ((target / name).exists()
               and (name not in before or not _is_ours(target / name, before[name])))]
    if strange:
        raise InputError([Fault(
            str(target / name), "is already there and no run wrote it"
            if name not in before else "was changed since a run wrote it",
            "move it away, or choose another folder") for name in strange])
    gone = [name for name in before if name not in made
            and _is_ours(target / name, before[name])]
    _write(state / "journal.json", {"work": work.name, "made": made, "gone": gone})
    _finish(target)


def _finish(target: Path) -> None:
    """Do what the journal says; doing it twice does no harm."""
    state = target / STATE
    journal = _read(state / "journal.json")
    work = state / str(journal["work"])
    for name in journal["made"]:
        source, place = work / name, target / name
        if source.exists():
            place.parent.mkdir(parents=True, exist_ok=True)
            _move(source, place)
    for name in journal["gone"]:
        (target / name).unlink(missing_ok=True)
        with suppress(OSError):
            (target / name).parent.rmdir()  # only where nothing is left in it
    _write(state / "manifest.json", journal["made"])
    (state / "journal.json").unlink()
    shutil.rmtree(work, ignore_errors=True)


def _recover(target: Path) -> None:
    state = target / STATE
    if (state / "journal.json").exists():
        _finish(target)
    for left in state.glob("new-*"):
        shutil.rmtree(left, ignore_errors=True)


def _move(source: Path, place: Path) -> None:
    """Replace at once, also where the place lies on another file system behind a link."""
    try:
        os.replace(source, place)
    except OSError as error:
        if error.errno != errno.EXDEV:
            raise
        beside = place.with_name(f".{place.name}.{os.getpid()}")
        shutil.copyfile(source, beside)
        os.replace(beside, place)
        source.unlink()


def _is_ours(path: Path, digest: str) -> bool:
    return path.is_file() and not path.is_symlink() and _digest(path) == digest


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _read(path: Path) -> dict[str, Any]:
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def _write(path: Path, data: dict[str, Any]) -> None:
    """Written whole and on the disk before it has its name."""
    part = path.with_suffix(".part")
    with part.open("w", encoding="utf-8") as file:
        json.dump(data, file)
        file.flush()
        os.fsync(file.fileno())
    os.replace(part, path)


def _drop_empty(target: Path) -> None:
    """Take away a folder that was made for nothing."""
    state = target / STATE
    with suppress(OSError):
        (state / "lock").unlink(missing_ok=True)
        state.rmdir()
        target.rmdir()
