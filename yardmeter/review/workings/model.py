"""The working behind a number: formula, inputs, and where each came from."""

from __future__ import annotations

from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.units import format_si
from yardmeter.words.told import Number

Quantity = Literal[
    "volts",
    "asked",
    "usable",
    "spare",
    "headroom",
    "temperature",
    "loss",
    "pin",
    "drop",
    "pack",
    "share",
    "ground",
    "shift",
    "noise",
]


class Input(Answer):
    """One input of a formula. `element` and `quantity` lead on to its own working where it has one."""

    symbol: str
    label: str
    text: str
    value: float | None
    """The number behind the text, in SI units; None for words."""
    origin: str
    element: str | None = None
    quantity: Quantity | None = None


class Working(Answer):
    """How a number came about."""

    title: str
    formula: str
    result: Number
    inputs: tuple[Input, ...]
    note: str = ""


def given(
    symbol: str,
    label: str,
    value: float,
    unit: str,
    origin: str,
    element: str | None = None,
    quantity: Quantity | None = None,
) -> Input:
    return Input(
        symbol=symbol,
        label=label,
        text=format_si(value, unit),
        value=value,
        origin=origin,
        element=element,
        quantity=quantity,
    )


def plain(symbol: str, label: str, value: float, origin: str) -> Input:
    """A number without a unit."""
    return Input(symbol=symbol, label=label, text=f"{value:g}", value=value, origin=origin)
