"""Every statement asked of every plan."""

from __future__ import annotations

import random
import warnings
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import tools.agree.compared
import tools.agree.diagnosed
import tools.agree.living
import tools.agree.mended
import tools.agree.ordered
import tools.agree.pictures
import tools.agree.settled
import tools.agree.simulated
import tools.agree.verdicts
import tools.agree.worked  # noqa: F401 - each enters its statements
from tools.agree.cases import case_of
from tools.agree.statements import STATEMENTS
from yardmeter.core.plan import Plan


@dataclass(frozen=True)
class Broken:
    """A disagreement, and the plan that shows it."""

    statement: str
    number: int
    what: str
    plan: Plan


def asked(numbers: Iterable[int], seed: int, only: str = "") -> Iterator[Broken]:
    """What disagrees in the plans of these numbers; a statement that fails to be worked out counts, and so does any warning.

    Statements that are chosen by their words (`only`) are asked of every plan, whatever their share.
    """
    for number in numbers:
        case = case_of(number, seed)
        for one in STATEMENTS:
            chance = random.Random(f"{seed} {number} {one.words}").random()
            if only not in one.words or (not only and chance >= one.share):
                continue
            try:
                with warnings.catch_warnings():
                    warnings.simplefilter("error")
                    for what in one.broken(case):
                        yield Broken(one.words, number, what, case.plan)
            except Exception as error:  # noqa: BLE001 - whatever a view raises is what is looked for
                yield Broken(one.words, number, f"raised {type(error).__name__}: {error}", case.plan)
