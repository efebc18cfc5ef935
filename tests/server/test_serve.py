"""Starting the server from the command line, and what it survives."""

from __future__ import annotations

import argparse
import http.client
import os
import resource
import signal
import socket
import sqlite3
import stat
import subprocess
import time
import urllib.error
from collections.abc import Iterator
from pathlib import Path

import pytest
from platformdirs import user_cache_path

from tests.server.running import Running, command, refused
from yardmeter.server import serve

COMPILED = os.environ.get("YARD_CACHE") or str(user_cache_path("yard-meter"))
"""Where the loops were compiled to: nobody waits for them again."""


@pytest.fixture(scope="module")
def shared(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Running, Path]]:
    """A server for all who leave it as it was, and its data file."""
    data = tmp_path_factory.mktemp("shared") / "own.sqlite3"
    with Running("--data", data) as server:
        yield server, data


def test_beyond_loopback_is_refused_without_a_login(tmp_path: Path) -> None:
    for host in ("0.0.0.0", "127.0.0.1"):
        proxied = () if host == "0.0.0.0" else ("--proxy", "127.0.0.1")
        status, words = refused("--data", tmp_path / "own.sqlite3", "--host", host, *proxied, "--port", 0)
        assert (status, "./yard login" in words) == (1, True)


def sqlite(path: Path, *statements: str) -> Path:
    with sqlite3.connect(path) as file:
        for one in statements:
            file.execute(one)
    file.close()
    return path


