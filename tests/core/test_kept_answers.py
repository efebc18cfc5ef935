"""What a builder is told of three demo builds and of a crowded plan, against what was kept: no number changes unnoticed."""

from __future__ import annotations

import json
from itertools import zip_longest
from typing import Any

import pytest

from tests.core.kept_answers import KEPT, file_of, lines


@pytest.mark.parametrize(("name", "topic"), KEPT)
def test_what_is_told_is_what_was_kept(name: str, topic: str) -> None:
    """To a ten thousandth; where this is meant, `python -m tests.core.kept_answers` writes it anew."""
    kept = file_of(name, topic).read_text().splitlines()
    different = [
        f"kept {was}\nnow  {now}"
        for was, now in zip_longest(kept, lines(name, topic), fillvalue="nothing\tnull")
        if was != now and not _alike(was, now)
    ]
    assert not different, f"{len(different)} lines\n" + "\n".join(different[:8])


def _alike(was: str, now: str) -> bool:
    (place, kept), (here, found) = was.split("\t", 1), now.split("\t", 1)
    return place == here and _equal(json.loads(kept), json.loads(found))


def _equal(kept: Any, found: Any) -> bool:
    if isinstance(kept, dict) and isinstance(found, dict):
        return list(kept) == list(found) and all(_equal(kept[key], found[key]) for key in kept)
    if isinstance(kept, list) and isinstance(found, list):
        return len(kept) == len(found) and all(map(_equal, kept, found))
    if isinstance(kept, float) or isinstance(found, float):
        return bool(found == pytest.approx(kept, rel=1e-4, abs=1e-9))
    return bool(kept == found)
