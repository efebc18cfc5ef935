"""The log over HTTP: entries that are only added to, corrections, pictures, flights, and everything out and back."""

from __future__ import annotations

import base64
import csv
import io
import json
import time
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client
from PIL import Image

from tests.server.test_noise_api import edit
from tests.server.test_noise_api import post as posted
from yardmeter import demo
from yardmeter.core.flights.fly import Hidden, drawn, recorded
from yardmeter.server.builds.models import LogEntry
from yardmeter.server.builds.services import demos
from yardmeter.server.builds.services.flights import forget_flights
from yardmeter.server.builds.services.pictures import LONGEST

pytestmark = pytest.mark.django_db
PLAN = demo.plan("marshlight-second-wiring")


@pytest.fixture
def plan_id() -> int:
    forget_flights()
    return int(demos.add_demo("marshlight").plans.last().pk)


@pytest.fixture
def bare() -> int:
    """A plan of a build with nothing in its log but its steps."""
    return int(demos.add_demo("culvert").plans.last().pk)


@pytest.fixture(scope="module")
def flown() -> tuple[str, Hidden]:
    return recorded(PLAN, 4, 2.0)


def post(client: Client, path: str, body: Any) -> Any:
    return posted(client, path, body).json()


def lines(client: Client, plan_id: int, kind: str = "") -> list[dict[str, Any]]:
    answer = client.get(f"/api/plans/{plan_id}/log")
    assert answer.status_code == 200, answer.content
    return [one for one in answer.json()["lines"] if not kind or one["kind"] == kind]


def add(client: Client, plan_id: int, **fields: Any) -> int:
    answer = client.post(f"/api/plans/{plan_id}/log", {"kind": "note", "title": "seen", **fields}, content_type="application/json")  # fmt: skip
    assert answer.status_code == 201, answer.content
    return int(answer.json()["id"])


def kept(client: Client, plan_id: int, text: str) -> int:
    """A flight with every column as it was guessed."""
    look = post(client, f"/api/plans/{plan_id}/log/flights/look", {"text": text})
    columns = [{k: one[k] for k in ("index", "role", "unit", "rail")} for one in look["guesses"] if one["role"]]
    answer = client.post(f"/api/plans/{plan_id}/log/flights", {"text": text, "name": "Flight", "columns": columns}, content_type="application/json")  # fmt: skip
    assert answer.status_code == 201, answer.content
    return int(answer.json()["id"])


def test_the_line_of_time_has_steps_bench_and_entries_at_their_step(client: Client, bare: int) -> None:
    before = add(
        client, bare, kind="measurement", title="5 V pad", value=5.02, unit="V", place="5V A", instrument="meter"
    )
    edit(client, bare, {"op": "set", "element": "plan", "field": "note", "value": "wired anew"})
    after = add(client, bare, kind="symptom", title="reboots on the bench", text="after a minute")
    found = {one["id"]: one for one in lines(client, bare) if one["id"]}
    assert found[after]["step"] == found[before]["step"] + 1
    assert (found[before]["value"], found[before]["unit"], found[before]["place"]) == (5.02, "V", "5V A")
    assert [one["at"] for one in lines(client, bare)] == sorted(one["at"] for one in lines(client, bare))
    assert len(lines(client, bare, "step")) == 3


def test_the_demo_tells_a_story_in_its_order(client: Client, plan_id: int) -> None:
    told = lines(client, plan_id)
    assert [one["kind"] for one in told[:3]] == ["step", "evidence", "symptom"]
    first, second = (one["id"] for one in told if one["kind"] == "flight")
    found = client.get(f"/api/plans/{plan_id}/log/against?before={first}&after={second}").json()
    amps, volts = found["differences"]
    assert amps["verdict"] == "difference"
    assert -5 < amps["percent"] < -2.5  # balanced, its motors take 4 % less; what the rest draws stays
    assert volts["verdict"] == "no difference shown"


def test_a_correction_stands_for_the_first_and_that_stays(client: Client, bare: int) -> None:
    first = add(client, bare, kind="measurement", title="hover", value=19.0, unit="A")
    for title, value in (("hover", 18.5), ("hover, pack warm", 18.2)):
        answer = client.post(f"/api/plans/{bare}/log/{first}/correct", {"kind": "measurement", "title": title, "value": value, "unit": "A"}, content_type="application/json")  # fmt: skip
        assert answer.status_code == 201
    [line] = lines(client, bare, "measurement")
    assert (line["id"], line["title"], line["value"], line["corrected"]) == (first, "hover, pack warm", 18.2, True)
    assert LogEntry.objects.get(pk=first).data["value"] == 19.0
    client.post(f"/api/plans/{bare}/log/{first}/correct", {"kind": "measurement"}, content_type="application/json")
    assert lines(client, bare, "measurement") == []
    assert LogEntry.objects.count() == 4


