"""Stories over HTTP: a symptom written down, answered, taken back, cured and tested again; what is refused; exercises."""

from __future__ import annotations

from typing import Any

import pytest
from django.test import Client

from tests.server.test_log_api import lines
from tests.server.test_noise_api import edit
from yardmeter.server.builds.models import LogEntry
from yardmeter.server.builds.services import demos

pytestmark = pytest.mark.django_db


@pytest.fixture
def plan_id() -> int:
    return int(demos.add_demo("marshlight").plans.first().pk)


def post(client: Client, plan_id: int, path: str, body: Any, status: int = 200) -> Any:
    answer = client.post(f"/api/plans/{plan_id}/diagnosis{path}", body, content_type="application/json")
    assert answer.status_code == status, answer.content
    return answer.json()


def test_a_story_from_the_symptom_to_the_test_afterwards(client: Client, plan_id: int) -> None:
    symptom = {
        "symptom": "resets-warm",
        "where": "mcu",
        "text": "after a minute or so",
        "evidence": [{"tried": "again-hover", "yes": False}],
    }
    entry = post(client, plan_id, "/stories", symptom, 201)["id"]
    story = client.get(f"/api/plans/{plan_id}/diagnosis/stories/{entry}").json()
    assert story["state"] == "open"
    assert story["diagnosis"]["causes"][0]["title"] == "5 V buck switches itself off when warm"
    assert story["diagnosis"]["done"] == ["in hover: it does not"]
    before = story["diagnosis"]["causes"][0]["chance"]
    # A reading as it is typed, then an answer; both are in the file for good.
    story = post(client, plan_id, f"/stories/{entry}/answer", {"tried": "volts-bench-rail-5v", "text": "5,02 V"})
    assert "5.02 V" in story["diagnosis"]["done"][1]
    story = post(client, plan_id, f"/stories/{entry}/answer", {"tried": "again-servo", "yes": False})
    assert story["diagnosis"]["causes"][0]["chance"] > before
    assert story["diagnosis"]["standing"] == "named"
    assert story["diagnosis"]["remedies"]
    back = post(client, plan_id, f"/stories/{entry}/back", {"tried": "again-servo"})
    assert back["answered"] == ["again-hover", "volts-bench-rail-5v"]
    post(client, plan_id, f"/stories/{entry}/answer", {"tried": "again-servo", "yes": False})
    assert LogEntry.objects.filter(corrects=entry).count() == 4
    # The cure is an edit like any other; the story tells what is left of it with the plan of today.
    edit(client, plan_id, *story["diagnosis"]["remedies"][0]["edits"])
    story = client.get(f"/api/plans/{plan_id}/diagnosis/stories/{entry}").json()
    assert story["head_step"] == story["step"] + 1
    assert story["after"] < story["before"] / 2
    told = post(client, plan_id, f"/stories/{entry}/settle", {"how": "own BEC", "gone": True})
    assert (told["state"], told["how"], told["gone"]) == ("settled", "own BEC", True)
    line = next(one for one in lines(client, plan_id, "symptom") if one["id"] == entry)
    assert (line["story"], line["corrected"], line["text"]) == ("settled", False, "after a minute or so")


def test_what_was_not_it_is_looked_into_further(client: Client, plan_id: int) -> None:
    entry = post(client, plan_id, "/stories", {"symptom": "lines-throttle", "where": "video-cam"}, 201)["id"]
    named = client.get(f"/api/plans/{plan_id}/diagnosis/stories/{entry}").json()["diagnosis"]["named"]
    assert named
    story = post(client, plan_id, f"/stories/{entry}/settle", {"how": "filter fitted", "gone": False})
    assert story["state"] == "open"
    assert story["diagnosis"]["named"] != named
    assert story["diagnosis"]["causes"][0]["title"] != named
    assert any(named in one for one in story["diagnosis"]["done"])
    # Correcting the words of the entry leaves what was found.
    answer = client.post(
        f"/api/plans/{plan_id}/log/{entry}/correct",
        {"kind": "symptom", "title": "Lines", "text": "worse"},
        content_type="application/json",
    )
    assert answer.status_code == 201, answer.content
    again = client.get(f"/api/plans/{plan_id}/diagnosis/stories/{entry}").json()
    assert again["title"] == "Lines"
    assert again["diagnosis"]["done"] == story["diagnosis"]["done"]


