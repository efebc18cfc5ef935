"""Instruments: the stand-ins as any SCPI instrument, and ours from the other end: silent, gone, over range, talking nonsense."""

from __future__ import annotations

import contextlib
import itertools
import os
import pkgutil
import pty
import signal
import socket
import socketserver
import subprocess
import sys
import threading
import time
import tracemalloc
import tty
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import serial.urlhandler
from django.test import Client
from pyvisa.constants import InterfaceType

from tests.core.test_faults import craft
from tests.server.test_bench_api import bench, ready_for_power
from tests.server.test_noise_api import edit, post
from yardmeter import demo
from yardmeter.core.errors import UnknownElementError
from yardmeter.core.faults import find_fault
from yardmeter.core.formats.plan_json import write_plan
from yardmeter.core.probing.passive import passive_table
from yardmeter.instruments.addresses import AddressError, address_of, must_be_allowed
from yardmeter.instruments.connection import Connection, UnreachableError
from yardmeter.instruments.listening import HOST, Listening
from yardmeter.instruments.scpi import parse
from yardmeter.instruments.specimen import TwinBench
from yardmeter.instruments.standin import METER_NAME, MeterStandIn, SupplyStandIn
from yardmeter.server.builds.models import BenchEntry, TrainingRound
from yardmeter.server.builds.services import demos, meters


class Clock:
    """Time that only moves when it is told to."""

    now = 100.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def meter() -> tuple[MeterStandIn, Clock]:
    clock = Clock()
    return MeterStandIn(TwinBench(craft(), ("short-five-ground",)), clock), clock


def shown(meter: MeterStandIn, ask: str = "READ?") -> float:
    said = meter.answer(ask)
    assert said is not None
    return float(said)


def watched(meter: MeterStandIn, clock: Clock, for_s: float, every_s: float = 0.1) -> list[float]:
    """What it shows to who looks every so often."""
    said = []
    for _ in range(round(for_s / every_s)):
        clock.now += every_s
        said.append(shown(meter))
    return said


def test_commands_are_taken_apart_in_short_and_long_form() -> None:
    first, second = parse('CONFigure:RESistance;:ROUTe:PROBes "plug:plus; a","b, c"')
    assert (first.words, first.asks) == (("CONF", "RES"), False)
    assert (second.words, second.arguments) == (("ROUT", "PROB"), ("plug:plus; a", "b, c"))
    assert parse("meas:volt:dc?")[0].words == ("MEAS", "VOLT", "DC")
    assert parse(" ;; ") == []


def test_the_stand_in_settles_beeps_and_overloads(meter: tuple[MeterStandIn, Clock]) -> None:
    one, clock = meter
    assert str(one.answer("*IDN?")).startswith("Yard Meter,Bench stand-in meter")
    assert shown(one) == pytest.approx(9.9e37)  # probes in the air
    one.answer('ROUT:PROB "five","plug:minus"')
    assert shown(one) == pytest.approx(9.9e37)  # on their way: in the air before what will beep
    assert watched(one, clock, 0.99, every_s=0.11) == [pytest.approx(9.9e37)] * 9
    assert watched(one, clock, 0.11, every_s=0.11) == [0.0]  # the probes are on
    clock.now += 0.08
    # A time constant after the probes are on, 63 % of 0.05 Ω and 0.2 Ω of leads, within its last digit.
    assert shown(one) == pytest.approx(0.63 * 0.25, abs=0.05)
    clock.now += 2
    assert shown(one) == pytest.approx(0.25, abs=0.1)
    one.answer('ROUT:PROB "nine","plug:minus"')
    assert shown(one) == pytest.approx(0.2)  # on each other before what is silent
    # Whoever looks seldom, on a busy machine, sees the hand on its way for long enough to believe it.
    assert watched(one, clock, 2.4, every_s=0.4) == [pytest.approx(0.2)] * 6
    watched(one, clock, 1.0)
    values = [shown(one) for _ in range(5)]
    assert 500 < min(values) < max(values) < 20e3
    assert max(values) > min(values)  # noise
    assert one.answer("CONF:VOLT:DC;READ?") == "+0.000000E+00"  # the range changes for a moment
    clock.now += 1
    one.answer('SIM:FAUL;:SIM:COND "bench"')
    clock.now += 2
    assert [shown(one), *watched(one, clock, 0.8)] == [0.0] * 9  # whoever looks late sees its way all the same
    watched(one, clock, 1.0)
    assert shown(one) == pytest.approx(9.0, rel=0.02)


