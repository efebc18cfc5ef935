"""Faults of a build: what they do to its copper, and what they would do under power, against numbers worked out by hand."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import pytest

from tests.plans import WIRE, device, plan, rail, regulator
from yardmeter import bench_cli, demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.faults import KINDS, Fault, consequence, every_fault, faulted, find_fault, powered_twin
from yardmeter.core.formats.plan_json import write_plan
from yardmeter.core.plan import Plan
from yardmeter.core.probing import Mode, Reading, find_point, points, read
from yardmeter.core.probing.passive import passive_table
from yardmeter.core.probing.powered import corners, read_range
from yardmeter.core.probing.reading import read_powered
from yardmeter.words.bench import consequence_words, fault_words

DEMO_PLANS = [name.removesuffix(".json") for one in demo.DEMOS for name in one.files]


def craft(**more: object) -> Plan:
    """4S, 16.8 V full; a 5 V buck of 3 A print, which cuts off at 3.9 A, with a camera and what flies the craft on it."""
    return plan(
        rails=[rail("five", 5), rail("nine", 9)],
        supplies=[regulator("reg", "buck", "pack-rail", "five", 5.0), regulator("nine-reg", "buck", "pack-rail", "nine", 9.0)],
        devices=[
            device("camera", "five", 0.2, kind="camera", feed={"rail": "five", "wire": {**WIRE, "connector": "Plug"}}),
            device("receiver", "five", 0.1, kind="receiver", keeps_control=True),
            device("wide", "nine", 0.3, nominal_v=9, min_v=4.5, max_v=26),
        ],
        **more,
    )  # fmt: skip


def would(made: Plan, name: str):
    table = passive_table(made)
    return consequence(table, solve_plan(made), find_fault(table, name))


def test_every_kind_is_made_of_the_demo_builds_and_named_apart() -> None:
    seen = set()
    for made in (craft(), *(demo.plan(name) for name in DEMO_PLANS)):
        table = passive_table(made)
        faults = every_fault(table)
        assert len({one.id for one in faults}) == len(faults)
        assert all(one.weight > 0 for one in faults)
        words = [fault_words(made, one) for one in faults]
        assert len(set(words)) == len(words), [one for one in words if words.count(one) > 1]
        seen |= {one.kind for one in faults}
    assert seen == set(KINDS)
    with pytest.raises(UnknownElementError):
        find_fault(passive_table(craft()), "gremlin")
    heavier = every_fault(passive_table(craft(policy={"fault_weights": {"short": 9.0, "whisker": 0.0}})))
    assert {one.weight for one in heavier if one.kind == "short"} == {9.0}
    assert {one.weight for one in heavier if one.kind == "whisker"} == {0.0}
    assert {one.weight for one in heavier if one.kind == "plug reversed"} == {0.2}


def test_a_short_of_the_pack_takes_what_copper_lets_through() -> None:
    made = craft()
    found = would(made, "short-pack-rail-ground")
    # 4 × 4.2 V over 4 × 3 mΩ of cells, two leads of 0.1 m of 14 AWG (8.286 mΩ/m) with two joints each of 0.5 mΩ, 50 mΩ of short.
    amps = 16.8 / (0.012 + 2 * (0.1 * 8.286e-3 + 0.5e-3) + 0.05)
    assert found.amps_a == pytest.approx(amps, rel=0.01)
    assert found.dangerous
    # 14 AWG fuses at 166 A by Preece: 80 d^1.5, d = 1.628 mm.
    assert found.wire_melts == "pack"
    behind = would(made, "short-five-ground")
    assert behind.amps_a == pytest.approx(3.9)
    assert not behind.dangerous
    assert "3.90 A through it" in consequence_words(made, behind)


def test_what_gets_volts_above_its_own_is_lost_and_what_stands_them_is_not() -> None:
    made = craft()
    on_nine = would(made, "wrong-pad-camera-nine")
    assert (on_nine.dangerous, on_nine.lost) == (True, ("camera",))
    assert on_nine.volts_v == pytest.approx(9.0, abs=0.02)
    assert not would(made, "wrong-pad-wide-pack-rail").dangerous
    shorted = would(made, "regulator-shorted-reg")
    assert set(shorted.lost) == {"camera", "receiver"}
    assert shorted.volts_v == pytest.approx(16.8, abs=0.05)
    whisker = would(made, "whisker-five-nine")
    assert set(whisker.lost) == {"camera", "receiver"}
    assert would(made, "swapped-camera").volts_v == pytest.approx(-5.0, abs=0.02)
    assert would(made, "open-joint-receiver").dangerous
    assert not would(made, "open-joint-camera").dangerous


def test_a_build_never_put_on_its_pack_has_faults_all_the_same() -> None:
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "five"}
    made = craft(inlets=[usb], conditions=[{"id": "bench", "name": "Bench", "energy": ["usb"]}])
    # 4S is 16.8 V whether or not a condition says so; what only the pack feeds has no volts to be lost by.
    assert would(made, "short-pack-rail-ground").amps_a > 200
    assert not would(made, "wrong-pad-camera-nine").dangerous


def volts(made: Plan, point: str, condition: str = "bench") -> float:
    table = passive_table(made)
    at = find_point(table, point), find_point(table, "main:ground")
    return read_powered(solve_plan(made).solved, made.condition(condition), table, *at, "volts").usual


def twin(made: Plan, name: str) -> Plan:
    return powered_twin(made, find_fault(passive_table(made), name))


def test_the_powered_twin_reads_what_the_fault_makes_of_it() -> None:
    made = craft()
    assert volts(made, "five") == pytest.approx(5.0, abs=0.01)
    assert volts(twin(made, "regulator-low-reg"), "five") == pytest.approx(4.0, abs=0.01)
    assert volts(twin(made, "regulator-open-reg"), "five") == pytest.approx(0.0, abs=1e-3)
    # Far over the 3.9 A where it gives up: a blip every tenth of a second, which no meter sees.
    assert volts(twin(made, "short-five-ground"), "five") == pytest.approx(0.0, abs=0.01)
    assert volts(twin(made, "regulator-shorted-reg"), "five") == pytest.approx(16.6, abs=0.3)
    assert volts(twin(made, "wrong-pad-camera-nine"), "camera:plus") == pytest.approx(9.0, abs=0.05)
    # 0.2 A through 3 Ω of a poor joint: 0.6 V less.
    assert volts(twin(made, "poor-joint-camera"), "camera:plus") == pytest.approx(4.4, abs=0.02)
    assert solve_plan(twin(made, "open-joint-camera")).device("camera").states["bench"].verdict == "dead"
    for name in ("swapped-camera", "plug-reversed"):
        with pytest.raises(EditError, match="destroyed"):
            twin(made, name)


@pytest.mark.parametrize("name", ["marshlight-as-soldered", "wren-boosted-logic", "heathwatch-own-supply"])
def test_a_powered_twin_of_every_kind_can_be_solved(name: str) -> None:
    made = demo.plan(name)
    kinds: dict[str, Fault] = {}
    for fault in every_fault(passive_table(made)):
        kinds.setdefault(fault.kind, fault)
    for kind, fault in kinds.items():
        if kind in ("plus and minus swapped", "plug reversed"):
            continue
        solved = solve_plan(powered_twin(made, fault))
        # A craft whose only way back to the pack is cut floats: no volts are anybody's then.
        floats = kind == "no ground" and fault.elements[-1] in {w.id for _, w in made.returns() if w.to == "pack"}
        hard = floats or kind in ("short", "whisker", "device shorted", "poor joint")
        assert all(c.solved for c in solved.budget.conditions) or hard, fault.id


def test_amps_are_read_in_one_wire_and_volts_where_there_is_power() -> None:
    made = craft()
    solved, table = solve_plan(made).solved, passive_table(made)
    bench = made.condition("bench")

    def at(name: str):
        return find_point(table, name)

    inward = read_powered(solved, bench, table, at("five"), at("camera:plus"), "amps")
    assert inward.usual == pytest.approx(0.2, rel=1e-3)
    assert inward.low < 0.2 < (inward.high or 0)
    outward = read_powered(solved, bench, table, at("camera:plus"), at("five"), "amps")
    assert outward.usual == pytest.approx(-0.2, rel=1e-3)
    with pytest.raises(EditError, match="No wires join"):
        read_powered(solved, bench, table, at("five"), at("nine"), "amps")
    with pytest.raises(EditError, match="power on"):
        read(table, at("five"), at("nine"), "volts")
    with pytest.raises(EditError, match="no place for a probe"):
        at("elsewhere")
    assert read(table, at("five"), at("five"), "beep").beeps == "steady"


def test_a_range_of_volts_and_amps_holds_set_points_draws_and_the_meter() -> None:
    # 5 V within 3 %, 0.2 A measured within 5 %; the meter half a hundredth and a millivolt, a hundredth and 0.1 mA.
    made = craft()
    table, bench = passive_table(made), made.condition("bench")
    solved = corners(made, bench)

    def between(red: str, black: str, mode: Mode) -> Reading:
        return read_range(solved, bench, table, find_point(table, red), find_point(table, black), mode)

    five = between("five", "main:ground", "volts")
    assert five.low == pytest.approx(4.85 * 0.995 - 1e-3, abs=8e-3)
    assert five.high == pytest.approx(5.15 * 1.005 + 1e-3, abs=8e-3)
    amps = between("five", "camera:plus", "amps")
    assert (amps.low, amps.high) == pytest.approx((0.19 * 0.99, 0.21 * 1.01), abs=3e-4)
    pack = between("pack-rail", "main:ground", "volts")
    assert pack.low == pytest.approx(pack.usual * 0.975, rel=2e-3)
    # From the plug's minus it is more by what drops along the board's ground, some millivolts.
    assert 0 < between("pack-rail", "plug:minus", "volts").usual - pack.usual < 0.05


def test_an_open_ground_reads_through_what_is_left() -> None:
    made = craft()
    table = passive_table(made)
    one, other = find_point(table, "plug:minus"), find_point(table, "camera:ground")
    assert read(table, one, other, "beep").beeps == "steady"
    cut = faulted(table, find_fault(table, "no-ground-camera-gnd"))
    found = read(cut, one, other, "beep")
    # Only through the camera, 1 to 200 kΩ, and what the 5 V rail has to ground: 0.5 kΩ and more.
    assert found.beeps == "no"
    assert found.low > 1200
    assert {one.element for one in found.carriers} >= {"camera"}


def test_the_bench_without_a_browser(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "craft.json"
    file.write_text(write_plan(craft()))

    def said(*line: str) -> Any:
        assert bench_cli.main([line[0], str(file), *line[1:]]) == 0
        return json.loads(capsys.readouterr().out)

    listed = {one["id"] for one in said("points")}
    assert listed == {one.id for one in points(passive_table(craft()))}
    faults = said("faults")
    assert {"short-pack-rail-ground", "swapped-camera"} <= {one["id"] for one in faults if one["dangerous"]}
    beep = said("probe", "--red", "plug:minus", "--black", "camera:ground", "--mode", "beep")
    assert beep["unit"] == "Ω"
    assert beep["beep_s"] is None
    assert "Copper alone" in beep["why"]
    short = said("probe", "--red", "five", "--black", "main:ground", "--mode", "ohms", "--fault", "short-five-ground")
    assert 0 < short["low"] < short["high"] < 1.5
    on = said("probe", "--red", "five", "--black", "main:ground", "--mode", "volts", "--condition", "bench")
    assert on["low"] < 5.0 < on["high"]
    assert bench_cli.main(["probe", str(file), "--red", "five", "--black", "moon"]) == 1
    assert "no place for a probe" in capsys.readouterr().err
    assert math.isfinite(on["usual"])