def test_what_cannot_be_a_data_file_is_refused_and_left_as_it_is(tmp_path: Path) -> None:
    """A folder, rubbish, half a file, another program's, a newer one's, a place that takes no file."""
    ours = tmp_path / "ours.sqlite3"
    with Running("--data", ours) as server:
        server.post("/api/builds", {"demo": "wren"})
    whole = ours.read_bytes()
    (tmp_path / "rubbish").write_bytes(os.urandom(4096))
    (tmp_path / "half").write_bytes(whole[: len(whole) // 2])
    (tmp_path / "newer").write_bytes(whole)
    sqlite(tmp_path / "newer", "INSERT INTO django_migrations (app, name, applied) VALUES ('builds', '0999_x', '2031')")
    sqlite(tmp_path / "cats", "CREATE TABLE cats (name)")
    sqlite(tmp_path / "site", "CREATE TABLE django_migrations (app, name)", "CREATE TABLE blog_post (id)")
    (tmp_path / "folder").mkdir()
    cases = {
        "folder": "is a folder",
        "rubbish": "damaged",
        "half": "damaged",
        "cats": "another program",
        "site": "another program",
        "newer": "newer Yard Meter",
    }
    for name, words in cases.items():
        path = tmp_path / name
        before = path.read_bytes() if path.is_file() else b""
        status, said = refused("--data", path, "--port", 0)
        assert (status, words in said, said.count("\n")) == (1, True, 1), (name, said)
        assert not path.is_file() or path.read_bytes() == before
    assert refused("--data", "/dev/null", "--port", 0)[0] == 1
    assert refused("--data", "/proc/nowhere/x.sqlite3", "--port", 0)[0] == 1


@pytest.mark.parametrize(
    "arguments",
    [
        ("--port", "-1"),
        ("--port", "99999"),
        ("--host", "no such host"),
        ("--host", "192.0.2.7"),
        ("--demo", "--data", "x"),
    ],
)
def test_nonsense_on_the_command_line_is_one_sentence(tmp_path: Path, arguments: tuple[str, ...]) -> None:
    named = () if "--demo" in arguments else ("--data", tmp_path / "own.sqlite3")
    status, said = refused(*arguments, *named)
    assert (status, said.count("\n")) == (1, 1)
    assert not list(tmp_path.glob("*.sqlite3"))


def test_ctrl_c_at_any_moment_ends_without_a_traceback(tmp_path: Path) -> None:
    """Held back while the interpreter starts, heard from then on; see `yard`."""
    for moment_s in (0.0, 0.2, 0.6, 1.0, 3.0):
        held = {"preexec_fn": lambda: signal.pthread_sigmask(signal.SIG_BLOCK, [signal.SIGINT])}
        process = subprocess.Popen(
            command("--data", tmp_path / f"{moment_s}.sqlite3", "--port", 0),
            stderr=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            text=True,
            **held,
        )
        time.sleep(moment_s)
        process.send_signal(signal.SIGINT)
        _, said = process.communicate(timeout=30)
        assert (process.returncode, said.strip()) == (130, "Stopped."), moment_s


def test_a_second_demo_on_a_busy_port_leaves_the_first_its_data(tmp_path: Path) -> None:
    cache = {"XDG_CACHE_HOME": str(tmp_path), "YARD_CACHE": COMPILED}
    with Running("--demo", env=cache) as first:
        plan = first.get("/api/plans/1")
        edit = {"op": "set_draw", "device": "recorder", "state": "peak", "text": "300mA"}
        first.post("/api/plans/1/edits", {"revision": plan["revision"], "edits": [edit]})
        status, said = refused("--demo", "--port", first.address.rsplit(":", 1)[1], env=cache)
        assert (status, "--port" in said) == (1, True)
        with Running("--demo", env=cache) as second:  # elsewhere: a demo with a file of its own
            assert second.get("/api/plans/1")["undo"] is None
        assert first.get("/api/plans/1")["undo"] == "Sound recorder: peak draw 300mA"
        assert first.get("/api/health")["status"] == "ok"
    with Running("--demo", env=cache) as again:
        assert again.get("/api/plans/1")["undo"] is None


def test_two_servers_never_share_a_data_file(tmp_path: Path) -> None:
    """Nor by a second name of it: through a hard link two would write into one file, each sure to be alone."""
    data, other = tmp_path / "own.sqlite3", tmp_path / "other.sqlite3"
    with Running("--data", data) as server:
        status, said = refused("--data", data, "--port", 0)
        assert (status, server.address in said) == (1, True)
        other.hardlink_to(data)
        status, said = refused("--data", other, "--port", 0)
        assert (status, "another name" in said) == (1, True)
    with Running("--data", other) as server:  # a killed one holds nothing
        assert server.get("/api/health")["status"] == "ok"


def test_a_data_file_taken_away_is_noticed(tmp_path: Path) -> None:
    """Moved, replaced, removed: nothing is confirmed any more, and nothing comes into being in its place."""
    data, edit = tmp_path / "own.sqlite3", {"op": "set_draw", "device": "recorder", "state": "peak", "text": "300mA"}
    for other in (None, b""):
        with Running("--data", data) as server:
            server.post("/api/builds", {"demo": "marshlight"})
            plan = server.get("/api/plans/1")
            data.rename(tmp_path / "moved.sqlite3")
            if other is not None:
                data.write_bytes(other)
            for path, body in (
                ("/api/plans/1/edits", {"revision": plan["revision"], "edits": [edit]}),
                ("/api/builds", {"demo": "wren"}),
            ):
                for _ in range(5):  # on every thread
                    with pytest.raises(urllib.error.HTTPError) as caught:
                        server.post(path, body)
                    with caught.value as answer:
                        assert answer.status == 503
                        assert b"moved or removed" in answer.read()
            with pytest.raises(urllib.error.HTTPError) as unwell:
                server.get("/api/health")
            with unwell.value as answer:
                assert b"data file gone" in answer.read()
        assert not data.exists() or data.read_bytes() == b""
        for left in tmp_path.glob("own.sqlite3*"):
            left.unlink()


def test_the_data_file_is_its_owners_alone(tmp_path: Path) -> None:
    data = tmp_path / "own.sqlite3"
    data.touch(0o644)
    with Running("--data", data) as server:
        server.post("/api/builds", {"demo": "wren"})
        made = Path(server.post("/api/backup", {})["file"])
        files = [*tmp_path.glob("own.sqlite3*"), made]
        assert len(files) >= 3
        assert {stat.S_IMODE(one.stat().st_mode) for one in files} == {0o600}


def test_work_whose_client_has_gone_is_stopped(shared: tuple[Running, Path]) -> None:
    """A long tolerance run is asked for and left; a moment later the server's processor rests."""
    server, _ = shared
    plan_id = server.post("/api/builds", {"demo": "marshlight"})["plans"][0]["id"]
    body = b'{"samples": 5000, "seed": 7}'
    head = f"POST /api/plans/{plan_id}/spread HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: {len(body)}\r\n\r\n"
    with socket.create_connection(("127.0.0.1", int(server.address.rsplit(":", 1)[1]))) as client:
        client.sendall(head.encode() + body)
        time.sleep(0.4)
    time.sleep(1.0)

    def busy_s() -> float:
        fields = Path(f"/proc/{server.process.pid}/stat").read_text().rsplit(")", 1)[1].split()
        return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")

    before = busy_s()
    time.sleep(1.0)
    assert busy_s() - before < 0.3


def test_a_full_disk_is_said_and_loses_nothing(shared: tuple[Running, Path]) -> None:
    """The system refuses to let the files grow, as a full disk does; with room again the same edit is taken."""
    (server, data), edit = shared, {"op": "set_draw", "device": "recorder", "state": "peak", "text": "300mA"}
    path = f"/api/plans/{server.post('/api/builds', {'demo': 'marshlight'})['plans'][0]['id']}"
    plan, there = server.get(path), len(server.get("/api/builds"))
    resource.prlimit(server.process.pid, resource.RLIMIT_FSIZE, (512, resource.RLIM_INFINITY))
    body = {"revision": plan["revision"], "edits": [edit]}
    for asked, sent in ((f"{path}/edits", body), ("/api/backup", {}), ("/api/builds", {"demo": "wren"})):
        with pytest.raises(urllib.error.HTTPError) as caught:
            server.post(asked, sent)
        with caught.value as answer:
            assert answer.status == 507
            assert b"nothing was stored" in answer.read()
    assert list((data.parent / "backups").iterdir()) == []
    resource.prlimit(server.process.pid, resource.RLIMIT_FSIZE, (resource.RLIM_INFINITY,) * 2)
    assert server.post(f"{path}/edits", body)["undo"] == "Sound recorder: peak draw 300mA"
    assert len(server.get("/api/builds")) == there


def test_a_disk_that_is_full_at_the_start_is_one_sentence(tmp_path: Path) -> None:
    started = subprocess.run(
        command("--data", tmp_path / "own.sqlite3", "--port", 0), capture_output=True, text=True, timeout=60, check=False,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (8192, 8192)),
    )  # fmt: skip
    assert (started.returncode, started.stderr.count("\n")) == (1, 1)
    assert "full or fails" in started.stderr
    assert not (tmp_path / "own.sqlite3").exists()


def test_half_open_requests_do_not_stop_the_server(shared: tuple[Running, Path]) -> None:
    server, _ = shared
    port = int(server.address.rsplit(":", 1)[1])
    half = [socket.create_connection(("127.0.0.1", port)) for _ in range(400)]
    try:
        for one in half:
            one.sendall(b"POST /api/builds HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Le")
        began = time.monotonic()
        assert server.get("/api/health")["status"] == "ok"
        assert time.monotonic() - began < 5
    finally:
        for one in half:
            one.close()


def test_the_data_file_is_copied_before_its_format_changes(tmp_path: Path) -> None:
    """A file of the first format is backed up, then brought up; one that is up to date is not copied."""
    data = tmp_path / "own.sqlite3"
    with sqlite3.connect(data) as file:
        file.executescript((Path(__file__).parent / "kept" / "data-1.sql").read_text())
    file.close()
    with Running("--data", data) as server:
        assert [b["name"] for b in server.get("/api/builds")] == ["Greenhouse Wren"]
        plan = server.get("/api/plans/1")
        assert (plan["plan"]["version"], plan["undo"]) == (3, "Tiny camera: peak draw 300mA")
        # What today's format refuses was brought up: a wire of 0.4 mm, and text with control characters.
        feed = next(d for d in plan["plan"]["devices"] if d["id"] == "camera")["feed"]["wire"]
        assert (feed["joined"], feed["length_m"], feed["connector"]) == (True, 0.001, "two pins")
        first = server.post("/api/plans/1/undo", {"revision": plan["revision"]})
        assert first["redo"] == plan["undo"]
        assert server.get("/api/shelf?q=old+camera")[0]["part"]["name"] == "My old camera with a tab"
        made = server.post("/api/backup", {})
    copies = sorted((tmp_path / "backups").glob("*.sqlite3"))
    assert [c.stem.rsplit("-", 2)[-2:] for c in copies] == [["before", "migration"], ["on", "demand"]]
    assert made["file"] == str(copies[1])
    with Running("--data", copies[1]) as server:
        assert server.get("/api/plans/1")["build"]["name"] == "Greenhouse Wren"
    assert len(list((tmp_path / "backups").glob("*.sqlite3"))) == 2


def test_a_killed_server_keeps_every_confirmed_edit(tmp_path: Path) -> None:
    """Two kills at odd moments in the middle of edits: what was answered is there again, and the file is whole."""
    data, edited = tmp_path / "own.sqlite3", 0
    confirmed: int | None = None
    for trial in range(2):
        with Running("--data", data) as server:
            if trial == 0:
                server.post("/api/builds", {"demo": "wren"})
            view, started = server.get("/api/plans/1"), confirmed
            assert confirmed is None or view["revision"] >= confirmed
            if confirmed is not None and view["revision"] == confirmed:
                camera = next(d for d in view["plan"]["devices"] if d["id"] == "camera")
                assert camera["draws"]["peak"]["value"] == pytest.approx(edited / 1000)
            timer = None
            try:
                for _ in range(50):
                    if timer is None and confirmed != started:  # one edit is answered, however slow the machine is
                        delay_s = 0.02 + 0.12 * trial
                        timer = subprocess.Popen(["sh", "-c", f"sleep {delay_s}; kill -9 {server.process.pid}"])
                    amps = edited + 1
                    edit = {"op": "set_draw", "device": "camera", "state": "peak", "text": f"{amps}mA"}
                    view = server.post("/api/plans/1/edits", {"revision": view["revision"], "edits": [edit]})
                    confirmed, edited = view["revision"], amps
            except (OSError, http.client.HTTPException):  # it is gone
                edited = edited if view["revision"] == confirmed else 0
            finally:
                assert timer, "no edit was answered before the server went"
                timer.wait()
    with sqlite3.connect(data) as file:
        assert file.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    file.close()


def test_a_demo_starts_where_its_folder_cannot_be_written(tmp_path: Path) -> None:
    blocked = tmp_path / "no folder"
    blocked.write_text("")
    with Running("--demo", env={"XDG_CACHE_HOME": str(blocked / "cache"), "YARD_CACHE": COMPILED}) as server:
        assert len(server.get("/api/builds")) > 2


def test_another_sites_page_sets_nothing_going(shared: tuple[Running, Path]) -> None:
    """A picture's address is a GET: the browser says whose page it stands on."""

    def status(address: str, site: str) -> int:
        asked = urllib.request.Request(address + "/api/builds", headers={"Sec-Fetch-Site": site})
        try:
            with urllib.request.urlopen(asked, timeout=30) as answer:
                return int(answer.status)
        except urllib.error.HTTPError as error:
            with error:
                return error.code

    told = {site: status(shared[0].address, site) for site in ("cross-site", "same-site", "same-origin", "none")}
    assert told == {"cross-site": 403, "same-site": 403, "same-origin": 200, "none": 200}


@pytest.mark.parametrize(("kind", "running", "stops"), [(ImportError, False, True), (TypeError, False, True), (ImportError, True, False)])  # fmt: skip
def test_a_stop_that_an_import_hands_on_as_its_own_error_is_a_stop(kind: type[Exception], running: bool, stops: bool, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:  # fmt: skip
    def starts(options: argparse.Namespace) -> int:
        options.running = running
        try:
            raise KeyboardInterrupt
        except KeyboardInterrupt:
            raise kind("half of it was loaded")  # noqa: B904 - as libraries do

    for name in ("_hear_signals", "few_arenas"):
        monkeypatch.setattr(serve, name, lambda: None)
    monkeypatch.setattr(serve, "_start", starts)
    if not stops:
        with pytest.raises(kind):
            serve.main(["--port", "0"])
        return
    assert serve.main(["--port", "0"]) == serve.STOPPED
    assert capsys.readouterr().err == "Stopped.\n"
