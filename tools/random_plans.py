"""Whole plans that nobody drew: every topology and shelf part, capacitors and clamps, cuts and wrong moves, from a seed."""

from __future__ import annotations

import random
from collections.abc import Iterator

from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.starting import Topology, start_plan
from yardmeter.core.errors import YardError
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Add, Duplicate, Edit, Move, Remove

SHELF = {part.key: part for part in demo.starter_parts()}
KINDS = {
    kind: [part for part in SHELF.values() if part.kind == kind] for kind in ("pack", "device", "bec", "capacitor")
}
BOARDS: dict[Topology, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "stack": (("esc-four", "esc-four-bec"), ("fc-basic", "fc-video", "fc-12v", "fc-9v-3a", "fc-10v", "fc-select", "fc-8v", "fc-3v3")),
    "one-board": (("aio-2s-4s", "aio-4s-6s", "whoop-1s", "whoop-1s-direct", "fc-wing"), ()),
    "power-board": (("pdb-plain", "pdb-5v", "pdb-5v-12v", "pdb-lin"), ("fc-plain", "fc-5v-only", "fc-lin5", "fc-5v-only-osd")),
    "leads": (("esc-wing", "esc-single-lin"), ("fc-wing", "fc-plain")),
}  # fmt: skip
"""Boards a craft hangs from, and controllers that go with them."""


def random_plan(seed: int, *, devices: int = 8) -> Plan:
    """One plan; the same for the same seed. It may be good or bad, but it is one the program makes from parts."""
    rng = random.Random(seed)
    while True:
        try:
            return _tried(rng, devices)
        except YardError:  # parts that do not go together: others are drawn
            continue


def random_plans(count: int, seed: int = 0) -> Iterator[Plan]:
    """So many plans."""
    return (random_plan(1000 * seed + k) for k in range(count))


def _tried(rng: random.Random, devices: int) -> Plan:
    topology = rng.choice(list(BOARDS))
    roots, controllers = BOARDS[topology]
    boards = [SHELF[rng.choice(roots)]]
    boards += [SHELF[rng.choice(controllers)]] if controllers else []
    if topology == "power-board":
        boards += [SHELF[rng.choice(["esc-single", "esc-single-lin", "esc-single-sw"])]] * rng.choice([1, 2, 4])
    boards += rng.sample(KINDS["bec"], rng.choice([0, 0, 1, 2]))
    chosen = rng.sample(KINDS["device"], rng.randint(1, devices))
    plan = start_plan(f"random {rng.random():.6f}", rng.choice(KINDS["pack"]), boards, chosen, topology)
    for _ in range(rng.randint(0, 3)):
        plan = edited(plan, rng)
    return plan


def edited(plan: Plan, rng: random.Random) -> Plan:
    """The plan after one more edit that the program accepts; as it was where it accepts none."""
    for _ in range(5):
        try:
            return apply_edits(plan, [_edit(plan, rng)])
        except YardError:
            continue
    return plan


def _edit(plan: Plan, rng: random.Random) -> Edit:
    match rng.choice(["capacitor", "move", "cut", "wire", "twice"]):
        case "capacitor":
            return Add(kind="filter", value=_capacitor(rng.choice(KINDS["capacitor"]), rng.choice(plan.rails).id))
        case "move" if plan.devices:
            return Move(
                device=rng.choice(plan.devices).id, rail=rng.choice(plan.rails).id, with_return=rng.random() < 0.5
            )
        case "wire" if plan.return_of:
            return Remove(element=rng.choice(list(plan.return_of)))
        case "twice" if plan.devices:
            return Duplicate(element=rng.choice([*plan.device_of, *plan.board_of]))
        case _:
            return Remove(element=rng.choice([*plan.elements, *plan.pad_of, *plan.pin_of]))


def _capacitor(part: Part, at: str) -> dict[str, object]:
    values = part.capacitor.model_dump(mode="json") if part.capacitor else {}
    return {"name": part.name, "kind": "capacitor", "at": at, **values}
