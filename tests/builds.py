"""Random builds from the shelf, as a builder would choose them: parts that suit the pack and the shape, of every topology."""

from __future__ import annotations

import random
from functools import cache

from yardmeter import demo
from yardmeter.core.choices.suited import suited
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.starting import TOPOLOGIES, Topology, start_plan
from yardmeter.core.parts import Part
from yardmeter.core.plan import Plan
from yardmeter.review.joining import motor_signals, usual_signals

PARTS = demo.starter_parts()


def of(kind: str) -> list[Part]:
    return [one for one in PARTS if one.kind == kind]


@cache
def random_build(seed: int) -> Plan:
    """A build with motors, boards, a regulator at times and up to six devices, its pins joined as usual."""
    rng = random.Random(seed)
    while True:
        topology: Topology = rng.choice(TOPOLOGIES)
        pack = rng.choice(of("pack"))
        boards = _boards(rng, topology, pack)
        if boards is not None:
            break
    base = start_plan("craft", pack, boards, [], topology)
    fit = [one for one in _suiting(base, topology, of("device")) if one.device]
    motors = [one for one in fit if one.device and one.device.kind == "motor"]
    rest = [one for one in fit if one.device and one.device.kind != "motor"]
    chosen = rng.sample(motors, 1 if motors and rng.random() < 0.8 else 0)
    chosen += rng.sample(rest, min(len(rest), rng.randint(1, 6)))
    made = start_plan("craft", pack, boards, chosen, topology)
    made = apply_edits(made, motor_signals(made))
    return apply_edits(made, [edit for offer in usual_signals(made) for edit in offer.edits])


def _suiting(plan: Plan, topology: Topology, parts: list[Part]) -> list[Part]:
    by_key = {one.key: one for one in parts}
    return [by_key[one.key] for one in suited(plan, topology, parts) if one.against is None]


def _boards(rng: random.Random, topology: Topology, pack: Part) -> list[Part] | None:
    """Boards of a shape; None where the shelf has none for it and this pack."""
    bare = start_plan("craft", pack, [], [], "leads")
    boards = [one for one in _suiting(bare, topology, of("board")) if one.board]
    escs = [one for one in boards if one.board and one.board.board.kind == "esc"]
    controllers = [one for one in boards if one.board and one.board.board.kind == "controller"]
    whole = [one for one in controllers if one.board and one.board.board.esc_limit_a]
    plain = [one for one in controllers if one not in whole]
    single = [one for one in escs if one.board and len(one.board.board.pins) == 1]
    chosen: list[Part] = []
    if topology == "stack":
        four = [one for one in escs if one not in single]
        if not four:
            return None
        chosen.append(rng.choice(four))
    elif topology == "one-board":
        if not whole:
            return None
        chosen.append(rng.choice(whole))
    elif single:
        chosen += [rng.choice(single)] * (4 if topology == "power-board" else 1)
    if topology != "one-board" and plain and rng.random() < 0.8:
        chosen.append(rng.choice(plain))
    becs = _suiting(bare, topology, of("bec"))
    return chosen + rng.sample(becs, min(len(becs), rng.choice([0, 0, 1])))
