"""An instrument the builder named: opened through PyVISA, asked, and told apart from one that is silent or talks nonsense."""

from __future__ import annotations

import contextlib
import re
import select
import socket
import threading
import time
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from typing import Any, Literal

from yardmeter.core.errors import YardError
from yardmeter.core.probing import Mode
from yardmeter.instruments.addresses import address_of, must_be_allowed
from yardmeter.instruments.scpi import NO_NUMBER, OVERLOAD, number
from yardmeter.instruments.standin import NAMES

OPEN_S = 1.5
PATIENCE_S = 1.5
"""How long an answer is waited for."""
STANDIN_PATIENCE_S = 15.0
"""A stand-in works out what it shows, and on a busy machine takes its time: it is gone when it hangs up, not sooner."""
SLICE_S = 0.05
"""An answer is waited for in pieces, so that what is urgent never waits for a slow one."""
LONGEST = 4096
"""Bytes of an answer: what goes on without the end of a line is no answer."""
DRAINED_S, DRAINED = 0.2, 16 * LONGEST
"""What was said before is dropped for so long, and no more of it than that."""
IDENTITY = re.compile(r"^[^,\x00-\x1f]+,[^,\x00-\x1f]+,[^,\x00-\x1f]*,[^\x00-\x1f]*$")
"""Maker, model, serial number, firmware: what *IDN? has to answer. Source: IEEE 488.2, from memory."""
State = Literal["ok", "open", "unreachable", "silent", "nonsense"]


class UnreachableError(YardError):
    """Nobody answers there, or not as an instrument does."""


class _SilentError(Exception):
    """No answer came in time."""


class _StreamingError(Exception):
    """An answer without an end."""


class _AsideError(Exception):
    """Something urgent came between."""


@dataclass(frozen=True)
class Shown:
    """One reading: `ok` with its value, `open` over its range, or why there is none."""

    state: State
    value: float | None
    said: str


def _gone() -> tuple[type[Exception], ...]:
    """What drivers raise for an instrument that is not there, went away, or sends what is no text."""
    from pyvisa.errors import Error  # loaded with the first instrument, not when a server starts

    return (Error, OSError, ValueError, ImportError, AttributeError, TypeError, IndexError, RuntimeError)


def _troubles() -> tuple[type[Exception], ...]:
    """The same, and what keeps an answer from coming."""
    return (*_gone(), _SilentError, _StreamingError, _AsideError)


