"""Runs over HTTP: started, followed, stopped, kept, shown at an instant; what helps; findings; and from the command line."""

from __future__ import annotations

import json
import threading
import time
from typing import Any

import pytest
from django.test import Client

from tests.server.test_noise_api import edit, post
from yardmeter import demo
from yardmeter.core.formats.plan_json import write_plan
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Plan, Scenario
from yardmeter.core.runs import Run, run_scenario
from yardmeter.run_cli import main as simulate
from yardmeter.server.builds.services import demos, runs
from yardmeter.server.builds.services.running import Job, Track
from yardmeter.server.urgency import URGENCY

pytestmark = pytest.mark.django_db


@pytest.fixture
def plan_id() -> int:
    """“straight from the cell”, whose receiver resets in a punch."""
    found: int = demos.add_demo("wren").plans.get(name="straight from the cell").pk
    return found


LONG = {"id": "long", "name": "Long", "duration_s": 80_000, "begins": "hover"}


@pytest.fixture(autouse=True)
def _long_is_long(monkeypatch: pytest.MonkeyPatch) -> None:
    """What lasts 80,000 s goes on until it is broken off."""

    def slow(plan: Plan, scenario: Scenario, **more: Any) -> Run:
        while scenario.duration_s == LONG["duration_s"]:
            go_on()
            time.sleep(0.02)
        return run_scenario(plan, scenario, **more)

    monkeypatch.setattr("yardmeter.server.builds.services.runs.run_scenario", slow)


def run(client: Client, plan_id: int, scenario: str, **more: Any) -> Any:
    for _ in range(1200):
        answer = client.get(f"/api/plans/{plan_id}/run", {"scenario": scenario, **more})
        assert answer.status_code == 200, answer.content
        found = answer.json()
        if found["state"] not in ("waiting", "running"):
            return found
        time.sleep(0.05)
    raise AssertionError("the run did not end")


def test_a_run_is_kept_while_nothing_electrical_changes(client: Client, plan_id: int) -> None:
    first = run(client, plan_id, "punch-on-low-pack")
    assert (first["state"], first["seen"]["stuck_s"]) == ("done", None)
    assert [one["device"] for one in first["seen"]["whys"]] == ["receiver"]
    kept = runs.job_of(demo.plan("wren-straight-from-the-cell"), "punch-on-low-pack", plan_id, start=False)
    assert kept is not None
    edit(client, plan_id, {"op": "set", "element": "receiver", "field": "note", "value": "left arm"})
    edit(client, plan_id, {"op": "add", "kind": "scenario", "value": {"id": "other", "name": "Other", "duration_s": 1}})
    again = client.get(f"/api/plans/{plan_id}/run", {"scenario": "punch-on-low-pack", "start": "false"}).json()
    assert again["state"] == "done"
    edit(client, plan_id, {"op": "set", "element": "receiver", "field": "brownout_v", "value": 2.5})
    asked = {"scenario": "punch-on-low-pack", "start": "false"}
    assert client.get(f"/api/plans/{plan_id}/run", asked).json()["state"] == "stopped"
    assert run(client, plan_id, "punch-on-low-pack")["seen"]["whys"] == []


def test_a_stretch_an_instant_and_what_helps(client: Client, plan_id: int) -> None:
    refused = client.get(f"/api/plans/{plan_id}/run/helps", {"scenario": "punch-on-low-pack", "device": "receiver"})
    assert (refused.status_code, "not been run" in refused.json()["what"]) == (409, True)
    # An instant has its run started: the address of one is good after a reload too.
    early = client.get(f"/api/plans/{plan_id}/run/instant", {"scenario": "punch-on-low-pack", "at_s": 0.1}).json()
    assert (early["at_s"], early["like"]) == (0.1, "landing")
    seen = run(client, plan_id, "punch-on-low-pack", from_s=0.3, to_s=0.4)["seen"]
    assert (seen["from_s"], seen["to_s"], len(seen["edges_s"])) == (0.3, 0.4, 321)
    began = time.perf_counter()
    now = client.get(f"/api/plans/{plan_id}/run/instant", {"scenario": "punch-on-low-pack", "at_s": 1}).json()
    assert time.perf_counter() - began < 0.5
    assert now["devices"]["receiver"]["state"] == "off"
    assert 3.1 < now["rails"]["pack-rail"]["volts_v"] < 3.3
    helps = client.get(
        f"/api/plans/{plan_id}/run/helps", {"scenario": "punch-on-low-pack", "device": "receiver"}
    ).json()
    assert helps["hold_up"]["steady"]
    assert "no capacitor cures it" in helps["hold_up"]["words"]
    assert [one["cured"] for one in helps["helps"]] == sorted((one["cured"] for one in helps["helps"]), reverse=True)
    assert (
        client.get(f"/api/plans/{plan_id}/run/helps", {"scenario": "punch-on-low-pack", "device": "nobody"}).status_code
        == 404
    )
    for _ in range(200):
        state = client.get(f"/api/plans/{plan_id}/run/chances", {"scenario": "punch-on-low-pack"}).json()
        if state["state"] == "done":
            break
        assert state["chances"] is None
        time.sleep(0.1)
    likely = state["chances"]
    assert (likely["samples"], likely["devices"][0]["device"]) == (200, "receiver")
    picture = client.get(f"/api/plans/{plan_id}/run/timetable.svg", {"scenario": "punch-on-low-pack"})
    assert picture["Content-Type"] == "image/svg+xml"
    assert "✕" in picture.content.decode()


