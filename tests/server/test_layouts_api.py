"""Layouts over HTTP: proposed, one made a plan beside today's, one device side by side; what makes no sense changes nothing."""

from __future__ import annotations

from typing import Any

import pytest
from django.test import Client

from yardmeter.core.layouts.wishes import Wishes
from yardmeter.server.builds.models import Plan
from yardmeter.server.builds.services import demos, layouts
from yardmeter.server.shelf import services as shelf

pytestmark = pytest.mark.django_db


@pytest.fixture
def plan_id() -> int:
    """The one-cell craft: small enough to be searched in a second."""
    shelf.stock_shelf()
    return int(demos.add_demo("wren").plans.first().pk)


def post(client: Client, plan_id: int, path: str, body: Any, status: int = 200) -> Any:
    answer = client.post(f"/api/plans/{plan_id}/layouts{path}", body, content_type="application/json")
    assert answer.status_code == status, answer.content
    return answer.json()


def test_a_layout_is_made_a_plan_beside_todays(client: Client, plan_id: int) -> None:
    before = client.get(f"/api/plans/{plan_id}").json()
    found = post(client, plan_id, "", {})
    assert found["today"]["heavy"] == 3
    assert all(one["numbers"]["heavy"] == 0 for one in found["layouts"])
    assert post(client, plan_id, "", {}) == found  # kept
    made = post(client, plan_id, "/make", {"number": 0, "name": "proposed"}, 201)
    assert client.get(f"/api/plans/{plan_id}").json()["revision"] == before["revision"]
    plan = client.get(f"/api/plans/{made['id']}").json()
    assert plan["plan"]["name"] == "proposed"
    assert not [one for one in plan["analysis"]["findings"] if one["severity"] in ("danger", "fault")]
    added = (
        [one for one in plan["plan"]["supplies"] if one.get("place") == "alone"]
        if found["layouts"][0]["numbers"]["parts_added"]
        else []
    )
    assert len(added) >= found["layouts"][0]["numbers"]["parts_added"] - 1
    lines = found["layouts"][0]["lines"]
    assert [one["do"] for one in lines] == sorted((one["do"] for one in lines), key=["add", "move", "change"].index)


def test_a_part_that_was_changed_on_the_shelf_is_looked_at_anew(plan_id: int) -> None:
    """The same plan, wishes and keys; every part 7 g heavier."""
    parts = shelf.parts_to_buy()
    heavier = [one.model_copy(update={"weight_g": (one.weight_g or 0.0) + 7}) for one in parts]
    before, after = (layouts.proposed(plan_id, Wishes(max_g=50.0), one).layouts[0].numbers for one in (parts, heavier))
    assert before.parts_added > 0
    assert after.grams == pytest.approx(before.grams + 7)


def test_one_device_is_shown_at_every_place_and_taken_with_one_edit(client: Client, plan_id: int) -> None:
    found = post(client, plan_id, "/places", {"device": "sender"})["places"]
    assert sum(one["here"] for one in found) == 1
    other = next(one for one in found if not one["here"])
    head = client.get(f"/api/plans/{plan_id}/head").json()["revision"]
    answer = client.post(
        f"/api/plans/{plan_id}/edits", {"revision": head, "edits": other["edits"]}, content_type="application/json"
    )
    assert answer.status_code == 200, answer.content
    assert client.get(f"/api/plans/{plan_id}/layouts/progress").json() == {"share": None}
    schools = client.get(f"/api/plans/{plan_id}/layouts/schools").json()["schools"]
    assert [one["key"] for one in schools] == ["fill", "sender", "control", "sender_feed", "grounds", "esc_grounds"]
    assert all(one["why"] for one in schools)


def test_the_drawer_is_kept_on_the_shelf_and_counts_for_layouts(client: Client, plan_id: int) -> None:
    answer = client.put("/api/shelf/bec-bb-5v/drawer", {"count": 2}, content_type="application/json")
    assert answer.json() == {"count": 2}
    rows = {one["part"]["key"]: one["owned"] for one in client.get("/api/shelf", {"kind": "bec"}).json()}
    assert (rows["bec-bb-5v"], rows["bec-boost-5v"]) == (2, 0)
    added = [line for line in post(client, plan_id, "", {})["layouts"][0]["lines"] if line["do"] == "add"]
    assert [(line["place"], line["owned"]) for line in added] == [("bec-bb-5v", True)]
    assert client.put("/api/shelf/bec-bb-5v/drawer", {"count": -1}, content_type="application/json").status_code == 422
    assert client.put("/api/shelf/nothing/drawer", {"count": 1}, content_type="application/json").status_code == 404


@pytest.mark.parametrize(
    ("path", "body", "status", "told"),
    [
        ("", {"held": ["nobody"]}, 404, "no “nobody” to hold"),
        ("", {"max_g": -1}, 422, "nothing or more"),
        ("", {"buy": ["luck"]}, 422, ""),
        ("", {"school": {"fill": "9"}}, 422, "no school"),
        ("", {"turned_down": [{"device": "nobody", "place": "x"}]}, 404, "no device"),
        ("/make", {"number": 40, "name": "x"}, 422, "none of the layouts"),
        ("/places", {"device": "nobody"}, 422, "no device"),
    ],
)  # fmt: skip
def test_wishes_that_make_no_sense_are_refused(
    client: Client, plan_id: int, path: str, body: Any, status: int, told: str
) -> None:
    count = Plan.objects.count()
    assert told in post(client, plan_id, path, body, status)["what"]
    assert Plan.objects.count() == count


CRAFT = {
    "name": "Warbler", "pack": "pack-4s-1500", "boards": ["esc-four", "fc-5v-only"], "devices": ["rx-mini"],
}  # fmt: skip


def started(client: Client, **more: Any) -> tuple[str, Any]:
    shelf.stock_shelf()
    made = client.post("/api/builds/start", {**CRAFT, **more}, content_type="application/json")
    assert made.status_code == 201, made.content
    return made.json()["wired"], client.get(f"/api/plans/{made.json()['plans'][0]['id']}").json()


def wrong(view: Any) -> list[str]:
    return [one["code"] for one in view["analysis"]["findings"] if one["severity"] in ("danger", "fault")]


def test_a_new_build_is_wired_so_that_it_stands_and_undo_takes_that_back(client: Client) -> None:
    said, view = started(client)
    assert "BEC 5 V" in said
    assert view["undo"] == said == view["summary"]
    assert not wrong(view)
    back = client.post(f"/api/plans/{view['id']}/undo", {"revision": view["revision"]}, content_type="application/json")
    assert back.status_code == 200, back.content
    assert "source.none" in wrong(back.json())


def test_a_new_build_stays_as_it_was_put_together_where_that_is_wished_or_takes_long(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    as_is = started(client, wire=False)
    monkeypatch.setattr(layouts, "WIRED_WITHIN_S", -1.0)
    for said, view in (as_is, started(client)):
        assert said == ""
        assert view["undo"] is None
        assert "source.none" in wrong(view)
