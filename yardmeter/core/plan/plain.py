"""The base of every piece of a plan document: immutable, nothing unknown, and numbers only as a file can spell them."""

from __future__ import annotations

import re
import types
from typing import Annotated, Any, ClassVar, Union, get_args, get_origin

from pydantic import BaseModel, ConfigDict, model_validator

from yardmeter.core.once import cached_property

SPELLED = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", re.ASCII)
"""A number in quotes. “1_000” and digits of other scripts are read by Python, but by nothing else."""


class Plain(BaseModel):
    """No NaN or infinity, nothing unknown; refuses a number that is spelled as no other program would read it."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, ignored_types=(cached_property,))
    numeric: ClassVar[frozenset[str]] = frozenset()

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        cls.numeric = frozenset(name for name, field in cls.model_fields.items() if _is_number(field.annotation))

    @model_validator(mode="before")
    @classmethod
    def _numbers_are_plain(cls, data: Any) -> Any:
        """What is oddly spelled is quoted, so that the field itself refuses it, by its own name and with what was got."""
        if not isinstance(data, dict):
            return data
        odd = {name: f"“{value}”" for name, value in data.items() if name in cls.numeric and _is_odd(value)}
        return {**data, **odd} if odd else data


def _is_odd(value: Any) -> bool:
    return isinstance(value, bool) or (isinstance(value, str) and SPELLED.fullmatch(value) is None and _is_read(value))


def _is_read(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False  # refused anyway, in the field's own words
    return True


def _is_number(annotation: Any) -> bool:
    """Whether a field holds a number or nothing, and neither words nor yes and no."""
    if get_origin(annotation) is Annotated:
        return _is_number(get_args(annotation)[0])
    if get_origin(annotation) in (Union, types.UnionType):
        return all(one is type(None) or _is_number(one) for one in get_args(annotation))
    return annotation in (int, float)