def test_findings_join_as_runs_end_and_a_long_run_can_be_stopped(client: Client, plan_id: int) -> None:
    before = client.get(f"/api/plans/{plan_id}/run/findings").json()
    assert before == {"findings": [], "waiting": 0}
    client.get(f"/api/plans/{plan_id}/run/findings", {"start": "true"})
    for _ in range(400):
        found = client.get(f"/api/plans/{plan_id}/run/findings").json()
        if not found["waiting"]:
            break
        time.sleep(0.1)
    by_code = {one["code"]: one for one in found["findings"]}
    assert by_code["run.reset"]["severity"] == "danger"
    assert by_code["run.reset"]["by_condition"] == {"punch-low": "danger"}
    assert "resets" in by_code["run.reset"]["title"]
    edit(client, plan_id, {"op": "add", "kind": "scenario", "value": LONG})
    assert client.get(f"/api/plans/{plan_id}/run", {"scenario": "long"}).json()["state"] in ("waiting", "running")
    assert post(client, f"/api/plans/{plan_id}/run/stop", {"scenario": "long"}).status_code == 200
    # It does not start again by being looked at, only by being asked for again.
    for _ in range(3):
        assert run(client, plan_id, "long")["state"] == "stopped"
    assert client.get(f"/api/plans/{plan_id}/run", {"scenario": "long", "again": "true"}).json()["state"] in ("waiting", "running")  # fmt: skip
    post(client, f"/api/plans/{plan_id}/run/stop", {"scenario": "long"})


def test_what_an_edit_has_overtaken_ends_and_holds_nobody_up(client: Client, plan_id: int) -> None:
    """Two endless runs take both places; one edit ends them, and the run that is asked for now is through in a moment."""
    for name in ("one", "two", "three"):
        edit(client, plan_id, {"op": "add", "kind": "scenario", "value": {**LONG, "id": name, "name": name.title()}})
    asked = [client.get(f"/api/plans/{plan_id}/run", {"scenario": name}).json() for name in ("one", "two", "three")]
    assert [one["waits_for"] for one in asked] == [0, 0, 2]
    assert [one["state"] for one in asked] == ["running", "running", "waiting"]
    document = demo.plan("wren-straight-from-the-cell")
    before = threading.active_count()
    edit(client, plan_id, {"op": "set", "element": "receiver", "field": "brownout_v", "value": 2.5})
    began = time.monotonic()
    assert run(client, plan_id, "punch-on-low-pack")["state"] == "done"
    assert time.monotonic() - began < 8
    for _ in range(100):
        if threading.active_count() < before:
            break
        time.sleep(0.05)
    assert threading.active_count() < before
    assert runs.key_of(document)


def test_what_another_plan_waits_for_goes_on(client: Client, plan_id: int) -> None:
    """Two plans that are alike share a run: an edit of the one does not end it for the other."""
    edit(client, plan_id, {"op": "add", "kind": "scenario", "value": LONG})
    other = post(client, f"/api/plans/{plan_id}/copy", {"name": "The same"}).json()["id"]
    for one in (plan_id, other):
        assert client.get(f"/api/plans/{one}/run", {"scenario": "long"}).json()["state"] in ("waiting", "running")
    edit(client, plan_id, {"op": "set", "element": "receiver", "field": "brownout_v", "value": 2.5})
    still = client.get(f"/api/plans/{other}/run", {"scenario": "long", "start": "false"}).json()
    assert still["state"] in ("waiting", "running")
    post(client, f"/api/plans/{other}/run/stop", {"scenario": "long"})