class Connection:
    """One instrument. Calls from several threads take turns; an urgent one breaks a slow one off."""

    def __init__(self, address: str, allowed: Collection[str] = ()) -> None:
        """Opens it and asks who it is; `allowed` are other machines that may be asked.

        Raises AddressError, and UnreachableError for what is not there or no instrument.
        """
        found = address_of(address)
        must_be_allowed(found, allowed)
        self.address = address.strip()
        self.name = ""
        self.mode: Mode | None = None
        self.changed_s = time.monotonic()
        """When its mode was changed last: until it has settled it may show anything."""
        self._sliced = found.sliced
        self._late = False
        self._lock = threading.Lock()
        self._urgent = threading.Event()
        self._resource: Any = None
        try:
            import pyvisa

            manager = pyvisa.ResourceManager("@py")
            self._resource = manager.open_resource(found.resource, open_timeout=round(1000 * OPEN_S))
            self._resource.write_termination = "\n"
            self._resource.read_termination = "\n"
            if found.baud:
                self._resource.baud_rate = found.baud
            self.name = self._identity()
        except _troubles() as error:
            self.close()
            raise UnreachableError(
                f"No instrument answers at {self.address}.",
                where="address",
                remedy="Look whether it is on, at its network settings and at the cable; readings can be typed meanwhile.",
            ) from error

    def _identity(self) -> str:
        """Who it is, said twice alike: a banner, an echo and a stream are no names. Raises ValueError."""
        self._drain()
        first, second = self._asked("*IDN?"), self._asked("*IDN?")
        if first != second or not IDENTITY.match(first):
            raise ValueError("no identity")
        return first[:120]

    @property
    def stands_in(self) -> bool:
        """Whether it is our own stand-in, whose probes are moved by a command."""
        return self.name.startswith("Yard Meter,Bench stand-in")

    @property
    def _patience_s(self) -> float:
        return STANDIN_PATIENCE_S if self.stands_in else PATIENCE_S

    def close(self) -> None:
        with contextlib.suppress(*_gone()):
            if self._resource is not None:
                self._resource.close()

    @contextlib.contextmanager
    def turn(self, *, urgent: bool = False) -> Iterator[None]:
        """One at a time; an urgent one has whoever waits for an answer give up."""
        if urgent:
            self._urgent.set()
        with self._lock:
            if urgent:
                self._urgent.clear()
            yield

    def write(self, line: str, *, urgent: bool = False) -> None:
        """Raises UnreachableError where it is gone."""
        with self.turn(urgent=urgent), self._told_when_gone():
            self._resource.write(line)

    def ask(self, line: str, *, urgent: bool = False) -> str:
        """Its answer to a line. Raises UnreachableError where it is gone, silent, or says what has no end."""
        with self.turn(urgent=urgent), self._told_when_gone():
            return self._answer(line)

    @contextlib.contextmanager
    def _told_when_gone(self) -> Iterator[None]:
        try:
            yield
        except _troubles() as error:
            raise UnreachableError(
                "The instrument is gone, or does not answer.", where=self.address, remedy="Connect it again, or type."
            ) from error

    def read(self, mode: Mode) -> Shown:
        """One reading; never raises for what an instrument does."""
        ask = f"CONF:{NAMES[mode]}{':DC' if mode in ('volts', 'amps') else ''}"
        with self.turn():
            try:
                if mode != self.mode:
                    self._resource.write(ask)
                    self.mode, self.changed_s = mode, time.monotonic()
                return _shown(self._answer("READ?"))
            except _troubles() as error:
                self.mode = None
                return _trouble(error)

    def measured(self, line: str) -> Shown:
        """What a supply measures at its output."""
        with self.turn():
            try:
                return _shown(self._answer(line))
            except _troubles() as error:
                return _trouble(error)

    def _answer(self, line: str) -> str:
        """Its answer to this line, and to no line before it: one that was late is told apart by its name."""
        if self._late:
            self._drain()
            self._resource.write("*IDN?")
            until = time.monotonic() + self._patience_s
            while self._line(until) != self.name:
                pass
            self._late = False
        return self._asked(line)

    def _asked(self, line: str) -> str:
        self._resource.write(line)
        self._late = True
        said = self._line(time.monotonic() + self._patience_s)
        self._late = False
        return said

    def _line(self, until_s: float) -> str:
        """One line, waited for a little at a time and no longer than it may be. Raises what says why there is none."""
        session: Any = self._resource.visalib.sessions[self._resource.session]
        data = b""
        while not data.endswith(b"\n"):
            left = until_s - time.monotonic()
            if left <= 0:
                raise _SilentError
            if self._urgent.is_set():
                raise _AsideError
            if self._sliced and _hung_up(session):
                raise ConnectionResetError("the other end is closed")
            self._resource.timeout = 1000 * (min(SLICE_S, left) if self._sliced else left)
            some, _ = session.read(LONGEST + 1 - len(data))
            data += some
            if len(data) > LONGEST:
                raise _StreamingError
            if some and not self._sliced:  # a message of its own says itself where it ends
                break
        return data.decode("ascii").strip()

    def _drain(self) -> None:
        """What it said without being asked, or too late, is nobody's reading; only so much of it is listened to."""
        until, heard = time.monotonic() + DRAINED_S, 0
        session: Any = self._resource.visalib.sessions[self._resource.session]
        while self._sliced and time.monotonic() < until:
            self._resource.timeout = 1000 * SLICE_S
            some, _ = session.read(LONGEST)
            heard += len(some)
            if heard > DRAINED:
                raise _StreamingError
            if not some:
                return


def _hung_up(session: Any) -> bool:
    """Whether the other end of a socket has closed it: reading from it would wait for nothing."""
    interface = getattr(session, "interface", None)
    if not isinstance(interface, socket.socket):
        return False
    readable, _, _ = select.select([interface], [], [], 0)
    return bool(readable) and interface.recv(1, socket.MSG_PEEK) == b""


def _shown(said: str) -> Shown:
    value = number(said)
    if value is None or value != value or abs(value) >= NO_NUMBER:
        return Shown("nonsense", None, said[:40])
    if abs(value) >= OVERLOAD * 0.99:
        return Shown("open", None, "OL")
    return Shown("ok", value, said[:40])


def _trouble(error: Exception) -> Shown:
    match error:
        case _SilentError() | _AsideError():
            return Shown("silent", None, "")
        case _StreamingError() | UnicodeDecodeError():
            return Shown("nonsense", None, "")
        case _:
            return Shown("unreachable", None, "")
