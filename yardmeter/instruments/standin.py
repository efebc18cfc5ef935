"""A meter and a supply that are not there: they answer SCPI and measure a build, faults and all, as instruments would.

The meter settles after its probes were moved, changes range for a moment, has noise and a last digit. Where its probes are is
told by `ROUTe:PROBes "red","black"`: the hand, which a real meter has no need of. `SIMulate:FAULt "id"[,"id"]` puts faults in,
`SIMulate:TRIal "trial","step"` does what a search asks for after a step that failed.
"""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Protocol

from yardmeter.core.errors import YardError
from yardmeter.core.probing import Mode
from yardmeter.instruments.scpi import OVERLOAD, Command, number, parse

METER_NAME = "Yard Meter,Bench stand-in meter,0,1"
SUPPLY_NAME = "Yard Meter,Bench stand-in supply,0,1"
MODES: dict[str, Mode] = {
    "RES": "ohms",
    "FRES": "ohms",
    "CONT": "beep",
    "DIOD": "diode",
    "VOLT": "volts",
    "CURR": "amps",
}
NAMES: dict[Mode, str] = {"ohms": "RES", "beep": "CONT", "diode": "DIOD", "volts": "VOLT", "amps": "CURR"}
SETTLES_S = 0.08
RANGE_S = 0.25
"""Time constant of a reading, and the pause when the range changes: a quick bench meter."""
ASIDE_S = 1.0
"""So long as seen by who looks, a hand that was moved is still on the way: probes on each other, or in the air."""
GLANCE_S = 0.15
"""A look that comes later than that after the one before, on a busy machine, has seen no more of the hand than this."""
LONGEST_ASIDE_S = 5.0
STEADIES_S = 1.1
"""After a change of mode the hand waits for the meter before it goes on its way."""
LONGEST = 4096
"""Letters of a line; one that is longer is no command."""


class Bench(Protocol):
    """A build that can be measured."""

    def shows(self, mode: Mode, red: str, black: str, condition: str | None) -> float | None: ...

    def tries(self, trial: str, failed: str) -> float | None: ...

    def faults(self, names: tuple[str, ...]) -> None: ...

    def supplied(self, volts: float | None) -> None: ...

    def charge_s(self, volts: float, limit_a: float) -> float: ...

    def pack_a(self, volts: float, limit_a: float) -> tuple[float, float]: ...


@dataclass
class MeterStandIn:
    """One meter; whoever is connected talks to the same."""

    bench: Bench
    clock: Callable[[], float] = time.monotonic
    mode: Mode = "ohms"
    probes: tuple[str, str] | None = None
    condition: str | None = None
    trial: tuple[str, str] | None = None
    errors: list[str] = field(default_factory=list)
    _first_s: float | None = None
    """When the hand was first looked at since it was moved; nobody looks while it is None."""
    _looked_s: float = 0.0
    _seen_s: float = 0.0
    """How much of its way was seen: whoever looks late or seldom sees it on its way all the same."""
    _arrived_s: float | None = None
    _ranged_s: float = -1e9
    _value: float | None = None
    _lock: threading.RLock = field(default_factory=threading.RLock)

    def answer(self, line: str) -> str | None:
        """What it says to a line; None where nothing was asked."""
        if len(line) > LONGEST:
            self.errors.append('-223,"Too much data"')
            return None
        with self._lock:
            said = [one for one in (self._command(command) for command in parse(line)) if one is not None]
        return ";".join(said) if said else None

    def _command(self, command: Command) -> str | None:
        match command.words[0], command.asks:
            case "*IDN", True:
                return METER_NAME
            case "*OPC", True:
                return "1"
            case (("*RST" | "*CLS"), False):
                self.errors.clear()
                return None
            case "SYST", True:
                return self.errors.pop(0) if self.errors else '0,"No error"'
            case (("CONF" | "FUNC"), True):
                return f'"{NAMES[self.mode]}"'
            case (("CONF" | "MEAS" | "FUNC"), _):
                return self._configured(command)
            case (("READ" | "FETC"), True):
                return self._read()
            case "INIT", False:
                return None
            case "ROUT", asks:
                return self._routed(command, asks)
            case "SIM", False:
                return self._simulated(command)
            case _:
                self.errors.append('-113,"Undefined header"')
                return None

    def _configured(self, command: Command) -> str | None:
        name = command.words[1] if len(command.words) > 1 else next(iter(command.arguments), "").upper()
        mode = MODES.get(name.split(":")[0])
        if mode is None:
            self.errors.append('-113,"Undefined header"')
            return None
        # Set anew, to the same or another, it takes its range anew.
        self._ranged_s, self._first_s = self.clock(), None
        if mode != self.mode:
            self.mode = mode
            self._value = None if self.probes is None else self._true()
        return self._read() if command.words[0] == "MEAS" and command.asks else None

    def _routed(self, command: Command, asks: bool) -> str | None:
        if asks:
            return ",".join(f'"{one}"' for one in self.probes or ("", ""))
        if len(command.arguments) != 2:
            self.errors.append('-109,"Missing parameter"')
            return None
        self.trial = None
        self._move((command.arguments[0], command.arguments[1]))
        return None

    def _simulated(self, command: Command) -> str | None:
        what = command.words[1] if len(command.words) > 1 else ""
        try:
            if what == "FAUL":
                self.bench.faults(command.arguments)
            elif what == "COND":
                self.condition = next(iter(command.arguments), "") or None
            elif what == "TRI" and command.arguments:
                self.trial = (command.arguments[0], command.arguments[1] if len(command.arguments) > 1 else "")
            else:
                self.errors.append('-113,"Undefined header"')
                return None
            if self.probes or self.trial:
                self._move(self.probes or ("", ""))
        except YardError as error:
            self.errors.append(f'-200,"{str(error).replace(chr(34), chr(39))}"')
        return None

    def _move(self, probes: tuple[str, str]) -> None:
        if not all(probes) and not self.trial:
            self.probes, self._value = None, None
            return
        self.probes, self._first_s = probes, None
        self._value = self._true()

    def _true(self) -> float | None:
        try:
            if self.trial:
                return self.bench.tries(*self.trial)
            return self.bench.shows(self.mode, *self.probes, self.condition) if self.probes else None
        except YardError as error:
            self.errors.append(f'-200,"{str(error).replace(chr(34), chr(39))}"')
            return None

    def _read(self) -> str:
        now = self.clock()
        if now - self._ranged_s < RANGE_S or (self.probes is None and self.trial is None):
            return _said(0.0 if self.mode in ("volts", "amps") else None)
        arrived = self._arrival(now)
        if arrived is None:
            return _said(self._aside())
        if self._value is None:
            return _said(None)
        # A settled reading is drawn anew for its noise; until then it creeps up to what it will be.
        settled = 1 - math.exp(-(now - arrived) / SETTLES_S)
        if settled > 0.995:
            again = self._true()
            return _said(again if again is not None else self._value)
        return _said(self._value * settled)

    def _arrival(self, now: float) -> float | None:
        """When the hand arrived at its place; None while it is on its way."""
        start = self._ranged_s + STEADIES_S
        if self._first_s is None:
            self._first_s, self._seen_s, self._arrived_s = max(now, start), 0.0, None
        elif self._arrived_s is None:
            self._seen_s += min(max(now - max(self._looked_s, start), 0.0), GLANCE_S)
            if self._seen_s >= ASIDE_S or now - self._first_s >= LONGEST_ASIDE_S:
                self._arrived_s = now
        self._looked_s = now
        return self._arrived_s

    def _aside(self) -> float | None:
        """The hand on its way: on each other before silence, in the air before a beep."""
        if self.mode in ("volts", "amps"):
            return 0.0
        return None if self._value is not None and self._value < 50 else 0.2


