"""How plan documents lie in the data file: now and then whole, in between as what differs from the last whole one.

An edit changes a few hundred bytes of a document of tens of thousands, and every step of a history is kept. Any step is
one whole document and one difference, so none is further away than another.
"""

from __future__ import annotations

import json
import zlib
from typing import Any

Document = dict[str, Any]

WORTH_FRAC = 0.3
"""A difference larger than this share of the whole, both compressed, is stored as a whole of its own."""
LEVEL = 6


def pack(value: object) -> bytes:
    return zlib.compress(json.dumps(value, ensure_ascii=False, separators=(",", ":")).encode(), LEVEL)


def unpack(packed: bytes | memoryview) -> Any:
    return json.loads(zlib.decompress(packed))


def difference(base: Document, document: Document) -> Document:
    """What has to be known to make `document` of `base`: fields that differ, and of lists of elements those that do."""
    found: Document = {"gone": [key for key in base if key not in document], "set": {}, "lists": {}}
    for key, value in document.items():
        old = base.get(key)
        if key in base and value == old:
            continue
        if _is_elements(value) and _is_elements(old):
            before = {one["id"]: one for one in base[key]}
            changed = [one for one in value if before.get(one["id"]) != one]
            found["lists"][key] = {"order": [one["id"] for one in value], "changed": changed}
        else:
            found["set"][key] = value
    return found


def restored(base: Document, found: Document) -> Document:
    """The document of which `found` is the difference."""
    document = {key: value for key, value in base.items() if key not in found["gone"]}
    document.update(found["set"])
    for key, one in found["lists"].items():
        known = {item["id"]: item for item in (*base[key], *one["changed"])}
        document[key] = [known[name] for name in one["order"]]
    return document


def _is_elements(value: object) -> bool:
    """Whether it is a list of elements with ids of their own, each once."""
    if not isinstance(value, list) or not all(
        isinstance(one, dict) and isinstance(one.get("id"), str) for one in value
    ):
        return False
    return len({one["id"] for one in value}) == len(value)


def packed_step(base: Document | None, base_size: int, document: Document) -> tuple[bytes, bool]:
    """What to store of a document, and whether that is the whole of it: there is no base, or the difference is not worth it."""
    if base is not None:
        step = pack(difference(base, document))
        if len(step) <= WORTH_FRAC * base_size:
            return step, False
    return pack(document), True
