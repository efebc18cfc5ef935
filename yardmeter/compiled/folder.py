"""Where what was compiled is kept: in the user's cache folder, or where that cannot be written in the folder for temporary files.

It lies under a figure of all sources a law or number in it may come from and of the compiler and processor it is for, so that a
change of any of them makes all of it anew. When all is compiled the folder is sealed with a list of its files: one that is
damaged later is thrown away and made again, in place of breaking every run.
"""

from __future__ import annotations

import getpass
import hashlib
import json
import os
import platform
import shutil
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import llvmlite.binding
import numba
from platformdirs import user_cache_path

KEPT_S = 30 * 86_400
"""How long what was compiled of other sources is kept."""
SEAL = "sealed.json"
SOURCES = ("compiled/*.py", "core/elements/*.py", "core/physics/*.py", "core/solver/**/*.py")
"""What a law that is compiled, or a number in it, may stand in."""


def _figure() -> str:
    """Of the sources, the compiler and the processor."""
    sums = hashlib.sha256()
    package = Path(__file__).parents[1]
    for file in sorted(one for pattern in SOURCES for one in package.glob(pattern)):
        sums.update(file.name.encode() + file.read_bytes())
    made_for = (numba.__version__, platform.python_version(), platform.machine(), llvmlite.binding.get_host_cpu_name())
    sums.update(" ".join(made_for).encode())
    return sums.hexdigest()[:16]


def _places() -> Iterator[Path]:
    """Folders it may be kept in, the usual one first."""
    yield Path(os.environ.get("YARD_CACHE") or user_cache_path("yard-meter"))
    try:
        whose = getpass.getuser()
    except (OSError, KeyError):
        whose = "nobody"
    yield Path(tempfile.gettempdir()) / f"yard-meter-{whose}"


def _kept_in() -> Path | None:
    """A folder that can be written and holds nothing damaged, None where there is none: then each start compiles once more."""
    name = f"march-{_figure()}"
    for place in _places():
        folder = place / name
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            if not os.access(folder, os.W_OK) or _owner(folder) not in (None, _me()):
                continue
            if not sound(folder):
                shutil.rmtree(folder)
                folder.mkdir(mode=0o700)
            for old in place.glob("march-*"):
                if old != folder and time.time() - old.stat().st_mtime > KEPT_S:
                    shutil.rmtree(old, ignore_errors=True)
        except OSError:
            continue
        return folder
    return None


def _owner(folder: Path) -> int | None:
    """Machine code is loaded from there: nobody else's folder will do."""
    return folder.stat().st_uid if hasattr(os, "getuid") else None


def _me() -> int:
    return os.getuid()


def _digest(file: Path) -> str:
    return hashlib.sha256(file.read_bytes()).hexdigest()


def _files(folder: Path) -> list[Path]:
    return sorted(one for one in folder.rglob("*") if one.is_file() and one.name != SEAL)


def sound(folder: Path) -> bool:
    """Whether every file of a sealed folder is as it was; one that is not sealed yet is still being filled."""
    seal = folder / SEAL
    if not seal.is_file():
        return True
    try:
        listed: dict[str, str] = json.loads(seal.read_text())
        return all(_digest(folder / name) == figure for name, figure in listed.items())
    except (OSError, ValueError, AttributeError):
        return False


def seal() -> Path | None:
    """All is compiled: write down what it is. The folder, None where it is kept nowhere."""
    if FOLDER is None:
        return None
    listed = {str(one.relative_to(FOLDER)): _digest(one) for one in _files(FOLDER)}
    part = FOLDER / f"{SEAL}.{os.getpid()}"
    part.write_text(json.dumps(listed))
    part.replace(FOLDER / SEAL)
    return FOLDER


FOLDER = _kept_in()


def is_ready() -> bool:
    """Whether nothing has to be compiled before the first run."""
    return FOLDER is not None and (FOLDER / SEAL).is_file()
