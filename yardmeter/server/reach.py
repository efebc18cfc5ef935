"""By what addresses and names this server is reached, and the key its login cookie is signed with."""

from __future__ import annotations

import contextlib
import os
import secrets
import socket
from collections.abc import Sequence
from pathlib import Path

LOOPBACK_NAMES = ("127.0.0.1", "localhost", "[::1]")
EVERYWHERE = ("0.0.0.0", "::", "")
KEY_BYTES = 50


def is_loopback(host: str) -> bool:
    return host in ("127.0.0.1", "localhost", "::1")


def allowed_hosts(host: str, names: Sequence[str]) -> list[str]:
    """What a request may be addressed to, against other sites that resolve to this machine.

    The loop's names; the address listened at, or this machine's own names and addresses where it listens at all of them;
    and the names given.
    """
    found = [*LOOPBACK_NAMES, *names]
    if host in EVERYWHERE:
        found += _own_names()
    elif not is_loopback(host):
        found.append(f"[{host}]" if ":" in host else host)
    return list(dict.fromkeys(one.lower() for one in found))


def _own_names() -> list[str]:
    name = socket.gethostname()
    found = [name, f"{name}.local"]
    with contextlib.suppress(OSError):
        found += [str(where[0]) for *_, where in socket.getaddrinfo(name, None)]
    # The address of the way out: nothing is sent by naming where one would send to.
    with contextlib.suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as way:
        way.connect(("192.0.2.1", 9))
        found.append(way.getsockname()[0])
    return [f"[{one}]" if ":" in one else one for one in found]


def signing_key(data: Path, *, lasting: bool) -> str:
    """The key of the login's cookie: kept beside the data file so that a restart asks nobody again; else of this process alone."""
    if not lasting:
        return secrets.token_urlsafe(KEY_BYTES)
    path = data.with_name(data.name + ".key")
    with contextlib.suppress(FileExistsError):
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(secrets.token_urlsafe(KEY_BYTES))
    return path.read_text() or secrets.token_urlsafe(KEY_BYTES)
