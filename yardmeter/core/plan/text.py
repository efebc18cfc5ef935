"""What text in a document may be, and how it goes safely into formats that other programs obey."""

from __future__ import annotations

import re
from collections.abc import Mapping

CLEAN = r"^[^\u0000-\u001f\u007f-\u009f\u2028\u2029\ufffe\uffff]*$"
"""One line: no line breaks, no control characters, nothing that is no character."""
CLEAN_LINES = r"^[^\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u2028\u2029\ufffe\uffff]*$"
"""The same over several lines."""

_CONTROL = re.compile("[\x00-\x1f\x7f-\x9f\u2028\u2029\ud800-\udfff\ufffe\uffff]+")


def plain_message(kind: str, message: str, context: Mapping[str, object]) -> str:
    """What a validation complains of, where its own words would show a regular expression."""
    if kind == "string_pattern_mismatch" and context.get("pattern") in (CLEAN, CLEAN_LINES):
        return "holds a line break or a control character"
    return message.removeprefix("Value error, ")


def one_line(text: str) -> str:
    """The text on one line: runs of line breaks, control characters and what is no character become a space.

    Every writer of a format calls it, whatever the document was checked for: nothing may end a line or begin a command.
    """
    return _CONTROL.sub(" ", text)
