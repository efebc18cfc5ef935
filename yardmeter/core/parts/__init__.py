"""Parts of the shelf: generic or invented things a plan is made of."""

from yardmeter.core.parts.part import KINDS, Part, PartKind, load_part

__all__ = ["KINDS", "Part", "PartKind", "load_part"]