@pytest.mark.parametrize(
    ("value", "says"),
    [
        ({"name": "X", "duration_s": 1e9}, "86400"),
        ({"name": "X", "duration_s": 1, "acts": [{"act": "plug", "at_s": -1}]}, "greater than or equal to 0"),
        ({"name": "X", "duration_s": 1, "begins": "nowhere"}, "which is no condition"),
        (
            {"name": "X", "duration_s": 1, "acts": [{"act": "state", "at_s": 0, "device": "ghost", "state": "peak"}]},
            "“ghost”",
        ),
    ],
)
def test_a_scenario_of_nonsense_says_what_and_where(
    client: Client, plan_id: int, value: dict[str, Any], says: str
) -> None:
    revision = client.get(f"/api/plans/{plan_id}").json()["revision"]
    answer = post(
        client,
        f"/api/plans/{plan_id}/edits",
        {"revision": revision, "edits": [{"op": "add", "kind": "scenario", "value": value}]},
    )
    assert answer.status_code == 422
    assert says in answer.json()["what"]
    assert client.get(f"/api/plans/{plan_id}").json()["revision"] == revision
    assert client.get(f"/api/plans/{plan_id}/run", {"scenario": "nix"}).status_code in (404, 422)


def test_the_command_line_tells_the_same(tmp_path: Any, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "wren.json"
    file.write_text(write_plan(demo.plan("wren-straight-from-the-cell")))
    assert simulate([str(file), "--list"]) == 0
    assert "punch-on-low-pack" in capsys.readouterr().out
    assert simulate([str(file), "--scenario", "punch-on-low-pack"]) == 0
    data = json.loads(capsys.readouterr().out)
    reset = next(one for one in data["events"] if one["code"] == "reset")
    assert (reset["element"], reset["condition"], round(reset["at_s"], 2)) == ("receiver", "landing", 0.33)
    assert simulate([str(file), "--scenario", "punch-on-low-pack", "--csv"]) == 0
    assert capsys.readouterr().out.count("\n") == len(data["times_s"]) + 1
    assert simulate([str(file), "--scenario", "nix"]) == 1
    assert "nix" in capsys.readouterr().err


def test_a_recording_is_read_into_a_scenario_and_nothing_is_kept(client: Client, plan_id: int) -> None:
    where = f"/api/plans/{plan_id}/scenarios/recording"
    body = {"name": "North field", "text": "time_s,throttle\n0,0.1\n1,0.9\n"}
    found = post(client, where, body).json()
    assert (found["id"], found["duration_s"], len(found["acts"])) == ("north-field", 1.0, 2)
    assert "north-field" not in {one["scenario"]["id"] for one in client.get(f"/api/plans/{plan_id}/scenarios").json()}
    refused = client.post(where, json.dumps({**body, "text": "time_s,throttle\n0,0.1\n1,high\n"}), "application/json")
    assert (refused.status_code, refused.json()["where"]) == (422, "row 3")


def test_what_nobody_looks_at_goes_one_by_one_and_gives_way_to_whoever_waits() -> None:
    """Of three in the background one moves; looked at, another joins it. While a question is worked on, the one nobody looks at rests."""
    track, free = Track(), threading.Event()
    steps = {"a": 0, "b": 0, "c": 0}

    def job(name: str) -> Job:
        def work(watch: Any) -> Any:
            while not free.is_set():
                go_on()
                steps[name] += 1
                time.sleep(0.005)

        return Job(name, name, Scenario(id=name, name=name, duration_s=1.0), work, looked_at=False)

    jobs = {name: job(name) for name in steps}
    for one in jobs.values():
        track.add(one)
    assert [one.state for one in jobs.values()] == ["running", "waiting", "waiting"]
    track.look(jobs["c"])
    assert [one.state for one in jobs.values()] == ["running", "waiting", "running"]
    with URGENCY.in_line():
        time.sleep(0.05)
        before = dict(steps)
        time.sleep(0.2)
        assert steps["a"] - before["a"] <= 1, "nobody waits for it"
        assert steps["c"] - before["c"] > 3, "somebody looks at it"
    free.set()
    for one in jobs.values():
        assert one.ready.wait(5)
    assert [one.state for one in jobs.values()] == ["done"] * 3
