"""Noise, grounds and sizing over HTTP."""

from __future__ import annotations

import json
from typing import Any

import pytest
from django.test import Client

from yardmeter.server.builds.services import analysis, demos
from yardmeter.server.shelf.services import stock_shelf

pytestmark = pytest.mark.django_db


@pytest.fixture
def plan_id() -> int:
    stock_shelf()
    found: int = demos.add_demo("marshlight").plans.first().pk
    return found


def post(client: Client, path: str, body: Any) -> Any:
    return client.post(path, json.dumps(body), content_type="application/json")


def edit(client: Client, plan_id: int, *edits: dict[str, Any]) -> Any:
    head = client.get(f"/api/plans/{plan_id}/head").json()["revision"]
    answer = post(client, f"/api/plans/{plan_id}/edits", {"revision": head, "edits": list(edits)})
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_noise_is_answered_and_kept_while_nothing_electrical_changes(
    client: Client, plan_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    edit(client, plan_id, {"op": "set", "element": "camera", "field": "hold_s", "value": 0.0123})  # like nobody else's
    made = []
    real = analysis.review_noise
    monkeypatch.setattr(analysis, "review_noise", lambda solved: made.append(1) or real(solved))
    first = client.get(f"/api/plans/{plan_id}/noise").json()
    assert {f["code"] for f in first["findings"]} >= {"noise.capacitor_volts", "noise.video", "noise.absent"}
    assert len(first["videos"]) == len(first["bare_videos"]) == 2
    edit(client, plan_id, {"op": "set", "element": "camera", "field": "note", "value": "seen"})
    assert client.get(f"/api/plans/{plan_id}/noise").json() == first
    assert len(made) == 1
    edit(client, plan_id, {"op": "set", "element": "esc-capacitor", "field": "farad", "value": 0.002})
    better = client.get(f"/api/plans/{plan_id}/noise").json()
    assert len(made) == 2
    assert better["videos"][0]["total_v"]["hover"] < first["videos"][0]["total_v"]["hover"]


def test_the_way_of_a_line_and_its_errors(client: Client, plan_id: int) -> None:
    base = f"/api/plans/{plan_id}/noise/path"
    found = client.get(base, {"device": "sender", "condition": "hover"}).json()
    assert found["stages"][0]["element"] == "motors"
    assert len(found["sweep"]["hertz"]) == len(found["sweep"]["with_ohm"]) == 200
    named = client.get(base, {"device": "sender", "condition": "hover", "line": "12 V buck, output ripple"}).json()
    assert named["hz"] == 500_000
    assert client.get(base, {"device": "sender", "condition": "nowhere"}).status_code == 404
    refused = client.get(base, {"device": "rail-5v", "condition": "hover"})
    assert refused.status_code == 422
    assert refused.json()["remedy"]
    quiet = client.get(base, {"device": "sender", "condition": "usb-bench"})
    assert quiet.status_code == 200


def test_parts_are_tried_and_fitted(client: Client, plan_id: int) -> None:
    trials = post(client, f"/api/plans/{plan_id}/noise/trials", {"at": "esc-rail", "purpose": "bulk"}).json()["trials"]
    best = next(t for t in trials if t["best"])
    assert best["with_v"] < best["without_v"]
    view = edit(client, plan_id, *best["edits"])
    assert any(f["part"] == best["key"] for f in view["plan"]["filters"])
    asked = {"at": "sender", "purpose": "feed", "wanted_db": 81}
    assert post(client, f"/api/plans/{plan_id}/noise/trials", asked).status_code == 422
    assert post(client, f"/api/plans/{plan_id}/noise/trials", {"at": "moon", "purpose": "bulk"}).status_code == 404
    assert post(client, f"/api/plans/{plan_id}/noise/trials", {"at": "esc-rail", "purpose": "magic"}).status_code == 422
    assert post(client, f"/api/plans/{plan_id}/noise/trials", {"at": "hover", "purpose": "feed"}).status_code == 422


def test_schools_of_grounds_and_feeds(client: Client, plan_id: int) -> None:
    tables = client.get(f"/api/plans/{plan_id}/schools").json()
    assert [t["question"][:5] for t in tables] == ["Where", "Does "]
    pair = next(s for s in tables[0]["schools"] if s["key"] == "pair")
    view = edit(client, plan_id, *pair["edits"])
    assert "ground.chain" not in {f["code"] for f in view["analysis"]["findings"]}
    feeds = client.get(f"/api/plans/{plan_id}/noise/schools", {"device": "sender"}).json()
    assert len(feeds) == 2
    assert client.get(f"/api/plans/{plan_id}/noise/schools", {"device": "rail-5v"}).status_code == 422


def test_the_hook_up_list_and_workings_of_grounds(client: Client, plan_id: int) -> None:
    found = client.get(f"/api/plans/{plan_id}/hookup").json()
    assert {"feed:camera", "return:camera-gnd", "signal:video-cam"} <= {row["id"] for row in found["rows"]}
    asked = {"element": "camera", "quantity": "ground", "condition": "punch-low"}
    working = client.get(f"/api/plans/{plan_id}/working", asked).json()
    assert working["formula"].startswith("U = U1 + I1 · R1")
    by_symbol = {one["symbol"]: one for one in working["inputs"]}
    assert by_symbol["U1"]["element"] == "sender"
    shift = client.get(f"/api/plans/{plan_id}/working", {**asked, "element": "video-cam", "quantity": "shift"}).json()
    assert shift["result"]["text"] == "33.9 mV"
    assert client.get(f"/api/plans/{plan_id}/working", {**asked, "element": "rail-5v"}).status_code == 404


def test_ripple_and_interference_show_their_working(client: Client, plan_id: int) -> None:
    asked = {"quantity": "noise", "condition": "hover"}
    pin = client.get(f"/api/plans/{plan_id}/working", {**asked, "element": "camera"}).json()
    sizes = [one["text"] for one in pin["inputs"]]
    assert len(sizes) > 3
    assert "chopped motor current" in pin["inputs"][0]["origin"]
    picture = client.get(f"/api/plans/{plan_id}/working", {**asked, "element": "video-cam"}).json()
    assert "between the grounds" in picture["inputs"][0]["origin"]
    assert picture["result"]["value"] == pytest.approx(0.0193, abs=0.001)
    line = {"id": "scope", "name": "Scope", "element": "motors", "kind": "pwm", "hz": 24_000, "amplitude_pp": 0.4}
    edit(client, plan_id, {"op": "add", "kind": "noise", "value": line})
    after = client.get(f"/api/plans/{plan_id}/working", {**asked, "element": "camera"}).json()
    assert "measured" in {one["origin"] for one in after["inputs"]}
    assert client.get(f"/api/plans/{plan_id}/working", {**asked, "element": "rail-5v"}).status_code == 404
    assert client.get(f"/api/plans/{plan_id}/working", {**asked, "element": "rc"}).status_code == 404


def test_the_led_resistor(client: Client) -> None:
    body = {"supply_v": [4.8, 5, 5.25], "forward_v": [2.9, 3.1, 3.4], "wanted_a": 0.02, "strings": 3}
    found = post(client, "/api/sizing/led", body).json()["resistor"]
    assert found["part"] is None  # the shelf is not stocked here
    assert found["ohm"] == 120  # (5.25 − 2.9)/0.02 = 117.5 Ω, next in E24
    dark = post(client, "/api/sizing/led", {**body, "series": 3})
    assert dark.status_code == 422
    assert "does not light" in dark.json()["what"]
    turned = post(client, "/api/sizing/led", {**body, "supply_v": [5.25, 5, 4.8]})
    assert turned.status_code == 422
    assert turned.json()["where"] == "supply_v"


def test_an_led_line_for_a_rail_and_the_edit_that_fits_it(client: Client, plan_id: int) -> None:
    body = {"rail": "rail-12v", "forward_v": [3.0, 3.1, 3.4], "series": 2, "strings": 4, "wanted_a": 0.02}
    path = f"/api/plans/{plan_id}/led"
    found = post(client, path, {**body, "supply_v": [11.5, 12, 12.6]}).json()
    assert found["resistor"]["ohm"] == 330  # (12.6 − 6)/0.02
    assert not found["over"]
    after = edit(client, plan_id, found["edit"])
    line = next(d for d in after["plan"]["devices"] if d["id"] == after["added"][0])
    # Dark below two LEDs of 3.0 V; 30 mA through 330 Ω above them are 15.9 V.
    assert (line["min_v"], line["max_v"]) == (6.0, pytest.approx(15.9))
    state = next(d for d in after["analysis"]["budget"]["devices"] if d["id"] == line["id"])["states"]["hover"]
    assert state["asked_a"] == pytest.approx(4 * (11.98 - 6.2) / 330, rel=0.01)
    own = post(client, path, body).json()["supply_v"]
    assert own == sorted(own)
    assert own[2] == pytest.approx(11.98, abs=0.1)
    assert post(client, path, {**body, "wanted_a": 0.045}).json()["over"]
    for spoilt in ({"rail": "nowhere"}, {"rail": "rail-usb"}):
        assert post(client, path, {**body, **spoilt}).status_code == 422


def test_a_draw_is_read_by_the_core(client: Client) -> None:
    found = post(client, "/api/shelf/draw", {"text": "9W@12V", "provenance": "guess"}).json()
    assert (found["value"], found["unit"], found["at_v"], found["provenance"]) == (9, "W", 12, "guess")
    refused = post(client, "/api/shelf/draw", {"text": "12 bananas"})
    assert refused.status_code == 422
    assert "bananas" in refused.json()["what"]


def test_what_a_step_did_to_the_noise_and_what_one_would_do(client: Client, plan_id: int) -> None:
    base = f"/api/plans/{plan_id}"
    larger = {"op": "set", "element": "esc-capacitor", "field": "farad", "value": 0.004}
    head = client.get(f"{base}/head").json()["revision"]
    tried = post(client, f"{base}/noise/preview", {"revision": head, "edits": [larger]}).json()
    assert client.get(f"{base}/head").json()["revision"] == head
    texts = {c["text"].split(":")[0]: c for c in tried}
    assert texts["Camera video"]["direction"] == "better"
    view = edit(client, plan_id, larger)
    assert view["before"] == head
    assert client.get(f"{base}/noise/changes", {"before": head}).json() == tried
    back = post(client, f"{base}/undo", {"revision": view["revision"]}).json()
    undone = client.get(f"{base}/noise/changes", {"before": back["before"]}).json()
    assert {c["direction"] for c in undone} == {"worse"}
    assert post(client, f"{base}/noise/preview", {"revision": 10**6, "edits": [larger]}).status_code == 409
    assert client.get(f"{base}/noise/changes", {"before": 10**6}).status_code == 404