def test_what_it_does_not_know_goes_into_its_queue_of_errors(meter: tuple[MeterStandIn, Clock]) -> None:
    one, _ = meter
    for line in (
        "BANANAS",
        "CONF:BANANAS",
        'SIM:FAUL "gremlin"',
        'ROUT:PROB "five"',
        'ROUT:PROB "moon","five"',
        "x" * 9000,
    ):
        assert one.answer(line) is None
    said = [one.answer("SYST:ERR?") for _ in range(7)]
    assert [str(line).split(",")[0] for line in said] == ["-113", "-113", "-200", "-109", "-200", "-223", "0"]


def test_a_supply_limits_into_a_short_and_feeds_what_is_well() -> None:
    bench, clock = TwinBench(craft()), Clock()
    supply = SupplyStandIn(bench, clock=clock)
    assert supply.answer("MEAS:CURR?") == "+0.000000E+00"
    supply.answer("VOLT 15;CURR 2;OUTP ON")
    # 44 µF behind its two regulators and 15 V: at its limit for 0.3 ms.
    assert supply.answer("MEAS:CURR?") == "+2.000000E+00"
    clock.now += 0.001
    amps = float(supply.answer("MEAS:CURR?") or "nan")
    # 0.3 A at 5 V and 0.3 A at 9 V through switching regulators from some 15 V: a third of an ampere and a bit.
    assert 0.25 < amps < 0.6
    supply.answer("CURR 0.1")
    assert supply.answer("MEAS:CURR?;MEAS:VOLT?") == "+1.000000E-01;+2.000000E-01"
    bench.faults(("short-pack-rail-ground",))
    supply.answer("CURR 2")
    assert float(supply.answer("MEAS:CURR?") or "nan") == pytest.approx(2.0)
    supply.answer("VOLT 99;OUTP OFF")
    assert supply.answer("VOLT?;OUTP?") == "+1.500000E+01;0"
    with pytest.raises(UnknownElementError):
        bench.faults(("gremlin",))


@pytest.mark.parametrize(
    ("typed", "name", "host"),
    [
        ("10.0.0.7:5025", "TCPIP0::10.0.0.7::5025::SOCKET", "10.0.0.7"),
        ("/dev/ttyUSB0", "ASRL/dev/ttyUSB0::INSTR", None),
        ("/dev/ttyACM1@115200", "ASRL/dev/ttyACM1::INSTR", None),
        ("ASRL/dev/ttyS0::INSTR", "ASRL/dev/ttyS0::INSTR", None),
        ("USB0::0x1234::0x5678::AB12::INSTR", "USB0::0x1234::0x5678::AB12::INSTR", None),
        ("TCPIP::Meter.local::5025::SOCKET", "TCPIP0::Meter.local::5025::SOCKET", "meter.local"),
        ("TCPIP0::10.0.0.7::inst0::INSTR", "TCPIP0::10.0.0.7::inst0::INSTR", "10.0.0.7"),
        ("TCPIP::10.0.0.7::INSTR", "TCPIP0::10.0.0.7::inst0::INSTR", "10.0.0.7"),
    ],
)
def test_addresses_are_typed_as_builders_write_them(typed: str, name: str, host: str | None) -> None:
    found = address_of(typed, is_port=lambda _: True)
    assert (found.resource, found.host) == (name, host)


def handlers() -> list[str]:
    """Every handler of URLs that pyserial has."""
    return [one.name.removeprefix("protocol_") for one in pkgutil.iter_modules(serial.urlhandler.__path__)]


