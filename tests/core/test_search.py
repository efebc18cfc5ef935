"""The search for a fault: chances worked out by hand, what to do next, and every so many-th fault of the demo builds found."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import pytest

from tests.core.test_faults import craft
from tests.plans import device, plan
from yardmeter import demo
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.faults import Fault, faulted
from yardmeter.core.faults.model import OPEN_OHM, Joint
from yardmeter.core.plan import Plan
from yardmeter.core.probing.lumped import lumped, usual_table
from yardmeter.core.probing.points import find_point
from yardmeter.core.probing.reading import read_many
from yardmeter.core.procedures import checklist, judge
from yardmeter.core.procedures.handsfree import LimiterWatch, Watch
from yardmeter.core.procedures.measured import measured_edits
from yardmeter.core.search import Signatures, advise, believe, find_trial, seen_of
from yardmeter.core.search.levels import LEFT_FRAC, LEVELS, danger_of, detected, levels, schools
from yardmeter.core.search.next_best import entropy, outcomes_of, told_bits
from yardmeter.core.search.played import code_length, figures, play
from yardmeter.core.search.seen import likelihood
from yardmeter.core.search.training import hidden, score
from yardmeter.core.search.trials import of_step, predicted, trials
from yardmeter.core.search.twin import Twin


def known_of(plan: Plan) -> Signatures:
    return Signatures(checklist(solve_plan(plan)))


@pytest.fixture(scope="module")
def small() -> Signatures:
    return known_of(craft())


def fault(known: Signatures, name: str) -> Fault:
    return next(one for one in known.faults if one.id == name)


def after(known: Signatures, read: Sequence[tuple[str, float | None]], recent: frozenset[str] = frozenset()):
    """What is believed after some steps were read."""
    evidence = []
    for name, value in read:
        step = known.made.step[name]
        trial = of_step(step)
        assert trial
        evidence.append((trial, seen_of(trial.scale, value, failed=not judge(step, value).passed)))
    return believe(known, evidence, recent)


@pytest.mark.parametrize(("name", "every"), [("wren-boosted-logic", 9), ("heathwatch-own-supply", 31)])
def test_lumped_readings_are_those_of_the_whole_network(name: str, every: int) -> None:
    """Against the solver of single readings, which is held to ngspice: 5 % of ohms, or 5 mΩ."""
    known = known_of(demo.plan(name))
    steps = [known.made.step[one] for one in known.steps]
    for k, one in enumerate(known.faults[::every]):
        if not one.traced:
            continue
        table = faulted(known.made.table, one)
        pairs = [(step.red, step.black) for step in steps if step.red and step.black]
        exact = [r.usual - 0.2 for r in read_many(table, pairs, "ohms", lasting=False)]
        lumped = known.ohms[1 + every * k]
        for step, want, got in zip(steps, exact, lumped, strict=True):
            assert min(want, 4e7) == pytest.approx(got, rel=0.05, abs=5e-3), (one.id, step.id)


def test_blocks_of_a_large_build_are_solved_as_one(small: Signatures, monkeypatch: pytest.MonkeyPatch) -> None:
    table = small.made.table
    tables = [table, *(faulted(table, one) for one in small.faults if one.traced)]
    nodes = np.arange(2, 8, dtype=np.intp)
    whole, _ = usual_table(tables, nodes, np.full(6, table.minus))
    monkeypatch.setattr("yardmeter.core.probing.lumped.BLOCK_CELLS", 3 * table.nodes**2)
    parts, builds = usual_table(tables, nodes, np.full(6, table.minus))
    assert len(builds) > 5
    assert np.allclose(whole, parts, rtol=1e-6)


def test_how_well_a_reading_fits_is_a_bell_on_the_scale_of_ratios() -> None:
    # Parts: one standard deviation is a factor of e; leads of 0.2 Ω are in what is shown.
    values = np.array([1000.0, 1000.0 * math.e, 4e7])
    found = likelihood(seen_of("ohms", 1000.2), values, 1000.0)
    assert found == pytest.approx([1.0, math.exp(-0.5) + 5e-4 * (1 - math.exp(-0.5)), 5e-4], abs=2e-3)
    # What fails cannot come from a fault that leaves the place as it was.
    assert likelihood(seen_of("ohms", 1000.2, failed=True), values, 1000.0)[0] == pytest.approx(5e-4)
    # Silence is anything above 30 Ω, a beep anything below 50 Ω; open is open.
    many = np.array([0.02, 20.0, 200.0, 4e7])
    assert likelihood(seen_of("ohms", None, sound="silent"), many, 0.02) == pytest.approx(
        [5e-4, 0.28, 1.0, 1.0], abs=0.06
    )
    assert likelihood(seen_of("ohms", 0.1, sound="beep"), many, 0.02) == pytest.approx([1.0, 0.9, 0.08, 5e-4], abs=0.06)
    assert likelihood(seen_of("ohms", None), many, 0.02) == pytest.approx([5e-4, 5e-4, 5e-4, 0.5], abs=0.01)
    volts = likelihood(seen_of("volts", 5.0), np.array([5.0, 5.15, 9.0, math.nan]), 5.0)
    assert volts == pytest.approx([1.0, math.exp(-0.5), 5e-4, 5e-4], abs=0.02)


def test_bits_are_those_of_the_outcomes() -> None:
    """Four equal repairs: a trial that halves them tells one bit, one that tells all two, one that mixes none."""
    share, group = np.full(4, 0.25), np.array([0, 1, 2, 3])
    label = np.array([[0, 0, 1, 1], [0, 1, 2, 3], [0, 0, 0, 0]])
    assert told_bits(label, share, group) == pytest.approx([1.0, 2.0, 0.0])
    # What is mended by the same work need not be told apart.
    assert told_bits(label, share, np.array([0, 0, 1, 1])) == pytest.approx([1.0, 1.0, 0.0])
    assert entropy(np.array([0.5, 0.5, 0.0])) == pytest.approx(1.0)
    # Within 1.5 standard deviations, 0.7 in logarithms through a fault's own ohms, readings are one outcome.
    apart = outcomes_of("ohms", np.array([0.05, 0.9, 3000.0, math.nan]), 3000.0)
    assert len({int(apart[0]), int(apart[2]), int(apart[3])}) == 3
    assert apart[1] != apart[2]
    assert len(set(outcomes_of("ohms", np.array([0.05, 0.06, 0.07]), 3000.0))) == 1


def test_the_shortest_code_bounds_a_search() -> None:
    # Huffman by hand: 0.4, 0.3, 0.2, 0.1 with two letters 1.9; with four, one probe.
    assert code_length([0.4, 0.3, 0.2, 0.1], 2) == pytest.approx(1.9)
    assert code_length([0.4, 0.3, 0.2, 0.1], 4) == pytest.approx(1.0)
    assert code_length([1.0], 2) == 0.0
    assert code_length([0.2] * 5, 3) == pytest.approx(1.6)  # 3 at depth 2 and 2 at depth 1, or the like


def test_chances_are_weights_times_fit(small: Signatures) -> None:
    """A short of the pack rail reads 0.25 Ω, one inside the camera does not show at the plug: behind its regulator."""
    belief = after(small, [("plug-forward", 0.25)])
    assert belief.chance.sum() + belief.none_frac == pytest.approx(1.0)
    first = belief.suspects()[0]
    assert first.fault
    assert first.fault.id == "short-pack-rail-ground"
    names = [one.fault.id for one in belief.suspects() if one.fault]
    assert "device-shorted-camera" not in names
    # Twice as often, four times where it was worked on last: by Bayes the odds move by just that factor.
    swapped = 1 + small.faults.index(fault(small, "swapped-camera"))
    short = 1 + small.faults.index(fault(small, "short-five-ground"))
    plain, recent = (
        after(small, [("cross-camera-plus-plug-minus", 0.25)], one) for one in (frozenset(), frozenset({"camera"}))
    )
    odds = [b.chance[swapped] / b.chance[short] for b in (plain, recent)]
    assert odds[1] / odds[0] == pytest.approx(4.0)


def test_a_passed_step_clears_whom_it_would_show(small: Signatures) -> None:
    passed = after(small, [("branches-five-camera-plus", 0.2)])
    prior = after(small, [])
    for name, cleared in (("open-joint-camera", True), ("wrong-pad-camera-nine", True), ("open-joint-receiver", False)):
        row = 1 + small.faults.index(fault(small, name))
        assert (passed.chance[row] < prior.chance[row] / 100) == cleared, name


def test_a_drop_and_a_lifted_wire_are_worked_out_by_hand(small: Signatures) -> None:
    """1 A into the 5 V rail with the camera shorted inside: all of it through the camera's feed, 0.15 m of 24 AWG or the like."""
    failed = small.made.step["rails-five-plug-minus"]
    row = 1 + small.faults.index(fault(small, "device-shorted-camera"))
    drop = find_trial(small, "millivolts|plus-camera:plus|five|plug:minus", failed)
    wire = next(one for one in small.made.table.resistances if one.key and one.key == (("feed", "camera", 0)))
    assert predicted(small, drop, [row])[0] == pytest.approx(1.0 * wire.ohm[1], rel=1e-6)
    other = find_trial(small, "millivolts|plus-receiver:plus|five|plug:minus", failed)
    assert predicted(small, other, [row])[0] == pytest.approx(0.0, abs=1e-9)
    # Its wire off, the short is gone; the receiver's off, it stays. The camera hangs on a plug: 12 s, and 60 s for a joint.
    off = [one for one in trials(small, failed, shorted=True, powered=False, supply=False) if one.cut]
    camera, receiver = (
        next(one for one in off if one.cut and one.cut[:2] == ("feed", who)) for who in ("camera", "receiver")
    )
    assert (camera.doing, camera.seconds_s, receiver.doing, receiver.seconds_s) == ("unplug", 12.0, "lift", 60.0)
    assert predicted(small, camera, [row])[0] == pytest.approx(small.ohms[0, small.steps[failed.id]])
    assert predicted(small, receiver, [row])[0] == pytest.approx(small.ohms[row, small.steps[failed.id]], rel=1e-6)
    with pytest.raises(UnknownElementError):
        find_trial(small, "lift|moon", failed)


