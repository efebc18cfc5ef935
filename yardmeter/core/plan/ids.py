"""Ids for new elements, made from their names."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Collection

from yardmeter.core.plan.document import RESERVED_IDS, Plan


def fresh_id(plan: Plan, name: str, taken: Collection[str] = ()) -> str:
    """An unused id like the name: lower case, hyphens, numbered when taken."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:56] or "element"
    used = set(plan.elements) | set(plan.inner_ids()) | RESERVED_IDS | set(taken) | {"policy", "plan"}
    candidate, number = stem, 1
    while candidate in used:
        number += 1
        candidate = f"{stem}-{number}"
    return candidate
