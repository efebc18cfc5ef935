"""Supplies on the plug: never on blindly, off whatever happens, and nobody waits for a slow instrument."""

from __future__ import annotations

import signal
import socket
import subprocess
import sys
import textwrap
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.test import Client

from tests.core.test_faults import craft
from tests.server.running import Running
from yardmeter.instruments.connection import Connection, UnreachableError
from yardmeter.instruments.listening import HOST, Listening
from yardmeter.instruments.reader import Reader
from yardmeter.instruments.specimen import TwinBench
from yardmeter.instruments.standin import MeterStandIn, SupplyStandIn
from yardmeter.instruments.supply import Supply, SupplyError


class Wilful(SupplyStandIn):
    """A supply that does otherwise in one way."""

    def __init__(self, way: str = "") -> None:
        super().__init__(TwinBench(craft()))
        assert self.bench.pack_a(14.8, 0.5)  # worked out ahead: an instrument does not think
        self.way = way
        self.limit_a = 5.0
        self.heard: list[str] = []
        self.ever_on = False

    def answer(self, line: str) -> str | None:
        self.heard.append(line)
        told: Callable[[str], str | None] | None = WAYS.get(self.way, {}).get(line.split(" ")[0])
        said = told(line) if told else super().answer(line)
        self.ever_on = self.ever_on or self.on
        return said


def nothing(_: str) -> None:
    return None


def says(text: str) -> Callable[[str], str | None]:
    return lambda _: text


WAYS: dict[str, dict[str, Callable[[str], str | None]]] = {
    "keeps its old limit": {"CURR": nothing},
    "keeps its old volts": {"VOLT": nothing},
    "never says its limit": {"CURR?": nothing},
    "says words": {"CURR?": says("fifty")},
    "has an error": {"SYST:ERR?": says('-222,"Data out of range"')},
    "says yes and keeps its limit": {"CURR": nothing, "CURR?": says("0.050"), "MEAS:CURR?": says("1.2")},
    "says yes and gives more volts": {"MEAS:VOLT?": says("24.0")},
    "does not go on": {"OUTP?": says("0")},
}
BEFORE = ("keeps its old limit", "keeps its old volts", "never says its limit", "says words", "has an error")