def schemes() -> list[str]:
    """Addresses of every kind PyVISA can take apart, and of every handler below a serial one."""
    found = [
        "ASRLspy://{port}?file={file}::INSTR",
        "ASRL{file}::INSTR",
        "{file}",
        "ASRL/dev/../{file}::INSTR",
        "file://{file}",
    ]
    for name in handlers():
        found += [f"ASRL{name}://{{port}}?file={{file}}::INSTR", f"{name}://{{file}}", f"ASRL{name.upper()}://x::INSTR"]
    for kind, resource in itertools.product(
        InterfaceType, ("INSTR", "SOCKET", "RAW", "INTFC", "BACKPLANE", "MEMACC", "SERVANT")
    ):
        if kind.name not in ("tcpip", "usb", "asrl"):
            found.append(f"{kind.name.upper()}0::1::{resource}")
    return [
        *found,
        "PRLGX-TCPIP::10.0.0.7::1234::INTFC",
        "VICP::10.0.0.7::INSTR",
        "TCPIP0::10.0.0.7::5025::INTFC",
        "RSNRP::1::2::INSTR",
    ]


def test_every_scheme_the_libraries_know_is_refused_but_those_of_the_list(tmp_path: Path) -> None:
    """A handler that spies on a port writes what it hears into any file: nothing of it may reach the libraries."""
    kept = tmp_path / "builder.sqlite3"
    kept.write_text("what the builder typed")
    assert {"spy", "loop", "socket", "alt", "hwgrep", "rfc2217"} <= set(handlers())
    link = tmp_path / "ttyUSB0"
    link.symlink_to(kept)
    tried = [one.format(file=kept, port="/dev/ttyS0") for one in schemes()]
    tried += [
        str(link),
        f"ASRL{link}::INSTR",
        "/dev/zero",
        "/dev/null",
        "/dev/mem",
        "/dev/tty",
        "/dev/watchdog",
        "/dev/tty1",
    ]
    tried += [
        "/dev/../etc/passwd",
        "http://10.0.0.7:80",
        "",
        "meter",
        "10.0.0.7:99999",
        "10.0.0.7:0",
        "TCPIP::a b::1::SOCKET",
    ]
    tried += ["10.0.0.7:5025::SOCKET?x", "10.0.0.7:5025\nASRL", "[::1]:5025", "COM3", "TCPIP::10.0.0.7::spy://x::INSTR"]
    for one in tried:
        with pytest.raises(AddressError):
            Connection(one)
    assert kept.read_text() == "what the builder typed"


def test_another_machine_is_asked_only_where_it_was_allowed() -> None:
    there = address_of("10.0.0.7:5025")
    with pytest.raises(AddressError, match="nobody has allowed it"):
        must_be_allowed(there, ("10.0.0.8",))
    must_be_allowed(there, ("10.0.0.7",))
    for here in ("127.0.0.1:1", "localhost:1", "127.9.9.9:1"):
        must_be_allowed(address_of(here), ())
    # Names are compared, never looked up: one that leads to this machine today may lead elsewhere tomorrow.
    with pytest.raises(AddressError):
        must_be_allowed(address_of("localhost.example:5025"), ())


class Odd:
    """An instrument that says what it is told to, or nothing."""

    def __init__(self) -> None:
        self.says: str | None = "1.5"
        self.name: str | None = "Odd,Instrument,0,0"
        self.late_s = 0.0
        self.heard: list[str] = []

    def answer(self, line: str) -> str | None:
        self.heard.append(line)
        if line == "*IDN?":
            return self.name
        if line.endswith("?"):
            time.sleep(self.late_s)
            return self.says
        return None


