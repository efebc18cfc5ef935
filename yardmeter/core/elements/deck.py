"""A netlist while it is written: names for its parts and inner nodes, and chains of plain parts."""

from __future__ import annotations

from collections.abc import Iterator


class Deck:
    """Numbers parts and inner nodes as it goes."""

    def __init__(self) -> None:
        self.count = 0

    def fresh(self) -> str:
        self.count += 1
        return f"k{self.count}"

    def part(self, letter: str, a: str, b: str, value: float) -> str:
        return f"{letter}{self.fresh()} {a} {b} {value:.12g}"

    def series(self, a: str, b: str, *parts: tuple[str, float]) -> Iterator[str]:
        """R, L and C one behind the other from a to b."""
        left = a
        for position, (letter, value) in enumerate(parts):
            right = b if position == len(parts) - 1 else self.fresh()
            yield self.part(letter, left, right, value)
            left = right
