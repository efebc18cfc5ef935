"""The one SI parser and formatter: what a builder types and reads on the bench.

Accepts `850mA`, `1.2 A`, `1,2A`, `4k7`, `9W@12V`, `470uF`; refuses what has no unit where one is needed.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.errors import QuantityError

Unit = Literal["A", "V", "W", "Ω", "F", "H", "Hz", "s", "m", "g", "°C", "°", "K/W", "", "%", "Ah", "Wh", "K", "T", "dB"]

PREFIXES: dict[str, float] = {
    "p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "K": 1e3, "M": 1e6,
}  # fmt: skip
SPELLINGS: dict[str, str] = {
    "a": "A", "amp": "A", "amps": "A", "v": "V", "volt": "V", "volts": "V", "w": "W", "watt": "W", "watts": "W",
    "ohm": "Ω", "ohms": "Ω", "r": "Ω", "ω": "Ω", "Ω": "Ω", "f": "F", "h": "H", "hz": "Hz", "s": "s", "m": "m", "g": "g",
    "ah": "Ah", "wh": "Wh",
}  # fmt: skip
EXAMPLES: dict[str, str] = {
    "A": "850mA or 1.2A", "V": "5V or 3.3V", "W": "9W", "Ω": "4k7 or 35mΩ", "F": "470uF", "H": "10uH", "Hz": "24kHz",
    "s": "200ms", "m": "120mm", "g": "12g", "Ah": "650mAh or 5Ah", "Wh": "22Wh",
}  # fmt: skip

NOTHING: dict[str, float] = {"A": 5e-7, "V": 5e-7, "W": 5e-7, "Ah": 1e-6, "Wh": 1e-6}
"""Below these a value is what the arithmetic leaves over, not a quantity."""

STEPS: tuple[tuple[float, str], ...] = ((1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"))  # fmt: skip
"""Prefixes a number is written with, largest first."""
NEVER_WITH: dict[str, str] = {
    "A": "Mk",
    "V": "Mk",
    "W": "Mk",
    "s": "Mk",
    "m": "Mk",
    "F": "m",
    "Ah": "Mknp",
    "Wh": "Mknp",
}
"""Prefixes a unit is not spoken with on the bench: capacitors are in microfarads, however many."""
UNSCALED: tuple[str, ...] = ("", "%", "°C", "°", "K", "g", "dB", "K/W")
"""Units that take no prefix."""

_NUMBER = r"[+-]?(?:[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)(?:[eE][+-]?[0-9]+)?"
_MINUTES = re.compile(r"^\s*([-+]?[0-9]*[.,]?[0-9]+)\s*min\s*$")
_PLAIN = re.compile(rf"^\s*({_NUMBER})\s*([^0-9\s@.,+-].*?)?\s*$")
_INFIX = re.compile(r"^\s*([0-9]+)([pnuµμmkKMRr])([0-9]+)\s*([A-Za-zΩω]*)\s*$")
_WHOLE = re.compile(rf"^\s*{_NUMBER}\s*$")


def plain_number(text: str) -> float:
    """A number without a unit, its decimals behind a point or a comma. Raises ValueError for all else that Python takes for one."""
    if not _WHOLE.match(text):
        raise ValueError(f"“{text.strip()[:40]}” is no number")
    return float(text.replace(",", "."))


@dataclass(frozen=True)
class TypedDraw:
    """A draw as typed: `value` in `unit` (A or W), optionally quoted at `at_v` volts."""

    value: float
    unit: Literal["A", "W"]
    at_v: float | None


def _unit_and_factor(suffix: str, text: str) -> tuple[str, float]:
    """Split `mA` into (`A`, 1e-3). A bare prefix such as `k` gives ("", 1e3)."""
    if suffix in SPELLINGS.values() and suffix != "m":
        return suffix, 1.0
    if suffix.lower() in SPELLINGS and suffix.lower() != "m":
        return SPELLINGS[suffix.lower()], 1.0
    prefix, rest = suffix[0], suffix[1:].strip()
    if prefix in PREFIXES and (not rest or rest.lower() in SPELLINGS):
        return (SPELLINGS[rest.lower()] if rest else "", PREFIXES[prefix])
    raise QuantityError(
        f"“{text.strip()}” is not a quantity: “{suffix}” is no unit known here.",
        remedy="Units are A, V, W, Ω, F, H, Hz, s, m, g, Ah, Wh with p n µ m k M before them.",
    )


def parse_quantity(text: str, unit: str, *, allow_negative: bool = False) -> float:
    """Read a typed quantity and return its value in the SI `unit` [that unit].

    Raises QuantityError when it is empty, has no unit or the wrong one, or is negative where that makes no sense.
    """
    example = EXAMPLES.get(unit, unit)
    if not text.strip():
        raise QuantityError("Nothing was typed.", remedy=f"Write for example {example}.")
    typed = text.replace("−", "-")  # the sign numbers are shown with may be typed back
    if unit == "s" and (minutes := _MINUTES.match(typed)):
        typed = f"{float(minutes[1].replace(',', '.')) * 60:.12g}s"
    infix = _INFIX.match(typed)
    if infix:
        whole, letter, fraction, rest = infix.groups()
        value = float(f"{whole}.{fraction}") * (1.0 if letter in "Rr" else PREFIXES[letter])
        found = SPELLINGS.get(rest.lower(), rest) if rest else unit
    else:
        plain = _PLAIN.match(typed)
        if not plain:
            raise QuantityError(f"“{text.strip()}” is not a quantity.", remedy=f"Write for example {example}.")
        number, suffix = plain.groups()
        value = float(number.replace(",", "."))
        if not suffix:
            raise QuantityError(f"“{text.strip()}” has no unit.", remedy=f"Write for example {example}.")
        found, factor = _unit_and_factor(suffix, text)
        if suffix == "m" and unit == "m":
            found, factor = "m", 1.0
        elif found == "":
            raise QuantityError(f"“{text.strip()}” has a prefix but no unit.", remedy=f"Write for example {example}.")
        value *= factor
    if found != unit:
        raise QuantityError(
            f"“{text.strip()}” is in {found}, {unit} is needed here.", remedy=f"Write for example {example}."
        )
    if not math.isfinite(value):
        raise QuantityError(f"“{text.strip()}” is not a finite number.", remedy=f"Write for example {example}.")
    if value < 0 and not allow_negative:
        raise QuantityError(
            f"“{text.strip()}” is negative.", remedy="A negative value makes no sense here; leave the sign out."
        )
    return value


def parse_draw(text: str) -> TypedDraw:
    """Read a device draw: amps or watts, optionally `@` the volts it was quoted at.

    Raises QuantityError with a remedy; a draw above 500 A or 10 kW is refused as a slip of the prefix.
    """
    head, at, tail = text.partition("@")
    at_v = parse_quantity(tail, "V") if at else None
    if at_v is not None and not 0.5 <= at_v <= 100:
        raise QuantityError(
            f"“{tail.strip()}” is no supply voltage of an aircraft.",
            remedy="Volts from 0.5 to 100 are accepted after the @.",
        )
    unit: Literal["A", "W"]
    try:
        unit, value = "A", parse_quantity(head, "A")
    except QuantityError as amps_error:
        try:
            unit, value = "W", parse_quantity(head, "W")
        except QuantityError:
            raise QuantityError(amps_error.what, remedy="A draw is amps or watts: 850mA, 1.2A, 9W or 9W@12V.") from None
    if value > (500 if unit == "A" else 10_000):
        raise QuantityError(
            f"“{text.strip()}” is more than any device here can draw.", remedy="Check the prefix: mA for milliamps."
        )
    return TypedDraw(value, unit, at_v)


def format_si(value: float, unit: str) -> str:
    """Write a value as on the bench: mA under 1 A, mV under 1 V, three significant figures."""
    if not math.isfinite(value):
        return "–"
    if unit in UNSCALED:
        plain = f"{value:.3g}{' ' if unit else ''}{unit}" if abs(value) < 1000 else f"{value:.0f} {unit}".strip()
        return plain.replace("-", "−")
    size = abs(value)
    if size < NOTHING.get(unit, 0.0):
        return f"0 {unit}"
    for factor, prefix in STEPS:
        if size >= factor * 0.9995 and not (prefix and prefix in NEVER_WITH.get(unit, "")):
            return f"{_three_figures(value / factor)} {prefix}{unit}"
    return f"0 {unit}"


def format_db(value: float, decimals: int = 0, *, signed: bool = False) -> str:
    """Write decibels with a true minus sign; `signed` marks a change."""
    return f"{value:{'+' if signed else ''}.{decimals}f} dB".replace("-", "−")


def _three_figures(scaled: float) -> str:
    size = abs(scaled)
    decimals = 0 if size >= 99.95 else 1 if size >= 9.995 else 2
    return f"{scaled:.{decimals}f}".replace("-", "−")