@pytest.fixture
def hasty(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("yardmeter.instruments.connection.PATIENCE_S", 0.3)


@pytest.mark.usefixtures("hasty")
def test_an_instrument_that_misbehaves_gives_a_state_never_an_error() -> None:
    odd = Odd()
    listening = Listening(odd).start()
    one = Connection(f"{HOST}:{listening.port}")
    assert (one.name, one.stands_in) == ("Odd,Instrument,0,0", False)
    assert (one.read("ohms").state, one.read("ohms").value) == ("ok", 1.5)
    for says, state in (
        ("9.9E+37", "open"),
        ("-9.9E37", "open"),
        ("9.91E37", "nonsense"),
        ("hello", "nonsense"),
        ("x" * 9000, "nonsense"),
        (None, "silent"),
    ):
        odd.says = says
        assert one.read("ohms").state == state, says
    listening.stop()
    with socket.create_server((HOST, 0)) as silent:
        port = silent.getsockname()[1]
        accepted: list[socket.socket] = []
        threading.Thread(target=lambda: accepted.append(silent.accept()[0]), daemon=True).start()
        with pytest.raises(UnreachableError):
            Connection(f"{HOST}:{port}")
        accepted[0].close()
    with pytest.raises(UnreachableError):
        Connection(f"{HOST}:{port}")


@pytest.mark.usefixtures("hasty")
def test_a_stand_in_that_works_long_is_waited_for() -> None:
    """It solves what it shows: on a busy machine that takes longer than a meter may."""
    odd = Odd()
    odd.name, odd.late_s = METER_NAME, 0.6
    listening = Listening(odd).start()
    assert Connection(f"{HOST}:{listening.port}").read("ohms").state == "ok"
    listening.stop()


@pytest.mark.usefixtures("hasty")
def test_an_answer_that_comes_too_late_is_not_the_next_one() -> None:
    """5 Ω of the place before, said only when the next place is asked for: it is nobody's reading."""
    odd = Odd()
    listening = Listening(odd).start()
    one = Connection(f"{HOST}:{listening.port}")
    odd.says, odd.late_s = "5.0", 0.5
    assert one.read("ohms").state == "silent"
    odd.says, odd.late_s = "7.0", 0.0
    time.sleep(0.4)
    assert one.read("ohms").value == 7.0
    listening.stop()


@pytest.mark.usefixtures("hasty")
@pytest.mark.parametrize("name", ["SSH-2.0-Banner", "*IDN?", "a,b", "", None, "220 mail, ready, now", "x" * 9000])
def test_a_banner_is_no_name(name: str | None) -> None:
    odd = Odd()
    odd.name = name
    listening = Listening(odd).start()
    with pytest.raises(UnreachableError):
        Connection(f"{HOST}:{listening.port}")
    listening.stop()


@pytest.mark.usefixtures("hasty")
@pytest.mark.parametrize("pours", [b"never the end of a line ", b"1.5\n", b"\x00"])
def test_a_port_that_pours_is_cut_off(pours: bytes) -> None:
    """4 kB and a moment, then it is no instrument; what it pours is not kept."""

    class Pours(socketserver.BaseRequestHandler):
        def handle(self) -> None:
            with contextlib.suppress(OSError):
                while True:
                    self.request.sendall(pours * 1000)

    with socketserver.ThreadingTCPServer((HOST, 0), Pours) as server:
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, daemon=True).start()
        tracemalloc.start()
        began = time.monotonic()
        with pytest.raises(UnreachableError):
            Connection(f"{HOST}:{server.server_address[1]}")
        most = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        assert time.monotonic() - began < 2.0
        assert most < 2e6
        server.shutdown()


def test_a_serial_instrument_answers_as_one_on_the_network_does() -> None:
    """Over a pair of pseudo-terminals, which a serial port is to a program."""
    theirs, ours = pty.openpty()
    tty.setraw(theirs)
    tty.setraw(ours)
    odd = Odd()

    def answers() -> None:
        line = b""
        while True:
            try:
                line += os.read(theirs, 1)
            except OSError:  # the port was closed
                return
            if line.endswith(b"\n"):
                said = odd.answer(line.decode().strip())
                line = b""
                if said:
                    os.write(theirs, f"{said}\n".encode())

    threading.Thread(target=answers, daemon=True).start()
    one = Connection(f"{os.ttyname(ours)}@115200")
    assert one.name == "Odd,Instrument,0,0"
    assert one.read("volts").value == 1.5
    one.close()
    os.close(ours)
    os.close(theirs)


@pytest.fixture
def laid(db: None) -> Iterator[int]:
    """The smallest demo build, laid on the stand-ins' bench."""
    plan_id: int = demos.add_demo("wren").plans.last().pk
    yield plan_id
    meters.put_away()