@pytest.mark.parametrize(
    ("path", "body", "status", "told"),
    [
        ("", {"symptom": "bewitched"}, 404, "no symptom"),
        ("", {"symptom": "lamp-lit"}, 422, "nothing that could show this"),
        ("", {"symptom": "dead", "where": "nobody"}, 404, "cannot show this"),
        ("", {"symptom": "dead", "since": ["nothing"]}, 404, "no “nothing”"),
        ("", {"symptom": "dead", "evidence": [{"tried": "again-warm", "yes": True}, {"tried": "again-warm", "yes": False}]}, 422, "yes and no"),
        ("", {"symptom": "dead", "evidence": [{"tried": "x" * 201}]}, 422, ""),
        ("/stories", {"symptom": "dead", "evidence": [{"tried": "magic", "yes": True}]}, 404, "nothing to try"),
        ("/exercise/name", {"seed": 1, "cause": "gremlins"}, 422, "no cause"),
        ("/exercise", {"seed": -1}, 422, ""),
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_refused_and_nothing_written(client: Client, plan_id: int, path: str, body: Any, status: int, told: str) -> None:  # fmt: skip
    before = LogEntry.objects.count()
    answer = post(client, plan_id, path, body, status)
    assert told in answer["what"]
    assert LogEntry.objects.count() == before


def test_bad_readings_and_strange_stories_are_refused(client: Client, plan_id: int) -> None:
    entry = post(client, plan_id, "/stories", {"symptom": "dead", "where": "camera"}, 201)["id"]
    assert (
        "“lots”"
        in post(client, plan_id, f"/stories/{entry}/answer", {"tried": "amps-bench", "text": "lots"}, 422)["what"]
    )
    assert (
        "yes or no"
        in post(client, plan_id, f"/stories/{entry}/answer", {"tried": "look-camera", "text": "3"}, 422)["what"]
    )
    assert "not answered" in post(client, plan_id, f"/stories/{entry}/back", {"tried": "look-camera"}, 404)["what"]
    note = client.post(
        f"/api/plans/{plan_id}/log", {"kind": "note", "title": "n"}, content_type="application/json"
    ).json()["id"]
    assert client.get(f"/api/plans/{plan_id}/diagnosis/stories/{note}").status_code == 404
    assert client.get(f"/api/plans/{plan_id}/diagnosis/stories/999999").status_code == 404


def test_an_exercise_is_answered_and_marked_and_leaves_no_trace(client: Client, plan_id: int) -> None:
    before = LogEntry.objects.count()
    found = post(client, plan_id, "/exercise", {"seed": 4})
    asked = {"symptom": found["symptom"], "where": found["where"], "evidence": []}
    for _ in range(6):
        seen = post(client, plan_id, "", asked)
        if not seen["tries"]:
            break
        said = post(client, plan_id, "/exercise/try", {"seed": 4, "tried": seen["tries"][0]["id"]})
        assert said["words"]
        asked["evidence"].append({"tried": said["tried"], "yes": said["yes"], "value": said["value"]})
    seen = post(client, plan_id, "", asked)
    marks = [post(client, plan_id, "/exercise/name", {"seed": 4, "cause": one["id"]}) for one in seen["causes"][:3]]
    assert sum(one["right"] for one in marks) <= 1 or len({one["what"] for one in marks}) == 1
    assert any(one["right"] for one in marks)
    assert LogEntry.objects.count() == before


def test_symptoms_come_with_their_places_and_what_is_nearest(client: Client, plan_id: int) -> None:
    found = {one["id"]: one for one in client.get(f"/api/plans/{plan_id}/diagnosis/symptoms").json()["symptoms"]}
    assert len(found) >= 40
    assert found["resets-warm"]["places"][0]["name"] == "Controller logic"
    assert {"id": "again-hover", "name": "in hover"} in found["resets-warm"]["elsewhere"]
    assert found["lamp-lit"]["places"] == []
    assert "lines-throttle" in found
    edit(client, plan_id, {"op": "set", "element": "camera", "field": "min_v", "value": 4.2})
    assert client.get(f"/api/plans/{plan_id}/diagnosis/symptoms").json()["changed"] == ["camera"]
