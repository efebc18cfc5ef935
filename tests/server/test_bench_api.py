"""The bench over HTTP: the list, readings judged, the record that is only added to, and steps that an edit makes anew."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

import pytest
from django.test import Client

from tests.server.test_noise_api import edit, post
from yardmeter.server.builds.models import BenchEntry
from yardmeter.server.builds.services import demos

pytestmark = pytest.mark.django_db


@pytest.fixture
def plan_id() -> int:
    found: int = demos.add_demo("marshlight").plans.last().pk
    return found


def bench(client: Client, plan_id: int) -> Any:
    answer = client.get(f"/api/plans/{plan_id}/bench")
    assert answer.status_code == 200, answer.content
    return answer.json()


def reading(client: Client, plan_id: int, step: str, text: str) -> Any:
    return post(client, f"/api/plans/{plan_id}/bench/reading", {"step": step, "text": text})


def ready_for_power(client: Client, plan_id: int) -> None:
    """Everything power waits for skipped with a reason."""
    for step in bench(client, plan_id)["steps"]:
        if step["gate"] in ("eyes", "meter", "plug", "states"):
            skipped = {"step": step["id"], "outcome": "skipped", "note": "a test"}
            assert post(client, f"/api/plans/{plan_id}/bench/look", skipped).status_code == 200


def test_the_list_goes_gate_by_gate_and_says_why(client: Client, plan_id: int) -> None:
    found = bench(client, plan_id)
    gates = [one["gate"] for one in found["gates"]]
    assert gates == ["eyes", "meter", "plug", "rails", "branches", "grounds", "cross", "pins", "states", "limiter", "volts", "usb", "function", "pack", "still", "load"]  # fmt: skip
    assert [one["gate"] for one in found["steps"]] == sorted((one["gate"] for one in found["steps"]), key=gates.index)
    steps = {one["id"]: one for one in found["steps"]}
    assert len(steps) == len(found["steps"])
    assert "5 V 4 A BEC" in steps["plug-forward"]["why"]
    assert steps["grounds-plug-minus-camera-ground"]["expects"].startswith("it beeps")
    assert "Copper alone" in steps["grounds-plug-minus-camera-ground"]["why"]
    assert found["entries"] == 0


def test_a_short_is_told_from_a_pass_and_named(client: Client, plan_id: int) -> None:
    assert reading(client, plan_id, "plug-forward", "18k").json()["entry"]["outcome"] == "passed"
    assert bench(client, plan_id)["failed"] is None
    assert reading(client, plan_id, "plug-forward", "0.3").json()["entry"]["outcome"] == "failed"
    assert bench(client, plan_id)["failed"] == "plug-forward"
    searched = client.get(f"/api/plans/{plan_id}/bench/search", {"step": "plug-forward"}).json()
    first = searched["meanings"][0]
    assert first["fault"] in {"short-pack-rail-ground", "short-esc-rail-ground", "short-ctl-pack-ground"}
    assert first["dangerous"]
    assert "A through it" in first["under_power"]
    assert reading(client, plan_id, "plug-forward", "beep").json()["entry"]["outcome"] == "failed"
    assert reading(client, plan_id, "plug-forward", "OL").json()["entry"]["outcome"] == "passed"
    # What has failed without power keeps power away, from the supply's button too, until it passes or is skipped with a reason.
    reading(client, plan_id, "plug-forward", "0.3")
    for refused in (
        reading(client, plan_id, "volts-rail-5v", "5.04"),
        post(client, f"/api/plans/{plan_id}/bench/look", {"step": "load-still", "outcome": "passed"}),
        post(client, f"/api/plans/{plan_id}/bench/supply", {"on": True, "volts": 22, "limit_a": 0.5}),
    ):
        assert refused.status_code == 409
        assert "no power before" in refused.json()["what"]
    assert reading(client, plan_id, "plug-forward", "OL").json()["entry"]["outcome"] == "passed"
    absurd = reading(client, plan_id, "plug-forward", "1e999")
    assert (absurd.status_code, "more than a meter shows" in absurd.json()["what"]) == (422, True)
    nonsense = reading(client, plan_id, "plug-forward", "12 bananas")
    assert nonsense.status_code == 422
    assert reading(client, plan_id, "plug-forward", "-3").status_code == 422
    assert reading(client, plan_id, "nowhere", "1").status_code == 404
    # Nor before what power waits for was looked at.
    early = reading(client, plan_id, "volts-rail-5v", "5.04")
    assert "before power is still open" in early.json()["what"]
    ready_for_power(client, plan_id)
    volts = reading(client, plan_id, "volts-rail-5v", "5.04").json()
    assert volts["entry"]["outcome"] == "passed"
    assert reading(client, plan_id, "volts-rail-5v", "4.6V").json()["entry"]["outcome"] == "failed"
    # All of it is on record, in order; what was refused is not.
    assert list(BenchEntry.objects.exclude(note="a test").values_list("outcome", flat=True)) == ["passed", "failed", "failed", "passed", "failed", "passed", "passed", "failed"]  # fmt: skip


def test_nothing_is_skipped_without_a_reason_or_passed_without_its_reading(client: Client, plan_id: int) -> None:
    path = f"/api/plans/{plan_id}/bench/look"
    assert post(client, path, {"step": "eyes-props", "outcome": "skipped"}).status_code == 409
    assert post(client, path, {"step": "plug-forward", "outcome": "passed"}).status_code == 409
    assert reading(client, plan_id, "eyes-props", "1").status_code == 409
    assert post(client, path, {"step": "eyes-props", "outcome": "skipped", "note": "never fitted"}).status_code == 200
    assert bench(client, plan_id)["done"]["eyes-props"]["note"] == "never fitted"


def test_an_edit_makes_anew_what_it_touches_and_leaves_the_rest_done(client: Client, plan_id: int) -> None:
    # The rail of the camera's: 5 V become 5.4 V. Copper that stays is still done.
    ready_for_power(client, plan_id)
    reading(client, plan_id, "volts-rail-5v", "5.04")
    reading(client, plan_id, "grounds-plug-minus-camera-ground", "beep")
    edit(client, plan_id, {"op": "set_quantity", "element": "buck-5v", "field": "set_v", "text": "5.4V"})
    done = bench(client, plan_id)["done"]
    assert done["volts-rail-5v"]["again"]
    assert not done["grounds-plug-minus-camera-ground"]["again"]
    edit(client, plan_id, {"op": "remove", "element": "camera"})
    assert "grounds-plug-minus-camera-ground" not in bench(client, plan_id)["done"]
    # What was done stays on record all the same.
    text = client.get(f"/api/plans/{plan_id}/bench/record.csv").content.decode()
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [(row["step"], row["read"], row["outcome"]) for row in rows if row["outcome"] != "skipped"] == [
        ("volts-rail-5v", "5.04", "passed"),
        ("grounds-plug-minus-camera-ground", "beep", "passed"),
    ]
    assert json.loads(json.dumps(rows))[0]["expected"]


def test_a_wire_that_moves_opens_what_it_touched_and_the_first_power(client: Client, plan_id: int) -> None:
    """The receiver from the controller's 5 V to another rail of as many volts: no expectation moves, but two rails have
    another joint, and the first power goes through it."""
    ready_for_power(client, plan_id)
    found = {one["id"]: one for one in bench(client, plan_id)["steps"]}
    amps = found["limiter-first"]["expects"].split(" ")
    typed = {
        "limiter-first": f"{float(amps[0]) + 0.3:.2f}A",
        "volts-rail-5v": "5.04",
        "volts-rail-12v": "12.0",
        "eyes-polarity-lidar": "",
    }
    for step, text in typed.items():
        if text:
            assert reading(client, plan_id, step, text).json()["entry"]["outcome"] == "passed", step
    edit(client, plan_id, {"op": "move", "device": "receiver", "rail": "rail-usb"})
    done = bench(client, plan_id)["done"]
    again = {name for name, one in done.items() if one["again"]}
    assert {"limiter-first", "volts-rail-5v", "eyes-polarity-receiver"} <= again
    assert not {"volts-rail-12v", "eyes-polarity-lidar", "plug-forward", "eyes-props"} & again


def test_leads_are_taken_off_and_a_bad_one_fails(client: Client, plan_id: int) -> None:
    """Leads of 0.9 Ω: 1.0 Ω along a ground is 0.1 Ω of copper. Without them 1.0 Ω is a poor joint."""
    step = "grounds-plug-minus-camera-ground"
    assert reading(client, plan_id, step, "1.0").json()["entry"]["outcome"] == "failed"
    assert reading(client, plan_id, "meter-itself", "1.1").json()["entry"]["outcome"] == "failed"
    assert reading(client, plan_id, "meter-itself", "0.9").json()["entry"]["outcome"] == "passed"
    assert reading(client, plan_id, step, "1.0").json()["entry"]["outcome"] == "passed"
    assert reading(client, plan_id, step, "1.5").json()["entry"]["outcome"] == "failed"


def test_what_stands_in_for_the_pack_is_what_its_rail_is_expected_beside(client: Client, plan_id: int) -> None:
    """A pack half empty through a lamp: 21.0 V at the plug make 21.0 V right on its rail, and 22.2 V wrong."""
    ready_for_power(client, plan_id)
    assert reading(client, plan_id, "volts-pack-rail", "21.0").json()["entry"]["outcome"] == "failed"
    assert reading(client, plan_id, "volts-source", "21.0").json()["entry"]["outcome"] == "passed"
    assert reading(client, plan_id, "volts-pack-rail", "21.0").json()["entry"]["outcome"] == "passed"
    assert reading(client, plan_id, "volts-pack-rail", "22.2").json()["entry"]["outcome"] == "failed"
    assert reading(client, plan_id, "volts-source", "30").json()["entry"]["outcome"] == "failed"  # more than a full 6S


def test_what_was_only_heard_says_no_more_than_that(client: Client, plan_id: int) -> None:
    """Silence on a rail of some kΩ passes, and nobody is suspected for the ohms it does not tell; a beep at the computer's own
    30 Ω does not tell a short."""
    for step in ("rails-rail-12v-plug-minus", "cross-sender-plus-plug-minus"):
        assert reading(client, plan_id, step, "silent").json()["entry"]["outcome"] == "passed"
        assert reading(client, plan_id, step, "beep").json()["entry"]["outcome"] == "failed"
        assert (
            reading(client, plan_id, step, "OL").json()["entry"]["outcome"] == "failed"
        )  # read on ohms: a rail with nothing on it
    assert reading(client, plan_id, "grounds-plug-minus-camera-ground", "silent").json()["entry"]["outcome"] == "failed"
    plan_id = demos.add_demo("marshlight").plans.first().pk  # as soldered, with the computer on the 5 V rail
    told = reading(client, plan_id, "rails-rail-5v-plug-minus", "beep")
    assert (told.status_code, "says too little" in told.json()["what"]) == (409, True)
    assert reading(client, plan_id, "rails-rail-5v-plug-minus", "40").json()["entry"]["outcome"] == "passed"
    assert reading(client, plan_id, "rails-rail-5v-plug-minus", "0.4").json()["entry"]["outcome"] == "failed"


def test_the_same_step_twenty_times_at_once_is_one_line(client: Client, plan_id: int) -> None:
    for _ in range(20):
        assert reading(client, plan_id, "plug-forward", "18k").status_code == 200
    assert BenchEntry.objects.count() == 1
    reading(client, plan_id, "plug-forward", "19k")
    reading(client, plan_id, "plug-forward", "18k")
    assert BenchEntry.objects.count() == 3
