"""An instrument the builder named: opened through PyVISA, asked, and told apart from one that is silent or talks nonsense."""

from __future__ import annotations

import contextlib
import re
import threading
from dataclasses import dataclass
from typing import Any, Literal

import pyvisa

from yardmeter.core.errors import YardError
from yardmeter.core.probing import Mode
from yardmeter.instruments.scpi import NO_NUMBER, OVERLOAD, number
from yardmeter.instruments.standin import NAMES

TIMEOUT_MS = 1500
GONE = (pyvisa.errors.Error, OSError, ValueError, ImportError, AttributeError)
"""What drivers raise for an instrument that is not there, went away, or sends what is no text."""
HOST_PORT = re.compile(r"^\[?([A-Za-z0-9_.:-]+?)\]?:(\d{1,5})$")
SERIAL = re.compile(r"^(/dev/[\w./-]+|COM\d+)(?:@(\d{3,7}))?$", re.IGNORECASE)
"""A serial port, its speed behind an @ where it is not 9600."""
VISA = re.compile(
    r"^(TCPIP\d*::[^:\s]+(::\d+)?(::[\w,]+)?(::(SOCKET|INSTR))?|USB\d*::\S+|ASRL\S+|GPIB\d*::\S+)$", re.IGNORECASE
)
State = Literal["ok", "open", "unreachable", "silent", "nonsense"]


class AddressError(YardError):
    """What was typed is no address of an instrument."""


class UnreachableError(YardError):
    """Nobody answers there."""


@dataclass(frozen=True)
class Shown:
    """One reading: `ok` with its value, `open` over its range, or why there is none."""

    state: State
    value: float | None
    said: str


def resource_name(address: str) -> str:
    """The VISA name of what a builder types: host:port, a serial port, or a VISA name itself. Raises AddressError."""
    typed = address.strip()
    if serial := SERIAL.match(typed):
        return f"ASRL{serial[1]}::INSTR"
    if VISA.match(typed):
        return typed
    if (found := HOST_PORT.match(typed)) and 0 < int(found[2]) < 65536:
        return f"TCPIP0::{found[1]}::{int(found[2])}::SOCKET"
    raise AddressError(
        f"“{typed[:80]}” is no address of an instrument.",
        where="address",
        remedy="Type host:port, a serial port such as /dev/ttyUSB0 or /dev/ttyUSB0@115200, or its VISA name.",
    )


class Connection:
    """One instrument. Calls from several threads take turns."""

    def __init__(self, address: str) -> None:
        """Opens it and asks who it is. Raises AddressError and UnreachableError."""
        self.address = address.strip()
        self.mode: Mode | None = None
        self._lock = threading.Lock()
        name = resource_name(address)
        try:
            self._manager = pyvisa.ResourceManager("@py")
            opened: Any = self._manager.open_resource(name, open_timeout=TIMEOUT_MS)
            self._resource = opened
            self._resource.timeout = TIMEOUT_MS
            if (serial := SERIAL.match(self.address)) and serial[2]:
                self._resource.baud_rate = int(serial[2])
            self._resource.read_termination = self._resource.write_termination = "\n"
            self.name = str(self._resource.query("*IDN?")).strip()[:120]
        except GONE as error:
            self.close()
            raise UnreachableError(
                f"Nobody answers at {self.address}.",
                where="address",
                remedy="Look whether it is on, at its network settings and at the cable; readings can be typed meanwhile.",
            ) from error

    @property
    def stands_in(self) -> bool:
        """Whether it is our own stand-in, whose probes are moved by a command."""
        return self.name.startswith("Yard Meter,Bench stand-in")

    def close(self) -> None:
        with contextlib.suppress(*GONE):
            self._resource.close()

    def write(self, line: str) -> None:
        """Raises UnreachableError where it is gone."""
        with self._lock:
            try:
                self._resource.write(line)
            except GONE as error:
                raise UnreachableError(
                    "The instrument is gone.", where=self.address, remedy="Connect it again, or type."
                ) from error

    def read(self, mode: Mode) -> Shown:
        """One reading; never raises for what an instrument does."""
        with self._lock:
            try:
                if mode != self.mode:
                    self._resource.write(f"CONF:{NAMES[mode]}{':DC' if mode in ('volts', 'amps') else ''}")
                    self.mode = mode
                said = str(self._resource.query("READ?")).strip()
            except pyvisa.errors.VisaIOError as error:
                self.mode = None
                late = error.error_code == pyvisa.constants.StatusCode.error_timeout
                return Shown("silent" if late else "unreachable", None, "")
            except GONE:
                self.mode = None
                return Shown("unreachable", None, "")
        value = number(said)
        if value is None or value != value or abs(value) >= NO_NUMBER:
            return Shown("nonsense", None, said[:40])
        if abs(value) >= OVERLOAD * 0.99:
            return Shown("open", None, "OL")
        return Shown("ok", value, said[:40])

    def supply(self, volts: float, limit_a: float) -> None:
        """Set a supply and switch it on. Raises UnreachableError."""
        self.write(f"VOLT {volts:.3f}")
        self.write(f"CURR {limit_a:.3f}")
        self.write("OUTP ON")

    def supply_off(self) -> None:
        self.write("OUTP OFF")

    def amps(self) -> Shown:
        """What a supply measures at its output."""
        with self._lock:
            try:
                said = str(self._resource.query("MEAS:CURR?")).strip()
            except GONE:
                return Shown("unreachable", None, "")
        value = number(said)
        return Shown("nonsense", None, said[:40]) if value is None else Shown("ok", value, said[:40])
