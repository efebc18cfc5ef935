"""Starting the server from the command line."""

import socket
import sqlite3
import subprocess
import sys
from pathlib import Path

from tests.server.running import Running


def test_beyond_loopback_is_refused_without_a_login(tmp_path: Path) -> None:
    command = [
        sys.executable,
        "-m",
        "yardmeter.server.serve",
        "--data",
        str(tmp_path / "own.sqlite3"),
        "--host",
        "0.0.0.0",
        "--port",
        "0",
    ]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 2
    assert "./yard login" in done.stderr


def test_a_taken_port_is_said_plainly(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        command = [
            sys.executable,
            "-m",
            "yardmeter.server.serve",
            "--data",
            str(tmp_path / "a.sqlite3"),
            "--port",
            str(taken.getsockname()[1]),
        ]
        done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 1
    assert "--port" in done.stderr


def test_the_data_file_is_copied_before_its_format_changes(tmp_path: Path) -> None:
    """A file that lacks the newest migration is backed up first; one that is up to date is not."""
    data = tmp_path / "own.sqlite3"
    with Running(data) as server:
        server.post("/api/builds", {"demo": "wren"})
    with sqlite3.connect(data) as file:
        file.execute("DELETE FROM django_migrations WHERE app = 'shelf'")
        file.execute("DROP TABLE shelf_partrow")
    file.close()
    with Running(data) as server:
        assert [b["name"] for b in server.get("/api/builds")] == ["Greenhouse Wren"]
        made = server.post("/api/backup", {})
    copies = sorted((tmp_path / "backups").glob("*.sqlite3"))
    assert [c.stem.rsplit("-", 2)[-2:] for c in copies] == [["before", "migration"], ["on", "demand"]]
    assert made["file"] == str(copies[1])
    with Running(copies[1]) as server:
        assert server.get("/api/plans/1")["build"]["name"] == "Greenhouse Wren"
    assert len(list((tmp_path / "backups").glob("*.sqlite3"))) == 2


def test_a_killed_server_keeps_every_confirmed_edit(tmp_path: Path) -> None:
    """Kill it outright in the middle of a run of edits; what was answered is there again."""
    data = tmp_path / "own.sqlite3"
    with Running(data, "--demo") as server:
        view = server.get("/api/plans/1")
        confirmed = None
        for amps in range(1, 6):
            body = {
                "revision": view["revision"],
                "edits": [{"op": "set_draw", "device": "recorder", "state": "peak", "text": f"{amps}00mA"}],
            }
            view = server.post("/api/plans/1/edits", body)
            confirmed = view["revision"]
        server.kill()
    with Running(data) as server:
        again = server.get("/api/plans/1")
    assert again["revision"] == confirmed
    recorder = next(d for d in again["plan"]["devices"] if d["id"] == "recorder")
    assert recorder["draws"]["peak"]["value"] == 0.5
