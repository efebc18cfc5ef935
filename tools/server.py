"""The application on demo data in a process of its own, for screenshots and timings."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from types import TracebackType

from platformdirs import user_cache_path


class Serving:
    """`with Serving(folder) as address:` serves fresh demo data, kept in that folder."""

    def __init__(self, folder: Path) -> None:
        command = [
            sys.executable,
            "-m",
            "yardmeter.server.serve",
            "--demo",
            "--port",
            "0",
            "--no-browser",
        ]
        compiled = os.environ.get("YARD_CACHE") or str(user_cache_path("yard-meter"))  # the march is not compiled anew
        own = {"XDG_CACHE_HOME": str(folder), "YARD_CACHE": compiled}
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env={**os.environ, **own})

    def __enter__(self) -> str:
        line = self.process.stdout.readline() if self.process.stdout else ""
        words = [word for word in line.split() if word.startswith("http://")]
        if not words:
            raise RuntimeError(f"the server did not start: {line}")
        return words[0].rstrip("/")

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.process.terminate()
        self.process.wait()