def test_nothing_happens_later_than_now(client: Client, bare: int) -> None:
    body = {"kind": "note", "title": "tomorrow", "at": "2199-01-01T00:00:00Z"}
    answer = client.post(f"/api/plans/{bare}/log", body, content_type="application/json")
    assert answer.status_code == 422
    assert answer.json()["what"] == "That is later than now."


def test_a_log_goes_out_and_comes_back_whole(client: Client, bare: int) -> None:
    add(client, bare, kind="measurement", title="=2+2", value=1.5, unit="A", condition="Hover")
    add(client, bare, kind="note", title="a “quote”, a comma", text="two\nlines")
    out = client.get(f"/api/plans/{bare}/log.json").json()
    table = list(csv.DictReader(io.StringIO(client.get(f"/api/plans/{bare}/log.csv").content.decode())))
    assert {"'=2+2", "a “quote”, a comma"} <= {one["title"] for one in table}  # a spreadsheet runs no formula
    other = int(demos.add_demo("wren").plans.last().pk)
    assert post(client, f"/api/plans/{other}/log/back", {"text": json.dumps(out)})["made"] == 2
    assert post(client, f"/api/plans/{other}/log/back", {"text": json.dumps(out)})["made"] == 0
    [back] = lines(client, other, "measurement")
    assert (back["title"], back["value"], back["unit"], back["condition"]) == ("=2+2", 1.5, "A", "Hover")
    third = int(demos.add_demo("heathwatch").plans.last().pk)
    text = client.get(f"/api/plans/{bare}/log.csv").content.decode()
    assert post(client, f"/api/plans/{third}/log/back", {"text": text})["made"] == 2
    assert [one["title"] for one in lines(client, third, "measurement")] == ["=2+2"]
    assert [one["text"] for one in lines(client, third, "note")] == ["two\nlines"]
    for none in ("", "[1, 2]", "a,b\n1,2\n", "[", '"'):
        refused = client.post(f"/api/plans/{third}/log/back", {"text": none}, content_type="application/json")
        assert refused.status_code == 422, none
    wrong = client.post(f"/api/plans/{other}/log/back", {"text": '[{"kind": "note", "title": "x", "at": "soon"}]'}, content_type="application/json")  # fmt: skip
    assert "“soon” is no time" in wrong.json()["what"]


def picture_of(width: int, height: int, kind: str = "PNG") -> str:
    out = io.BytesIO()
    Image.new("RGB", (width, height), "red").save(out, kind)
    return base64.b64encode(out.getvalue()).decode()


def test_a_picture_is_written_anew_and_no_larger_than_is_shown(client: Client, bare: int) -> None:
    entry = add(client, bare)
    answer = client.post(f"/api/plans/{bare}/log/{entry}/picture", {"base64": picture_of(3000, 300)}, content_type="application/json")  # fmt: skip
    assert answer.status_code == 201, answer.content
    [line] = lines(client, bare, "note")
    shown = client.get(f"/api/plans/{bare}/log/picture/{line['pictures'][0]}")
    seen = Image.open(io.BytesIO(shown.content))
    assert (seen.format, seen.size) == ("JPEG", (LONGEST, 200))
    other = int(demos.add_demo("wren").plans.last().pk)
    assert client.get(f"/api/plans/{other}/log/picture/{line['pictures'][0]}").status_code == 404


@pytest.mark.parametrize(
    "sent",
    [
        lambda: "not base 64!", lambda: base64.b64encode(b"GIF89a" + bytes(100)).decode(), lambda: base64.b64encode(b"<svg/>").decode(),
        str, lambda: picture_of(40, 40)[:60], lambda: picture_of(8000, 6000),
    ],
    ids=["no base 64", "gif", "svg", "nothing", "broken off", "48 million pixels"],
)  # fmt: skip
def test_what_is_no_picture_or_too_large_is_refused(client: Client, bare: int, sent: Callable[[], str]) -> None:
    entry = add(client, bare)
    answer = client.post(f"/api/plans/{bare}/log/{entry}/picture", {"base64": sent()}, content_type="application/json")
    assert answer.status_code == 422, answer.content
    assert "picture" in answer.json()["what"]