@dataclass
class SupplyStandIn:
    """A bench supply with a current limit, on the build's plug."""

    bench: Bench
    volts: float = 0.0
    limit_a: float = 1.0
    on: bool = False
    clock: Callable[[], float] = time.monotonic
    on_s: float = 0.0
    errors: list[str] = field(default_factory=list)

    def answer(self, line: str) -> str | None:
        """What it says to a line; None where nothing was asked."""
        if len(line) > LONGEST:
            return None
        said = [one for one in (self._command(command) for command in parse(line)) if one is not None]
        return ";".join(said) if said else None

    def _command(self, command: Command) -> str | None:
        words = command.words[1:] if command.words[0] == "SOUR" else command.words
        value = number(command.arguments[0]) if command.arguments else None
        match words[0], command.asks:
            case "*IDN", True:
                return SUPPLY_NAME
            case "SYST", True:
                return self.errors.pop(0) if self.errors else '0,"No error"'
            case "*RST", False:
                self.on = False
                return None
            case "*CLS", False:
                self.errors.clear()
                return None
            case "VOLT", True:
                return _said(self.volts)
            case "CURR", True:
                return _said(self.limit_a)
            case "OUTP", True:
                return "1" if self.on else "0"
            case "VOLT", False if value is not None and 0 <= value <= 60:
                self.volts = value
                return None
            case "CURR", False if value is not None and 0 < value <= 10:
                self.limit_a = value
                return None
            case "OUTP", False if command.arguments:
                on = command.arguments[0].upper() in ("1", "ON")
                self.on_s = self.clock() if on and not self.on else self.on_s
                self.on = on
                self.bench.supplied(self.volts if on else None)
                return None
            case "MEAS", True:
                volts, amps = self._gives()
                return _said(amps if "CURR" in words else volts)
            case _:
                self.errors.append('-113,"Undefined header"')
                return None

    def _gives(self) -> tuple[float, float]:
        """Volts and amps at its output: at its limit while capacitors charge."""
        if not self.on:
            return 0.0, 0.0
        charged = (self.clock() - self.on_s) / max(self.bench.charge_s(self.volts, self.limit_a), 1e-6)
        volts, amps = self.bench.pack_a(self.volts, self.limit_a)
        return (volts, amps) if charged >= 1 or amps >= self.limit_a else (self.volts * charged, self.limit_a)


def _said(value: float | None) -> str:
    return f"{OVERLOAD if value is None else value:+.6E}"
