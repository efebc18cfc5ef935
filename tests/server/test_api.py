"""The server through its HTTP API."""

import gzip
import html
import itertools
import json
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from django.db import OperationalError, transaction
from django.test import Client

from yardmeter.core.patience import AbandonedError, patience
from yardmeter.core.plan import SCHEMA_VERSION
from yardmeter.server.builds.documents import difference, restored
from yardmeter.server.builds.models import Plan, Revision
from yardmeter.server.builds.services import analysis, bench_kept, demos, editing
from yardmeter.server.kept import kept_bytes

pytestmark = pytest.mark.django_db


@pytest.fixture
def plan(client: Client) -> dict[str, Any]:
    """The first plan of a fresh demo build, as the API shows it."""
    build = demos.add_demo("marshlight")
    return client.get(f"/api/plans/{build.plans.first().pk}").json()


def post(client: Client, path: str, body: Any) -> Any:
    return client.post(path, json.dumps(body), content_type="application/json")


def draw(text: str, device: str = "computer", state: str = "typical") -> dict[str, str]:
    return {"op": "set_draw", "device": device, "state": state, "text": text}


def asked(view: dict[str, Any], rail: str, condition: str) -> float:
    return next(r for r in view["analysis"]["budget"]["rails"] if r["id"] == rail)["states"][condition]["asked_a"]


def test_health(client: Client) -> None:
    answer = client.get("/api/health").json()
    assert answer["status"] == "ok"


def test_an_edit_moves_numbers_and_undo_and_redo_step(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}"
    before = asked(plan, "rail-5v", "hover")
    edited = post(client, f"{path}/edits", {"revision": plan["revision"], "edits": [draw("400mA")]}).json()
    # The computer drew 4.5 W at about 5 V; 400 mA at its 5 V nominal is 2 W.
    assert asked(edited, "rail-5v", "hover") == pytest.approx(before - 0.5, abs=0.02)
    assert any(c["direction"] == "better" for c in edited["changes"])
    assert edited["undo"] == "Companion computer: typical draw 400mA"
    undone = post(client, f"{path}/undo", {"revision": edited["revision"]}).json()
    assert asked(undone, "rail-5v", "hover") == before
    assert undone["redo"] == edited["undo"]
    redone = post(client, f"{path}/redo", {"revision": undone["revision"]}).json()
    assert redone["revision"] == edited["revision"]
    assert client.get(path).json()["plan"]["devices"] == edited["plan"]["devices"]


def test_history_keeps_what_an_edit_after_undo_leaves_behind(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}"
    one = post(client, f"{path}/edits", {"revision": plan["revision"], "edits": [draw("1A")]}).json()
    back = post(client, f"{path}/undo", {"revision": one["revision"]}).json()
    two = post(client, f"{path}/edits", {"revision": back["revision"], "edits": [draw("2A")]}).json()
    assert two["redo"] is None
    again = post(client, f"{path}/return", {"revision": two["revision"], "to": one["revision"]}).json()
    assert again["plan"] == one["plan"]
    # Every step there ever was is listed; the one an edit after undo left behind stands beside the line now.
    entries = [(h["summary"][-2:], h["aside"], h["current"]) for h in client.get(f"{path}/history").json()]
    assert entries == [("ld", False, False), ("1A", False, True), ("2A", True, False)]
    last = post(client, f"{path}/return", {"revision": again["revision"], "to": two["revision"]}).json()
    assert last["plan"] == two["plan"]
    assert [h["aside"] for h in client.get(f"{path}/history").json()] == [False, True, False]


def test_another_clients_undo_and_edit_leave_ones_own_step_reachable(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}"
    mine = post(client, f"{path}/edits", {"revision": plan["revision"], "edits": [draw("1A")]}).json()
    undone = post(client, f"{path}/undo", {"revision": mine["revision"]}).json()  # the other client
    post(client, f"{path}/edits", {"revision": undone["revision"], "edits": [draw("2A")]})
    listed = {h["revision"]: h for h in client.get(f"{path}/history").json()}
    assert listed[mine["revision"]]["parent"] == plan["revision"]
    assert listed[mine["revision"]]["aside"]


