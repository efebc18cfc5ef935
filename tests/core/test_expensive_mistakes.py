"""The expensive mistakes of the trade: each caught on a plan made for it, and not reported on its cured twin.

Trade facts beside the checks are common practice, no source, unless said otherwise.
"""

from collections.abc import Callable
from typing import Any

import pytest

from tests.plans import LOW, STILL, device, fixes_of, plan, rail, regulator
from yardmeter.core.edits import apply_edits
from yardmeter.core.plan import Plan
from yardmeter.review import analyse
from yardmeter.words.told import Finding

HOVER = {"id": "hover", "name": "Hover", "pack_state": "nominal", "throttle_frac": 0.35}
BUCK5 = regulator(
    "buck5",
    "buck",
    "pack-rail",
    "five",
    5.0,
    efficiency=[{"amps": 1, "efficiency_frac": 0.9}],
    theta_still_k_w=20,
    theta_moving_k_w=10,
)
ACTIVE = ("danger", "fault", "caution")


def over_voltage(cured: bool) -> Plan:
    # 6S is 22.2 V on the label, 25.2 V full: a 24 V lamp survives the label and dies on the pack.
    lamp = device("lamp", "pack-rail", 0.5, nominal_v=12, min_v=10, max_v=30 if cured else 24)
    return plan(series=6, devices=[lamp], conditions=[HOVER])


def dropout(cured: bool) -> Plan:
    # A 12 V buck on 4S falls off a cliff near 3.1 V a cell: use 9 to 10.5 V there.
    volts = 9.0 if cured else 12.0
    buck = regulator(
        "buck12",
        "buck",
        "pack-rail",
        "video",
        volts,
        dropout_v=0.4,
        dropout_ohm=0.1,
        efficiency=[{"amps": 1, "efficiency_frac": 0.92}],
    )
    sender = device("sender", "video", 9.0, unit="W", law="power", nominal_v=12, min_v=7, max_v=20)
    motors = device(
        "motors",
        "pack-rail",
        0,
        kind="motor",
        nominal_v=14.8,
        min_v=6,
        max_v=18,
        throttle=[{"throttle_frac": 1, "amps": 90}],
        feed={"rail": "pack-rail", "wire": {"gauge_awg": 8, "length_m": 0.05}},
        returns=[{"id": "m", "to": "main", "wire": {"gauge_awg": 8, "length_m": 0.05}}],
    )
    thick = {"gauge_awg": 8, "length_m": 0.1}
    made = plan(
        cell_ohm=0.006,
        rails=[rail("video", volts)],
        supplies=[buck],
        devices=[sender, motors],
        conditions=[HOVER, LOW],
        policy={"thin_headroom_v": 0.5},
    )
    document = made.model_dump(mode="json")
    document["pack"] |= {"lead": thick, "capacity_ah": 5}
    document["boards"][0]["returns"][0]["wire"] = thick
    return Plan.model_validate(document)


def overload(cured: bool) -> Plan:
    # Older board 5 V regulators: about 1.5 A; a companion computer and a recorder ask for 1.7 A.
    weak = {**BUCK5, "rating_a": 3 if cured else 1.5}
    return plan(
        rails=[rail("five", 5)],
        supplies=[weak],
        devices=[device("computer", "five", 1.2), device("recorder", "five", 0.5)],
    )


def usb_only(cured: bool) -> Plan:
    # "Works on USB, dead on the pack": the pad it hangs on is fed from the USB port alone.
    usb = {"id": "usb", "name": "USB", "kind": "usb", "rail": "port"}
    link = {
        "kind": "diode",
        "id": "or",
        "name": "or",
        "input": "port",
        "output": "five",
        "board": "main",
        "drop_v": 0.3,
    }
    return plan(
        rails=[rail("five", 5), rail("port", 5)],
        supplies=[BUCK5, link],
        inlets=[usb],
        conditions=[{**STILL, "id": "usb-bench", "energy": ["usb"]}, HOVER],
        devices=[device("gnss", "five" if cured else "port", 0.08, min_v=3.3)],
    )


def two_bucks(cured: bool) -> Plan:
    # Switching ESC BECs: one red wire only, lift and insulate the rest.
    esc = {"id": "esc", "name": "ESC", "kind": "esc", "returns": [{"id": "esc-gnd", "to": "main"}]}
    bec = regulator(
        "bec",
        "buck",
        "pack-rail",
        "bec5",
        5.1,
        board="esc",
        place="esc",
        efficiency=[{"amps": 1, "efficiency_frac": 0.9}],
    )
    red = {
        "kind": "link",
        "id": "red",
        "name": "red wire",
        "input": "bec5",
        "output": "five",
        "board": "main",
        "feed": {"gauge_awg": 26, "length_m": 0.1},
    }
    return plan(
        boards=[esc],
        rails=[rail("five", 5), rail("bec5", 5, "esc")],
        supplies=[BUCK5, bec] if cured else [BUCK5, bec, red],
        devices=[device("receiver", "five", 0.1, min_v=3.6)],
    )


def strap(cured: bool) -> Plan:
    # All three pads bridged is a dead short between pack and 5 V.
    bridge = {
        "kind": "strap",
        "id": "strap",
        "name": "Strap",
        "input": "five",
        "output": "out",
        "board": "main",
        "choices": ["five", "pack-rail"],
        "selected": ["five"] if cured else ["five", "pack-rail"],
    }
    return plan(
        rails=[rail("five", 5), rail("out")], supplies=[BUCK5, bridge], devices=[device("camera", "out", 0.2, max_v=20)]
    )