def test_a_flight_is_read_shown_and_taken_over(client: Client, plan_id: int, flown: tuple[str, Hidden]) -> None:
    entry = kept(client, plan_id, flown[0])
    forget_flights()  # out of the file again
    seen = client.get(f"/api/plans/{plan_id}/log/flights/{entry}").json()
    assert seen["run_by"] == "amps"
    assert {one["kind"] for one in seen["phases"]} >= {"rest", "hover", "punch"}
    pack = next(one for one in seen["residuals"] if one["series"] == "volts")
    assert abs(pack["mean_v"]) < 0.4
    fit = next(one for one in seen["fits"] if one["key"] == "pack.cell_ohm")
    true = PLAN.pack.cell_ohm * flown[1].cell
    assert abs(fit["fitted"] - true) < 2 * fit["error"]
    scenario = post(client, f"/api/plans/{plan_id}/log/flights/{entry}/scenario", {"use": "throttle"})
    assert {act["act"] for act in scenario["acts"]} == {"throttle"}
    assert scenario["duration_s"] == pytest.approx(seen["duration_s"])
    edits = post(client, f"/api/plans/{plan_id}/log/flights/{entry}/take", {"keys": ["pack.cell_ohm", "motors.full_a"]})
    after = edit(client, plan_id, *edits)
    assert after["plan"]["pack"]["cell_ohm"] == pytest.approx(true, rel=0.01)
    motor = next(one for one in after["plan"]["devices"] if one["throttle"])
    assert motor["draws"]["peak"]["provenance"] == "measured"
    full = max(one["amps"] for one in motor["throttle"])
    assert full == pytest.approx(84 * flown[1].motors, rel=0.01)


def test_before_and_after_name_what_changed_between_them(client: Client, plan_id: int) -> None:
    hidden = drawn(PLAN, 1)
    first = kept(client, plan_id, recorded(PLAN, 11, 3.0, hidden)[0])
    more = Hidden(hidden.cell, hidden.motors * 1.08, hidden.draws)
    edit(client, plan_id, {"op": "set", "element": "pack", "field": "discharge_c", "value": 44})
    second = kept(client, plan_id, recorded(PLAN, 12, 3.0, more)[0])
    found = client.get(f"/api/plans/{plan_id}/log/against?before={first}&after={second}").json()
    amps = found["differences"][0]
    assert amps["verdict"] == "difference"
    assert 5 < amps["percent"] < 9
    assert found["changes"] == ["the pack’s numbers differ"]
    assert found["warning"] == ""
    same = client.get(f"/api/plans/{plan_id}/log/against?before={first}&after={first}").json()
    assert "The plan was the same" in same["warning"]


def test_a_table_that_is_none_says_so_and_nothing_is_kept(client: Client, bare: int) -> None:
    for text, told in (("", "heading"), ("a,b\n1,2\n2,3\n", ""), ("time_s,volts\n0,\x00\n", "")):
        answer = client.post(f"/api/plans/{bare}/log/flights/look", {"text": text}, content_type="application/json")
        assert answer.status_code in (200, 422), answer.content
        assert answer.status_code == 200 or told in answer.json()["what"]
    answer = client.post(
        f"/api/plans/{bare}/log/flights",
        {"text": "time_s,vbat\n0,16\n1,15.9\n", "name": "x", "columns": [{"index": 1, "role": "volts", "unit": "v"}, {"index": 1, "role": "amps", "unit": "a"}]},
        content_type="application/json",
    )  # fmt: skip
    assert answer.json()["what"] == "No column is said to be time."
    assert lines(client, bare, "flight") == []


def test_a_log_of_five_thousand_entries_opens_within_a_second(client: Client, bare: int) -> None:
    at = "2026-03-01T12:00:{:02d}+00:00"
    rows = [{"kind": "note", "title": f"note {k}", "text": "x" * 80, "at": at.format(k % 60)} for k in range(5000)]
    assert post(client, f"/api/plans/{bare}/log/back", {"text": json.dumps(rows)})["made"] == 5000
    taken_s = []
    for _ in range(3):  # the least of its own work: beside it other tests are run, and now and then the collector
        began = time.process_time()
        found = client.get(f"/api/plans/{bare}/log")
        taken_s.append(time.process_time() - began)
    assert len(found.json()["lines"]) == 5002
    assert min(taken_s) < 1.0