@pytest.fixture(autouse=True)
def _hasty(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("yardmeter.instruments.connection.PATIENCE_S", 0.4)


def supply_at(listening: Listening) -> Supply:
    address = f"{HOST}:{listening.port}"
    return Supply(Connection(address), lambda: Connection(address))


@pytest.mark.parametrize("way", WAYS)
def test_a_supply_that_does_otherwise_is_refused_and_off(way: str) -> None:
    wilful = Wilful(way)
    listening = Listening(wilful).start()
    supply = supply_at(listening)
    with pytest.raises((SupplyError, UnreachableError)):
        supply.switch_on(5.0, 0.05)
    assert not wilful.on
    assert not supply.on
    if way in BEFORE:
        assert not wilful.ever_on
        assert "OUTP ON" not in wilful.heard
    listening.stop()


def test_one_that_does_as_it_is_told_is_asked_before_it_is_on() -> None:
    wilful = Wilful()
    listening = Listening(wilful).start()
    supply = supply_at(listening)
    supply.switch_on(14.8, 0.5)
    assert (wilful.on, wilful.volts, wilful.limit_a) == (True, 14.8, 0.5)
    order = [wilful.heard.index(one) for one in ("*CLS", "VOLT 14.800", "CURR 0.500", "VOLT?", "CURR?", "SYST:ERR?", "OUTP ON")]  # fmt: skip
    assert order == sorted(order)
    supply.let_go()
    assert not wilful.on
    listening.stop()


def test_off_never_waits_behind_a_slow_reading(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("yardmeter.instruments.connection.PATIENCE_S", 5.0)
    wilful = Wilful()
    listening = Listening(wilful).start()
    supply = supply_at(listening)
    supply.switch_on(14.8, 0.5)
    wilful.way = "slow"
    WAYS["slow"] = {"MEAS:CURR?": nothing}
    reading = threading.Thread(target=supply.amps)
    reading.start()
    time.sleep(0.2)
    began = time.monotonic()
    supply.connection.write("OUTP OFF", urgent=True)
    while wilful.on:
        time.sleep(0.005)
    assert time.monotonic() - began < 0.5
    reading.join()
    listening.stop()


def test_a_lost_link_ends_with_the_output_off() -> None:
    """The cable is pulled while it is on: as soon as it answers again it is switched off, unasked."""
    wilful = Wilful()
    listening = Listening(wilful).start()
    port = listening.port
    supply = supply_at(listening)
    supply.switch_on(14.8, 0.5)
    listening.stop()
    supply.connection.close()
    assert supply.amps().state == "unreachable"
    assert supply.lost
    assert wilful.on
    again = Listening(wilful, port).start()
    deadline = time.monotonic() + 8
    while wilful.on and time.monotonic() < deadline:
        time.sleep(0.05)
    assert not wilful.on
    again.stop()


def test_a_reader_makes_nobody_wait() -> None:
    """A meter that says nothing for a second: whoever looks has an answer, or none, in a moment."""
    calls = []

    def slow(what: str) -> Any:
        calls.append(what)
        time.sleep(1.0)
        return "read"

    reader: Reader[str] = Reader(slow, "a slow one")
    began = time.monotonic()
    assert [reader.look("ohms", began, 0.05) for _ in range(4)] == [[]] * 4
    assert time.monotonic() - began < 0.6
    assert len(calls) == 1
    assert [one.shown for one in reader.look("ohms", began, 3.0)] == ["read"]
    assert reader.look("ohms", time.monotonic() + 9, 0.0) == []  # of a place opened later it is no reading
    reader.end()


@pytest.fixture
def bench_of_two() -> Iterator[tuple[Listening, Wilful, Listening]]:
    """A meter that falls silent when it is told to, and a supply, on this machine."""
    wilful = Wilful()
    meter, supply = Listening(MeterStandIn(TwinBench(craft()))).start(), Listening(wilful).start()
    yield meter, wilful, supply
    meter.stop()
    supply.stop()


def skip_to_power(server: Running, plan: int) -> dict[str, Any]:
    found = server.get(f"/api/plans/{plan}/bench")
    for step in found["steps"]:
        if step["gate"] in ("eyes", "meter", "plug", "states"):
            server.post(f"/api/plans/{plan}/bench/look", {"step": step["id"], "outcome": "skipped", "note": "a test"})
    return next(one["supply"] for one in found["steps"] if one["id"] == "limiter-first")


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGINT])
def test_a_server_that_ends_leaves_no_supply_on(how: signal.Signals, tmp_path: Any, bench_of_two: Any) -> None:
    _, wilful, listening = bench_of_two
    with Running("--data", tmp_path / "yard.sqlite3") as server:
        made = server.post("/api/builds", {"demo": "wren"})
        plan = made["plans"][0]["id"]
        server.post("/api/meter/connect", {"role": "supply", "address": f"{HOST}:{listening.port}"})
        setting = skip_to_power(server, plan)
        body = {"on": True, "volts": setting["volts_v"], "limit_a": setting["limit_a"]}
        assert server.post(f"/api/plans/{plan}/bench/supply", body)["supply_on"]
        assert wilful.on
        server.process.send_signal(how)
        server.process.wait(10)
        deadline = time.monotonic() + 10
        while wilful.on and time.monotonic() < deadline:
            time.sleep(0.05)
        assert not wilful.on


def test_the_watchman_leaves_alone_what_is_off(bench_of_two: Any) -> None:
    _, wilful, listening = bench_of_two
    told = f"on {HOST}:{listening.port} \noff\n"
    for said, heard in ((told, False), (told.replace("\noff", ""), True)):
        wilful.heard.clear()
        command = [sys.executable, "-m", "yardmeter.instruments.watchman"]
        subprocess.run(command, input=textwrap.dedent(said), text=True, timeout=30, check=True)
        assert ("OUTP OFF" in wilful.heard) is heard


@pytest.mark.django_db
def test_a_refusal_tells_another_machine_nothing(
    client: Client, settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Fast or slow, closed or silent: one sentence after one time."""
    client.get("/api/health")
    monkeypatch.setattr(sys.modules["yardmeter.server.api.meter"], "REFUSED_S", 1.6)
    settings.LOOPBACK = False
    owner, guest = (User.objects.create_user(name, password="x") for name in ("owner", "guest"))
    client.force_login(guest)
    told = set()
    with Silent() as port:
        for address in (f"{HOST}:{port}", f"{HOST}:1"):
            began = time.monotonic()
            answer = client.post(
                "/api/meter/connect", {"role": "meter", "address": address}, content_type="application/json"
            )
            assert 1.5 < time.monotonic() - began < 2.6
            assert answer.status_code == 422
            told.add(answer.json()["what"].replace(address, ""))
    assert len(told) == 1
    asked = ("/api/meter/allow", {"host": "10.255.255.1"}, "application/json")
    assert client.post(*asked).status_code == 409
    there = client.post(
        "/api/meter/connect", {"role": "meter", "address": "10.255.255.1:5025"}, content_type="application/json"
    )
    assert "nobody has allowed it" in there.json()["what"]
    client.force_login(owner)
    assert client.post(*asked).status_code == 200


class Silent:
    """A port that takes connections and says nothing."""

    def __enter__(self) -> int:
        self.server = socket.create_server((HOST, 0))
        return int(self.server.getsockname()[1])

    def __exit__(self, *_: object) -> None:
        self.server.close()