def test_one_of_two_grounds_lifted_leaves_what_the_other_carries() -> None:
    """Taking one resistance out of solved copper, against the copper solved anew without it."""
    two = [{"id": f"gnd-{k}", "to": "main", "wire": {"gauge_awg": 28, "length_m": 0.1 * k}} for k in (1, 2)]
    made = plan(devices=[device("lamp", "pack-rail", 0.5, kind="led", nominal_v=14, min_v=6, max_v=20, returns=two)])
    known = known_of(made)
    row = 1 + known.faults.index(fault(known, "device-shorted-lamp"))
    a, b = (find_point(known.made.table, name).node for name in ("plug:plus", "plug:minus"))
    whole = known.copper(row)[1][a, b]
    offered = trials(known, known.made.step["plug-forward"], shorted=True, powered=False, supply=False)
    grounds = [one for one in offered if one.cut and one.cut.element in ("gnd-1", "gnd-2")]
    assert len(grounds) == 2
    for one in grounds:
        assert one.cut
        open_wire = Fault("off", "open joint", ("off",), 1.0, (Joint(one.cut, OPEN_OHM),))
        anew = lumped([faulted(known.made.table, known.faults[row - 1], open_wire)]).between_ohm[0, a, b]
        assert anew > whole + 1e-3
        assert predicted(known, one, [row])[0] == pytest.approx(anew, rel=1e-6)