def test_what_is_known_of_a_plan_is_known_of_all_that_say_the_same(
    client: Client, plan: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Two builds read from one file are worked out once; an edit of one is the other's no more, and its way back finds what it left."""
    real, worked_out = analysis.review, []
    monkeypatch.setattr(analysis, "review", lambda document: worked_out.append(document.name) or real(document))
    body = {"name": "twin", "plan": {**plan["plan"], "note": "nobody else says this"}}
    first, second = (post(client, "/api/builds", body).json()["plans"][0] for _ in range(2))
    shown = [client.get(f"/api/plans/{one['id']}").json()["analysis"] for one in (first, second)]
    assert shown[0] == shown[1]
    assert len(worked_out) == 1
    known = [bench_kept.known_of(Plan.objects.get(pk=one["id"])) for one in (first, second)]
    assert known[0] is known[1]
    path = f"/api/plans/{first['id']}"
    edited = post(client, f"{path}/edits", {"revision": first["revision"], "edits": [draw("123mA")]}).json()
    assert asked(edited, "rail-5v", "hover") < asked(
        client.get(f"/api/plans/{second['id']}").json(), "rail-5v", "hover"
    )
    assert client.get(path).json()["analysis"] == edited["analysis"]
    assert len(worked_out) == 1, "an edit's own analysis is the plan's"
    assert bench_kept.known_of(Plan.objects.get(pk=first["id"])) is not known[1]
    assert post(client, f"{path}/undo", {"revision": edited["revision"]}).json()["analysis"] == shown[1]


def test_fixes_that_nobody_waited_for_are_gone_on_with(
    client: Client, plan: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    edited = post(client, f"/api/plans/{plan['id']}/edits", {"revision": plan["revision"], "edits": [draw("321mA")]})
    found = analysis.reviewed(Revision.objects.get(pk=edited.json()["revision"]))
    known, turns, real = [], itertools.count(), analysis.tried_fixes
    monkeypatch.setattr(analysis, "tried_fixes", lambda *asked: known.append(len(asked[3])) or real(*asked))
    held = kept_bytes().get("trials", 0)
    with patience(lambda: next(turns) > 100), pytest.raises(AbandonedError):
        analysis.fixes_of(found, ())
    assert kept_bytes()["trials"] > held
    assert analysis.fixes_of(found, ()) == real(found, analysis.reviewed_noise(found), ())
    assert known[0] == 0 < known[1]
    assert kept_bytes().get("trials", 0) == held


def test_history_is_stored_as_what_differs(client: Client, plan: dict[str, Any]) -> None:
    """Sixty edits: every step comes back to the letter, none costs more than a kilobyte, some are whole ones."""
    path, view, seen = f"/api/plans/{plan['id']}", plan, {}
    edits: list[dict[str, Any]] = [draw(f"{n}00mA") for n in range(1, 50)]
    edits += [{"op": "set", "element": "plan", "field": "note", "value": "x" * n} for n in range(5)]
    edits += [{"op": "duplicate", "element": "recorder"}, {"op": "remove", "element": "recorder"}]
    for one in edits:
        view = post(client, f"{path}/edits", {"revision": view["revision"], "edits": [one]}).json()
        seen[view["revision"]] = view["plan"]
    stored = Revision.objects.filter(plan=plan["id"])
    steps = [len(one.packed) for one in stored if one.base_id]
    assert len(steps) == len(edits)
    assert sum(steps) / len(steps) < 1000
    assert len(stored.get(pk=plan["revision"]).packed) > 3000
    for revision, document in seen.items():
        assert stored.get(pk=revision).document() == document


def test_a_step_behind_an_older_format_is_stored_whole(client: Client, plan: dict[str, Any]) -> None:
    """What a step of another format differs by would be read as of this one."""
    stored = Revision.objects.filter(plan=plan["id"])
    stored.update(schema_version=SCHEMA_VERSION - 1)
    first, second = (draw(one) for one in ("0.4A", "0.5A"))
    view = post(client, f"/api/plans/{plan['id']}/edits", {"revision": plan["revision"], "edits": [first]}).json()
    whole = stored.get(pk=view["revision"])
    assert (whole.base_id, whole.document()) == (None, view["plan"])
    view = post(client, f"/api/plans/{plan['id']}/edits", {"revision": view["revision"], "edits": [second]}).json()
    assert stored.get(pk=view["revision"]).base_id == whole.pk


@pytest.mark.parametrize("base", [{}, {"a": [{"id": "x"}], "gone": 1}])
def test_differences_restore_whatever_changed(base: dict[str, Any]) -> None:
    changed = {
        "a": [{"id": "y", "v": [1]}, {"id": "x", "w": {}}],
        "b": [{"id": "x"}, {"id": "x"}],
        "c": None,
        "d": [1, 2],
    }
    for one, other in ((base, changed), (changed, base), (changed, {**changed, "a": changed["a"][::-1]})):
        assert restored(one, difference(one, other)) == other


def test_what_does_not_go_with_how_things_stand_is_a_conflict(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}"
    for step in ("undo", "redo"):
        answer = post(client, f"{path}/{step}", {"revision": plan["revision"]})
        assert (answer.status_code, answer.json()["kind"]) == (409, "conflict")
    second = plan["build"]["plans"][1]["id"]
    assert client.delete(f"/api/plans/{second}").status_code == 200
    assert client.delete(path).status_code == 409  # the last one of its build


def test_a_build_renamed_by_two_clients_keeps_the_first_name(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/builds/{plan['build']['id']}"
    rename = {"version": plan["build"]["version"], "name": "Mine"}
    body = json.dumps(rename)
    assert client.patch(path, body, content_type="application/json").json()["version"] == rename["version"] + 1
    stale = client.patch(path, json.dumps({**rename, "name": "Theirs"}), content_type="application/json")
    assert (stale.status_code, stale.json()["kind"]) == (409, "stale")
    assert client.get(path).json()["name"] == "Mine"


def test_plan_names_are_unique_in_a_build_on_every_path(client: Client, plan: dict[str, Any]) -> None:
    """Copied, renamed, undone, brought back: never two plans of one name."""
    path, names = f"/api/plans/{plan['id']}", [p["name"] for p in plan["build"]["plans"]]

    def rename(view: dict[str, Any], name: str) -> Any:
        edit = {"op": "set", "element": "plan", "field": "name", "value": name}
        return post(client, f"/api/plans/{view['id']}/edits", {"revision": view["revision"], "edits": [edit]})

    taken = rename(plan, names[1])
    assert (taken.status_code, taken.json()["where"]) == (409, "name")
    copy = post(client, f"{path}/copy", {"name": names[1]}).json()
    assert copy["name"] not in names
    away = rename(plan, "away").json()
    second = client.get(f"/api/plans/{plan['build']['plans'][1]['id']}").json()
    assert rename(second, names[0]).status_code == 200
    assert post(client, f"{path}/undo", {"revision": away["revision"]}).status_code == 409
    assert client.delete(path).status_code == 200
    assert rename(client.get(f"/api/plans/{second['id']}").json(), "away").status_code == 200
    back = post(client, f"{path}/restore", {}).json()
    assert back["name"] == "away (2)"
    assert client.get(path).json()["plan"]["name"] == "away (2)"
    shown = [p["name"] for p in client.get(f"/api/builds/{plan['build']['id']}").json()["plans"]]
    assert len(shown) == len(set(shown)) == 3


@pytest.mark.parametrize(
    ("complaint", "status", "kind"),
    [
        ("database or disk is full", 507, "full"),
        ("database is locked", 503, "busy"),
        ("attempt to write a readonly database", 503, "data-file"),
    ],
)
def test_what_the_disk_says_is_said_plainly(
    client: Client, plan: dict[str, Any], monkeypatch: pytest.MonkeyPatch, complaint: str, status: int, kind: str
) -> None:
    def fails(*_: object, **__: object) -> None:
        raise OperationalError(complaint)

    monkeypatch.setattr("yardmeter.server.builds.services.editing.append_revision", fails)
    answer = post(client, f"/api/plans/{plan['id']}/edits", {"revision": plan["revision"], "edits": [draw("1A")]})
    assert (answer.status_code, answer.json()["kind"]) == (status, kind)
    assert "nothing was stored" in answer.json()["what"]
    assert client.get(f"/api/plans/{plan['id']}").json()["revision"] == plan["revision"]


def test_preview_stores_nothing(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}"
    count = Revision.objects.count()
    seen = post(client, f"{path}/preview", {"revision": plan["revision"], "edits": [draw("1A")]}).json()
    assert asked(seen, "rail-5v", "hover") != asked(plan, "rail-5v", "hover")
    assert Revision.objects.count() == count
    assert client.get(path).json()["revision"] == plan["revision"]


def test_a_stale_edit_is_refused_with_what_changed(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}"
    first = post(client, f"{path}/edits", {"revision": plan["revision"], "edits": [draw("1A")]}).json()
    late = post(client, f"{path}/edits", {"revision": plan["revision"], "edits": [draw("2A")]})
    assert late.status_code == 409
    body = late.json()
    assert (body["kind"], body["current_revision"], body["steps"]) == (
        "stale",
        first["revision"],
        ["Companion computer: typical draw 1A"],
    )
    assert client.get(path).json()["revision"] == first["revision"]


def test_an_edit_that_another_overtakes_while_it_is_worked_out_is_refused(
    client: Client, plan: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    """The head moves on, or the plan is deleted, between the look at it and the write: nothing of the slower one is stored."""
    work_out, path = editing.review, f"/api/plans/{plan['id']}"

    def overtaken_by(act: Callable[[], Any]) -> Any:
        def slow(*asked: Any) -> Any:
            monkeypatch.setattr(editing, "review", work_out)
            assert act().status_code in (200, 204)
            return work_out(*asked)

        monkeypatch.setattr(editing, "review", slow)
        return post(client, f"{path}/edits", {"revision": plan["revision"], "edits": [draw("0.4A")]})

    other = {"revision": plan["revision"], "edits": [draw("0.5A")]}
    refused = overtaken_by(lambda: post(client, f"{path}/edits", other))
    assert (refused.status_code, refused.json()["kind"]) == (409, "stale")
    assert len(client.get(f"{path}/history").json()) == 2
    plan = client.get(path).json()
    gone = overtaken_by(lambda: client.delete(path))
    assert (gone.status_code, gone.json()["kind"]) == (404, "missing")
    assert Revision.objects.filter(plan=plan["id"]).count() == 2


@pytest.mark.parametrize("text", ["12 bananas", "-3A", "", "9W@", "1e9A"])
def test_rubbish_is_refused_in_words_and_stores_nothing(client: Client, plan: dict[str, Any], text: str) -> None:
    count = Revision.objects.count()
    answer = post(
        client, f"/api/plans/{plan['id']}/edits", {"revision": plan["revision"], "edits": [draw("1A"), draw(text)]}
    )
    assert answer.status_code == 422
    assert answer.json()["where"] == "Companion computer, typical draw"
    assert answer.json()["what"]
    assert answer.json()["remedy"]
    assert Revision.objects.count() == count


def test_malformed_requests(client: Client, plan: dict[str, Any]) -> None:
    path = f"/api/plans/{plan['id']}/edits"
    assert client.post(path, "{", content_type="application/json").status_code == 400
    for body in (
        {},
        [],
        {"revision": 1, "edits": []},
        {"revision": "x", "edits": [draw("1A")]},
        {"revision": 1, "edits": [{"op": "explode"}]},
    ):
        answer = post(client, path, body)
        assert answer.status_code == 422, body
        assert answer.json()["problems"]
    assert client.get("/api/plans/999999").status_code == 404
    assert client.get("/api/plans/999999").json()["remedy"]


def test_working_shows_formula_inputs_and_origin(client: Client, plan: dict[str, Any]) -> None:
    query = {"element": "rail-5v", "quantity": "usable", "condition": "hover"}
    found = client.get(f"/api/plans/{plan['id']}/working", query).json()
    assert found["result"]["text"] == "1.75 A"  # 2.5 A × 0.7
    assert any("print 2.5 A × 0.7" in i["origin"] for i in found["inputs"])
    missing = client.get(f"/api/plans/{plan['id']}/working", {**query, "element": "nobody"})
    assert missing.status_code == 404


def test_export_reads_back_as_the_same_plan(client: Client, plan: dict[str, Any]) -> None:
    text = client.get(f"/api/plans/{plan['id']}/export").content
    made = post(client, "/api/builds", {"name": "Again", "plan": json.loads(text)})
    assert made.status_code == 201
    again = client.get(f"/api/plans/{made.json()['plans'][0]['id']}").json()
    assert again["plan"] == plan["plan"]


def test_builds_and_plans_are_deleted_and_come_back(client: Client, plan: dict[str, Any]) -> None:
    build = plan["build"]["id"]
    copied = post(client, f"/api/plans/{plan['id']}/copy", {"name": "third"}).json()
    assert client.delete(f"/api/plans/{copied['id']}").status_code == 200
    assert client.get(f"/api/plans/{copied['id']}").status_code == 404
    assert post(client, f"/api/plans/{copied['id']}/restore", {}).json()["name"] == "third"
    assert client.delete(f"/api/builds/{build}").status_code == 200
    assert client.get("/api/builds").json() == []
    assert client.get(f"/api/plans/{plan['id']}").status_code == 404
    assert post(client, f"/api/builds/{build}/restore", {}).json()["name"] == "Marshlight"


def test_another_sites_page_cannot_write(client: Client, plan: dict[str, Any]) -> None:
    body = json.dumps({"revision": plan["revision"], "edits": [draw("1A")]})
    path = f"/api/plans/{plan['id']}/edits"
    foreign = client.post(path, body, content_type="application/json", headers={"origin": "http://elsewhere.example"})
    assert foreign.status_code == 403
    own = client.post(
        path, body, content_type="application/json", headers={"origin": "http://testserver", "host": "testserver"}
    )
    assert own.status_code == 200
    assert client.get("/api/health", headers={"host": "elsewhere.example"}).status_code == 400


def test_a_plans_page_tells_the_browser_to_fetch_the_plan(client: Client, settings: Any, tmp_path: Path) -> None:
    settings.WEB_DIST = tmp_path
    (tmp_path / "index.html").write_text("<title>Yard Meter</title>")
    link = client.get("/plans/12/rails").headers["Link"]
    assert link == "</api/plans/12>; rel=preload; as=fetch; crossorigin"
    assert "Link" not in client.get("/new").headers
    assert "Link" not in client.get("/plans/x<y/rails").headers


def test_the_page_is_sent_packed(client: Client) -> None:
    """A phone at the bench fetches it through the air: script and styles are a third of what they are on the disk."""
    page = client.get("/").getvalue().decode()
    files = re.findall(r'(?:src|href)="(/assets/[^"]+[.](?:js|css))"', page)
    assert {file.rsplit(".")[-1] for file in files} == {"js", "css"}
    whole, packed = 0, 0
    for file in files:
        plain, answer = client.get(file).getvalue(), client.get(file, headers={"accept-encoding": "gzip"})
        short = answer.getvalue()
        assert answer.headers.get("Content-Encoding") == "gzip" or len(plain) < 1000, file
        whole, packed = whole + len(plain), packed + len(short)
        if "/index-" in file and file.endswith(".js"):
            assert len(short) < 250_000
        if "/index-" in file and file.endswith(".css"):
            assert len(plain) < 600_000, "styles of components that are never shown"
    assert 0 < packed < whole / 3


def test_a_plan_is_sent_packed_to_a_page_and_an_edit_is_answered_as_it_is(client: Client, plan: dict[str, Any]) -> None:
    asks = {"accept-encoding": "gzip"}
    whole = client.get(f"/api/plans/{plan['id']}")
    packed = client.get(f"/api/plans/{plan['id']}", headers=asks)
    assert packed.headers["Content-Encoding"] == "gzip"
    assert gzip.decompress(packed.content) == whole.content
    assert len(packed.content) < len(whole.content) / 4
    edit = {"op": "set", "element": "hover", "field": "throttle_frac", "value": 0.41}
    body = {"revision": whole.json()["revision"], "edits": [edit]}
    answer = client.post(f"/api/plans/{plan['id']}/edits", body, content_type="application/json", headers=asks)
    assert answer.status_code == 200
    assert "Content-Encoding" not in answer.headers


def test_steps_of_the_history_are_worked_out_before_the_write_lock(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Whoever writes waits for nobody's arithmetic: undo, redo and return solve first, and look at the head again inside."""
    plan_id = post(client, "/api/builds", {"demo": "wren"}).json()["plans"][0]["id"]
    first = client.get(f"/api/plans/{plan_id}").json()["revision"]
    edits = [{"op": "set", "element": "receiver", "field": "brownout_v", "value": 2.5}]
    second = post(client, f"/api/plans/{plan_id}/edits", {"revision": first, "edits": edits}).json()["revision"]
    depth, solved_at = [0], []
    real, reviewed = transaction.atomic, editing.reviewed

    @contextmanager
    def atomic() -> Iterator[None]:
        depth[0] += 1
        with real():
            yield
        depth[0] -= 1

    def counted(revision: Any) -> Any:
        solved_at.append(depth[0])
        return reviewed(revision)

    monkeypatch.setattr(editing.transaction, "atomic", atomic)
    monkeypatch.setattr(editing, "reviewed", counted)
    assert post(client, f"/api/plans/{plan_id}/undo", {"revision": second}).json()["revision"] == first
    assert post(client, f"/api/plans/{plan_id}/redo", {"revision": first}).json()["revision"] == second
    assert post(client, f"/api/plans/{plan_id}/return", {"revision": second, "to": first}).status_code == 200
    assert solved_at
    assert set(solved_at) == {0}
    assert post(client, f"/api/plans/{plan_id}/undo", {"revision": second}).status_code == 409


def test_the_whole_build_goes_out_as_one_page(client: Client, plan: dict[str, Any]) -> None:
    answer = client.get(f"/api/plans/{plan['id']}/page.html")
    assert answer.status_code == 200
    assert answer.headers["Content-Type"] == "text/html; charset=utf-8"
    assert "attachment" in answer.headers["Content-Disposition"]
    text = answer.content.decode()
    noise = client.get(f"/api/plans/{plan['id']}/noise").json()["findings"]
    for title in (noise[0]["title"], plan["analysis"]["findings"][0]["title"]):
        assert html.escape(title) in text
    assert "Not run yet" in text
