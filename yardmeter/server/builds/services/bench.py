"""The bench: what is done at a step, what a wrong reading leads to, what a repair makes to be done again."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from yardmeter.core.errors import UnknownElementError
from yardmeter.core.faults import Fault, find_fault
from yardmeter.core.plan.operations import Edit
from yardmeter.core.procedures import Checklist, Gate, Step, powered_gate, sound_of, typed_reading
from yardmeter.core.procedures.judging import beep_says_little, judge_heard, without_leads
from yardmeter.core.procedures.measured import measured_edits
from yardmeter.core.search import Advice, Seen, Signatures, Trial, advise, believe, find_trial, seen_of
from yardmeter.core.search.seen import UNIT_OF
from yardmeter.core.search.trials import SHORT_OHM, of_step
from yardmeter.core.units import format_si
from yardmeter.review.search import Effort, Search, effort, search_view
from yardmeter.server.builds.errors import ConflictError, NotFoundError
from yardmeter.server.builds.models import Plan, TrainingRound
from yardmeter.server.builds.services import meters
from yardmeter.server.builds.services.bench_kept import known_of, ready
from yardmeter.server.builds.services.bench_record import Entry, entries_of, written
from yardmeter.server.builds.services.lookup import get_plan
from yardmeter.words.bench import fault_words
from yardmeter.words.procedure import step_expects, step_title
from yardmeter.words.search import repair_words, trial_title

RECENT = 6
"""So many of the last edits count as the last joints made."""


def step_of(made: Checklist, step_id: str) -> Step:
    found = made.step.get(step_id)
    if found is None:
        raise NotFoundError(
            "This step is not on the list of the plan as it stands.", where=step_id, remedy="Look at the list again."
        )
    return found


BEFORE_POWER: frozenset[Gate] = frozenset({"eyes", "meter", "plug", "states"})
"""Gates that power waits for at every level of thoroughness."""
TYPED = "typed"
SUPPLY_ON, SUPPLY_OFF = "supply-on", "supply-off"
SOURCE, LEADS = "volts-source", "meter-itself"
"""Steps whose readings others count with: the volts that stand in for the pack, and the ohms of the leads."""


@dataclass(frozen=True)
class Bench:
    """The list with what was done of it: `last` entry of each step that still stands, `again` those that have to be redone.

    `known` is the list as the source at the plug makes it.
    """

    known: Signatures
    entries: tuple[Entry, ...]
    last: dict[str, Entry]
    again: frozenset[str]

    @property
    def made(self) -> Checklist:
        return self.known.made

    @property
    def failed(self) -> Step | None:
        """The first step of the list whose last reading failed and still stands."""
        for step in self.made.steps:
            entry = self.last.get(step.id)
            if entry and entry.outcome == "failed" and step.id not in self.again:
                return step
        return None

    @property
    def open_before_power(self) -> list[Step]:
        """Steps that power waits for and that are not done, not failed, and not skipped with a reason."""
        done = {name for name, one in self.last.items() if name not in self.again and one.outcome != "failed"}
        return [one for one in self.made.steps if one.gate in BEFORE_POWER and one.id not in done]

    def leads_ohm(self, before: int | None = None) -> float | None:
        """What the probes read on each other last, where that was a number; of an entry, before it."""
        read = [one for one in self.entries if one.step == LEADS and (before is None or one.id < before)]
        last = read[-1] if read else None
        good = last is not None and last.outcome == "passed" and not sound_of("beep", last.text)
        return last.value if last and good else None

    def as_judged(self, step: Step, value: float | None, before: int | None = None) -> float | None:
        """A reading as it is judged and weighed: of ohms without the builder's own leads."""
        ohms = step.expected is not None and step.expected.unit == "Ω" and step.id != LEADS
        return without_leads(value, self.leads_ohm(before)) if ohms else value


def bench_of(plan: Plan, training: TrainingRound | None = None) -> Bench:
    """What was done of the list of the revision shown. An edit that changes a step, or a repair that it shows, undoes it."""
    known = known_of(plan)
    entries = tuple(entries_of(plan, training))
    known = known.for_source(_source_v(known.made, entries))
    last = {one.step: one for one in entries if one.step in known.made.step}
    stale = {name for name, one in last.items() if known.made.step[name].signature != one.signature}
    for one in entries:
        if one.outcome == "repaired":
            stale |= {name for name in _to_repeat(plan, one.step) if name in last and last[name].id < one.id}
    return Bench(known, entries, last, frozenset(stale))


def _source_v(made: Checklist, entries: Iterable[Entry]) -> float | None:
    """The volts that were read at the plug last."""
    step = made.step.get(SOURCE)
    read = [one for one in entries if one.step == SOURCE and one.outcome == "passed" and step]
    return round(read[-1].value, 2) if read and read[-1].value else None


