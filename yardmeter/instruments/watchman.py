"""A process of its own that switches a supply off when the server is gone, however it went.

It is told on its input which supply is on (`on ADDRESS`) and that it is off again (`off`). When its input ends while one is
on, the server was killed or has crashed: the supply is opened anew and its output switched off.
"""

from __future__ import annotations

import contextlib
import subprocess
import sys
import time
from collections.abc import Iterable

from yardmeter.core.errors import YardError
from yardmeter.instruments.connection import Connection
from yardmeter.instruments.scpi import number

AGAIN_S = 0.3
TRIES = 100


def watch(lines: Iterable[str]) -> None:
    """Follow what is said until it ends; then off with what is still on."""
    at, allowed = "", ""
    for line in lines:
        word, _, rest = line.strip().partition(" ")
        at, _, allowed = rest.partition(" ") if word == "on" else ("", "", "")
    if at:
        off(at, allowed.split())


def off(address: str, allowed: Iterable[str]) -> bool:
    """Open it, switch its output off, hear that it is; tried for half a minute."""
    hosts = tuple(allowed)
    for _ in range(TRIES):
        with contextlib.suppress(YardError):
            one = Connection(address, hosts)
            try:
                one.write("OUTP OFF")
                if number(one.ask("OUTP?")) == 0:
                    return True
            finally:
                one.close()
        time.sleep(AGAIN_S)
    return False


class Watchman:
    """The process as the server holds it. It is started before a supply is switched on, and ends with the server."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "yardmeter.instruments.watchman"],
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            text=True,
            start_new_session=True,  # Ctrl+C at the terminal is the server's; this one goes after it
        )

    def told_on(self, address: str, allowed: Iterable[str]) -> None:
        """Raises OSError where it is gone."""
        self._say(f"on {address} {' '.join(allowed)}")

    def told_off(self) -> None:
        with contextlib.suppress(OSError):
            self._say("off")

    def stop(self) -> None:
        self.told_off()
        if self._process.stdin:
            with contextlib.suppress(OSError):
                self._process.stdin.close()
        with contextlib.suppress(subprocess.TimeoutExpired):
            self._process.wait(2)

    def _say(self, line: str) -> None:
        if self._process.stdin is None or self._process.poll() is not None:
            raise BrokenPipeError("nobody is there")
        self._process.stdin.write(line + "\n")
        self._process.stdin.flush()


if __name__ == "__main__":
    watch(sys.stdin)