def test_a_lifted_wire_reads_as_a_build_without_it() -> None:
    known = known_of(demo.plan("marshlight-as-soldered"))
    failed = known.made.step["plug-forward"]
    row = 1 + known.faults.index(fault(known, "device-shorted-strobe"))
    twin = Twin(known.made.solved.plan, (known.faults[row - 1],), seed=3)
    off = [one for one in trials(known, failed, shorted=True, powered=False, supply=False) if one.cut]
    assert len(off) > 15
    for one in off:
        said, shown = float(predicted(known, one, [row])[0]), twin.tries(one)
        assert (said > 25) == (shown is None or shown > 25), one.id
        if said < 25:
            assert shown == pytest.approx(said + 0.2, abs=0.4)


def test_every_so_many_faults_of_the_demos_are_found_and_named() -> None:
    """The whole of it is in `./yard bench`; every third fault of the smallest build is enough to see it break."""
    known = known_of(demo.plan("wren-boosted-logic"))
    found = figures(known, every=3)
    assert found.dangerous_found == found.dangerous > 1
    assert found.in_three >= 0.95 * found.found
    # What reads alike (a regulator that is shorted through, a whisker across it) is named by what happens more often.
    assert found.named >= 0.85 * found.found
    assert found.trials <= found.in_order / 2
    assert found.trials <= 1.25 * found.bound