def must_not_power_a_fault(bench: Bench) -> None:
    """Power waits for what has failed without it, and for what has not been looked at: raises ConflictError until it is mended,
    passes, or is skipped with a reason."""
    failed = bench.failed
    plan = bench.made.solved.plan
    if failed and not powered_gate(failed.gate):
        raise ConflictError(
            f"{step_title(plan, failed)} has failed: no power before that is understood.",
            where=failed.id,
            remedy="Mend it and read it again, or skip it there with a reason.",
        )
    waiting = bench.open_before_power
    if waiting:
        more = f" and {len(waiting) - 1} more" if len(waiting) > 1 else ""
        raise ConflictError(
            f"“{step_title(plan, waiting[0])}”{more} before power is still open.",
            where=waiting[0].id,
            remedy="Do it first, or skip it there with a reason.",
        )


def _to_repeat(plan: Plan, fault_id: str) -> Iterable[str]:
    known = ready(plan)
    fault = next((one for one in known.faults if one.id == fault_id), None)
    return known.to_repeat(fault) if fault else ()


@dataclass(frozen=True)
class Recorded:
    """What was written down, and edits that would take the reading over into the plan."""

    entry: Entry
    measured: tuple[Edit, ...] = ()


def record_reading(
    plan_id: int,
    step_id: str,
    text: str,
    *,
    who: str,
    instrument: str,
    training: TrainingRound | None = None,
    trial: str = "",
) -> Recorded:
    """Judge a typed or metered reading and write it down; `trial` is that of a search which is this step."""
    plan = get_plan(plan_id)
    bench = bench_of(plan, training)
    made = bench.made
    step = step_of(made, step_id)
    if step.expected is None:
        raise ConflictError("Nothing is read at this step.", where=step_id, remedy="Say whether it is so.")
    value = typed_reading(step.expected.unit, text)
    if training is None and powered_gate(step.gate):
        must_not_power_a_fault(bench)
    instrument = instrument_of(trial or step.id, instrument, text)
    sound = sound_of(step.mode, text)
    if sound == "beep" and beep_says_little(step):
        raise ConflictError(
            "A beep says too little here: this build's own parts may beep too.",
            where=step_id,
            remedy=f"Read ohms, and type them: {step_expects(step)}.",
        )
    passed = judge_heard(step, bench.as_judged(step, value), sound).passed
    entry = _step_written(plan, made, step, "passed" if passed else "failed", text=text, value=value, who=who, instrument=instrument, training=training)  # fmt: skip
    if training or step.unforeseen:
        return Recorded(entry)
    return Recorded(entry, measured_edits(made.solved.plan, step, value))


def switch_supply(
    plan_id: int, on: bool, volts: float, limit_a: float, hosts: Collection[str], who: str,
    training: TrainingRound | None = None,
) -> None:  # fmt: skip
    """The supply on or off, and a line of the record that says so. On only where what power waits for is done; a round of
    training finds out by itself."""
    plan = get_plan(plan_id)
    if on and training is None:
        must_not_power_a_fault(bench_of(plan))
    name = meters.switch_on(volts, limit_a, hosts) if on else meters.switch_off()
    title = f"Supply on, {format_si(volts, 'V')} limited to {format_si(limit_a, 'A')}" if on else "Supply off"
    written(plan, SUPPLY_ON if on else SUPPLY_OFF, "read", signature="", title=title, who=who, instrument=name, training=training)  # fmt: skip


def instrument_of(place: str, instrument: str, text: str) -> str:
    """Who measured: typed is typed; of all else the instrument that is connected and has been seen there. Raises ConflictError."""
    return instrument if instrument in ("", TYPED) else meters.named(place, text)


def record_look(
    plan_id: int, step_id: str, outcome: str, *, note: str, who: str, training: TrainingRound | None = None
) -> Entry:
    """Write down that a step was seen to be so, or not, or was skipped; a skip needs its reason."""
    if outcome == "skipped" and not note.strip():
        raise ConflictError("A step is skipped with a reason only.", where="note", remedy="Write why.")
    plan = get_plan(plan_id)
    bench = bench_of(plan, training)
    made = bench.made
    step = step_of(made, step_id)
    if outcome == "passed" and step.expected is not None:
        raise ConflictError("This step passes by its reading.", where=step_id, remedy="Type what the meter shows.")
    if outcome == "passed" and training is None and powered_gate(step.gate):
        must_not_power_a_fault(bench)
    return _step_written(plan, made, step, outcome, note=note, who=who, training=training)


def _step_written(
    plan: Plan, made: Checklist, step: Step, outcome: str, *, text: str = "", value: float | None = None, note: str = "",
    who: str = "", instrument: str = "", training: TrainingRound | None = None,
) -> Entry:  # fmt: skip
    return written(
        plan, step.id, "passed" if outcome == "passed" else "failed" if outcome == "failed" else "skipped",
        signature=step.signature, title=step_title(made.solved.plan, step), expected=step_expects(step), text=text, value=value,
        note=note, who=who, instrument=instrument, training=training,
    )  # fmt: skip


