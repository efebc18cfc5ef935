"""The compiler's own library is as large as all the rest and idle once the loops run: its pages go back to the system."""

from __future__ import annotations

import contextlib
import ctypes
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

MAPS = Path("/proc/self/smaps")
MADV_DONTNEED = 4
"""Source: Linux, mman.h. A page that only mirrors its file is read again when it is touched."""
MIRRORED = re.compile(
    r"^(?P<start>[0-9a-f]+)-(?P<end>[0-9a-f]+) r-.p .*/libllvmlite\.so\n(?:\w+: .*\n)*?Anonymous: +0 kB$", re.MULTILINE
)
"""A part of the library that is never written and of which no page differs from the file."""


def mirrored(smaps: str) -> Iterator[tuple[int, int]]:
    """Start and end of what may be dropped without a loss, of a process's table of memory."""
    for found in MIRRORED.finditer(smaps):
        yield int(found["start"], 16), int(found["end"], 16)


@cache
def _ranges() -> tuple[tuple[int, int], ...]:
    """Looked up once, when it is loaded: what is never written stays so, and reading the table walks all memory."""
    return tuple(mirrored(MAPS.read_text()))


def let_compiler_pages_go() -> None:
    """Where the system has such a table: elsewhere they stay."""
    with contextlib.suppress(OSError, AttributeError):
        advise = ctypes.CDLL(None).madvise
        for start, end in _ranges():
            advise(ctypes.c_void_p(start), ctypes.c_size_t(end - start), MADV_DONTNEED)
