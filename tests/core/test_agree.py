"""No two views of one plan disagree: some plans, every statement. `./yard agree --plans N --seed S` asks more of them."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator
from typing import Any

import pytest

from tools.agree.asked import asked
from tools.agree.cases import Case, case_of
from tools.agree.statements import STATEMENTS
from yardmeter.core.answers.solved_plan import SolvedPlan

PLANS, PART = 4, 2


@pytest.mark.parametrize("part", range(PLANS // PART))
def test_every_statement_holds_of_plans_nobody_drew(part: int) -> None:
    broken = [
        f"plan {one.number}: {one.statement}: {one.what}" for one in asked(range(part * PART, (part + 1) * PART), 1)
    ]
    assert broken == []


def _told(case: Case, words: str) -> list[str]:
    return list(next(one for one in STATEMENTS if words in one.words).broken(case))


def _changed(case: Case, monkeypatch: pytest.MonkeyPatch, **values: Any) -> None:
    """The first device that is well in some condition, told otherwise there."""
    device, condition = next(_well(case))
    real = SolvedPlan.device

    def other(solved: SolvedPlan, name: str) -> Any:
        found = real(solved, name)
        if name != device:
            return found
        states = {c: dataclasses.replace(s, **values) if c == condition else s for c, s in found.states.items()}
        return found.model_copy(update={"states": states})

    monkeypatch.setattr(SolvedPlan, "device", other)
    case.found.solved.__dict__.pop("_kept__device_states", None)  # what was handed out before is asked for again


def _well(case: Case) -> Iterator[tuple[str, str]]:
    for device in case.plan.devices:
        for condition, state in case.found.solved.device_states(device):
            if state.verdict == "ok" and condition.on_pack and device.law != "led":
                yield device.id, condition.id


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"verdict": "reset"}, "what its volts and its sheet"),
        ({"verdict": "low"}, "slider of Windows"),
        ({"verdict": "high", "weight": "danger"}, "what its volts and its sheet"),
    ],
)
def test_a_view_that_said_otherwise_would_be_caught(values: dict[str, Any], words: str, monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    case = case_of(3, 1)
    assert _told(case, words) == []
    _changed(case, monkeypatch, **values)
    assert _told(case, words)