def search(plan_id: int, step_id: str, *, supply: bool, training: TrainingRound | None = None) -> Search:
    """What may be wrong after a step failed, from everything that was read, and what to do next."""
    plan = get_plan(plan_id)
    advice, failed = _advice(plan, step_id, supply, training)
    return search_view(advice, failed)


def _advice(plan: Plan, step_id: str, supply: bool, training: TrainingRound | None) -> tuple[Advice, Step]:
    ready(plan)
    bench = bench_of(plan, training)
    known = bench.known
    failed = step_of(known.made, step_id)
    evidence = evidence_of(known, bench, failed)
    seen = next((seen for trial, seen in evidence if trial.step == failed.id), None)
    belief = believe(known, evidence, recent_elements(plan))
    shorted = seen is not None and seen.scale == "ohms" and seen.low < SHORT_OHM
    powered = failed.mode == "volts"  # too many amps at the limiter: power stays off
    done = [trial.id for trial, _ in evidence]
    return advise(belief, failed, done, shorted=shorted, powered=powered, supply=supply), failed


def evidence_of(known: Signatures, bench: Bench, failed: Step | None) -> list[tuple[Trial, Seen]]:
    """What still stands of all that was read: the last reading of each step and of each trial since the last repair."""
    found: dict[str, tuple[Trial, Seen]] = {}
    for name, entry in bench.last.items():
        step = known.made.step[name]
        trial = of_step(step)
        told = entry.outcome in ("passed", "failed") and step.expected is not None and not step.unforeseen
        if trial and told and name not in bench.again:
            found[trial.id] = (trial, _seen(trial, step, entry, bench.as_judged(step, entry.value, entry.id)))
    repaired = max((one.id for one in bench.entries if one.outcome == "repaired"), default=0)
    for entry in bench.entries:
        if entry.outcome == "read" and entry.id > repaired and failed and entry.about == failed.id:
            try:
                trial = find_trial(known, entry.step, failed)
            except UnknownElementError:
                continue
            value = without_leads(entry.value, bench.leads_ohm(entry.id)) if trial.scale == "ohms" else entry.value
            found[trial.id] = (trial, _seen(trial, known.made.step.get(trial.step or ""), entry, value))
    return list(found.values())


def _seen(trial: Trial, step: Step | None, entry: Entry, value: float | None) -> Seen:
    sound = sound_of(step.mode if step else "ohms", entry.text)
    failed = step is not None and not judge_heard(step, value, sound).passed
    return seen_of(trial.scale, value, sound=sound, failed=failed)


def recent_elements(plan: Plan) -> frozenset[str]:
    """Elements the last edits touched: the last joints made."""
    found: set[str] = set()
    revision = plan.head
    for _ in range(RECENT):
        if revision is None or revision.parent_id is None:
            break
        for edit in revision.edits:
            found |= {
                str(edit[name]) for name in ("element", "device", "rail") if isinstance(edit, dict) and edit.get(name)
            }
        revision = revision.parent
    return frozenset(found)


def record_trial(
    plan_id: int, trial_id: str, step_id: str, text: str, *, who: str, instrument: str, training: TrainingRound | None = None
) -> Entry:  # fmt: skip
    """Write down what a trial of the search showed. One that is a step of the list is that step, done."""
    plan = get_plan(plan_id)
    known = ready(plan)
    failed = step_of(known.made, step_id)
    trial = find_trial(known, trial_id, failed)
    value = typed_reading(UNIT_OF[trial.scale], text)
    if trial.step:
        return record_reading(
            plan_id, trial.step, text, who=who, instrument=instrument, training=training, trial=trial.id
        ).entry
    instrument = instrument_of(trial.id, instrument, text)
    return written(
        plan, trial.id, "read", signature="", about=failed.id, title=trial_title(known.made.solved.plan, trial), text=text,
        value=value, who=who, instrument=instrument, training=training,
    )  # fmt: skip


def record_wrong(plan_id: int, fault_id: str, *, who: str, training: TrainingRound) -> Entry:
    """Write down that a named fault was not what is hidden; nothing has to be done again for it."""
    plan = get_plan(plan_id)
    known = known_of(plan)
    fault = find_fault(known.made.table, fault_id)
    title = fault_words(known.made.solved.plan, fault)
    return written(
        plan, fault.id, "failed", signature="", title=title, note="It was not that.", who=who, training=training
    )


def record_repair(plan_id: int, fault_id: str, *, note: str, who: str, training: TrainingRound | None = None) -> Entry:
    """Write down that a fault was found and mended; the steps it shows at are to be done again."""
    plan = get_plan(plan_id)
    known = known_of(plan)
    fault: Fault = find_fault(known.made.table, fault_id)
    document = known.made.solved.plan
    return written(
        plan, fault.id, "repaired", signature="", title=fault_words(document, fault), expected=repair_words(fault), note=note,
        who=who,
        training=training,
    )  # fmt: skip


def effort_of(plan_id: int) -> Effort:
    """What each level and each way of checking leaves of this build's danger."""
    return effort(ready(get_plan(plan_id)))