def sample(client: Client, plan_id: int, step: str, trial: str = "", training: int | None = None) -> Any:
    body = {"step": step, "trial": trial, "training": training}
    answer = post(client, f"/api/plans/{plan_id}/bench/sample", body)
    assert answer.status_code == 200, answer.content
    return answer.json()


def settled(client: Client, plan_id: int, step: str, trial: str = "", training: int | None = None) -> Any:
    """Samples until it is steady, as a hand that waits for it."""
    for _ in range(400):
        found = sample(client, plan_id, step, trial, training)
        if found["steady"] or found["waits"].startswith("keep it"):
            return found
        time.sleep(0.12)
    raise AssertionError(found)


@pytest.mark.django_db
def test_a_meter_reads_a_step_when_it_is_steady(client: Client, laid: int) -> None:
    step = "rails-rail-5v-plug-minus"
    assert post(client, f"/api/plans/{laid}/bench/sample", {"step": step}).status_code == 409  # no meter
    assert post(client, f"/api/plans/{laid}/bench/standin", {}).json()["meter"]["stands_in"]
    first = sample(client, laid, step)
    assert first["waits"] == "hold still"  # the meter takes its range
    assert not first["kept"]
    # Whoever keeps it now would keep what the probes showed before.
    early = {"step": step, "text": "1200", "instrument": first["instrument"]}
    assert post(client, f"/api/plans/{laid}/bench/reading", early).status_code == 409
    found = settled(client, laid, step)
    read = {"step": step, "text": found["text"], "instrument": found["instrument"]}
    entry = post(client, f"/api/plans/{laid}/bench/reading", read).json()["entry"]
    assert entry["outcome"] == "passed"
    assert entry["instrument"].startswith("Yard Meter,Bench stand-in")
    assert post(client, "/api/meter/connect", {"role": "meter", "address": "bananas"}).status_code == 422
    assert client.get("/api/meter").json()["meter"]["stands_in"]  # what was there stays
    assert post(client, "/api/meter/disconnect", {"role": "meter"}).json()["meter"] is None
    assert post(client, f"/api/plans/{laid}/bench/supply", {"on": True, "volts": 999}).status_code == 422


@pytest.mark.django_db
def test_the_first_power_waits_for_its_gates_and_is_told_by_the_supply(client: Client, laid: int) -> None:
    path = f"/api/plans/{laid}/bench"
    post(client, f"{path}/standin", {})
    step = next(one for one in bench(client, laid)["steps"] if one["id"] == "limiter-first")
    setting = {"volts": step["supply"]["volts_v"], "limit_a": step["supply"]["limit_a"]}
    refused = post(client, f"{path}/supply", {"on": True, **setting})
    assert refused.status_code == 409
    assert "before power is still open" in refused.json()["what"]
    ready_for_power(client, laid)
    assert sample(client, laid, "limiter-first")["waits"] == "switch the supply on"
    assert post(client, f"{path}/supply", {"on": True, **setting}).json()["supply_on"]
    found = settled(client, laid, "limiter-first")
    read = {"step": "limiter-first", "text": found["text"], "instrument": "whoever says so"}
    entry = post(client, f"{path}/reading", read).json()["entry"]
    assert entry["outcome"] == "passed"
    assert entry["instrument"].startswith("Yard Meter,Bench stand-in supply")  # not the meter beside it
    assert not post(client, f"{path}/supply", {"on": False}).json()["supply_on"]
    assert [one["step"] for one in client.get(f"{path}/record.json").json() if one["step"].startswith("supply")] == ["supply-on", "supply-off"]  # fmt: skip
    # A short behind the boost, which stops: 3 mA where 0.96 A are expected.
    meters.mend(("short-rail-5v-ground",))
    post(client, f"{path}/supply", {"on": True, **setting})
    starved = settled(client, laid, "limiter-first")
    assert starved["value"] < 0.01
    assert post(client, f"{path}/reading", {**read, "text": starved["text"]}).json()["entry"]["outcome"] == "failed"
    # A short of the pack's rail: the supply stays at its limit, is switched off by itself, and what it showed fails.
    meters.mend(("short-pack-rail-ground",))
    post(client, f"{path}/supply", {"on": True, **setting})
    for _ in range(200):
        shorted = sample(client, laid, "limiter-first")
        if shorted["waits"] == "at its limit: a short":
            break
        time.sleep(0.1)
    assert not client.get("/api/meter").json()["supply_on"], shorted
    failed = post(client, f"{path}/reading", {**read, "text": shorted["text"]}).json()["entry"]
    assert failed["outcome"] == "failed"
    assert bench(client, laid)["failed"] == "limiter-first"


