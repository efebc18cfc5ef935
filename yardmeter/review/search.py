"""The search as a screen shows it: who is suspected, what to do next, what was found and what that makes to be done again."""

from __future__ import annotations

from typing import Literal

from yardmeter.core.answers.model import Answer
from yardmeter.core.faults import WEIGHT, Fault, FaultKind
from yardmeter.core.procedures import Step
from yardmeter.core.search import Advice, Option, Signatures
from yardmeter.core.search.beliefs import Suspect
from yardmeter.core.search.levels import LEVELS, Level, School, danger_of, detected, levels, schools
from yardmeter.core.search.seen import UNIT_OF
from yardmeter.core.search.trials import PROBE_S, VOLTS_S, Doing, of_step, predicted
from yardmeter.review.bench import ProbeAt, place_of
from yardmeter.words.bench import consequence_words, fault_words
from yardmeter.words.search import SCHOOL_WORDS, outcome_words, repair_words, trial_how, trial_title


class Meaning(Answer):
    """A fault that explains what was read, its chance, what it reads at the step that failed, what it would do under power."""

    fault: str
    what: str
    chance_frac: float
    reads: str
    under_power: str
    dangerous: bool


class Outcome(Answer):
    reads: str
    chance_frac: float
    then: str


class NextTrial(Answer):
    """One thing to do next. `same` is a step of the list, where it is one."""

    id: str
    doing: Doing
    title: str
    how: str
    seconds_s: float
    bits: float
    unit: Literal["Ω", "V", "A"]
    red: ProbeAt | None
    black: ProbeAt | None
    outcomes: tuple[Outcome, ...]


class Found(Answer):
    """What it is. `sure` where its chance is high; else it is only the likeliest, and nothing that can be read tells more."""

    fault: str
    what: str
    chance_frac: float
    sure: bool
    repair: str
    again: int


class Search(Answer):
    """`nothing` where the readings point to no fault any more; `none_frac` is the chance that it is none of those known."""

    meanings: tuple[Meaning, ...]
    options: tuple[NextTrial, ...]
    found: Found | None
    nothing: bool
    none_frac: float


class WayOfChecking(Answer):
    school: School
    name: str
    left_frac: float
    left: tuple[str, ...]
    seconds_s: float


class LevelView(Answer):
    """Steps of a level, and the share of the danger it leaves to power."""

    level: Level
    steps: int
    seconds_s: float
    left_frac: float


class Effort(Answer):
    """How much is enough: what each level and each way of checking leaves of this build's danger."""

    level_of: dict[str, Level]
    levels: tuple[LevelView, ...]
    schools: tuple[WayOfChecking, ...]
    dangerous: int
    faults: int
    weights: dict[FaultKind, float]
    """How often each kind happens beside the others, as the plan's policy has it."""


def search_view(advice: Advice, failed: Step, *, count: int = 6) -> Search:
    known = advice.belief.known
    plan = known.made.solved.plan
    meanings = tuple(
        _meaning(known, one, failed)
        for one in advice.belief.suspects(count + 1)
        if one.fault and one.chance_frac > 0.01
    )
    named = advice.named
    found = None
    if named:
        found = Found(
            fault=named.id,
            what=fault_words(plan, named),
            chance_frac=advice.chance_frac,
            sure=advice.chance_frac >= 0.9,
            repair=repair_words(named),
            again=len(known.to_repeat(named)),
        )
    return Search(
        meanings=meanings[:count],
        options=tuple(_option(known, one) for one in advice.options),
        found=found,
        nothing=advice.sound,
        none_frac=advice.belief.none_frac,
    )


def _meaning(known: Signatures, suspect: Suspect, failed: Step) -> Meaning:
    plan = known.made.solved.plan
    fault = suspect.fault
    if fault is None:
        raise ValueError("a slip is no fault")
    row = 1 + known.faults.index(fault)
    would = known.consequences[row - 1]
    trial = of_step(failed)
    reads = outcome_words(trial, float(predicted(known, trial, [row])[0])) if trial else ""
    return Meaning(
        fault=fault.id,
        what=fault_words(plan, fault),
        chance_frac=suspect.chance_frac,
        reads=reads,
        under_power=consequence_words(plan, would),
        dangerous=would.dangerous,
    )


def _option(known: Signatures, option: Option) -> NextTrial:
    plan, trial = known.made.solved.plan, option.trial
    told = [
        Outcome(reads=outcome_words(trial, value), chance_frac=chance, then=_then(known, likeliest))
        for value, chance, likeliest in option.outcomes[:3]
    ]
    return NextTrial(
        id=trial.id,
        doing=trial.doing,
        title=trial_title(plan, trial),
        how=trial_how(trial),
        seconds_s=trial.seconds_s,
        bits=option.bits,
        unit=UNIT_OF[trial.scale],
        red=place_of(plan, trial.red),
        black=place_of(plan, trial.black),
        outcomes=tuple(told),
    )


def _then(known: Signatures, hypothesis: int) -> str:
    return _what(known, known.faults[hypothesis - 1]) if hypothesis else "nothing wrong there"


def _what(known: Signatures, fault: Fault) -> str:
    return fault_words(known.made.solved.plan, fault)


def effort(known: Signatures) -> Effort:
    """Quick, usual and thorough, and the ways of checking, in numbers for this build."""
    found = detected(known)
    danger = danger_of(known)
    total = max(float(danger.sum()), 1e-12)
    level_of = levels(known, found)
    steps = list(known.steps)
    told = []
    for k, level in enumerate(LEVELS):
        within = {name for name, its in level_of.items() if LEVELS.index(its) <= k}
        columns = [column for column, name in enumerate(steps) if name in within]
        left = float(danger[~found[:, columns].any(axis=1)].sum()) / total
        seconds = sum(VOLTS_S if known.made.step[name].mode == "volts" else PROBE_S for name in within)
        told.append(LevelView(level=level, steps=len(within), seconds_s=seconds, left_frac=left))
    return Effort(
        level_of=level_of,
        levels=tuple(told),
        schools=tuple(
            WayOfChecking(
                school=one.school,
                name=SCHOOL_WORDS[one.school],
                left_frac=one.left_frac,
                left=tuple(_what(known, known.faults[k]) for k in one.left),
                seconds_s=one.seconds_s,
            )
            for one in schools(known, found)
        ),
        dangerous=int((danger > 0).sum()),
        faults=len(known.faults),
        weights={**WEIGHT, **known.made.solved.plan.policy.fault_weights},
    )
