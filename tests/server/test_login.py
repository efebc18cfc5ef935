"""A login for other machines: set on the command line, asked for on every request."""

from __future__ import annotations

import base64
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

# Not one of the loopback names, so the server takes it for another machine's way in; still, nothing leaves this one.
HOST = "127.0.0.2" if sys.platform == "linux" else "0.0.0.0"
PASSWORD = "a long enough one"


def run_module(module: str, *arguments: str, text: str = "") -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", f"yardmeter.server.{module}", *arguments]
    return subprocess.run(command, input=text, capture_output=True, text=True, timeout=60, check=False)


@contextmanager
def serving(data: Path) -> Iterator[str]:
    command = [sys.executable, "-m", "yardmeter.server.serve", "--data", str(data), "--host", HOST, "--port", "0"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
        try:
            line = process.stdout.readline() if process.stdout else ""
            yield next(word for word in line.split() if word.startswith("http://")).rstrip("/")
        finally:
            process.kill()


def basic(login: str) -> str:
    return "Basic " + base64.b64encode(login.encode()).decode()


def asked(address: str, login: str | None, data: bytes | None = None) -> int:
    """The status of an answer, with an Authorization header or without."""
    path = "/api/health" if data is None else "/api/builds"
    headers = {"Content-Type": "application/json", **({} if login is None else {"Authorization": login})}
    try:
        with urllib.request.urlopen(urllib.request.Request(address + path, data, headers), timeout=30) as answer:
            status: int = answer.status
    except urllib.error.HTTPError as error:
        with error:
            status = error.code
    return status


def test_a_short_password_sets_nothing(tmp_path: Path) -> None:
    data = tmp_path / "own.sqlite3"
    done = run_module("login", "builder", "--data", str(data), text="short\n")
    assert done.returncode == 1
    assert "shorter than 10" in done.stderr
    refused = run_module("serve", "--data", str(data), "--host", HOST, "--port", "0")
    assert refused.returncode == 2


def test_with_a_login_only_who_has_it_gets_in(tmp_path: Path) -> None:
    data = tmp_path / "own.sqlite3"
    assert run_module("login", "builder", "--data", str(data), text=f"{PASSWORD}\n").returncode == 0
    right = basic(f"builder:{PASSWORD}")
    with serving(data) as address:
        assert asked(address, right) == 200
        wrong = [basic(one) for one in ("builder:wrong password", f"other:{PASSWORD}", "builder", "")]
        for login in (None, *wrong, "Basic", "Basic ###", f"Bearer {PASSWORD}"):
            assert asked(address, login) == 401, login
        assert asked(address, None, b'{"demo": "wren"}') == 401
        assert asked(address, right, b'{"demo": "wren"}') in (200, 201)
    # Set again, the old one no longer opens.
    assert run_module("login", "builder", "--data", str(data), text="quite another one\n").returncode == 0
    with serving(data) as address:
        assert asked(address, right) == 401
        assert asked(address, basic("builder:quite another one")) == 200
