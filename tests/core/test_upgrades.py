"""Documents of every version that ever landed open today, and nothing of a plan becomes a command elsewhere."""

from __future__ import annotations

import csv
import io
import json
import re
import shutil
import subprocess
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import need
from yardmeter import demo
from yardmeter.core.errors import FormatError, PlanError
from yardmeter.core.formats.csv_files import write_budget
from yardmeter.core.formats.netlist import write_netlist
from yardmeter.core.formats.plan_json import read_plan, write_plan
from yardmeter.core.formats.rails_svg import write_rails_svg
from yardmeter.core.plan import SCHEMA_VERSION, Regulator, load_plan
from yardmeter.core.plan.text import one_line
from yardmeter.core.plan.upgrades import STEPS, bring_up
from yardmeter.review import analyse

KEPT = Path(__file__).parent / "kept"
BREAKS = ("\n", "\r", "\x0b", "\x00", "\u2028", "\ufffe", "\x85")


@pytest.mark.parametrize("version", range(1, SCHEMA_VERSION))
def test_a_kept_document_of_every_version_opens(version: int) -> None:
    text = (KEPT / f"plan-{version}.json").read_text()
    assert json.loads(text)["version"] == version
    plan = read_plan(text)
    assert plan.version == SCHEMA_VERSION
    assert write_plan(read_plan(write_plan(plan))) == write_plan(plan)
    assert analyse(plan).budget.conditions
    assert len(STEPS) == SCHEMA_VERSION - 1


CORRECTED = {
    "rail-usb": "a rail that nothing feeds has nothing, where it once had the leak of a floating node",
    "sender-5v": "volts of a device's output stand on that device's own ground",
}
"""Rails whose numbers are others on purpose, and why."""


@pytest.mark.parametrize("version", range(1, SCHEMA_VERSION))
def test_a_kept_plan_gives_the_numbers_it_gave_then(version: int) -> None:
    """Volts and amps of every rail and device as the program of that version worked them out, written down then: copper was
    taken at 20 °C, which has to be said for such a plan now."""
    kept = json.loads((KEPT / f"numbers-{version}.json").read_text())
    plan = read_plan((KEPT / f"plan-{version}.json").read_text())
    assert plan.policy.copper_c == 20
    # Since then one that gives up at its limit stands there no more: as if each still did.
    stood = [s.model_copy(update={"limit_style": "constant"}) if isinstance(s, Regulator) else s for s in plan.supplies]
    budget = analyse(plan.model_copy(update={"supplies": tuple(stood)})).budget
    now: dict[str, list[Any]] = {
        f"{r.id} {c}": [s.volts_v, s.asked_a] for r in budget.rails for c, s in r.states.items()
    }
    now |= {f"{d.id} {c}": [s.pin_v, s.verdict] for d in budget.devices for c, s in d.states.items()}
    assert set(now) == set(kept)
    for name, (volts, other) in kept.items():
        if name.split(" ")[0] in CORRECTED:
            continue
        assert now[name][0] == pytest.approx(volts, abs=1e-4), name
        assert now[name][1] == (pytest.approx(other, abs=1e-4) if isinstance(other, float | int) else other), name


def test_the_step_from_1_keeps_what_was_meant() -> None:
    """Wires shorter than today's least become joints, the rest stays to the letter; text loses what ends a line."""
    old = {
        "version": 1,
        "name": "two\nlines",
        "note": "kept\nas\tis",
        "wires": [{"length_m": 0.0009}, {"length_m": 0.001}, {"length_m": 5e-324}],
        "empty": "",
        "odd": "\x00",
    }
    assert bring_up(old, 1) == {
        "version": SCHEMA_VERSION,
        "name": "two lines",
        "note": "kept\nas is",
        "wires": [{"length_m": 0.001, "joined": True}, {"length_m": 0.001}, {"length_m": 0.001, "joined": True}],
        "empty": "",
        "odd": "unnamed",
    }


@pytest.mark.parametrize("version", [0, -1, True, "2", 1.5, None, SCHEMA_VERSION + 1])
def test_a_version_that_never_was_is_refused(version: Any) -> None:
    with pytest.raises(PlanError) as caught:
        load_plan({"version": version, "name": "x"})
    assert caught.value.where == "version"


def renamed(name: str) -> dict[str, Any]:
    document = demo.plan("wren-boosted-logic").model_dump(mode="json")
    return {**document, "name": name}


@pytest.mark.parametrize("control", BREAKS, ids=ascii)
def test_names_refuse_what_ends_a_line(control: str) -> None:
    for place in ("plan", "condition", "device", "connector"):
        document = renamed("plain")
        if place == "plan":
            document["name"] = f"a{control}b"
        elif place == "condition":
            document["conditions"][0]["name"] = f"a{control}b"
        elif place == "device":
            document["devices"][0]["name"] = f"a{control}b"
        else:
            document["devices"][1]["feed"]["wire"]["connector"] = f"a{control}b"
        with pytest.raises(PlanError, match="line break or a control character"):
            load_plan(document)
    document["devices"][1]["feed"]["wire"]["connector"] = ""
    document["note"] = "a note\nof two lines"
    assert load_plan(document).note == "a note\nof two lines"


def hostile(control: str) -> Any:
    """A plan that no check has seen, with a command in every name a writer puts down."""
    evil = f"x{control}.shell touch OWNED{control}"
    plan = demo.plan("wren-boosted-logic")
    first = plan.conditions[0].model_copy(update={"name": evil})
    devices = tuple(one.model_copy(update={"name": f"{evil}<b>&"}) for one in plan.devices)
    return plan.model_copy(update={"name": evil, "conditions": (first, *plan.conditions[1:]), "devices": devices})


@pytest.mark.parametrize("control", BREAKS, ids=ascii)
def test_every_writer_makes_text_harmless_by_itself(control: str) -> None:
    plan = hostile(control)
    netlist = write_netlist(plan, plan.conditions[0])
    assert not [
        line for line in re.split(r"[\n\r\x0b\x0c\x85\u2028\u2029]", netlist) if line.strip().startswith(".shell")
    ]
    budget = analyse(plan).budget
    picture = write_rails_svg(plan, budget, plan.conditions[0].id)
    ET.fromstring(picture)  # cut before it is escaped: a name that ends in “&” breaks nothing
    rows = list(csv.reader(io.StringIO(write_budget(plan, budget))))
    assert len({len(row) for row in rows}) == 1


def test_a_strangers_plan_runs_no_command_in_a_simulator(tmp_path: Path) -> None:
    """ngspice obeys lines between .control and .endc: names are never among them."""
    netlist = tmp_path / "plan.cir"
    for control in ("\n", "\r", "\x0b"):
        netlist.write_text(write_netlist(hostile(control), hostile(control).conditions[0]))
        subprocess.run(
            [need("ngspice"), "-b", netlist.name], cwd=tmp_path, capture_output=True, timeout=60, check=False
        )
        assert [one.name for one in tmp_path.iterdir()] == ["plan.cir"]
    assert shutil.which("touch")


def test_one_line_leaves_words_alone() -> None:
    assert one_line("Ω ’5 V’ → 12\u00a0V ½") == "Ω ’5 V’ → 12\u00a0V ½"
    assert one_line("a\r\n\r\nb\ud800c") == "a b c"


@pytest.mark.parametrize(
    "text", ["9" * 5000, '{"format": "yard-meter-plan", "name": ' + "9" * 5000 + "}", "[" * 100_000]
)
def test_what_json_cannot_hold_is_said(text: str) -> None:
    with pytest.raises((FormatError, PlanError)) as caught:
        read_plan(text)
    assert caught.value.remedy
