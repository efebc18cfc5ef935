"""Properties every solution has, whatever the plan."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.balance import check_balance
from tests.core.crowded import crowded
from tests.plans import device, plan, rail, regulator
from yardmeter import demo
from yardmeter.core.answers.budget import budget
from yardmeter.core.answers.conditions import solve_conditions
from yardmeter.core.answers.operating import Operating, operate
from yardmeter.core.answers.sources import flows
from yardmeter.core.edits import apply_edits
from yardmeter.core.network import Situation, branch_table
from yardmeter.core.network.keys import return_key
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import SetValue

AMPS = st.floats(0.01, 1.5)
settings.register_profile("steady", deadline=None, max_examples=40, derandomize=True)
settings.load_profile("steady")


def solve(made: Plan, *, limited: bool = True) -> Operating:
    return operate(branch_table(made), [Situation(c, limited=limited) for c in made.conditions])


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    """One to six devices of any law on a pack of 1 to 6 cells, through a buck, a linear behind it, and the pack."""
    series = draw(st.integers(1, 6))
    kind = draw(st.sampled_from(["linear", "buck", "boost", "buckboost"]))
    devices = []
    for index in range(draw(st.integers(1, 6))):
        law = draw(st.sampled_from(["current", "power", "resistance"]))
        where = draw(st.sampled_from(["a", "b", "pack-rail"]))
        ground = "main" if index == 0 or draw(st.booleans()) else f"d{index - 1}"
        devices.append(device(f"d{index}", where, draw(AMPS), law=law, ground=ground, min_v=2, max_v=60))
    eff = [
        {"amps": 0.5, "efficiency_frac": draw(st.floats(0.6, 0.98))},
        {"amps": 2, "efficiency_frac": draw(st.floats(0.6, 0.98))},
    ]
    first = regulator(
        "first",
        kind,
        "pack-rail",
        "a",
        draw(st.floats(3, 12)),
        efficiency=eff,
        rating_a=draw(st.floats(0.5, 6)),
        start_v=2.5,
        stop_v=2,
    )
    second = regulator(
        "second", "linear", "a", "b", draw(st.floats(2, 5)), rating_a=draw(st.floats(0.3, 3)), start_v=2, stop_v=1.5
    )
    return plan(series=series, rails=[rail("a", 5), rail("b", 3.3)], supplies=[first, second], devices=devices)


@given(plans())
def test_currents_and_power_balance(made: Plan) -> None:
    for limited in (True, False):
        op = solve(made, limited=limited)
        check_balance(op)
        # With supplies that cut off there is always somewhere to settle, if only with everything down.
        assert not limited or op.solution.converged.all()


@given(plans(), AMPS)
def test_a_load_never_raises_its_own_rail(made: Plan, extra: float) -> None:
    more = made.model_copy(
        update={
            "devices": (*made.devices, plan(devices=[device("more", "pack-rail", extra, min_v=2, max_v=60)]).devices[0])
        }
    )
    before, after = solve(made, limited=False), solve(Plan.model_validate(more.model_dump()), limited=False)
    for row in range(len(made.conditions)):
        if before.converged(row) and after.converged(row):
            assert after.rail_v(row, "pack-rail") <= before.rail_v(row, "pack-rail") + 1e-6


@given(st.floats(0.05, 0.95), AMPS)
def test_splitting_a_wire_changes_nothing(share: float, amps: float) -> None:
    whole = plan(devices=[device("d", "pack-rail", amps, nominal_v=14, min_v=6, max_v=20)])
    middle = [
        {
            "id": "mid",
            "name": "mid",
            "kind": "link",
            "input": "pack-rail",
            "output": "half",
            "board": "main",
            "series_ohm": 0.0005,
            "feed": {"gauge_awg": 20, "length_m": 0.1 * share},
        }
    ]
    second = {"gauge_awg": 20, "length_m": 0.1 * (1 - share)}
    halves = plan(
        rails=[rail("half")],
        supplies=middle,
        devices=[device("d", "half", amps, nominal_v=14, min_v=6, max_v=20, feed={"rail": "half", "wire": second})],
    )
    one, two = solve(whole), solve(halves)
    for row in range(2):  # the joint itself is half a milliohm
        assert two.pin_v(row, "d") == pytest.approx(one.pin_v(row, "d") - amps * 0.0005, abs=1e-6)


def test_a_star_and_a_chain_differ_by_the_shared_drop() -> None:
    # Common impedance by hand: d's return carries e's current too, so e's ground rises by I_e · R of d's return.
    star = plan(
        devices=[device("d", "pack-rail", 1.0, min_v=6, max_v=20), device("e", "pack-rail", 0.5, min_v=6, max_v=20)]
    )
    chain = plan(
        devices=[
            device("d", "pack-rail", 1.0, min_v=6, max_v=20),
            device("e", "pack-rail", 0.5, ground="d", min_v=6, max_v=20),
        ]
    )
    one, two = solve(star), solve(chain)
    ohm = 1 / one.network.circuit.conductors.siemens[0, one.network.table.conductor[return_key("d-gnd")]]
    board = one.ground_v(0, "main")
    assert one.ground_v(0, "d") - board == pytest.approx(1.0 * ohm, abs=1e-7)
    assert two.ground_v(0, "d") - two.ground_v(0, "main") == pytest.approx(1.5 * ohm, abs=1e-7)
    assert two.ground_v(0, "e") - two.ground_v(0, "main") == pytest.approx(2.0 * ohm, abs=1e-7)


def test_two_hundred_devices_solve() -> None:
    made = demo.plan("marshlight-second-wiring")
    many = [device(f"x{i}", "rail-5v", 0.004, ground="controller") for i in range(200)]
    big = Plan.model_validate({**made.model_dump(), "devices": [*made.model_dump()["devices"], *many]})
    op = solve(big)
    assert op.solution.converged.all()
    check_balance(op)


def test_an_edit_elsewhere_leaves_a_row_alone() -> None:
    made = demo.plan("marshlight-second-wiring")
    other = apply_edits(made, [SetValue(element="pack", field="name", value="renamed")])
    assert solve(other).solution.volts == pytest.approx(solve(made).solution.volts, abs=1e-12)


def test_rows_do_not_disturb_one_another() -> None:
    made = demo.plan("marshlight-as-soldered")
    together = solve(made)
    for row, condition in enumerate(made.conditions):
        alone = operate(branch_table(made), [replace(Situation(condition))])
        assert alone.solution.volts[0] == pytest.approx(together.solution.volts[row], abs=1e-6)


@pytest.mark.parametrize("name", [file.removesuffix(".json") for one in demo.DEMOS for file in one.files])
def test_where_the_search_starts_does_not_matter(name: str) -> None:
    """What conditions are given, found from the unlimited solution, is what the nominal start finds."""
    made = demo.plan(name)
    alone, together = solve(made), solve_conditions(made)
    for row, condition in enumerate(made.conditions):
        view = together.given[condition.id]
        assert view.op.volts[view.row] == pytest.approx(alone.volts[row], abs=1e-5)


RED = {"kind": "link", "id": "red", "name": "Red wire", "input": "two", "output": "one", "board": "main", "feed": {"gauge_awg": 22, "length_m": 0.1}}  # fmt: skip


def joined(set_v: float) -> Plan:
    """Rails of 5.2 V and of `set_v` with a red wire between them, 0.95 A on the one and 0.3 A on the other."""
    return plan(
        rails=[rail("one", 5.2), rail("two", 5.0)],
        supplies=[
            regulator("a", "buck", "pack-rail", "one", 5.2, rating_a=1.5, output_ohm=0.001),
            regulator("b", "buck", "pack-rail", "two", set_v, rating_a=1.5, output_ohm=0.001),
            RED,
        ],
        devices=[device("crowd", "one", 0.95), device("d", "two", 0.3)],
    )


def bridged() -> Plan:
    """A strap with both pads bridged: 0.9 A come from the 5.3 V, 0.4 go to its device and 0.5 on to the 5 V rail."""
    strap = {"kind": "strap", "id": "strap", "name": "Strap", "input": "five", "output": "out", "board": "main", "choices": ["five", "nine"], "selected": ["five", "nine"]}  # fmt: skip
    bucks = [
        regulator(n, "buck", "pack-rail", r, v, theta_still_k_w=10)
        for n, r, v in (("a", "five", 5.0), ("b", "nine", 5.3))
    ]
    loads = [device("c", "out", 0.4), device("d", "five", 0.5)]
    return plan(rails=[rail("five", 5), rail("nine", 6), rail("out")], supplies=[*bucks, strap], devices=loads)


def test_a_bridged_strap_takes_from_the_pad_that_gives() -> None:
    rails = {r.id: r.states["bench"] for r in budget(solve_conditions(bridged())).rails}
    assert {name: rails[name].asked_a for name in ("nine", "out", "five")} == pytest.approx({"nine": 0.9, "out": 0.9, "five": 0.5}, abs=2e-3)  # fmt: skip
    # Of the 3 A of that one 2.1 are left, whichever of the three asks for them.
    assert [rails[name].spare_a for name in ("nine", "out", "five")] == pytest.approx([2.1] * 3, abs=2e-3)


@pytest.mark.parametrize("made", [*(plan for one in demo.DEMOS for plan in demo.plans(one)), crowded(), joined(5.0), joined(5.3), bridged()], ids=lambda made: made.name)  # fmt: skip
def test_what_a_rail_hands_on_is_what_comes_to_it(made: Plan) -> None:
    """Kirchhoff at every rail of the budget: its consumers take what its supplies, ports and wires bring, whichever way."""
    solved = solve_conditions(made)
    found = budget(solved)
    for condition in made.conditions:
        view = solved.given[condition.id]
        into = dict.fromkeys(made.rail_of, 0.0)
        for one in flows(made, view):
            if one.end in into:
                into[one.end] += one.arrives_a
        for inlet in made.inlets:
            if not inlet.in_line and inlet.id in condition.energy:
                into[inlet.rail] += view.inlet_a(inlet.id)
        into[made.pack.rail] += view.pack_a if condition.on_pack else 0.0
        for one in found.rails if view.converged else ():
            assert one.states[condition.id].given_a == pytest.approx(into[one.id], rel=2e-3, abs=6e-3), (
                one.id,
                condition.id,
            )


def test_a_rail_fed_backwards_has_what_the_other_one_leaves() -> None:
    """By hand: 1.25 of 1.5 A are taken of the one that is set higher; 0.25 A are left on either rail."""
    for set_v, strong, weak in ((5.0, "one", "two"), (5.3, "two", "one")):
        rails = {r.id: r.states["bench"] for r in budget(solve_conditions(joined(set_v))).rails}
        assert rails[strong].asked_a == pytest.approx(1.25, abs=1e-3)
        assert rails[strong].spare_a == rails[weak].spare_a == pytest.approx(0.25, abs=1e-3)
        assert rails[weak].asked_a == pytest.approx({"one": 0.95, "two": 0.3}[weak])
        assert rails[weak].bound_by == strong
