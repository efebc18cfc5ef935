"""Parts of the shelf: generic or invented things a plan is made of."""

from yardmeter.core.parts.part import KINDS, CoilPart, Part, PartKind, load_part

__all__ = ["KINDS", "CoilPart", "Part", "PartKind", "load_part"]
