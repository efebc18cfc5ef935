"""Bad input of every kind: never a 500, never a partial write."""

import copy
import json
from typing import Any

import pytest
from django.test import Client
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from yardmeter import demo
from yardmeter.core.errors import FormatError, PlanError
from yardmeter.core.formats.csv_files import COLUMNS, neutral, plain, read_parts, write_budget, write_parts
from yardmeter.core.formats.plan_json import read_plan, write_plan
from yardmeter.core.parts import load_part
from yardmeter.review import analyse
from yardmeter.server.builds.models import Build, Plan, Revision
from yardmeter.server.builds.services import demos
from yardmeter.server.shelf.models import PartRow

JUNK = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**12), 10**12),
    st.floats(allow_nan=False, allow_infinity=False),
    st.text(max_size=30),
    st.just([]),
    st.just({}),
    st.lists(st.integers(), max_size=3),
    st.just("pack"),
    st.just("rail-5v"),
    st.just(-1),
    st.just(0),
)
DOCUMENT = demo.plan("culvert-first-wiring").model_dump(mode="json")


def paths(value: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every place in a JSON value."""
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [at, *(place for key, inner in items for place in paths(inner, (*at, key)))]


PLACES = [place for place in paths(DOCUMENT) if place]


def spoilt(place: tuple[Any, ...], junk: Any, drop: bool) -> Any:
    document = copy.deepcopy(DOCUMENT)
    target = document
    for step in place[:-1]:
        target = target[step]
    if drop:
        del target[place[-1]]
    else:
        target[place[-1]] = junk
    return document


@pytest.mark.django_db
@settings(max_examples=45, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(place=st.sampled_from(PLACES), junk=JUNK, drop=st.booleans())
def test_spoilt_plan_files(client: Client, place: tuple[Any, ...], junk: Any, drop: bool) -> None:
    before = (Build.objects.count(), Plan.objects.count(), Revision.objects.count())
    text = json.dumps(spoilt(place, junk, drop))
    answer = client.post("/api/builds/read", json.dumps({"text": text}), content_type="application/json")
    assert answer.status_code < 500, (place, junk)
    after = (Build.objects.count(), Plan.objects.count(), Revision.objects.count())
    if answer.status_code == 201:
        assert after == (before[0] + 1, before[1] + 1, before[2] + 1)
        assert client.get(f"/api/plans/{answer.json()['plans'][0]['id']}").status_code == 200
    else:
        assert after == before
        assert answer.json()["what"]


FIELDS = st.sampled_from(
    [
        "name",
        "min_v",
        "draws.peak.value",
        "draws.peak",
        "feed",
        "feed.rail",
        "returns",
        "returns.0.to",
        "set_v",
        "id",
        "x.y",
        "states",
        "energy",
        "kind",
        "cell_ohm",
    ]
)
ELEMENTS = st.sampled_from(
    [
        "digital",
        "floods",
        "rail-5v",
        "buck-5v",
        "pack",
        "policy",
        "plan",
        "hover",
        "power-board",
        "usb",
        "cam-strap",
        "nobody",
        "red-1",
    ]
)
EDITS = st.one_of(
    st.fixed_dictionaries({"op": st.just("set"), "element": ELEMENTS, "field": FIELDS, "value": JUNK}),
    st.fixed_dictionaries(
        {"op": st.just("set_quantity"), "element": ELEMENTS, "field": FIELDS, "text": st.text(max_size=12)}
    ),
    st.fixed_dictionaries(
        {"op": st.just("set_draw"), "device": ELEMENTS, "state": st.just("peak"), "text": st.text(max_size=12)}
    ),
    st.fixed_dictionaries({"op": st.just("remove"), "element": ELEMENTS}),
    st.fixed_dictionaries({"op": st.just("duplicate"), "element": ELEMENTS}),
    st.fixed_dictionaries({"op": st.just("move"), "device": ELEMENTS, "rail": ELEMENTS}),
    st.fixed_dictionaries(
        {"op": st.just("set_state"), "condition": ELEMENTS, "device": ELEMENTS, "state": st.just("off")}
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("add"),
            "kind": st.sampled_from(["device", "rail", "pad", "return", "supply"]),
            "value": st.dictionaries(st.text(max_size=8), JUNK, max_size=3),
        }
    ),
)


@pytest.mark.django_db
@settings(max_examples=70, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(edits=st.lists(EDITS, min_size=1, max_size=3))
def test_wild_edits(client: Client, edits: list[dict[str, Any]]) -> None:
    build = Build.objects.filter(demo="culvert").first() or demos.add_demo("culvert")
    plan_id = build.plans.first().pk
    head = client.get(f"/api/plans/{plan_id}/head").json()["revision"]
    count = Revision.objects.count()
    body = json.dumps({"revision": head, "edits": edits})
    answer = client.post(f"/api/plans/{plan_id}/edits", body, content_type="application/json")
    assert answer.status_code < 500, edits
    assert Revision.objects.count() == count + (answer.status_code == 200)
    if answer.status_code == 200:  # whatever was accepted can be taken back
        back = client.post(
            f"/api/plans/{plan_id}/undo",
            json.dumps({"revision": answer.json()["revision"]}),
            content_type="application/json",
        )
        assert back.status_code == 200


@pytest.mark.django_db
@settings(max_examples=60, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(rows=st.lists(st.lists(st.text(max_size=14), min_size=1, max_size=len(COLUMNS)), max_size=4), head=st.booleans())
def test_wild_csv(client: Client, rows: list[list[str]], head: bool) -> None:
    count = PartRow.objects.count()
    lines = [",".join(COLUMNS)] if head else []
    text = "\n".join([*lines, *(",".join(row) for row in rows)])
    answer = client.post("/api/shelf/csv", json.dumps({"text": text}), content_type="application/json")
    assert answer.status_code < 500
    if answer.status_code != 200:
        assert PartRow.objects.count() == count


@pytest.mark.parametrize("name", [n.removesuffix(".json") for d in demo.DEMOS for n in d.files])
def test_plan_files_round_trip_exactly(name: str) -> None:
    made = demo.plan(name)
    text = write_plan(made)
    assert read_plan(text) == made
    assert write_plan(read_plan(text)) == text


def test_broken_plan_files_are_named() -> None:
    for text, where in (
        ("{", "line 1"),
        ('{"a": NaN}', ""),
        ("[]", "format"),
        ('{"format": "other"}', "format"),
        ("x" * 5_000_000, ""),
    ):
        with pytest.raises(FormatError) as caught:
            read_plan(text)
        assert caught.value.where.startswith(where)
        assert caught.value.remedy


def test_parts_round_trip_through_csv() -> None:
    flat = [
        p
        for p in demo.starter_parts()
        if p.kind not in ("board", "pack") and not p.outputs and not (p.device and p.device.ways)
    ]
    again = {p.key: p for p in read_parts(write_parts(demo.starter_parts()))}
    assert set(again) == {p.key for p in flat}
    for part in flat:
        if part.device:
            mine, theirs = part.device, again[part.key].device
            assert theirs
            assert (mine.min_v, mine.max_v, mine.law, mine.throttle, mine.led) == (
                theirs.min_v,
                theirs.max_v,
                theirs.law,
                theirs.throttle,
                theirs.led,
            )
            assert mine.draws.peak.amps_at(mine.nominal_v) == pytest.approx(theirs.draws.peak.amps_at(mine.nominal_v))
        elif part.kind != "bec":
            values = [getattr(one, one.kind).model_dump(exclude_none=True) for one in (part, again[part.key])]
            inline = [one.pop("inline", None) for one in values]
            assert inline[0] == inline[1]
            words = [{k: one.pop(k) for k in list(one) if isinstance(one[k], str)} for one in values]
            assert words[0] == words[1]
            assert values[1] == pytest.approx(values[0], rel=1e-5)


def test_csv_errors_name_line_field_and_remedy() -> None:
    head = "key,name,kind,nominal_v,min_v,max_v,idle,typical,peak\n"
    with pytest.raises(PlanError) as caught:
        read_parts(
            head
            + "a,A,device,5,4.5,5.5,1mA,2mA,3mA\nb,B,device,5,4.5,5.5,1mA,two,3mA\nc,C,device,5,x,5.5,1mA,2mA,3mA\n"
        )
    assert [(p.where, bool(p.remedy)) for p in caught.value.problems] == [
        ("line 3, typical", True),
        ("line 4, min_v", True),
    ]


@given(st.text(max_size=20))
def test_formulas_are_neutralised_and_come_back(text: str) -> None:
    text = "".join(one for one in text if one.isprintable() or one in "\t\r\n")  # the rest no spreadsheet reads
    cell = neutral(text)
    assert not cell.startswith(("=", "+", "-", "@")) or _is_number(cell)
    assert plain(cell) == text or text.startswith("'")


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def test_a_formula_in_a_name_never_reaches_a_spreadsheet() -> None:
    made = demo.plan("marshlight-as-soldered")
    evil = made.devices[3].model_copy(update={"name": "=1+1|calc"})
    spiked = made.model_copy(update={"devices": (*made.devices[:3], evil, *made.devices[4:])})
    assert ",'=1+1|calc," in write_budget(spiked, analyse(spiked).budget)
    part = load_part({**demo.starter_parts()[0].model_dump(mode="json"), "name": "@evil"})
    assert "'@evil" in write_parts([part])


@pytest.mark.parametrize("name", ["²", "", "1e9", "-5", "٣", "50.5.5"])
def test_a_throttle_that_is_no_number_is_no_point(name: str) -> None:
    head = "key,name,kind,device_kind,nominal_v,min_v,max_v,idle,typical,peak,values\n"
    row = f"m,Motor,device,motor,12,6,17,0A,5A,9A,throttle_{name}=3; throttle_100=9\n"
    (part,) = read_parts(head + row)
    assert part.device
    assert [point.throttle_frac for point in part.device.throttle] == [1.0]
