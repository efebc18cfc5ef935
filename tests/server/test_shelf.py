"""The shelf and the open formats through the API and the command line."""

import json
import re
import subprocess
import sys
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import pytest
from django.test import Client

from yardmeter import demo
from yardmeter.core.formats.plan_json import write_plan
from yardmeter.server.builds.services import demos
from yardmeter.server.shelf import services

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def _stocked() -> None:
    services.stock_shelf()


@pytest.fixture
def plan(client: Client) -> dict[str, Any]:
    return client.get(f"/api/plans/{demos.add_demo('culvert').plans.first().pk}").json()


def send(client: Client, verb: str, path: str, body: Any = None) -> Any:
    return getattr(client, verb)(path, json.dumps(body or {}), content_type="application/json")


def find(client: Client, text: str, **more: str) -> list[dict[str, Any]]:
    return client.get("/api/shelf", {"q": text, **more}).json()


def test_search_needs_every_word_and_filters_by_kind(client: Client) -> None:
    assert len(find(client, "")) == len(demo.starter_parts())
    assert [p["part"]["key"] for p in find(client, "thermal core")] == ["cam-thermal-core"]
    assert {p["part"]["kind"] for p in find(client, "5 v", kind="bec")} == {"bec"}
    assert find(client, "thermal bicycle") == []


def test_stocking_twice_adds_nothing_and_keeps_own_changes(client: Client) -> None:
    part = find(client, "thermal core")[0]["part"]
    heavier = {"part": {**part, "weight_g": 11}, "version": 1}
    changed = send(client, "put", f"/api/shelf/{part['key']}", heavier)
    assert (changed.status_code, changed.json()["version"]) == (200, 2)
    # A second client that saw the first version does not overwrite what it never saw.
    stale = send(client, "put", f"/api/shelf/{part['key']}", {**heavier, "part": {**part, "weight_g": 12}})
    assert (stale.status_code, stale.json()["kind"], stale.json()["current_revision"]) == (409, "stale", 2)
    assert services.stock_shelf() == 0
    again = find(client, "thermal core")[0]
    assert (again["own"], again["part"]["weight_g"]) == (True, 11)


def test_own_parts_are_made_refused_twice_and_removed(client: Client) -> None:
    part = {**find(client, "thermal core")[0]["part"], "key": "mine", "name": "Mine"}
    assert send(client, "post", "/api/shelf", part).status_code == 201
    taken = send(client, "post", "/api/shelf", part)
    assert (taken.status_code, taken.json()["where"]) == (409, "key")
    wrong = send(client, "post", "/api/shelf", {**part, "key": "other", "bec": None, "kind": "bec"})
    assert wrong.status_code == 422
    assert client.delete("/api/shelf/mine").status_code == 200
    assert client.delete("/api/shelf/cam-thermal-core").status_code == 422  # starter parts stay
    assert client.delete("/api/shelf/mine").status_code == 404


def test_a_changed_part_updates_a_plan_only_when_asked(client: Client, plan: dict[str, Any]) -> None:
    placed = send(
        client,
        "post",
        f"/api/shelf/place/{plan['id']}",
        {"revision": plan["revision"], "part": "gnss-compass", "rail": "rail-5v"},
    ).json()
    device = placed["plan"]["devices"][-1]
    assert (device["part"], device["feed"]["rail"]) == ("gnss-compass", "rail-5v")
    used = client.get("/api/shelf/gnss-compass/used").json()
    assert [u["plan"] for u in used] == [plan["id"]]
    part = find(client, "gnss compass")[0]["part"]
    part["device"]["draws"]["peak"]["value"] = 0.3
    assert send(client, "put", "/api/shelf/gnss-compass", {"part": part, "version": 1}).status_code == 200
    assert client.get(f"/api/plans/{plan['id']}").json()["plan"]["devices"][-1]["draws"]["peak"]["value"] == 0.1
    path = f"/api/shelf/gnss-compass/update/{plan['id']}"
    updated = send(client, "post", path).json()
    assert updated["plan"]["devices"][-1]["draws"]["peak"]["value"] == 0.3
    assert updated["plan"]["devices"][-1]["feed"]["rail"] == "rail-5v"
    assert "up to date" in send(client, "post", path).json()["what"]


