"""Where an instrument may be: an allow-list. What is not on it never reaches PyVISA or pyserial.

Both libraries open far more than instruments: URLs of handlers that write files, loops, relays to other hosts, any path. So an
address is taken apart here and put together anew, and nothing of it is handed on that is not understood.
"""

from __future__ import annotations

import ipaddress
import os
import re
import stat
from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.errors import YardError

HOST = r"[A-Za-z0-9](?:[A-Za-z0-9.-]{0,252}[A-Za-z0-9])?"
SOCKET = re.compile(rf"^(?P<host>{HOST}):(?P<port>[0-9]{{1,5}})$")
VISA_SOCKET = re.compile(rf"^TCPIP[0-9]{{0,2}}::(?P<host>{HOST})::(?P<port>[0-9]{{1,5}})::SOCKET$", re.IGNORECASE)
VISA_LAN = re.compile(
    rf"^TCPIP[0-9]{{0,2}}::(?P<host>{HOST})(?:::(?P<name>(?:inst|hislip|gpib|usb)[0-9]{{1,3}}(?:,[0-9]{{1,5}})?))?(?:::INSTR)?$",
    re.IGNORECASE,
)
VISA_USB = re.compile(
    r"^USB[0-9]{0,2}::(?P<maker>0x[0-9A-F]{1,4}|[0-9]{1,5})::(?P<model>0x[0-9A-F]{1,4}|[0-9]{1,5})::(?P<serial>[A-Za-z0-9_-]{1,64})"
    r"(?:::(?P<interface>[0-9]{1,2}))?(?:::INSTR)?$",
    re.IGNORECASE,
)
SERIAL = re.compile(r"^(?P<port>/dev/[A-Za-z0-9_./:+-]{1,200}|COM[0-9]{1,3})(?:@(?P<baud>[0-9]{3,7}))?$", re.IGNORECASE)
VISA_SERIAL = re.compile(
    r"^ASRL(?P<port>/dev/(?:[A-Za-z0-9_./+-]|:(?!:)){1,200}|COM[0-9]{1,3})(?:::INSTR)?$", re.IGNORECASE
)
PORTS = re.compile(r"^/dev/(tty(USB|ACM|S|AMA|O|XRUSB|mxc|SC|GS)[0-9]{1,3}|rfcomm[0-9]{1,3}|pts/[0-9]{1,4}|(tty|cu)\.[A-Za-z0-9_.+-]{1,80}|cuaU?[0-9]{1,3})$")  # fmt: skip
"""Devices a serial port really is, links followed: consoles, watchdogs and memory are character devices too."""

Where = Literal["socket", "lan", "usb", "serial"]


class AddressError(YardError):
    """What was typed is no address of an instrument, or of one that may not be asked."""


@dataclass(frozen=True)
class Address:
    """`resource` is the VISA name put together from what was understood; `host` is none for a port of this machine."""

    where: Where
    resource: str
    host: str | None = None
    baud: int | None = None

    @property
    def beyond(self) -> bool:
        """Whether it is on another machine."""
        return self.host is not None and not _is_loop(self.host)

    @property
    def sliced(self) -> bool:
        """Whether an answer can be waited for a little at a time: bytes that come late are not lost."""
        return self.where in ("socket", "serial")


def address_of(typed: str, *, is_port: Callable[[str], bool] | None = None) -> Address:
    """What a builder types: host:port, a serial port, or the VISA name of a socket, a LAN, USB or serial instrument.

    `is_port` tells whether a path is a serial port of this machine. Raises AddressError.
    """
    text = typed.strip()
    if found := SOCKET.match(text) or VISA_SOCKET.match(text):
        port = int(found["port"])
        if 0 < port < 65536:
            return Address("socket", f"TCPIP0::{found['host']}::{port}::SOCKET", found["host"].lower())
    elif found := VISA_LAN.match(text):
        name = (found["name"] or "inst0").lower()
        return Address("lan", f"TCPIP0::{found['host']}::{name}::INSTR", found["host"].lower())
    elif found := VISA_USB.match(text):
        ends = [found["maker"], found["model"], found["serial"], *([found["interface"]] if found["interface"] else [])]
        return Address("usb", f"USB0::{'::'.join(ends)}::INSTR")
    elif found := SERIAL.match(text) or VISA_SERIAL.match(text):
        baud = found.groupdict().get("baud")
        return Address(
            "serial", f"ASRL{_port(found['port'], is_port or is_serial_port)}::INSTR", baud=int(baud) if baud else None
        )
    raise AddressError(
        f"“{text[:80]}” is no address of an instrument.",
        where="address",
        remedy="Type host:port, a serial port such as /dev/ttyUSB0 or /dev/ttyUSB0@115200, or the VISA name of a LAN or USB instrument.",
    )


def _port(name: str, is_port: Callable[[str], bool]) -> str:
    """A serial port's own name, links followed. Raises AddressError for what is none."""
    if name.upper().startswith("COM"):
        if os.name == "nt":
            return name.upper()
        raise AddressError(
            f"{name.upper()} is a port of another system.",
            where="address",
            remedy="Here a serial port is /dev/ttyUSB0 or the like.",
        )
    real = os.path.realpath(name)
    if not is_port(real):
        raise AddressError(
            f"{name} is no serial port of this machine.",
            where="address",
            remedy="Plug it in and look which /dev/tty… appears; type that.",
        )
    return real


def is_serial_port(path: str) -> bool:
    """Whether a real path is a character device that serial ports are."""
    try:
        kind = os.stat(path).st_mode
    except OSError:
        return False
    return bool(PORTS.match(path)) and stat.S_ISCHR(kind)


def must_be_allowed(address: Address, allowed: Collection[str]) -> None:
    """Another machine is asked only where its name was allowed. Raises AddressError."""
    if address.beyond and address.host not in {one.lower() for one in allowed}:
        raise AddressError(
            f"{address.host} is another machine, and nobody has allowed it.",
            where="address",
            remedy=f"Start with ./yard run --instrument {address.host}, or let the login's owner allow it here.",
        )


def _is_loop(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False
