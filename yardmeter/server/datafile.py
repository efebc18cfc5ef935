"""The data file from outside: whose it is, whether it is whole, that one server alone has it, and that it is still there.

Nothing here needs Django, so that a file can be refused before anything of ours is written into it.
"""

from __future__ import annotations

import contextlib
import os
import sqlite3
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO
from urllib.parse import quote

from yardmeter.server.paths import held_folder

MARK = 0x59415244
"""SQLite's application_id of our files: YARD. Files from before it was written carry 0."""
MIGRATED = ("builds", "shelf")
SIDE_FILES = ("-wal", "-shm", "-journal")


class DataFileError(Exception):
    """The data file cannot be used; the text says why, in one sentence for the builder, and what to do."""


@dataclass(frozen=True)
class Identity:
    """Which file stands under a name: a file put there later is another one."""

    device: int
    inode: int


def identity(path: Path) -> Identity | None:
    """Of the file that stands there now; None where none does."""
    try:
        found = path.stat()
    except OSError:
        return None
    return Identity(found.st_dev, found.st_ino)


def make_ready(path: Path) -> bool:
    """See that there is a file of ours, readable by its owner only; tells whether it was made now.

    Raises DataFileError for a folder, a place that cannot be written, a file that is damaged, another program's or a
    newer one of ours.
    """
    with told(path):
        path.parent.mkdir(parents=True, exist_ok=True)
        made = not path.exists()
        os.close(os.open(path, os.O_RDWR | os.O_CREAT, 0o600))
        with contextlib.suppress(PermissionError):  # somebody else's file that we may write
            path.chmod(0o600)
    if path.stat().st_size:
        _inspect(path)
    return made


@contextlib.contextmanager
def told(path: Path) -> Iterator[None]:
    """What the system or SQLite says of a file, as one sentence."""
    try:
        yield
    except IsADirectoryError:
        raise DataFileError(f"{path} is a folder. Name a file with --data.") from None
    except OSError as error:
        raise DataFileError(f"{path} cannot be used ({error.strerror}). Name another place with --data.") from None
    except sqlite3.DatabaseError as error:
        raise DataFileError(sentence(path, error)) from None


def sentence(path: Path, error: Exception) -> str:
    """A database error at start, in the builder's words."""
    words = str(error)
    if "full" in words or "disk I/O" in words:
        return (
            f"The disk that holds {path} is full or fails ({words}). Free some space and start again; nothing was lost."
        )
    if "locked" in words:
        return f"{path} is held by another program ({words}). Close it and start again."
    if "readonly" in words or "unable to open" in words:
        return f"{path} cannot be written ({words}). Make it writable or name another place with --data."
    return (
        f"{path} is damaged or no data file of Yard Meter ({words}). Put a copy from the folder backups in its place."
    )


def _inspect(path: Path) -> None:
    with told(path), contextlib.closing(sqlite3.connect(f"file:{quote(str(path))}?mode=rw", uri=True)) as file:
        tables = {name for (name,) in file.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if not tables:
            return
        mark = file.execute("PRAGMA application_id").fetchone()[0]
        if mark not in (0, MARK) or not {"django_migrations", "builds_build", "builds_revision"} <= tables:
            raise DataFileError(
                f"{path} belongs to another program; it was left as it is. Name a file of Yard Meter's with --data."
            )
        applied = file.execute("SELECT app, name FROM django_migrations").fetchall()
        if any(app in MIGRATED and name not in _known(app) for app, name in applied):
            raise DataFileError(
                f"{path} was written by a newer Yard Meter; it was left as it is. Update the program, or open a copy from the folder backups."
            )
        verdict = file.execute("PRAGMA quick_check(1)").fetchone()[0]
        if verdict != "ok":
            raise sqlite3.DatabaseError(verdict)


def _known(app: str) -> set[str]:
    folder = Path(__file__).parent / app / "migrations"
    return {one.stem for one in folder.glob("[0-9]*.py")}


class Claim:
    """One process's hold on a data file, ended by the system when the process ends, however it does."""

    def __init__(self, path: Path) -> None:
        self._data = path
        self._inode: IO[str] | None = None
        self._path = path.with_name(path.name + ".lock")
        with told(path):
            if path.is_dir():
                raise IsADirectoryError
            if path.exists() and not path.is_file():
                raise DataFileError(f"{path} is no file that data can be kept in. Name another with --data.")
            path.parent.mkdir(parents=True, exist_ok=True)
            self._file: IO[str] = os.fdopen(os.open(self._path, os.O_RDWR | os.O_CREAT, 0o600), "r+")
        if not _take(self._file):
            holder = self._file.read().strip()
            self._file.close()
            raise DataFileError(
                f"{path} is in use by another Yard Meter{f' at {holder}' if holder else ''}. Use that one, stop it, or name another file with --data."
            )

    def hold_the_file(self) -> None:
        """Hold the file itself too, once it is there: under another name, by a hard link, it is the same one.

        Raises DataFileError where another server has it. Where no folder for such locks can be written, the name has to do.
        """
        found = identity(self._data)
        if found is None:
            return
        try:
            folder = held_folder()
            folder.mkdir(parents=True, exist_ok=True)
            lock = os.open(folder / f"{found.device}-{found.inode}.lock", os.O_RDWR | os.O_CREAT, 0o600)
        except OSError:
            return
        self._inode = os.fdopen(lock, "r+")
        if not _take(self._inode):
            raise DataFileError(
                f"{self._data} is the same file as one that another Yard Meter has open under another name. Use that one, or stop it."
            )

    def tell(self, address: str) -> None:
        """Where the holder can be reached, for whoever asks for the same file."""
        self._file.seek(0)
        self._file.truncate()
        self._file.write(address)
        self._file.flush()

    def release(self) -> None:
        self._file.close()
        if self._inode:
            self._inode.close()


if sys.platform == "win32":
    import msvcrt

    def _take(file: IO[str]) -> bool:
        try:
            msvcrt.locking(file.fileno(), msvcrt.LK_NBLCK, 1)
        except OSError:
            return False
        return True
else:
    import fcntl

    def _take(file: IO[str]) -> bool:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return False
        return True


def claim_demo(folder: Path) -> tuple[Path, Claim]:
    """A data file for a demo, emptied: the first that no running demo has."""
    with told(folder):
        folder.mkdir(parents=True, exist_ok=True)
    for number in range(1, 100):
        path = folder / ("demo.sqlite3" if number == 1 else f"demo-{number}.sqlite3")
        try:
            claim = Claim(path)
        except DataFileError:
            continue
        with told(path):
            for leftover in (path, *(path.with_name(path.name + one) for one in SIDE_FILES)):
                leftover.unlink(missing_ok=True)
        return path, claim
    raise DataFileError(f"No demo file in {folder} is free. Stop some of the demos that run.")
