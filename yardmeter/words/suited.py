"""What speaks against a part for a craft that is being chosen, in a builder's words."""

from __future__ import annotations

from yardmeter.core.choices.suited import Suit


def against_words(suit: Suit) -> str:
    """One line with its numbers and what to do instead; empty for what suits."""
    one = f"its {suit.element}" if suit.element else "it"
    seen, limit = f"{suit.seen_v:.3g} V", f"{suit.limit_v:.3g} V"
    match suit.against:
        case None:
            return ""
        case "over":
            return f"{one} takes at most {limit}, the full pack has {seen}"
        case "low":
            return f"{one} needs {limit} at its input, the pack goes down to {seen}"
        case "no start":
            return f"{one} needs {limit} to run, the pack goes down to {seen}"
        case "passes":
            return f"{one} only steps up: a full pack of {seen} goes through it, {limit} or not"
        case "whole craft":
            return "ESC and controller in one: choose the shape “All in one”"
        case "one motor":
            return "drives one motor: choose a four-way ESC, or another shape"
        case "needs controller":
            return "a four-way ESC carries no controller: choose the shape “Stack”"
        case "no rail":
            return f"no rail suits it: it wants {limit}, the nearest has {seen}. Choose a regulator for it first"
