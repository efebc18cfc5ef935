"""Changes of the core that no test notices: a sample of small mutants, each run against the tests that see its line.

    ./yard mutants [PATH …] [--sample N] [--seed N]

A mutant that lives is a sign, a limit or a factor that could be wrong without anybody knowing. They are made and run in a
copy of the checkout; the checkout itself is never touched.
"""

from __future__ import annotations

import argparse
import contextlib
import difflib
import linecache
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from multiprocessing import Pool
from pathlib import Path

from cosmic_ray.mutating import use_mutation
from cosmic_ray.plugins import get_operator
from cosmic_ray.work_db import WorkDB, use_db
from cosmic_ray.work_item import MutationSpec, WorkItem

from tools.coverings import Coverings

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
TESTS = (
    "tests/core",
    "tests/reference",
    *(f"tests/server/test_{name}.py" for name in ("api", "bench_api", "noise_api", "runs_api")),
)
KEPT = "tests/core/test_kept_answers.py"
"""What is told of whole plans is compared last of all, whichever tests ran through the line."""
TIMEOUT_S = 400.0
WORKERS = 2
MOST_ALIVE = 0.15
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
        for name in ("yardmeter", "tests", "tools", "web/dist"):
            shutil.copytree(ROOT / name, tree / name, ignore=shutil.ignore_patterns("__pycache__"))
        shutil.copy(ROOT / "pyproject.toml", tree)
        yield tree


def sampled(tree: Path, paths: list[str], sample: int, seed: int) -> int:
    """Make the mutants, run each against the tests that run through its line, tell those that live."""
    coverings = _watched(tree)
    session = tree / "session.sqlite"
    listed = ", ".join(f'"{one}"' for one in paths)
    (tree / "mutants.toml").write_text(
        f'[cosmic-ray]\nmodule-path = [{listed}]\ntimeout = {TIMEOUT_S}\nexcluded-modules = []\ntest-command = "true"\n'
        '[cosmic-ray.distributor]\nname = "local"\n'
    )
    binaries = Path(sys.executable).parent
    subprocess.run([binaries / "cosmic-ray", "init", "mutants.toml", session.name], cwd=tree, check=True)
    with use_db(str(session), WorkDB.Mode.open) as work:
        items = [one for one in work.pending_work_items if _is_meant(tree, one)]
    chosen = random.Random(seed).sample(items, min(sample, len(items)))
    print(f"{len(chosen)} of {len(items)} mutants …", flush=True)
    jobs = []
    for item in chosen:
        spec = item.mutations[0]
        jobs.append((spec, coverings.tests(Path(spec.module_path), spec.start_pos[0], spec.end_pos[0])))
    with Pool(WORKERS, initializer=_own_tree, initargs=(tree,)) as pool:
        alive = []
        for done, lives in enumerate(pool.imap_unordered(_lives, jobs), 1):
            alive += [lives] if lives else []
            if done % 10 == 0:
                print(f"{done} run, {len(alive)} alive", flush=True)
    share = len(alive) / len(jobs) if jobs else 0.0
    print(f"{len(jobs)} mutants, {len(alive)} alive, {share:.0%}")
    return 1 if share > MOST_ALIVE else 0


def _watched(tree: Path) -> Coverings:
    """Run all tests once, which have to be green, and note which lines each runs through."""
    folder = tree / "coverings"
    folder.mkdir()
    command = [sys.executable, "-m", "pytest", "-n", str(WORKERS), "-p", "tools.coverings", *TESTS]
    subprocess.run(command, cwd=tree, env=_environment() | {"COVERINGS": str(folder)}, check=True)
    return Coverings(folder, tree)


def _environment() -> dict[str, str]:
    return {**os.environ, "PYTHONDONTWRITEBYTECODE": "1", "DJANGO_SETTINGS_MODULE": "yardmeter.server.settings"}


def _own_tree(tree: Path) -> None:
    """Each worker changes a copy of its own."""
    own = tree.parent / f"worker-{os.getpid()}"
    shutil.copytree(tree, own, ignore=shutil.ignore_patterns("coverings", "session.sqlite"))
    os.chdir(own)


def _lives(job: tuple[MutationSpec, list[str]]) -> bool:
    """Whether a mutant lives through the tests of its line, and through the kept answers; told if so.

    What a test keeps for those after it counts as the first one's, so that a few are not seen to run through a line: a mutant
    that lives may die of one of those.
    """
    spec, tests = job
    operator = get_operator(spec.operator_name)(**(spec.operator_args or {}))
    module = Path(spec.module_path)
    with use_mutation(module, operator, spec.occurrence) as (before, after):
        if after is None:
            return False
        if _fails(tests or list(TESTS)) or _fails([KEPT]):
            return False
    changed = [
        one
        for one in difflib.unified_diff(before.splitlines(), after.splitlines(), n=0, lineterm="")
        if not one.startswith(("---", "+++", "@@"))
    ]
    told = "\n".join(f"    {one}" for one in changed)
    print(
        f"{module}:{spec.start_pos[0]} in {spec.definition_name or 'the module'}, {len(tests)} tests\n{told}",
        flush=True,
    )
    return True


def _fails(tests: list[str]) -> bool:
    listed = Path("tests.txt")
    listed.write_text("\n".join(tests))
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-n", "0", f"@{listed}"]
    try:
        done = subprocess.run(command, env=_environment(), timeout=TIMEOUT_S, capture_output=True, check=False)
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def _is_meant(tree: Path, item: WorkItem) -> bool:
    """Whether it is a slip of the hand that could matter: how a class is made (frozen, slots) does not."""
    spec = item.mutations[0]
    line = linecache.getline(str(tree / spec.module_path), spec.start_pos[0])
    return bool(MEANT.match(spec.operator_name)) and not line.lstrip().startswith("@")


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