def test_a_search_ends_with_the_fault_its_repair_and_what_to_do_again(small: Signatures) -> None:
    wanted = fault(small, "no-ground-camera-gnd")
    played = play(small, Twin(small.made.solved.plan, (wanted,), seed=1))
    assert played.failed is not None
    assert played.right(wanted)
    again = small.to_repeat(wanted)
    assert {"plug-forward", "grounds-plug-minus-camera-ground", played.failed.id} <= set(again)
    assert "branches-five-receiver-plus" not in again
    # A sound build gives nothing to search for.
    assert play(small, Twin(small.made.solved.plan, (), seed=1)).failed is None


def test_missing_volts_are_followed_from_the_source(small: Signatures) -> None:
    """5 V that is not there with all copper well: its regulator. 4 V: it is low. Power is offered only where nothing dangerous is left."""
    sound = [(name, float(small.ohms[0, k]) + 0.2) for name, k in small.steps.items()]
    clean = [(name, None if value > 4e7 else value) for name, value in sound]
    failed = small.made.step["volts-five"]
    for volts, name in ((0.0, "regulator-open-reg"), (4.0, "regulator-low-reg")):
        belief = after(small, [*clean, ("volts-five", volts)])
        advice = advise(belief, failed, [f"probe|{one}" for one in small.steps], shorted=False, powered=True)
        assert advice.named is not None or advice.options
        assert belief.suspects()[0].fault == fault(small, name)
    unread = after(small, [("rails-five-plug-minus", 0.4)])
    offered = advise(unread, small.made.step["rails-five-plug-minus"], shorted=True, powered=True)
    assert all(one.trial.doing != "volts" for one in offered.options)


def test_too_many_amps_at_the_limiter_are_a_short_whatever_the_limit_was(small: Signatures) -> None:
    """A limiter lets no more through than it is set to: 2 A of 3.9 A through a short of the 5 V rail, or of 230 A at the plug."""
    step = small.made.step["limiter-first"]
    expected = step.expected.usual if step.expected else 0.0
    over = after(small, [("limiter-first", 2.0)])
    kinds = [one.fault.kind for one in over.suspects(4) if one.fault]
    assert set(kinds) <= {"short", "device shorted", "whisker", "capacitor shorted", "capacitor reversed"}
    rows = {one.id: 1 + k for k, one in enumerate(small.faults)}
    prior = after(small, [])
    assert over.chance[rows["short-five-ground"]] > 3 * prior.chance[rows["short-five-ground"]]
    assert over.chance[rows["open-joint-camera"]] < prior.chance[rows["open-joint-camera"]] / 100
    # What passes there clears them: a tenth more than expected is within draws and meter.
    well = after(small, [("limiter-first", 1.1 * expected)])
    assert well.chance[rows["short-pack-rail-ground"]] < prior.chance[rows["short-pack-rail-ground"]] / 100
    assert small.pack_a(0, "bench", step.volts_v) == pytest.approx(expected, rel=1e-6)
    assert small.pack_a(rows["short-five-ground"], "bench") == pytest.approx(3.9)


def test_a_specimen_stays_the_same_when_it_is_mended_or_a_part_is_lifted(small: Signatures) -> None:
    plan = small.made.solved.plan
    wrong = (fault(small, "short-five-ground"), fault(small, "no-ground-camera-gnd"))
    with_fault, mended, other = Twin(plan, wrong, 5), Twin(plan, (), 5), Twin(plan, (), 6)
    sound = {(one.element, one.a, one.b): one.ohm for one in mended.table.resistances}
    same = [one.ohm == sound.get((one.element, one.a, one.b)) for one in with_fault.table.resistances]
    assert same.count(False) == 2  # the short itself, and the wire that is open
    assert {one.ohm[0] == one.ohm[2] for one in with_fault.table.resistances} == {True}
    assert mended.reads("ohms", "nine", "plug:minus").usual == pytest.approx(
        with_fault.reads("ohms", "nine", "plug:minus").usual, rel=0.02
    )
    assert mended.reads("ohms", "nine", "plug:minus").usual != pytest.approx(
        other.reads("ohms", "nine", "plug:minus").usual, rel=0.02
    )


