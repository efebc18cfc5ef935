"""Stand-ins that listen: lines over TCP on this machine alone, one instrument to a port."""

from __future__ import annotations

import contextlib
import socketserver
import threading
from typing import Protocol

from yardmeter.instruments.standin import LONGEST

HOST = "127.0.0.1"


class Instrument(Protocol):
    def answer(self, line: str) -> str | None: ...


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True
    instrument: Instrument


class _Talk(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        server = self.server
        if not isinstance(server, _Server):
            return
        with contextlib.suppress(OSError):
            while line := self.rfile.readline(LONGEST + 2):
                said = server.instrument.answer(line.decode("ascii", "replace").strip())
                if said is not None:
                    self.wfile.write(f"{said}\n".encode("ascii", "replace"))


class Listening:
    """One instrument on a port; port 0 takes a free one. Raises OSError where the port is taken."""

    def __init__(self, instrument: Instrument, port: int = 0) -> None:
        self._server = _Server((HOST, port), _Talk)
        self._server.instrument = instrument
        self.port: int = self._server.server_address[1]
        self._thread = threading.Thread(target=self._server.serve_forever, name=f"instrument-{self.port}", daemon=True)

    def start(self) -> Listening:
        self._thread.start()
        return self

    def serve(self) -> None:
        """In this thread, until interrupted."""
        self._server.serve_forever()

    def stop(self) -> None:
        self._server.shutdown()
        self._server.server_close()
