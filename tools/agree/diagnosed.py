"""A diagnosis: what it takes for so in a situation is what that situation says, and every symptom of a plan is answered."""

from __future__ import annotations

import random

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from yardmeter.core.answers.solved_plan import solve_plan
from yardmeter.core.diagnosis.advice import diagnose
from yardmeter.core.diagnosis.known import Known
from yardmeter.core.diagnosis.observed import DESTROYS, Observer
from yardmeter.core.diagnosis.situations import ROW_OF
from yardmeter.core.diagnosis.symptoms import SYMPTOMS, places
from yardmeter.core.diagnosis.weighing import Complaint

LARGE = 25
"""Devices from which a plan is not searched for every cause."""
LOST = ("dead", "reset", "unknown")


@statement("A diagnosis takes a device for lost where the situation's own verdict does", share=0.1)
def lost_alike(case: Case) -> Told:
    by = Observer(case.plan)
    posed = solve_plan(by.posed(case.plan))
    for w, when in enumerate(by.rows):
        if when in ROW_OF or when in ("hover", "late"):
            continue  # what has warmed up has switched off besides
        for device, d in by.subjects.index["device"].items():
            state = posed.device(device).states[when]
            if state.verdict == "high" and state.pin_v > DESTROYS * case.plan.device_of[device].max_v:
                continue  # it is gone for another reason
            if (by.planned.chance["lost"][w, d] > 0.5) != (state.verdict in LOST) and state.state != "off":
                near = abs(state.pin_v - case.plan.device_of[device].reset_v)
                if near > 1e-6:
                    yield f"{device} {when}: {by.planned.chance['lost'][w, d]:.2f} and {state.verdict} at {state.pin_v:.3f} V"


@statement("Every symptom a plan can have is answered, and its chances are one", share=0.03)
def answered(case: Case) -> Told:
    if len(case.plan.devices) > LARGE:
        return
    known = Known(case.plan)
    here = [one for one in SYMPTOMS.values() if places(case.plan, one)]
    for symptom in random.Random(len(case.plan.devices)).sample(here, min(4, len(here))):
        found = diagnose(known, [Complaint(symptom, places(case.plan, symptom)[0])])
        total = sum(one.chance for one in found.suspects) + found.unknown
        if not 0 < total <= 1 + 1e-6:
            yield f"{symptom.id}: chances are {total:.6f}"
        if found.limited and any(one.tried.power in ("bench", "air") for one in found.offered):
            yield f"{symptom.id}: power is offered onto what may be shorted"
