"""A reading as it is typed at the bench."""

from __future__ import annotations

from typing import Literal

from yardmeter.core.errors import QuantityError
from yardmeter.core.probing.meter import METER
from yardmeter.core.probing.reading import Mode
from yardmeter.core.units import parse_quantity, plain_number

SILENT_WORDS = frozenset({"nothing", "silent", "silence", "no beep", "no"})
OPEN_WORDS = frozenset({"ol", "o.l", "open", "over", "1"}) | SILENT_WORDS
BEEP_WORDS = frozenset({"beep", "beeps", "it beeps", "yes", "steady"})
CHIRP_WORDS = frozenset({"chirp", "fades", "short beep"})


MOST = {"Ω": 1e11, "V": 1000.0, "A": 1000.0}
"""No hand-held meter shows more; the most ohms stand for open."""
SHOWN = {"k": 1e3, "K": 1e3, "M": 1e6}
"""What a meter's ohms range shows beside the number; a small m is left to be said with its unit."""


def _shown(said: str, unit: str) -> float:
    """A plain number, or one with the letter of an ohms range."""
    factor = SHOWN.get(said[-1:], 1.0) if unit == "Ω" else 1.0
    return plain_number(said[:-1] if factor != 1.0 else said) * factor


def sound_of(mode: Mode | None, text: str) -> Literal["beep", "silent", ""]:
    """What was only heard: a beep says less than ohms do, and silence on continuity less than silence on ohms."""
    said = text.strip().lower()
    if said in BEEP_WORDS:
        return "beep"
    heard = said in SILENT_WORDS or said in CHIRP_WORDS or (mode == "beep" and said in OPEN_WORDS)
    return "silent" if heard else ""


def typed_reading(unit: Literal["Ω", "V", "A"], text: str) -> float | None:
    """What was read, in that unit; None where the meter showed that nothing conducts.

    A number without a unit is in the plain one. Raises QuantityError for what is no reading.
    """
    said = text.strip().lower()
    if unit == "Ω":
        if said in OPEN_WORDS or said in CHIRP_WORDS:
            return None
        if said in BEEP_WORDS:
            return METER.leads_low_ohm
    try:
        value = _shown(text.strip(), unit)
    except ValueError:
        value = parse_quantity(text, unit, allow_negative=unit != "Ω")
    if not abs(value) <= MOST[unit]:
        remedy = "Type OL where nothing conducts." if unit == "Ω" else "Look at its unit."
        raise QuantityError(f"“{text.strip()}” is more than a meter shows.", remedy=remedy)
    if value < 0 and unit == "Ω":
        raise QuantityError(f"“{text.strip()}” is less than nothing.", remedy="Change the probes over and read again.")
    return value
