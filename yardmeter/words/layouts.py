"""Layouts in a builder's words: what is done and why, what would be next best, why something cannot be."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.layouts.candidates import Field
from yardmeter.core.layouts.dips import Dip
from yardmeter.core.layouts.search import Impossible, Instead
from yardmeter.core.parts import Part
from yardmeter.core.plan import Device, Plan
from yardmeter.core.units import format_si
from yardmeter.words.told import tell

SCHOOL_WORDS = {
    "fill": (
        "How full a supply may be",
        "Draws are known to a fifth at best; what is full on paper is over in the air.",
    ),
    "sender": (
        "Senders and cameras",
        "A sender's bursts are in the picture of a camera beside it; one supply for both is lighter.",
    ),
    "sender_feed": (
        "Senders are fed from",
        "The pack has amps to spare, and the motors' ripple; a regulator keeps that out and makes its own. A filter comes where the noise is seen.",
    ),
    "grounds": (
        "Grounds of cameras and senders",
        "To one point the motors' amps do not pass, to the board the picture passes, or along the picture: a shared wire is a shared shift.",
    ),
    "esc_grounds": (
        "Grounds beside ESC signals",
        "With them edges come back beside their signal; without them no motor current can find a way through them.",
    ),
    "control": ("What keeps control", "A servo or sender that pulls its rail down takes the receiver with it."),
}
VALUE_WORDS = {
    "open": "left open",
    "apart": "on supplies of their own",
    "shared": "on one supply",
    "pack": "the pack",
    "regulator": "a regulator",
    "star": "a star at the pack",
    "pair": "the picture's board",
    "chain": "the sender, in a chain",
    "with": "laid",
    "without": "left out",
}


def place_name(of: Field, rail: str) -> str:
    """A rail that is there, or a part that would be bought."""
    bought = next((one for one in of.bought if one.key == rail), None)
    if bought is None:
        return of.case.plan.title(rail)
    if bought.cells:
        return f"a cell of its own, {bought.part.name}"
    return f"a {bought.part.name}" + ("" if bought.as_it_comes else f" set to {format_si(bought.set_v, 'V')}")


def names(plan: Plan, devices: Sequence[str]) -> str:
    found = [plan.title(one) for one in devices]
    return found[0] if len(found) == 1 else f"{', '.join(found[:-1])} and {found[-1]}" if found else "nothing"


def why_moved(today: SolvedPlan, device: Device, to_a: float) -> str:
    """What speaks against where it is fed today, in numbers."""
    asked = f"{format_si(to_a, 'A')}"
    if device.feed is None:
        return f"{asked}; it was fed from nothing"
    rail = device.feed.rail
    states = {c.id: today.device(device.id).states[c.id] for c in today.pack_conditions()}
    worst = next((s for s in states.values() if s.verdict in ("high", "dead", "reset", "low")), None)
    title = today.plan.title(rail)
    if worst is not None and worst.verdict == "high":
        return f"it gets {format_si(worst.pin_v, 'V')} on {title}, takes {format_si(device.max_v, 'V')}"
    full = [today.rail(rail).states[c.id] for c in today.pack_conditions() if today.rail(rail).states[c.id].limits]
    short = min(full, key=lambda s: s.spare_a, default=None)
    if short is not None and short.spare_a < 0:
        return f"{asked}; {title} is short by {format_si(-short.spare_a, 'A')}"
    if worst is not None:
        return f"it gets {format_si(worst.pin_v, 'V')} on {title}, wants {format_si(device.min_v, 'V')}"
    if short is not None:
        return f"{asked}; {title} had {format_si(short.spare_a, 'A')} left"
    return asked


def grounds_words(plan: Plan, school: str, way: str, to: str) -> str:
    """“Grounds of cameras and senders: a star at the pack, to Power board”."""
    name, _ = SCHOOL_WORDS[school]
    return f"{name}: {VALUE_WORDS[way]}" + (f", to {plan.title(to)}" if to else "")


def dip_words(plan: Plan, dip: Dip | None) -> str:
    """“Receiver 4.53 V, resets at 4.30 V, in Plug in”."""
    if dip is None:
        return "–"
    return f"{plan.title(dip.device)} {format_si(dip.least_v, 'V')}, resets at {format_si(dip.reset_v, 'V')}, in {dip.scenario}"


def instead_words(of: Field, found: Instead | None) -> str:
    """The next best, and what it costs."""
    if found is None:
        return "nothing else"
    cost = []
    if found.parts:
        cost.append(f"{found.parts:+d} part{'' if abs(found.parts) == 1 else 's'}".replace("-", "−"))
    if abs(found.grams) >= 0.05:
        cost.append(f"{found.grams:+.1f} g".replace("-", "−"))
    return f"{place_name(of, found.rail)}: {', '.join(cost) or 'as many parts'}"


def impossible_words(of: Field, one: Impossible, parts: Sequence[Part]) -> tuple[str, str]:
    """Why it cannot be, and the least thing that would change it."""
    plan = of.case.plan
    full = plan.pack.rest_v("full")
    if one.nowhere:
        device = plan.device_of[one.devices[0]]
        window = f"{format_si(device.min_v, 'V')} to {format_si(device.max_v, 'V')}"
        return (
            f"{device.name} takes {window}: no rail has that from a full pack to a low one, and no regulator that may be bought makes it.",
            f"a supply of {format_si(device.nominal_v, 'V')} that takes {format_si(full, 'V')}, or another {device.name}",
        )
    if one.school:
        return "No wiring keeps to the schools that are held to and to what was turned down.", "leave one of them open"
    if one.verdict is not None:
        told = tell(plan, one.verdict)
        return told.title, told.remedy
    rail = one.rail
    volts = plan.rail_of[rail].nominal_v if rail in plan.rail_of else None
    same = [
        p.bec.rating_a
        for p in parts
        if p.bec and volts and abs(p.bec.set_v - volts) < 0.6 and p.bec.input_max_v >= full
    ]
    asked = sum(max(p.amps_a.values(), default=0.0) for p in of.places if p.rail == rail)
    most = (
        f"; the largest on the shelf that takes {format_si(full, 'V')} is of {format_si(max(same), 'A')}"
        if same
        else ""
    )
    return (
        f"{names(plan, one.devices)} ask {format_si(one.missing_a, 'A')} more of {place_name(of, rail)} than it may give, and may go nowhere else.",
        f"a supply of {format_si(volts or full, 'V')} and {format_si(max(asked, one.missing_a), 'A')} or more{most}",
    )
