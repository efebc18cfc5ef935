"""A real server process on a port of its own, for tests that need one."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
import urllib.request
from collections.abc import Mapping
from types import TracebackType
from typing import Any


def command(*arguments: object) -> list[str]:
    return [sys.executable, "-m", "yardmeter.server.serve", "--no-browser", *(str(one) for one in arguments)]


def refused(*arguments: object, env: Mapping[str, str] | None = None) -> tuple[int, str]:
    """Exit status and words of a server that is not to start."""
    done = subprocess.run(
        command(*arguments), capture_output=True, text=True, timeout=60, check=False, env={**os.environ, **(env or {})}
    )
    assert "Traceback" not in done.stderr
    return done.returncode, done.stderr


class Running:
    """`with Running("--data", file) as server:` gives its address and small helpers."""

    def __init__(self, *arguments: object, env: Mapping[str, str] | None = None) -> None:
        given = arguments if "--port" in arguments else (*arguments, "--port", 0)
        self.process = subprocess.Popen(
            command(*given),
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
            env={**os.environ, **(env or {})},
        )
        self.address = ""

    def __enter__(self) -> Running:
        assert self.process.stdout
        line = self.process.stdout.readline()
        if line.startswith("The data file was copied"):
            line = self.process.stdout.readline()
        assert "http://" in line, f"the server did not start: {line}"
        self.address = next(word for word in line.split() if word.startswith("http://")).rstrip("/")
        deadline = time.monotonic() + 20
        while time.monotonic() < deadline:
            try:
                self.get("/api/health")
            except OSError:
                time.sleep(0.05)
            else:
                return self
        raise AssertionError("the server does not answer")

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.kill()
        if self.process.stdout:
            self.process.stdout.close()

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()

    def get(self, path: str) -> Any:
        with urllib.request.urlopen(self.address + path, timeout=30) as answer:
            return json.load(answer)

    def post(self, path: str, body: Any) -> Any:
        request = urllib.request.Request(
            self.address + path, json.dumps(body).encode(), {"Content-Type": "application/json"}
        )
        with urllib.request.urlopen(request, timeout=30) as answer:
            return json.load(answer)