def test_volts_are_gone_only_where_power_destroys_what_is_connected(small: Signatures) -> None:
    plan = small.made.solved.plan
    dead = Twin(plan, (fault(small, "swapped-camera"),), 1)
    assert dead.shows("volts", "five", "plug:minus") == 0.0
    for name in ("moon", "plug:middle"):
        for one in (dead, Twin(plan, (), 1)):
            with pytest.raises(EditError, match="no place for a probe"):
                one.shows("volts", name, "plug:minus")


def test_power_is_offered_by_the_danger_of_all_faults_not_of_the_likeliest(small: Signatures) -> None:
    """Nothing read yet: every fault is far from certain, and together the dangerous ones forbid power."""
    failed = small.made.step["volts-five"]
    offered = advise(after(small, []), failed, shorted=False, powered=True)
    assert "volts" not in {one.trial.doing for one in offered.options}


def test_levels_leave_no_more_than_they_say(small: Signatures) -> None:
    found, danger = detected(small), danger_of(small)
    level_of = levels(small, found)
    assert set(level_of) == set(small.made.step)
    reachable = danger[found.any(axis=1)].sum()
    sizes = []
    for k, level in enumerate(LEVELS):
        columns = [column for name, column in small.steps.items() if LEVELS.index(level_of[name]) <= k]
        left = reachable - danger[found[:, columns].any(axis=1)].sum()
        assert left <= LEFT_FRAC[level] * reachable + 1e-9
        sizes.append(len(columns))
    assert sizes[0] < sizes[1] < sizes[2]
    eyes, meter, limiter = schools(small, found)
    assert 1 > eyes.left_frac > 10 * meter.left_frac >= limiter.left_frac >= 0
    assert eyes.seconds_s < meter.seconds_s < limiter.seconds_s
    # Eyes see half of the shorts; what is inside a part nobody sees.
    kinds = {small.faults[k].kind for k in eyes.left}
    assert kinds


def test_training_hides_what_can_be_found_and_scores_the_best_search(small: Signatures) -> None:
    shown = detected(small).sum(axis=1)
    for seed in range(6):
        (one,) = hidden(small, "one", seed)
        assert shown[small.faults.index(one)] >= 3
        (masked,) = hidden(small, "masked", seed)
        assert 0 < shown[small.faults.index(masked)] < 3
        first, second = hidden(small, "two", seed)
        assert not set(first.elements) & set(second.elements)
    assert hidden(small, "one", 4) == hidden(small, "one", 4)
    told = score(small, hidden(small, "two", 1), 1, probes=30)
    assert len(told.played) == 2
    assert told.best_probes == sum(one.steps + len(one.trials) for one in told.played)
    lonely = known_of(craft())
    lonely.faults = lonely.faults[-1:]
    with pytest.raises(EditError):
        hidden(lonely, "two", 1)


def fed(watch: Watch, values: Sequence[float | None], every_s: float = 0.25, from_s: float = 0.0) -> list[str]:
    """What a watch says to readings that come at such a pace."""
    return [watch.feed(one, from_s + k * every_s) for k, one in enumerate(values)]


def test_a_reading_enters_itself_only_after_the_opposite_was_seen(small: Signatures) -> None:
    silent = Watch(small.made.step["rails-five-plug-minus"], 0.1)
    said = fed(silent, (*(None,) * 5, *(0.2,) * 4, 3e3, 3.01e3, 3e3, 3.02e3))
    assert said[:5] == ["touch the probes together"] * 5
    assert said[5:] == ["put the probes on"] * 4 + ["hold still"] * 3 + [""]
    joined = Watch(small.made.step["grounds-plug-minus-camera-ground"], 0.1)
    assert fed(joined, (0.2, 0.2, None, None, None, None, 0.3, 0.3, 0.3, 0.3)) == ["lift the probes"] * 2 + ["put the probes on"] * 4 + ["hold still"] * 3 + [""]  # fmt: skip
    volts = Watch(small.made.step["volts-five"], 1e-3)
    assert fed(volts, (5.0, 0.0, 0.0, 0.0, 0.0, 3.0, 4.95, 5.0, 5.0, 5.01)) == ["lift the probes"] + ["put the probes on"] * 4 + ["hold still"] * 4 + [""]  # fmt: skip
    # A capacitor that still charges is not steady.
    climbing = Watch(small.made.step["rails-five-plug-minus"], 0.1)
    fed(climbing, (0.1,) * 4)
    assert set(fed(climbing, [100.0 * 1.1**k for k in range(12)], from_s=2.0)) == {"hold still"}
    # A short looks like probes on each other: it never enters itself, and in the end it is asked about.
    short = Watch(small.made.step["rails-five-plug-minus"], 0.1)
    said = fed(short, (0.3,) * 18)
    assert said == ["put the probes on"] * 16 + ["keep it, if the probes are on"] * 2


