"""Changes of the core that no test notices: a sample of small mutants, each run against the core's own tests.

    ./yard mutants [PATH …] [--sample N] [--seed N]

A mutant that lives is a sign, a limit or a factor that could be wrong without anybody knowing. They are made and run in a
copy of the checkout; the checkout itself is never touched.
"""

from __future__ import annotations

import argparse
import contextlib
import linecache
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

from cosmic_ray.work_db import WorkDB, use_db
from cosmic_ray.work_item import WorkerOutcome, WorkItem, WorkResult

ROOT = Path(__file__).resolve().parents[1]
USUAL = (
    "yardmeter/core/physics",
    "yardmeter/core/graph",
    "yardmeter/core/network",
    "yardmeter/core/answers",
    "yardmeter/core/fitness",
    "yardmeter/core/checks",
    "yardmeter/core/fixes",
    "yardmeter/core/verdict.py",
    "yardmeter/review",
)
FIRST = ("rule_limits", "rule_edges", "rules", "supply_network", "grounds", "noise", "small_signal", "changes")
"""Tests that are quick and see most; the rest follow."""
TESTS = (
    f"python -m pytest -x -q -n 0 {' '.join(f'tests/core/test_{one}.py' for one in FIRST)} tests/core tests/reference"
)
TIMEOUT_S = 400
MEANT = re.compile(
    r"core/(ReplaceBinaryOperator_(Add_Sub|Sub_Add|Mul_Div|Div_Mul)|ReplaceComparisonOperator_(Lt_LtE|LtE_Lt|Gt_GtE|GtE_Gt|Lt_Gt"
    r"|Gt_Lt|LtE_GtE|GtE_LtE|Eq_NotEq|NotEq_Eq)|ReplaceUnaryOperator_USub_UAdd|NumberReplacer|ReplaceTrueWithFalse"
    r"|ReplaceFalseWithTrue|ReplaceAndWithOr|ReplaceOrWithAnd|AddNot|ZeroIterationForLoop|ReplaceContinueWithBreak)$"
)
"""Slips of the hand, not every operator there is."""


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="yard mutants", description="Changes of the core that no test notices.")
    parser.add_argument("paths", nargs="*", default=list(USUAL))
    parser.add_argument("--sample", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args(arguments)
    missing = [one for one in options.paths if not (ROOT / one).exists()]
    if missing:
        print(f"{missing[0]} is not in the checkout. Name files or folders below yardmeter/core.", file=sys.stderr)
        return 1
    with copied() as tree:
        return sampled(tree, options.paths, options.sample, options.seed)


@contextlib.contextmanager
def copied() -> Iterator[Path]:
    """A copy of what the tests need, with the environment of the checkout."""
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "tree"
        tree.mkdir()
        for name in ("yardmeter", "tests", "tools"):
            shutil.copytree(ROOT / name, tree / name, ignore=shutil.ignore_patterns("__pycache__"))
        shutil.copy(ROOT / "pyproject.toml", tree)
        yield tree


def sampled(tree: Path, paths: list[str], sample: int, seed: int) -> int:
    session = tree / "session.sqlite"
    listed = ", ".join(f'"{one}"' for one in paths)
    (tree / "mutants.toml").write_text(
        f'[cosmic-ray]\nmodule-path = [{listed}]\ntimeout = {TIMEOUT_S}\nexcluded-modules = []\ntest-command = "{TESTS}"\n'
        '[cosmic-ray.distributor]\nname = "local"\n'
    )
    _run(tree, "baseline", "mutants.toml")  # a red suite kills every mutant
    _run(tree, "init", "mutants.toml", session.name)
    with use_db(str(session), WorkDB.Mode.open) as work:
        items = [one for one in work.pending_work_items if _is_meant(tree, one)]
        chosen = {one.job_id for one in random.Random(seed).sample(items, min(sample, len(items)))}
        skip = [one.job_id for one in work.pending_work_items if one.job_id not in chosen]
        for job in skip:
            work.set_result(job, WorkResult(WorkerOutcome.SKIPPED))
    print(f"{len(chosen)} of {len(items)} mutants …", flush=True)
    _run(tree, "exec", "mutants.toml", session.name)
    return _told(session)


def _is_meant(tree: Path, item: WorkItem) -> bool:
    """Whether it is a slip of the hand that could matter: how a class is made (frozen, slots) does not."""
    spec = item.mutations[0]
    line = linecache.getline(str(tree / spec.module_path), spec.start_pos[0])
    return bool(MEANT.match(spec.operator_name)) and not line.lstrip().startswith("@")


def _run(tree: Path, command: str, *arguments: str) -> None:
    binaries = Path(sys.executable).parent
    env = {**os.environ, "PATH": f"{binaries}{os.pathsep}{os.environ.get('PATH', '')}", "PYTHONDONTWRITEBYTECODE": "1"}
    subprocess.run([binaries / "cosmic-ray", command, *arguments], cwd=tree, env=env, check=True)


def _told(session: Path) -> int:
    """Each survivor with its place and what was changed; exit status 1 when more than 15 % live."""
    with use_db(str(session), WorkDB.Mode.open) as work:
        item_of: dict[str, WorkItem] = {one.job_id: one for one in work.work_items}
        done = [(item_of[job], result) for job, result in work.results if result.worker_outcome is WorkerOutcome.NORMAL]
        alive = [
            (item, result) for item, result in done if result.test_outcome and result.test_outcome.value == "survived"
        ]
    for item, result in alive:
        spec = item.mutations[0]
        lines = (result.diff or "").splitlines()
        changed = [line for line in lines if line[:1] in "+-" and not line.startswith(("+++", "---"))]
        print(f"{spec.module_path}:{spec.start_pos[0]} in {spec.definition_name or 'the module'}")
        print("\n".join(f"    {line}" for line in changed))
    share = len(alive) / len(done) if done else 0.0
    print(f"{len(done)} mutants, {len(alive)} alive, {share:.0%}")
    return 1 if share > 0.15 else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
