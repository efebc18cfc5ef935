"""A toy of each kind, entered in a copy of the program as `docs/developing.md` says: refused where a part is missing, else at work."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
FINDINGS = "import yardmeter.words.findings"


@pytest.fixture(scope="module")
def copy(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("copy")
    shutil.copytree(ROOT / "yardmeter", folder / "yardmeter", ignore=shutil.ignore_patterns("__pycache__", "static"))
    return folder


@pytest.fixture
def entered(copy: Path) -> Callable[[dict[str, str], str], subprocess.CompletedProcess[str]]:
    """Lines put at the end of files of the copy, or in place of others (`old → new`, several apart by `§`), while some code is run in it."""

    def run(changes: dict[str, str], code: str) -> subprocess.CompletedProcess[str]:
        before: dict[Path, str | None] = {}
        try:
            for name, lines in changes.items():
                file = copy / "yardmeter" / name
                text = before[file] = file.read_text() if file.exists() else None
                if text is not None and " → " in lines:
                    for change in lines.split("§"):
                        old, new = change.split(" → ")
                        assert text.count(old) == 1, old
                        text = text.replace(old, new)
                    file.write_text(text)
                else:
                    file.write_text((text or "") + lines)
            env = {
                **os.environ,
                "PYTHONPATH": str(copy),
                "PYTHONDONTWRITEBYTECODE": "",
                "PYTHONPYCACHEPREFIX": str(copy / "read"),
            }
            return subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=False, cwd=copy)  # fmt: skip
        finally:
            for file, text in before.items():
                file.write_text(text) if text is not None else file.unlink()

    return run


RULE = '''
@dataclass(frozen=True)
class Toy(Facts):
    name: str

@rule("heat.toy", Toy, sense="at most")
def toy(case: SolvedPlan) -> Iterator[Verdict]:
    """A toy."""
    yield under({c.id: "note" for c in case.plan.conditions}, case.plan.conditions[0].id, (case.plan.devices[0].id,), Comparison(2.0, 1.0, "W"), Toy("toy"))
'''
RULE_WORDS = """
from yardmeter.core.checks.heat import Toy

@tells("heat.toy", facts=Toy)
def toy(plan: Plan, v: Verdict, f: Toy) -> Told:
    return Told(title=f"A {f.name} of {v.compared.observed:g} W", cause="It is one.", remedy="Play.", labels=("seen", "allowed"))
"""
TOLD = """
from types import SimpleNamespace
from yardmeter import demo
from yardmeter.core.checks import RULES
from yardmeter.words import findings
from yardmeter.words.told import tell
plan = demo.plan("wren-straight-from-the-cell")
[verdict] = RULES["heat.toy"].function(SimpleNamespace(plan=plan))
print(tell(plan, verdict.stamped("heat.toy", "at most")).title)
"""
"""Nothing is solved in the copy: its loops would be compiled anew."""


def test_a_rule_wants_its_words(entered: Callable[..., subprocess.CompletedProcess[str]]) -> None:
    refused = entered({"core/checks/heat.py": RULE}, FINDINGS)
    assert "rules and words differ: heat.toy" in refused.stderr
    told = entered({"core/checks/heat.py": RULE, "words/findings/supplies.py": RULE_WORDS}, TOLD)
    assert told.stdout == "A toy of 2 W\n", told.stderr[-500:]


ELEMENT = """
from yardmeter.core.elements.registry import Element, Without, enter

def toy_law(volts: float) -> float:
    return 2 * volts

