"""Any plan that the schema accepts opens, is judged, and can be mended: single cuts of the demos, pairs of them, plans from a seed."""

from __future__ import annotations

import itertools
import json
import random
from typing import Any

import pytest
from django.test import Client

from tests.server.test_noise_api import post
from tools.random_plans import edited, random_plan
from yardmeter import demo
from yardmeter.core.edits import apply_edits
from yardmeter.core.errors import YardError
from yardmeter.core.formats.plan_json import write_plan
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Duplicate, Remove
from yardmeter.server.builds.services import editing

pytestmark = pytest.mark.django_db
NAMES = [one.removesuffix(".json") for group in demo.DEMOS for one in group.files]
SAMPLE = 24
"""So many cuts of the thousand and more there are; the rest was walked by hand."""


def cuts() -> list[Plan]:
    """Every so many-th removal of one element of a demo, doubles of boards and devices, pairs of cuts, plans from a seed."""
    rng = random.Random(7)
    made: list[Plan] = []
    for name in NAMES:
        plan = demo.plan(name)
        ids = [*plan.elements, *plan.pad_of, *plan.pin_of, *plan.return_of]
        ones: list[list[Any]] = [[Remove(element=one)] for one in rng.sample(ids, 1)]
        ones += [[Remove(element=a), Remove(element=b)] for a, b in (rng.sample(list(plan.return_of), 2),)]
        ones.append([Duplicate(element=rng.choice(list(plan.board_of)))])
        for edits in ones:
            try:
                made.append(apply_edits(plan, edits))
            except YardError:
                continue
    made += [edited(edited(random_plan(k), rng), rng) for k in range(SAMPLE - len(made))]
    return made


ANSWERS = ("", "/glance", "/hookup", "/bench", "/bench/effort", "/noise", "/schools", "/signals/usual", "/scenarios", "/fixes")  # fmt: skip


def test_cut_plans_open_are_judged_and_are_mended(client: Client) -> None:
    for k, made in enumerate(itertools.islice(cuts(), 0, None, 4)):
        body = {"name": "cut", "plan": json.loads(write_plan(made))}
        built = post(client, "/api/builds", body)
        assert built.status_code == 201, built.content
        plan_id = built.json()["plans"][0]["id"]
        for path in ANSWERS if k == 1 else ANSWERS[:-1]:  # fixes take seconds of a plan with many findings
            found = client.get(f"/api/plans/{plan_id}{path}")
            assert found.status_code == 200, (made.name, path, found.content[:300])
        view = client.get(f"/api/plans/{plan_id}").json()
        edits = [{"op": "add", "kind": "device", "value": made.devices[0].model_dump(mode="json") | {"id": "more", "name": "More", "returns": [], "pins": [], "feed": None}}] if made.devices else [{"op": "set", "element": made.boards[0].id, "field": "note", "value": "x"}]  # fmt: skip
        stepped = post(client, f"/api/plans/{plan_id}/edits", {"revision": view["revision"], "edits": edits})
        assert stepped.status_code == 200, stepped.content[:300]
        assert post(client, f"/api/plans/{plan_id}/undo", {"revision": stepped.json()["revision"]}).status_code == 200


def test_two_esc_boards_and_a_ground_through_another_open_and_are_mended(client: Client) -> None:
    """Both were stored once and answered 500 for ever: to the page, to every edit, to the one that mends."""
    plan = demo.plan("heathwatch-own-supply")
    sender = next(one for one in plan.devices if one.kind == "sender")
    for edits in ([Duplicate(element="four-way-esc")], [Remove(element=sender.returns[0].id)]):
        made = apply_edits(plan, edits)
        built = post(client, "/api/builds", {"name": "cut", "plan": json.loads(write_plan(made))}).json()
        plan_id = built["plans"][0]["id"]
        for path in ANSWERS:
            assert client.get(f"/api/plans/{plan_id}{path}").status_code == 200, (edits, path)


def test_what_cannot_be_analysed_can_still_be_mended(client: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    """A defect of ours in one plan: its page fails, the edit that takes the cause away does not."""
    built = post(client, "/api/builds", {"demo": "wren"}).json()["plans"][0]
    real = editing.reviewed

    def fails(revision: Any) -> Any:
        if revision.pk == built["revision"]:
            raise ValueError("singular")
        return real(revision)

    monkeypatch.setattr(editing, "reviewed", fails)
    monkeypatch.setattr(editing, "review", lambda plan, *_: real.__globals__["review"](plan))
    body = {"revision": built["revision"], "edits": [{"op": "remove", "element": "camera"}]}
    assert post(client, f"/api/plans/{built['id']}/preview", body).status_code == 200
    assert post(client, f"/api/plans/{built['id']}/edits", body).status_code == 200