@pytest.mark.django_db
def test_a_failed_step_leads_through_the_search_to_a_repair_that_opens_its_steps(client: Client, laid: int) -> None:
    path = f"/api/plans/{laid}/bench"
    post(client, f"{path}/standin", {})
    meters.mend(("device-shorted-camera",))
    post(client, f"{path}/reading", {"step": "grounds-plug-minus-camera-ground", "text": "beep"})
    failed = "rails-rail-5v-plug-minus"
    post(client, f"{path}/reading", {"step": failed, "text": settled(client, laid, failed)["text"]})
    assert bench(client, laid)["failed"] == failed
    for _ in range(12):
        found = client.get(f"{path}/search", {"step": failed}).json()
        if found["found"]:
            break
        trial = found["options"][0]["id"]
        text = settled(client, laid, failed, trial)["text"]
        assert post(client, f"{path}/trial", {"step": failed, "trial": trial, "text": text}).status_code == 200
        # What the trial showed is not the step's: neither kept as its pass, nor by itself.
        stolen = {"step": failed, "text": text, "instrument": "the meter"}
        assert post(client, f"{path}/reading", stolen).status_code == 409
        assert not sample(client, laid, failed)["kept"]
    assert found["found"]["fault"] == "device-shorted-camera"
    assert found["found"]["sure"]
    assert post(client, f"{path}/trial", {"step": failed, "trial": "lift|moon", "text": "1"}).status_code == 404
    mended = post(client, f"{path}/repair", {"fault": "device-shorted-camera", "note": "new one", "who": "A. Builder"})
    assert mended.json()["entry"]["outcome"] == "repaired"
    after = bench(client, laid)
    assert after["done"][failed]["again"]
    assert not after["done"]["grounds-plug-minus-camera-ground"]["again"]
    assert after["failed"] is None
    assert [one["who"] for one in after["repaired"]] == ["A. Builder"]
    record = client.get(f"{path}/record.json").json()
    assert len(record) == BenchEntry.objects.count() == after["entries"]
    assert record[-1]["outcome"] == "repaired"
    meters.mend(())
    post(client, f"{path}/reading", {"step": failed, "text": "1200"})
    assert not bench(client, laid)["done"][failed]["again"]


