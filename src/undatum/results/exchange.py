"""Files put in place as one: a run's outputs are all there, or those of the run before.

Everything is made in a folder of its own inside the target, then a journal is written that says
what goes where, then the files are moved and the journal is taken away. After a kill at any moment
the next command finds either no journal (the half-made files are thrown away) or a whole one (the
moves are completed). A manifest remembers what was written: nothing else is ever replaced or
deleted. A folder may come from anywhere, so that neither is believed: names stay within the folder,
no link is followed, and what is moved or deleted has the digest that was written down.
"""

from __future__ import annotations

import errno
import hashlib
import json
import os
import re
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, TextIO

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
    new = not os.path.exists(target)
    if not new and not target.is_dir():
        raise InputError([Fault("--out", f"{folder} is a file, not a folder", "name a folder")])
    try:
        state = target / STATE
        if state.is_symlink() or (state.exists() and not state.is_dir()):
            raise _not_ours(state)
        state.mkdir(parents=True, exist_ok=True)
        with alone(state, folder):
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
    if state.is_symlink():
        raise _not_ours(state)
    try:
        with alone(state, folder):
            _recover(target)
    except OSError as error:
        raise InputError([Fault(str(folder), "holds the files of two runs, and they can't be put "
                                f"in order ({error.strerror or error})",
                                "run the project again into another folder")]) from None


@contextmanager
def alone(state: Path, folder: str | Path) -> Iterator[None]:
    """Hold the lock of a folder, kept in ``state``; it is let go even by a kill. Raises InputError
    where another run holds it."""
    with _open_plain(state / "lock", os.O_WRONLY | os.O_CREAT) as lock:
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
    before = _manifest(state)
    made = {str(p.relative_to(work).as_posix()): digest_of(p)
            for p in sorted(work.rglob("*")) if p.is_file()}
    faults = []
    for name in made:
        place = target / name
        if (blocked := _blocked(target, name)) is not None:
            faults.append(Fault(str(blocked), "is in the way of a folder that a run writes",
                                "move it away, or choose another folder"))
        elif place.is_symlink() or (place.exists() and (
                name not in before or not _is_ours(place, before[name]))):
            faults.append(Fault(str(place), "is already there and no run wrote it"
                                if name not in before else "was changed since a run wrote it",
                                "move it away, or choose another folder"))
    if faults:
        raise InputError(list(dict.fromkeys(faults)))
    gone = {name: known for name, known in before.items() if name not in made
            and _blocked(target, name) is None and _is_ours(target / name, known)}
    write_json(state / "journal.json", {"work": work.name, "made": made, "gone": gone,
                                    "before": before})
    _finish(target)


def _blocked(target: Path, name: str) -> Path | None:
    """What stands where a file of a run needs a folder: a file, or a link."""
    place = target
    for part in name.split("/")[:-1]:
        place = place / part
        if place.is_symlink() or (place.exists() and not place.is_dir()):
            return place
    return None


_SAFE = re.compile(r"[^/\\\0:]{1,255}")
_DIGEST = re.compile(r"[0-9a-f]{64}")


def _listed(found: Any) -> dict[str, str] | None:
    """Names within a folder and digests, as a journal or a manifest lists them; ``None`` for
    anything else."""
    if not isinstance(found, dict):
        return None
    for name, digest in found.items():
        parts = name.split("/")
        if not all(_SAFE.fullmatch(p) and p not in (".", "..") for p in parts) \
                or parts[0] == STATE or not isinstance(digest, str) \
                or not _DIGEST.fullmatch(digest):
            return None
    return found


def _manifest(state: Path) -> dict[str, str]:
    """What runs wrote before; nothing where it can't be believed."""
    return _listed(_read(state / "manifest.json")) or {}


def _not_ours(path: Path) -> InputError:
    return InputError([Fault(
        str(path), "was altered after the run: it is not used, and nothing was changed",
        f"take the folder {STATE} away, or run the project into another folder")])


def _finish(target: Path) -> None:
    """Do what the journal says; doing it twice does no harm. Raises InputError where it can't have
    been written by a run, or files are not those it speaks of."""
    state = target / STATE
    journal = _read(state / "journal.json")
    made, gone, before = (_listed(journal.get(key)) for key in ("made", "gone", "before"))
    name_of = str(journal.get("work", ""))
    work = state / name_of
    if made is None or gone is None or before is None or not re.fullmatch(r"new-\d+", name_of) \
            or work.is_symlink() or any(_blocked(target, n) for n in (*made, *gone)) \
            or any(_blocked(work, n) for n in made):
        raise _not_ours(state / "journal.json")
    for name, digest in made.items():  # all of it can be done before any of it is
        source, place = work / name, target / name
        if source.is_symlink() or place.is_symlink() or (
                source.exists() and not _is_ours(source, digest)):
            raise _not_ours(source)
        if not _is_ours(place, digest) and (not source.exists() or (
                place.exists() and not _is_ours(place, before.get(name, "")))):
            raise _not_ours(place)
    for name in made:
        source, place = work / name, target / name
        if source.exists():
            place.parent.mkdir(parents=True, exist_ok=True)
            _move(source, place)
    for name, digest in gone.items():
        if _is_ours(target / name, digest):
            (target / name).unlink()
        with suppress(OSError):
            (target / name).parent.rmdir()  # only where nothing is left in it
    write_json(state / "manifest.json", made)
    (state / "journal.json").unlink()
    shutil.rmtree(work, ignore_errors=True)


def _recover(target: Path) -> None:
    state = target / STATE
    if (state / "journal.json").exists():
        _finish(target)
    for left in state.glob("new-*"):
        if left.is_dir() and not left.is_symlink():
            shutil.rmtree(left, ignore_errors=True)


def _open_plain(path: Path, flags: int) -> TextIO:
    """A file of ours opened for writing, never through a link."""
    if path.is_symlink():
        raise _not_ours(path)
    return os.fdopen(os.open(path, flags | getattr(os, "O_NOFOLLOW", 0), 0o644), "w",
                     encoding="utf-8")


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


def _is_ours(path: Path, written: str) -> bool:
    return path.is_file() and not path.is_symlink() and digest_of(path) == written


def digest_of(path: Path) -> str:
    """What a file holds, as a short text."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _read(path: Path) -> dict[str, Any]:
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def write_json(path: Path, data: dict[str, Any]) -> None:
    """Written whole and on the disk before it has its name."""
    part = path.with_suffix(".part")
    with _open_plain(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC) as file:
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
