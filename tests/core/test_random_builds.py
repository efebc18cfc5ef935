"""Builds from nothing of every topology: what a builder gets, solders and reads, whatever was chosen."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

import pytest

from tests.builds import random_build
from yardmeter.core.edits import apply_edits
from yardmeter.core.edits.homes import home_rails
from yardmeter.core.fitness import fitness, fitness_at
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Move
from yardmeter.core.procedures import checklist
from yardmeter.review import review
from yardmeter.review.bench import bench_steps
from yardmeter.review.hookup import hookup
from yardmeter.review.landings import on_its_esc
from yardmeter.review.noise_review import review_noise
from yardmeter.review.whole_page import Heading, whole_page

SEEDS = range(10)


@pytest.mark.parametrize("seed", SEEDS)
def test_every_wire_stands_on_the_hookup_list_once(seed: int) -> None:
    made = random_build(seed)
    found = [row.id for row in hookup(review(made).solved).rows]
    assert len(found) == len(set(found))
    own = {d.id for d in made.devices if d.kind == "logic" or (d.kind == "motor" and on_its_esc(made, d))}
    feeds = {f"feed:{d.id}" for d in made.devices if d.feed and d.id not in own}
    returns = {f"return:{w.id}" for owner, w in made.returns() if owner not in own}
    assert feeds | returns | {"lead"} <= set(found)
    ends = {name.split(":", 1)[1] for name in found if ":" in name}
    assert ends <= {*made.elements, *(w.id for _, w in made.returns())} | {s.id for s in made.signals}


@pytest.mark.parametrize("seed", SEEDS)
def test_nothing_stands_where_it_cannot_live_while_another_rail_would_do(seed: int) -> None:
    made = random_build(seed)
    for device in made.devices:
        if device.kind in ("motor", "logic") or device.feed is None or fitness(made, device.id).fits:
            continue
        better = [r for r in home_rails(made, device) if r != device.feed.rail and fitness_at(made, device.id, r).fits]
        assert not better, f"{device.name} could live on {better}"


@pytest.mark.parametrize("seed", SEEDS)
def test_a_move_takes_its_ground_along(seed: int) -> None:
    """Wherever a device goes, one of its grounds goes to the board or unit that feeds it."""
    made = random_build(seed)
    for device in made.devices:
        if device.kind in ("motor", "logic") or not device.feed:
            continue
        for rail in home_rails(made, device)[:2]:
            after = apply_edits(made, [Move(device=device.id, rail=rail)])
            fed_by = {after.rail_of[rail].board} | {s.board for s in after.supplies_into(rail)}
            assert fed_by & {w.to for w in after.device_of[device.id].returns}, f"{device.name} on {rail}"


@pytest.mark.parametrize("seed", SEEDS)
def test_nobody_reads_an_id(seed: int) -> None:
    made = random_build(seed)
    found = review(made)
    told = [*found.analysis.findings, *review_noise(found.solved.solved).review.findings]
    page = whole_page(Heading("Craft", 1), found.solved, told, ())
    texts = [re.sub(r"<[^>]*>", " ", page.split("</style>")[-1])]
    texts += [f"{one.title} {one.cause} {one.remedy}" for one in told]
    texts += [text for step in bench_steps(checklist(found.solved)) for text in (step.title, step.how)]
    shown = "\n".join(texts)
    for name in ids_of(made):
        assert not re.search(rf"(?<![\w-]){re.escape(name)}(?![\w-])", shown), name


def ids_of(made: Plan) -> Iterator[str]:
    """Ids that are no words: with a hyphen, and in no name."""
    plain = made.model_dump(mode="json")
    words = " ".join(re.findall(r'"(?:name|label)": "([^"]*)"', json.dumps(plain))).lower()

    def walk(value: Any) -> Iterator[str]:
        if isinstance(value, dict):
            if isinstance(value.get("id"), str):
                yield value["id"]
            for one in value.values():
                yield from walk(one)
        elif isinstance(value, list):
            for one in value:
                yield from walk(one)

    return (one for one in walk(plain) if "-" in one and one not in words)