@pytest.mark.django_db
def test_a_round_of_training_is_its_own_record_and_is_scored(client: Client, laid: int) -> None:
    path = f"/api/plans/{laid}/bench"
    begun = post(client, f"{path}/training", {"level": "one", "seed": 11, "who": "A. Builder"}).json()
    assert (begun["hidden"], begun["ended_at"], begun["debrief"]) == (1, None, None)
    hidden = TrainingRound.objects.get().faults[0]
    step = "plug-forward"
    text = settled(client, laid, step, training=begun["id"])["text"]
    post(client, f"{path}/reading", {"step": step, "text": text, "training": begun["id"]})
    # Nothing lies there after a restart; asking how the round stands changes nothing, laying it does.
    meters.put_away()
    assert client.get(f"{path}/training/{begun['id']}").json()["mended"] == []
    assert client.get("/api/meter").json()["meter"] is None
    laid_again = post(client, f"{path}/standin", {"training": begun["id"]}).json()
    assert laid_again["training"] == begun["id"]
    # What lies on the stand-in's bench is not the build itself.
    assert post(client, f"{path}/sample", {"step": step}).status_code == 409
    powered = post(client, f"{path}/reading", {"step": "volts-rail-5v", "text": "5", "training": begun["id"]})
    assert powered.status_code == 200
    assert bench(client, laid)["entries"] == 0  # nothing of it is the build's
    wrong = post(client, f"{path}/repair", {"fault": "capacitor-forgotten-nothing", "training": begun["id"]})
    assert wrong.status_code == 404
    other = next(one for one in ("open-joint-camera", "open-joint-sender") if one != hidden)
    assert (
        post(client, f"{path}/repair", {"fault": other, "training": begun["id"]}).json()["entry"]["outcome"] == "failed"
    )
    right = post(client, f"{path}/repair", {"fault": hidden, "training": begun["id"]})
    assert right.json()["entry"]["outcome"] == "repaired"
    over = client.get(f"{path}/training/{begun['id']}").json()
    debrief = over["debrief"]
    assert over["ended_at"] is not None
    assert [one["fault"] for one in debrief["hidden"]] == [hidden]
    dangerous = debrief["hidden"][0]["dangerous"]
    # Power on a short is a danger met, whatever limits it.
    short = hidden.startswith(("short", "device-shorted", "capacitor-shorted"))
    assert (debrief["probes"], debrief["wrong"], debrief["dangers"]) == (2, 1, int(dangerous or short))
    assert 1 <= debrief["best_probes"] < 40
    assert post(client, f"{path}/reading", {"step": step, "text": "1", "training": begun["id"]}).status_code == 409
    again = post(client, f"{path}/training", {"level": "two", "seed": 3}).json()
    edit(client, laid, {"op": "remove", "element": "camera"})
    stale = post(client, f"{path}/reading", {"step": step, "text": "1", "training": again["id"]})
    assert stale.status_code == 409
    assert "changed" in stale.json()["what"]


def test_faults_of_the_stand_in_are_those_of_the_list() -> None:
    table = passive_table(craft())
    assert find_fault(table, "plug-reversed").traced
    found = TwinBench(craft(), ("plug-reversed",))
    # The plug's plus pin is on ground now: it beeps to where it should be silent.
    assert (found.shows("ohms", "plug:plus", "main:ground", None) or 99) < 1
    assert (found.shows("ohms", "plug:plus", "pack-rail", None) or 1e9) > 100


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[tuple[int, int]]:
    """`./yard meter PLAN.json --fault ID` in a process of its own: ports of its meter and its supply."""
    file = tmp_path / "plan.json"
    file.write_text(write_plan(demo.plan("wren-boosted-logic")))
    command = [
        sys.executable,
        "-m",
        "yardmeter.instruments.meter_cli",
        str(file),
        "--fault",
        "device-shorted-camera",
        "--port",
        "0",
    ]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    said = process.stdout.readline() if process.stdout else ""
    ports = [int(one.rstrip(",;")) for one in said.replace(":", " ").split() if one.rstrip(",;").isdigit()]
    yield ports[0], ports[1]
    process.send_signal(signal.SIGTERM)
    assert process.wait(10) is not None
    if process.stdout:
        process.stdout.close()
    meters.put_away()


@pytest.mark.django_db
def test_a_stand_in_started_elsewhere_works_with_the_list_and_the_search(
    client: Client, elsewhere: tuple[int, int]
) -> None:
    plans = {one.name: one.pk for one in demos.add_demo("wren").plans.all()}
    plan_id, other = plans["boosted logic"], demos.add_demo("culvert").plans.last().pk
    path = f"/api/plans/{plan_id}/bench"
    for role, port in zip(("meter", "supply"), elsewhere, strict=True):
        assert post(client, "/api/meter/connect", {"role": role, "address": f"{HOST}:{port}"}).status_code == 200
    failed = "rails-rail-5v-plug-minus"
    text = settled(client, plan_id, failed)["text"]
    assert float(text) < 2
    assert post(client, f"{path}/reading", {"step": failed, "text": text}).json()["entry"]["outcome"] == "failed"
    trial = client.get(f"{path}/search", {"step": failed}).json()["options"][0]["id"]
    assert settled(client, plan_id, failed, trial)["state"] in ("ok", "open")
    # Of another build it knows no place: what it shows there is not taken for open.
    lost = post(client, f"/api/plans/{other}/bench/sample", {"step": "rails-rail-12v-plug-minus"})
    assert (lost.status_code, "another build" in lost.json()["what"]) == (409, True)
