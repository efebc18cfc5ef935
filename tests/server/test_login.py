"""A login for other machines: set on the command line, asked for by the API, kept in a cookie."""

from __future__ import annotations

import json
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

from tests.server.running import command
from yardmeter.server.builds.errors import TooOftenError
from yardmeter.server.reach import allowed_hosts
from yardmeter.server.throttle import FIRST_WAIT_S, FREE_TRIES, LONGEST_WAIT_S, Throttle

# Not one of the loopback names, so the server takes it for another machine's way in; still, nothing leaves this one.
HOST = "127.0.0.2" if sys.platform == "linux" else "0.0.0.0"
PASSWORD = "a long enough one"


def set_login(data: Path, name: str, password: str) -> subprocess.CompletedProcess[str]:
    line = [sys.executable, "-m", "yardmeter.server.login", name, "--data", str(data)]
    return subprocess.run(line, input=password + "\n", capture_output=True, text=True, timeout=60, check=False)


@contextmanager
def serving(data: Path, *more: str) -> Iterator[str]:
    line = command("--data", data, "--host", HOST, "--port", 0, *more)
    with subprocess.Popen(line, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
        try:
            said = process.stdout.readline() if process.stdout else ""
            yield next(word for word in said.split() if word.startswith("http://")).rstrip("/")
        finally:
            process.kill()


class Browser:
    """Keeps cookies, and sends the page's token as the front end does."""

    def __init__(self, address: str, **headers: str) -> None:
        self.address, self.headers = address, headers
        self.jar = CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def ask(self, path: str, body: Any = None, *, token: bool = True) -> tuple[int, Any, dict[str, str]]:
        headers = {"Content-Type": "application/json", **self.headers}
        known = {one.name: one.value or "" for one in self.jar}
        if token and body is not None and "csrftoken" in known:
            headers["X-CSRFToken"] = known["csrftoken"]
        data = None if body is None else json.dumps(body).encode()
        try:
            with self.opener.open(urllib.request.Request(self.address + path, data, headers), timeout=30) as answer:
                return answer.status, json.load(answer), dict(answer.headers)
        except urllib.error.HTTPError as error:
            with error:
                return error.code, json.load(error), dict(error.headers)

    def leave(self) -> int:
        token = (
            next(one.value or "" for one in self.jar if one.name == "csrftoken")
            if any(one.name == "csrftoken" for one in self.jar)
            else ""
        )
        request = urllib.request.Request(f"{self.address}/api/session", headers={"X-CSRFToken": token}, method="DELETE")
        with self.opener.open(request, timeout=30) as answer:
            return int(answer.status)

    def log_in(self, name: str = "builder", password: str = PASSWORD) -> int:
        self.ask("/api/session")
        return self.ask("/api/session", {"name": name, "password": password})[0]


def test_what_is_no_login_sets_nothing(tmp_path: Path) -> None:
    data = tmp_path / "own.sqlite3"
    for name, password, words in (
        ("builder", "short", "shorter than 10"),
        ("", PASSWORD, "needs a name"),
        ("a\nb", PASSWORD, "needs a name"),
    ):
        done = set_login(data, name, password)
        assert (done.returncode, words in done.stderr) == (1, True)
    started = subprocess.run(
        command("--data", data, "--host", HOST, "--port", 0), capture_output=True, text=True, timeout=60, check=False
    )
    assert started.returncode == 1


def test_only_who_has_the_login_gets_in(tmp_path: Path) -> None:
    data = tmp_path / "own.sqlite3"
    assert set_login(data, "builder", PASSWORD).returncode == 0
    demo = {"demo": "wren"}
    with serving(data) as address:
        stranger = Browser(address)
        status, body, headers = stranger.ask("/api/builds")
        assert (status, body["kind"]) == (401, "login")
        assert "default-src" in headers["Content-Security-Policy"]
        assert (headers["Cross-Origin-Resource-Policy"], headers["X-Content-Type-Options"]) == (
            "same-origin",
            "nosniff",
        )
        assert stranger.ask("/api/builds", demo)[0] == 401
        assert stranger.ask("/api/health")[0] == 200  # and the page itself, which shows the form
        assert [stranger.log_in("builder", "wrong password"), stranger.log_in("other", PASSWORD)] == [401, 401]
        builder = Browser(address)
        assert builder.log_in() == 200
        assert builder.ask("/api/session")[1] == {"needed": True, "name": "builder"}
        cookie = next(one for one in builder.jar if one.name == "sessionid")
        assert cookie.has_nonstandard_attr("HttpOnly")
        assert cookie.get_nonstandard_attr("SameSite") == "Strict"
        assert not cookie.secure
        assert builder.ask("/api/builds", demo)[0] == 201
        # A page of another site could send the cookie along, but not the token.
        assert builder.ask("/api/builds", demo, token=False)[0] == 403
        forged = Browser(address)
        forged.jar.set_cookie(cookie)
        cookie.value = "x" + (cookie.value or "")
        assert forged.ask("/api/builds")[0] == 401
    with serving(data) as address:  # a restart asks nobody again; another password does
        cookie.value = (cookie.value or "")[1:]
        again = Browser(address)
        again.jar.set_cookie(cookie)
        assert again.ask("/api/builds")[0] == 200
        # Logged out by one, the cookie opens for nobody who has copied it.
        copied = Browser(address)
        copied.jar.set_cookie(cookie)
        assert copied.ask("/api/builds")[0] == 200
        assert again.leave() == 200
        assert copied.ask("/api/builds")[0] == 401
        assert again.log_in() == 200
        assert set_login(data, "builder", "quite another one").returncode == 0
        assert again.ask("/api/builds")[0] == 401
        assert [again.log_in(), again.log_in("builder", "quite another one")] == [401, 200]


def test_behind_a_proxy_the_cookie_is_secure_and_only_named_hosts_are_answered(tmp_path: Path) -> None:
    data = tmp_path / "own.sqlite3"
    set_login(data, "builder", PASSWORD)
    with serving(data, "--proxy", "127.0.0.1", "--name", "yard.example") as address:
        through = {"X-Forwarded-Proto": "https", "X-Forwarded-Host": "yard.example", "X-Forwarded-For": "192.0.2.9"}
        builder = Browser(address, **through)
        status, _, headers = builder.ask("/api/session")
        assert status == 200
        assert "Secure" in headers["Set-Cookie"]
        assert Browser(address, **{**through, "X-Forwarded-Host": "other.example"}).ask("/api/session")[0] == 400


def test_wrong_passwords_wait_longer_each_time() -> None:
    clock = [0.0]
    throttle = Throttle(lambda: clock[0])

    def fail(address: str = "a") -> float:
        """Seconds this address has to wait now; none when its try was taken."""
        try:
            with throttle.attempt(address):
                return 0.0
        except TooOftenError as error:
            return error.wait_s

    assert [fail() for _ in range(FREE_TRIES)] == [0.0] * FREE_TRIES
    assert fail() == FIRST_WAIT_S
    assert fail("b") == 0.0  # another one's failures are not mine
    clock[0] += FIRST_WAIT_S
    assert fail() == 0.0
    assert fail() == 2 * FIRST_WAIT_S
    for _ in range(20):
        clock[0] += LONGEST_WAIT_S
        fail()
    assert fail() == LONGEST_WAIT_S
    clock[0] += LONGEST_WAIT_S
    with throttle.attempt("a") as attempt:
        assert fail("c") == 1  # one is worked on at a time
        attempt.succeeded()
    assert fail() == 0.0


def test_hosts_that_are_answered() -> None:
    loop = ["127.0.0.1", "localhost", "[::1]"]
    assert allowed_hosts("127.0.0.1", []) == loop
    assert allowed_hosts("192.0.2.5", ["Yard.Example"]) == [*loop, "yard.example", "192.0.2.5"]
    assert allowed_hosts("fd00::1", []) == [*loop, "[fd00::1]"]
    everywhere = allowed_hosts("0.0.0.0", [])
    assert set(loop) < set(everywhere)
    assert "*" not in everywhere
