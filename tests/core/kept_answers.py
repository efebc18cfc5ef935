"""Everything a builder is told of some plans, as lines of text that are kept: a change of any number has to be meant.

python -m tests.core.kept_answers        writes them anew; the difference goes into the commit that means it
"""

from __future__ import annotations

import dataclasses
import json
import math
from collections.abc import Callable, Iterator, Mapping
from enum import Enum
from functools import partial
from pathlib import Path
from typing import Any, get_args

import numpy as np
from pydantic import BaseModel

from tests.core.crowded import crowded
from yardmeter import demo
from yardmeter.core.answers.spread import spread
from yardmeter.core.choices.cliff import cliff
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.fixes.helps import helps_for
from yardmeter.core.formats.netlist import write_netlist
from yardmeter.core.plan import Device, Plan
from yardmeter.core.plan.operations import Move
from yardmeter.core.procedures.checklist import checklist
from yardmeter.core.runs import find_scenario, run_scenario
from yardmeter.core.runs.report import report
from yardmeter.core.runs.why import whys
from yardmeter.review.analysis import Reviewed, review
from yardmeter.review.bench import bench_gates, bench_steps
from yardmeter.review.captions import captions
from yardmeter.review.changes import changes_between
from yardmeter.review.compare import Side, compare
from yardmeter.review.feed_schools import feed_schools
from yardmeter.review.fixes import tried_fixes
from yardmeter.review.hookup import hookup
from yardmeter.review.instant import named_instant as instant
from yardmeter.review.lead import lead
from yardmeter.review.noise_path import noise_path
from yardmeter.review.noise_review import review_noise
from yardmeter.review.placement import places
from yardmeter.review.running import run_seen
from yardmeter.review.schools import schools
from yardmeter.review.sketch import glance, sketch_of
from yardmeter.review.tried_moves import try_move
from yardmeter.review.working import working
from yardmeter.review.workings.model import Quantity
from yardmeter.review.workings.noise import noise_working

FOLDER = Path(__file__).parent / "kept" / "answers"
DIGITS = 6
POINTS = 16
"""Of a curve so many points are kept, evenly taken."""
PARTS = list(demo.starter_parts())


def plan_named(name: str) -> Plan:
    return crowded() if name == "crowded" else demo.plan(name)


# --- what is asked ----------------------------------------------------------------------------------------------------


def _analysis(found: Reviewed) -> Any:
    return {"analysis": found.analysis, "captions": captions(found.solved), "glance": glance(found, review_noise(found.solved.solved)), "latches": found.solved.latches}  # fmt: skip


def _noise(found: Reviewed) -> Any:
    plan = found.plan
    reviewed = review_noise(found.solved.solved)
    busiest = plan.conditions[-1]
    asked = [one.id for one in (*plan.devices, *plan.signals, *plan.filters)]
    return {
        "review": reviewed.review,
        "paths": {one.id: _tried(partial(noise_path, found.solved.solved, one.id, busiest)) for one in plan.devices},
        "workings": {one: _tried(partial(noise_working, plan, reviewed.review, one, busiest)) for one in asked},
    }


def _grounds(found: Reviewed) -> Any:
    return {
        "hookup": hookup(found.solved),
        "schools": schools(found.plan),
        "cliffs": {one.id: _tried(partial(cliff, found.solved.solved, one.id)) for one in found.plan.signals},
    }


def _places(found: Reviewed) -> Any:
    plan = found.plan
    chosen = [one for one in plan.devices if one.feed and not one.throttle][1:2]
    return {
        one.id: {
            "places": places(plan, one.id, becs=PARTS),
            "lead": lead(plan, one.id),
            "feeds": _tried(partial(feed_schools, plan, one.id, PARTS)),
            "moves": [_moved(found, one, rail.id) for rail in plan.rails],
        }
        for one in chosen
    }


def _moved(found: Reviewed, device: Device, rail: str) -> Any:
    move = Move(device=device.id, rail=rail)
    return _tried(lambda: try_move(found, review(apply_edits(found.plan, [move]), found), move))


def _workings(found: Reviewed) -> Any:
    plan = found.plan
    elements = [one.id for one in (*plan.rails, *plan.devices, *plan.supplies, *plan.signals, *plan.boards)]
    busiest = plan.conditions[-1].id
    asked: list[tuple[str, Quantity]] = [(one, quantity) for one in elements for quantity in get_args(Quantity)]
    every = {ask: _tried(partial(working, found.solved, *ask, busiest)) for ask in asked}
    return {f"{busiest} {element} {quantity}": told for (element, quantity), told in every.items() if told is not None}