enter(Element("toy", (toy_law,), Without("{why}"), {netlist}, Without("none"), (bool,)))
"""
MADE = 'from yardmeter.core.elements import ELEMENTS; print(len(ELEMENTS), ELEMENTS["toy"].laws[0](2.0))'


@pytest.mark.parametrize(
    ("why", "netlist", "told"),
    [("it has none", "(toy_law,)", ""), ("it has none", "()", "lacks its netlist"), (" ", "(toy_law,)", "lacks its small signal")],
)  # fmt: skip
def test_an_element_wants_every_part_or_why_it_has_none(
    why: str, netlist: str, told: str, entered: Callable[..., subprocess.CompletedProcess[str]]
) -> None:
    files = {"core/elements/toy.py": ELEMENT.format(why=why, netlist=netlist), "core/elements/__init__.py": '"strap", "signal", → "strap", "signal", "toy",'}  # fmt: skip
    found = entered(files, MADE)
    assert (found.stdout, told in found.stderr) == ("" if told else "14 4.0\n", True)


FAULT = """
def _toys(table: PassiveTable) -> Iterator[Place]:
    for d, device in enumerate(table.plan.devices):
        yield Place((5, d), f"toy-{device.id}", (device.id,), (Gone(device.id),))

enter(FaultRecord("toy", 4.0, 0.5, _toys, None, harmless))
"""
FAULT_KIND = (
    '"connector half in", "wrong strap", "plug reversed", → "connector half in", "wrong strap", "plug reversed", "toy",'
)
FOUND = """
from yardmeter import demo
from yardmeter.core.faults import consequence, every_fault
from yardmeter.core.probing.passive import passive_table
plan = demo.plan("wren-straight-from-the-cell")
table = passive_table(plan)
toys = [one for one in every_fault(table) if one.kind == "toy"]
print(len(toys) == len(plan.devices), toys[0].weight, consequence(table, None, toys[0]).dangerous)
"""


def test_a_fault_wants_its_record_and_the_policys_word(
    entered: Callable[..., subprocess.CompletedProcess[str]],
) -> None:
    word = {"core/plan/policies.py": FAULT_KIND}
    assert "faults without a record: toy" in entered(word, "import yardmeter.core.faults").stderr
    assert (
        "none a plan's policy knows" in entered({"core/faults/parts.py": FAULT}, "import yardmeter.core.faults").stderr
    )
    assert entered({**word, "core/faults/parts.py": FAULT}, FOUND).stdout == "True 4.0 False\n"


ACT = """    how: Literal["open", "short"] = "open"
 →     how: Literal["open", "short"] = "open"


class Shake(Model):
    act: Literal["shake"] = "shake"
    at_s: AtS
"""
SHAKEN = """
from yardmeter import demo
from yardmeter.core.plan import Scenario
from yardmeter.core.runs import run_scenario
acts = [{"act": "shake", "at_s": 0.001}]
run_scenario(demo.plan("wren-straight-from-the-cell"), Scenario(id="s", name="S", duration_s=0.01, acts=acts))
"""


def test_an_act_that_nothing_does_is_never_passed_over(
    entered: Callable[..., subprocess.CompletedProcess[str]],
) -> None:
    act = ACT + "§SwitchStrap | PartFails, → SwitchStrap | PartFails | Shake,"
    done = entered({"core/plan/scenarios.py": act}, SHAKEN)
    assert "Expected code to be unreachable" in done.stderr or "AssertionError" in done.stderr, done.stderr[-800:]


def test_a_field_with_a_default_leaves_old_files_as_they_were(
    entered: Callable[..., subprocess.CompletedProcess[str]],
) -> None:
    field = "    def at_volts(self, pin_v: float) →     toy_v: float = Field(default=3.0, gt=0)\n\n    def at_volts(self, pin_v: float)"
    code = """
from yardmeter import demo
from yardmeter.core.plan import Plan
plan = demo.plan("wren-straight-from-the-cell")
print(plan.devices[0].toy_v, "toy_v" in str(Plan.model_json_schema()))
try:
    plan.devices[0].model_validate({**plan.devices[0].model_dump(), "toy_v": -1})
except ValueError as error:
    print("refused", "toy_v" in str(error))
"""
    assert entered({"core/plan/devices.py": field}, code).stdout == "3.0 True\nrefused True\n"