def into_an_output(cured: bool) -> Plan:
    # A feed into an output pad: a 9 V rail tied to the output of the 5 V regulator's own rail holds it up from outside.
    nine = regulator("buck9", "buck", "pack-rail", "nine", 9.0, efficiency=[{"amps": 1, "efficiency_frac": 0.9}])
    wrong = {"kind": "link", "id": "wrong", "name": "wrong wire", "input": "nine", "output": "five", "board": "main"}
    return plan(
        rails=[rail("five", 5), rail("nine", 9)],
        supplies=[BUCK5, nine] if cured else [BUCK5, nine, wrong],
        devices=[device("camera", "five", 0.2, max_v=16)],
    )


CASES: list[tuple[str, Callable[[bool], Plan], str]] = [
    ("window.over", over_voltage, "lamp"),
    ("headroom.dropout", dropout, "buck12"),
    ("load.over", overload, "five"),
    ("source.none", usb_only, "gnss"),
    ("source.several", two_bucks, "bec"),
    ("source.strap", strap, "strap"),
    ("source.several", into_an_output, "buck9"),
]


def found(made: Plan, code: str) -> list[Finding]:
    return [f for f in analyse(made).findings if f.code == code]


@pytest.mark.parametrize(("code", "make", "element"), CASES, ids=[f"{code}-{element}" for code, _, element in CASES])
def test_caught_and_cured(code: str, make: Callable[[bool], Plan], element: str) -> None:
    caught = found(make(False), code)
    assert len(caught) == 1
    assert element in caught[0].elements
    assert caught[0].severity in ("danger", "fault")
    left = analyse(make(True)).findings
    assert [f.title for f in left if f.severity in ACTIVE] == []


def test_the_numbers_stand_on_both_sides() -> None:
    finding = found(over_voltage(False), "window.over")[0]
    assert finding.numbers[0].value == pytest.approx(25.2, abs=0.05)  # full pack, not the label's 22.2 V
    assert "22.2 V on the label and 25.2 V full" in finding.cause
    over = found(overload(False), "load.over")[0]
    assert (over.numbers[0].text, over.numbers[1].text) == ("1.70 A", "1.50 A")
    assert [one.value for one in found(strap(False), "source.strap")[0].numbers[:2]] == [
        2,
        1,
    ]  # pads bridged, and allowed


def test_a_12_v_buck_on_4s_falls_off_near_3_1_v_a_cell() -> None:
    # common practice, no source. By hand: 12 V + 0.4 V + (0.1 − 0.02) Ω · 0.75 A over 4 cells is 3.115 V a cell.
    buck = regulator("buck12", "buck", "pack-rail", "video", 12.0, dropout_v=0.4, dropout_ohm=0.1, output_ohm=0.02)
    sender = device("sender", "video", 0.75, nominal_v=12, min_v=7, max_v=20)
    leaves = [
        e
        for e in analyse(plan(rails=[rail("video", 12)], supplies=[buck], devices=[sender])).windows.events
        if e.kind == "leaves"
    ]
    assert [e.element for e in leaves] == ["buck12"]
    assert leaves[0].cell_v == pytest.approx(3.115, abs=0.01)


@pytest.mark.parametrize(("code", "make", "element"), CASES, ids=[f"{code}-{element}" for code, _, element in CASES])
def test_every_fix_applies_and_helps(code: str, make: Callable[[bool], Plan], element: str) -> None:
    made = make(False)
    finding = found(made, code)[0]
    for fix in fixes_of(made, code):
        after = [f for f in found(apply_edits(made, fix.edits), code) if f.key == finding.key]
        assert not any(f.severity == finding.severity for f in after), f"“{fix.title}” does not cure {finding.title}"


def test_schools_decide() -> None:
    # Linear ESC BECs: every red wire may stay; the same with the strict school is a fault.
    def tied(kind: str, school: str) -> Plan:
        pair = [regulator(name, kind, "pack-rail", "five", volts) for name, volts in (("a", 5.0), ("b", 5.05))]
        return plan(
            series=2,
            rails=[rail("five", 5)],
            supplies=pair,
            devices=[device("servo", "five", 0.3)],
            policy={"paralleling": school},
        )

    severities: dict[tuple[str, str], Any] = {
        (kind, school): found(tied(kind, school), "source.several")[0].severity
        for kind in ("linear", "buck")
        for school in ("never", "linear", "any")
    }
    assert severities[("linear", "linear")] == severities[("buck", "any")] == "note"
    assert severities[("buck", "linear")] == severities[("buck", "never")] == "danger"
    assert severities[("linear", "never")] == "fault"
    derated = plan(
        rails=[rail("five", 5)],
        supplies=[{**BUCK5, "rating_a": 2, "derate_frac": None}],
        devices=[device("d", "five", 1.6)],
    )
    assert found(derated, "load.over")
    trusting = apply_edits(derated, [])
    trusting = trusting.model_copy(update={"policy": trusting.policy.model_copy(update={"board_derate_frac": 1.0})})
    assert not found(trusting, "load.over")