def test_a_range_or_a_mode_that_changes_is_no_probe_that_was_lifted(small: Signatures) -> None:
    """Half a second of OL while the probes still stand on the place before: 0.3 Ω there must not pass the next place."""
    joined = Watch(small.made.step["grounds-plug-minus-camera-ground"], 0.1)
    assert set(fed(joined, (0.3, None, None, 0.3, 0.3, 0.3, 0.3, 0.3))[3:]) == {"lift the probes"}
    assert not joined.probed
    # Just held long enough: six tenths of a second.
    assert fed(joined, (None, None, None, None), 0.201, from_s=5.0)[-1] == "put the probes on"
    assert not joined.probed  # still in the air: what is shown is of no place
    assert fed(joined, (0.3,), from_s=6.0) == ["hold still"]
    assert joined.probed
    # 5 V of the rail before, right after the meter went to volts: nothing counts for a second.
    volts = Watch(small.made.step["volts-five"], 1e-3)
    assert [volts.feed(0.0, 0.3 * k, mode_s=0.3 * k) for k in range(4)] == ["hold still"] * 4
    assert not volts.probed


def test_the_first_power_is_watched_in_time(small: Signatures) -> None:
    """Inrush at the limit, then what idles; a short stays at the limit, and nothing that is off passes."""
    step = small.made.step["limiter-first"]
    assert step.limit_a
    assert step.expected
    limit, idle = step.limit_a, step.expected.usual

    def told(values: Sequence[float], *, on: bool = True) -> list[str]:
        watch = LimiterWatch(step, limit, 0.5)
        return [watch.feed(one, 0.2 * k, on=on) for k, one in enumerate(values)]

    assert told([limit, limit, idle, idle, idle, idle, idle, idle])[-1] == ""
    assert told([limit] * 3)[-1] == "capacitors are charging"
    assert told([limit] * 4)[-1] == "at its limit: a short"  # 0.6 s
    assert set(told([0.0] * 8, on=False)) == {"switch the supply on"}
    # Judged whatever was watched: at the limit and with nothing on it fails.
    assert [judge(step, one).passed for one in (idle, limit, 0.97 * limit, 0.0)] == [True, False, False, False]
    assert judge(step, limit).reason == "at the limit"


def test_none_of_these_grows_as_readings_fit_nothing(small: Signatures) -> None:
    prior = after(small, []).none_frac
    fits = after(small, [("plug-forward", 0.25), ("branches-plug-plus-pack-rail", 0.2)])
    # 9 Ω of a wire, and 9 Ω of another that shares nothing with it: no one fault makes both.
    odd = after(small, [("branches-five-camera-plus", 9.0), ("grounds-plug-minus-receiver-ground", 9.0)])
    assert prior < 0.05
    assert fits.none_frac < 0.05
    assert odd.none_frac > 0.5
    assert advise(odd, small.made.step["branches-five-camera-plus"], shorted=False, powered=False).named is None


def test_a_reading_becomes_the_set_point_that_makes_it(small: Signatures) -> None:
    plan, step = small.made.solved.plan, small.made.step["volts-five"]
    assert step.expected
    edits = measured_edits(plan, step, 5.12)
    # What the rail drops under its own load is added back.
    assert edits[0].model_dump()["value"] == pytest.approx(5.12 + 5.0 - step.expected.usual, abs=1e-4)
    assert [one.model_dump()["field"] for one in edits] == ["set_v", "set_tol_frac", "provenance"]
    assert measured_edits(plan, small.made.step["volts-pack-rail"], 16.0) == ()
    assert measured_edits(plan, step, None) == ()
