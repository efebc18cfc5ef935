"""Commands of SCPI taken apart: headers in short or long form, a question mark, arguments. Source: IEEE 488.2 and SCPI-99, from memory."""

from __future__ import annotations

import re
from dataclasses import dataclass

from yardmeter.core.units import plain_number

OVERLOAD = 9.9e37
"""What an instrument answers for more than its range."""
NO_NUMBER = 9.91e37


@dataclass(frozen=True)
class Command:
    """`words` are the header's parts in their short form and capitals, as `("MEAS", "VOLT", "DC")`."""

    words: tuple[str, ...]
    asks: bool
    arguments: tuple[str, ...]


LONG = {
    "MEASURE": "MEAS", "CONFIGURE": "CONF", "RESISTANCE": "RES", "VOLTAGE": "VOLT", "CURRENT": "CURR", "CONTINUITY": "CONT",
    "DIODE": "DIOD", "FETCH": "FETC", "INITIATE": "INIT", "IMMEDIATE": "IMM", "SYSTEM": "SYST", "ERROR": "ERR", "ROUTE": "ROUT",
    "PROBES": "PROB", "SIMULATE": "SIM", "CONDITION": "COND", "FAULT": "FAUL", "OUTPUT": "OUTP", "SOURCE": "SOUR", "STATE": "STAT",
    "LEVEL": "LEV", "FUNCTION": "FUNC", "NEXT": "NEXT", "TRIAL": "TRI",
}  # fmt: skip
ARGUMENT = re.compile(r'"((?:[^"]|"")*)"|\'((?:[^\']|\'\')*)\'|([^,\s][^,]*)')


def parse(line: str) -> list[Command]:
    """Every command of a line, `;` between them; an empty line has none."""
    return [_one(part.strip()) for part in _split(line) if part.strip()]


def _split(line: str) -> list[str]:
    parts, quoted = [""], ""
    for letter in line:
        if letter in "\"'" and quoted in ("", letter):
            quoted = "" if quoted else letter
        if letter == ";" and not quoted:
            parts.append("")
        else:
            parts[-1] += letter
    return parts


def _one(text: str) -> Command:
    head, _, rest = text.partition(" ")
    asks = head.endswith("?")
    words = tuple(LONG.get(word, word) for word in head.rstrip("?").lstrip(":").upper().split(":"))
    arguments = tuple(
        (found[1] or found[2] or found[3] or "").replace('""', '"').strip() for found in ARGUMENT.finditer(rest)
    )
    return Command(words, asks, arguments)


def number(text: str) -> float | None:
    """A number of an answer; None for what is none."""
    try:
        return plain_number(text)
    except ValueError:
        return None
