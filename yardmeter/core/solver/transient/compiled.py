"""The one place that says how the march is compiled: loops over elements, written plainly, made into machine code.

What was compiled is kept in the user's cache folder under a figure of all sources a law or number in it may come from, so
that a change of any of them makes all of it anew: the compiler itself looks at one file at a time.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import numba
from platformdirs import user_cache_path

KEPT_S = 30 * 86_400
"""How long what was compiled of other sources is kept."""
F = TypeVar("F", bound=Callable[..., Any])


def _kept_in() -> Path | None:
    """A folder that can be written, None where there is none: then each start compiles once more."""
    sources = hashlib.sha256()
    core = Path(__file__).parents[2]
    for file in sorted([*core.glob("solver/**/*.py"), *core.glob("physics/*.py")]):
        sources.update(file.name.encode() + file.read_bytes())
    cache = Path(os.environ.get("YARD_CACHE") or user_cache_path("yard-meter"))
    folder = cache / f"march-{sources.hexdigest()[:16]}"
    try:
        if not folder.is_dir():
            folder.mkdir(parents=True)
            for old in cache.glob("march-*"):
                if time.time() - old.stat().st_mtime > KEPT_S:
                    shutil.rmtree(old, ignore_errors=True)
    except FileExistsError:  # another process was at it too
        pass
    except OSError:
        return None
    return folder if os.access(folder, os.W_OK) else None


_FOLDER = _kept_in()
if _FOLDER is not None:
    numba.config.CACHE_DIR = str(_FOLDER)  # type: ignore[attr-defined]  # its settings are made as it loads


def compiled(function: F) -> F:
    """Machine code of a function: division by zero gives infinity as in NumPy, and other threads go on meanwhile."""
    made = numba.njit(cache=_FOLDER is not None, nogil=True, error_model="numpy")(function)
    return cast(F, made)