def test_a_stale_place_is_refused(client: Client, plan: dict[str, Any]) -> None:
    body = {"revision": plan["revision"], "part": "cam-micro", "rail": "rail-5v"}
    assert send(client, "post", f"/api/shelf/place/{plan['id']}", body).status_code == 200
    assert send(client, "post", f"/api/shelf/place/{plan['id']}", body).status_code == 409


def test_a_build_is_started_from_the_shelf(client: Client) -> None:
    body = {
        "name": "Warbler",
        "pack": "pack-4s-1500",
        "boards": ["esc-four", "fc-video"],
        "devices": ["cam-micro", "rx-mini"],
    }
    made = send(client, "post", "/api/builds/start", body)
    assert made.status_code == 201
    view = client.get(f"/api/plans/{made.json()['plans'][0]['id']}").json()
    assert [d["feed"]["rail"] for d in view["plan"]["devices"]] == ["five", "five", "five"]
    assert send(client, "post", "/api/builds/start", {**body, "pack": "rx-mini"}).json()["where"] == "pack"
    assert send(client, "post", "/api/builds/start", {**body, "devices": ["no-such-part"]}).status_code == 404


def test_what_is_taken_away_can_be_read(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}"
    budget = client.get(f"{path}/budget.csv").content.decode().splitlines()
    assert budget[0].startswith("what,name,condition,volts_v,asked_a")
    assert len(budget) == 1 + 6 * (len(plan["plan"]["rails"]) + len(plan["plan"]["devices"]))
    picture = ET.fromstring(client.get(f"{path}/rails.svg", {"condition": "hover"}).content)
    assert picture.tag.endswith("svg")
    assert any("5 V rail" in (t.text or "") for t in picture.iter())
    assert any((t.text or "").endswith(" more") for t in picture.iter())
    assert (
        max(len(t.text or "") for t in picture.iter()) <= 80
    )  # what hangs on a rail is cut to the room beside its tally
    assert "Bout" in client.get(f"{path}/netlist", {"condition": "hover"}).content.decode()
    assert client.get(f"{path}/netlist", {"condition": "nowhere"}).status_code == 404


def test_compare_and_places_over_http(client: Client, plan: dict[str, Any]) -> None:
    ids = [p["id"] for p in plan["build"]["plans"]]
    table = client.get("/api/plans/compare", {"ids": ids}).json()
    assert table["names"] == ["first wiring", "lights on"]
    assert client.get("/api/plans/compare", {"ids": ids[:1]}).status_code == 422
    found = send(client, "post", f"/api/plans/{plan['id']}/places", {"device": "receiver"}).json()
    assert any(p["kind"] == "bec" for p in found)
    assert any(p["current"] for p in found)
    assert send(client, "post", f"/api/plans/{plan['id']}/places", {"device": "nobody"}).status_code == 404


def test_the_core_without_a_browser(tmp_path: Path) -> None:
    file = tmp_path / "plan.json"
    file.write_text(write_plan(demo.plan("wren-boosted-logic")))

    def run(*arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "yardmeter.cli", *arguments], capture_output=True, text=True, timeout=60, check=False
        )

    solved = json.loads(run("solve", str(file), "--condition", "hover").stdout)
    assert [c["id"] for c in solved["budget"]["conditions"]] == ["hover"]
    assert run("netlist", str(file)).stdout.startswith("* boosted logic: USB bench")
    missing = run("solve", str(tmp_path / "none.json"))
    assert (missing.returncode, "No such file" in missing.stderr) == (1, True)
    file.write_text("{")
    assert "line 1, column 2" in run("solve", str(file)).stderr


@pytest.mark.parametrize(
    ("typed", "all_hold"),
    [("gps", ("gnss",)), ("vtx", ("sender",)), ("lipo", ("pack", "battery", "cell")), ("fc", ("controller",)), ("gps compass", ("compass",))],
)  # fmt: skip
def test_a_part_is_found_by_what_else_it_is_called(client: Client, typed: str, all_hold: tuple[str, ...]) -> None:
    found = client.get("/api/shelf", {"q": typed}).json()
    names = [json.dumps(one["part"]).lower() for one in found]
    assert names
    assert all(any(word in name for word in (*all_hold, typed)) for name in names)


def test_a_short_word_is_no_piece_of_another(client: Client) -> None:
    """“fc” means a controller too, yet “controller” does not find everything with an f and a c beside each other."""
    found = client.get("/api/shelf", {"q": "controller"}).json()
    assert found
    assert all(re.search("controller|autopilot", json.dumps(one).lower()) for one in found)