def _fixes(found: Reviewed) -> Any:
    steps = checklist(found.solved)
    return {
        "fixes": tried_fixes(found, review_noise(found.solved.solved), PARTS),
        "sketch": sketch_of(found, review_noise(found.solved.solved)),
        "spread": spread(found.plan, samples=40),
        "bench": {"steps": bench_steps(steps), "gates": bench_gates(steps)},
    }


def _compared(found: Reviewed) -> Any:
    """The plan beside itself with half of its devices on peak draws that are a tenth larger."""
    changed = found.plan.model_dump(mode="json")
    for device in changed["devices"][::2]:
        for draw in (device.get("draws") or {}).values():
            if draw:
                draw["value"] *= 1.1
    other = review(Plan.model_validate(changed), found)
    sides = [Side(one.plan, one.analysis, review_noise(one.solved.solved).review) for one in (found, other)]
    return {"changes": changes_between(found, other), "comparison": compare(sides)}


def _runs(found: Reviewed) -> Any:
    told = {}
    for name in ("punch-on-low-pack", "cold-start"):
        run = run_scenario(found.plan, find_scenario(found.plan, name))
        reset = next((one.device for one in whys(run)), None)
        told[name] = {
            "report": report(run),
            "whys": whys(run),
            "seen": run_seen(run),
            "instant": instant(run, found.solved, float(run.times_s[-1]) / 2),
            "helps": helps_for(run, reset) if reset else (),
        }
    return told


def _netlists(found: Reviewed) -> Any:
    return {one.id: write_netlist(found.plan, one).splitlines() for one in found.plan.conditions[-1:]}


TOPICS: dict[str, Callable[[Reviewed], Any]] = {
    "analysis": _analysis, "noise": _noise, "grounds": _grounds, "places": _places, "workings": _workings, "fixes": _fixes,
    "compared": _compared, "runs": _runs, "netlist": _netlists,
}  # fmt: skip
NAMES = ("marshlight-as-soldered", "culvert-first-wiring", "wren-straight-from-the-cell", "crowded")
SLOW = ("places", "fixes", "runs")
"""Not asked of the crowded plan: each of its trials is another overload."""
KEPT = [(name, topic) for name in NAMES for topic in TOPICS if name != "crowded" or topic not in SLOW]


def _tried(ask: Callable[[], Any]) -> Any:
    try:
        return ask()
    except (EditError, UnknownElementError) as error:
        return None if isinstance(error, UnknownElementError) else str(error)


# --- as text ----------------------------------------------------------------------------------------------------------


def lines(name: str, topic: str) -> Iterator[str]:
    """`where` and what stands there, a line for each record without records of its own."""
    yield from _lines("", TOPICS[topic](review(plan_named(name))))


def _lines(where: str, value: Any) -> Iterator[str]:
    value = _plain(value)
    if isinstance(value, dict):
        flat = {key: one for key, one in value.items() if _is_flat(one)}
        if flat:
            yield f"{where}\t{json.dumps(flat, ensure_ascii=False)}"
        for key, one in value.items():
            if key not in flat:
                yield from _lines(f"{where}.{key}" if where else str(key), one)
    elif isinstance(value, list) and not _is_flat(value):
        for k, one in enumerate(value):
            known = _plain(one)
            key = known.get("id", k) if isinstance(known, dict) else k
            yield from _lines(f"{where}[{key}]", known)
    else:
        yield f"{where}\t{json.dumps(value, ensure_ascii=False)}"


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return {key: _plain(getattr(value, key)) for key in type(value).model_fields}
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {one.name: _plain(getattr(value, one.name)) for one in dataclasses.fields(value)}
    if isinstance(value, Enum):
        return value.name
    if isinstance(value, np.ndarray | np.generic):
        return _plain(value.tolist())
    if isinstance(value, Mapping):
        return {str(key): _plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple | set | frozenset):
        every = sorted(value, key=str) if isinstance(value, set | frozenset) else list(value)
        if len(every) > POINTS and all(isinstance(one, float) for one in every):
            every = [every[round(k)] for k in np.linspace(0, len(every) - 1, POINTS)]
        return [_plain(one) for one in every]
    if isinstance(value, float):
        return float(f"{value:.{DIGITS}g}") if math.isfinite(value) else str(value)
    return value


def _is_flat(value: Any) -> bool:
    return not isinstance(value, dict | list) or (
        isinstance(value, list) and not any(isinstance(one, dict | list) for one in value)
    )


def file_of(name: str, topic: str) -> Path:
    return FOLDER / f"{name}.{topic}.txt"


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, topic in KEPT:
        file_of(name, topic).write_text("\n".join(lines(name, topic)) + "\n")


if __name__ == "__main__":
    main()
