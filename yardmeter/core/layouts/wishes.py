"""What a builder wishes of a wiring: what stays, what may be bought, which school is followed, what was turned down."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, get_args

from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.plan import Plan

Buy = Literal["bec", "capacitor", "filter", "cell"]
BUYS: tuple[Buy, ...] = get_args(Buy)
USUAL: tuple[Buy, ...] = ("bec", "capacitor", "filter")
"""What may be bought where nobody said: a cell of its own is one more thing to charge, so it is asked for."""
School = Literal["fill", "sender", "control", "sender_feed", "grounds", "esc_grounds"]
SCHOOLS: dict[School, tuple[str, ...]] = {
    "fill": ("0.6", "0.7", "0.8", "0.9", "1.0"), "sender": ("open", "apart", "shared"), "control": ("open", "apart"),
    "sender_feed": ("open", "pack", "regulator"), "grounds": ("open", "star", "pair", "chain"), "esc_grounds": ("open", "with", "without"),
}  # fmt: skip
"""How full a supply may be of what counts as usable; senders and cameras on supplies of their own, or on one; what keeps control
never beside servos and senders; what senders are fed from; where the grounds of video parts go; grounds beside ESC signals.
`open` leaves it to the search."""


RESERVE = "0.9"
"""How full a supply may be where nobody said: a tenth of what counts as usable is left; our choice."""


@dataclass(frozen=True)
class Wishes:
    """`held` are devices that stay where they are fed, and boards and regulators that stay; `turned_down` are a device with a rail,
    or a part of the shelf, that it is not to be fed from. `owned` counts parts that need not be bought."""

    held: frozenset[str] = frozenset()
    buy: frozenset[Buy] = frozenset(USUAL)
    max_g: float | None = None
    school: Mapping[School, str] = field(default_factory=dict)
    turned_down: frozenset[tuple[str, str]] = frozenset()
    owned: Mapping[str, int] = field(default_factory=dict)
    states: bool = True
    """Whether a device may be said to be off in a condition; not where nobody reads what was said for them."""

    @property
    def fill_frac(self) -> float:
        return float(self.school.get("fill", RESERVE))

    def checked(self, plan: Plan) -> Wishes:
        """The same, once it makes sense for the plan. Raises UnknownElementError, EditError."""
        for name in self.held:
            if name not in plan.elements:
                raise UnknownElementError(
                    f"This plan has no “{name}” to hold.", where="hold", remedy="Hold what is there."
                )
        for device, _ in self.turned_down:
            if device not in plan.device_of:
                raise UnknownElementError(
                    f"This plan has no device “{device}”.", where="not this", remedy="Ask again what to do."
                )
        if self.max_g is not None and not self.max_g >= 0:
            raise EditError(
                "A weight is nothing or more.", where="most grams", remedy="Say how much may be added, in grams."
            )
        if strange := set(self.buy) - set(BUYS):
            raise EditError(
                f"“{min(strange)}” is nothing that is bought here.", where="buy", remedy=f"One of: {', '.join(BUYS)}."
            )
        for key, value in self.school.items():
            if key not in SCHOOLS or value not in SCHOOLS[key]:
                known = "; ".join(f"{k} = {', '.join(v)}" for k, v in SCHOOLS.items())
                raise EditError(f"There is no school “{key} = {value}”.", where="school", remedy=f"Known are {known}.")
        return self
