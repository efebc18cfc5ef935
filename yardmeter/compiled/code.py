"""How a plain function becomes machine code."""

from __future__ import annotations

from collections.abc import Callable
from types import FunctionType
from typing import Any, TypeVar, cast

import numba

from yardmeter.compiled.folder import FOLDER

F = TypeVar("F", bound=Callable[..., Any])

if FOLDER is not None:
    numba.config.CACHE_DIR = str(FOLDER)  # type: ignore[attr-defined]  # its settings are made as it loads


def compiled(function: F) -> F:
    """Machine code of a function: division by zero gives infinity as in NumPy, and other threads go on meanwhile."""
    made = numba.njit(cache=FOLDER is not None, nogil=True, error_model="numpy")(function)
    return cast(F, made)


def in_machine_code(*laws: Callable[..., Any]) -> list[Any]:
    """Plain functions that call each other, compiled: each calls those before it as they were compiled, whatever module they are of."""
    made: dict[str, Any] = {}
    for law in laws:
        plain = cast(FunctionType, law)
        bound = FunctionType(plain.__code__, {**plain.__globals__, **made}, plain.__name__, plain.__defaults__)
        bound.__qualname__, bound.__module__ = plain.__qualname__, plain.__module__
        made[plain.__name__] = compiled(bound)
    return list(made.values())
