"""What helps a device in a scenario, in words."""

from __future__ import annotations

from yardmeter.core.answers.model import Answer
from yardmeter.core.fixes.helps import Help, HelpKind, hold_up
from yardmeter.core.plan import Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.core.runs import Run
from yardmeter.core.runs.why import whys
from yardmeter.core.units import format_si
from yardmeter.words.run import seconds


class HelpSeen(Answer):
    """A remedy: what it is, what it came to when it was run, and the edits that make it."""

    kind: HelpKind
    title: str
    outcome: str
    cured: bool
    pin_v: tuple[float, ...]
    """Volts at its pins with it, evenly over the scenario."""
    edits: tuple[Edit, ...]


class HoldUpSeen(Answer):
    """Whether a capacitor can help, and how large it would have to be."""

    steady: bool
    words: str
    working: str


def helps_seen(plan: Plan, helps: tuple[Help, ...]) -> tuple[HelpSeen, ...]:
    return tuple(
        HelpSeen(
            kind=one.kind,
            title=_title(plan, one),
            outcome=_outcome(one),
            cured=one.cured,
            pin_v=one.pin_v,
            edits=one.edits,
        )
        for one in helps
    )


def _title(plan: Plan, one: Help) -> str:
    size, name = format_si(one.value, one.unit), plan.title(one.device)
    rail = plan.title(one.rail) if one.rail else ""
    return {
        "capacitor": f"{size} at {name}",
        "bulk": f"{size} more at {rail}",
        "diode and capacitor": f"{name} behind an ideal diode, with {size}",
        "clamp": f"a clamp of {size} at {rail}",
        "anti-spark": f"{size} in the plug for its first millisecond",
        "start order": f"what starts beside it only at {size}",
        "slower throttle": f"the throttle over {size}",
        "another place": f"{name} on {rail} ({size})",
        "own regulator": f"a regulator of its own for {name}, {size}",
        "larger regulator": f"a regulator of {size} into {rail}",
        "ground": f"its ground at {rail}",
        "shorter lead": f"half the lead to the pack, {one.value * 1e3:.0f} mm",
    }[one.kind]


def _outcome(one: Help) -> str:
    parts = [f"at least {format_si(one.least_v, 'V')}" if one.least_v is not None else "never on"]
    parts.append(f"at most {format_si(one.most_v, 'V')}")
    if one.resets:
        parts.append("still resets" if one.resets == 1 else f"resets {one.resets} times")
    if one.over_s:
        parts.append(f"over its maximum for {seconds(one.over_s)}")
    return ", ".join(parts)


def hold_up_seen(run: Run, device: str) -> HoldUpSeen | None:
    """Of the device's first reset; None where it has none."""
    found = next((one for one in whys(run) if one.device == device), None)
    if found is None:
        return None
    held = hold_up(run, found)
    ten = f"10 µF hold it for {seconds(held.per_10uf_s)}"
    if held.steady or held.needed_f is None:
        words = f"Its volts stay too low for {seconds(held.dip_s)}: no dip, and no capacitor cures it. {ten}."
        if held.steady and held.missing_rail:
            rail = run.plan.title(held.missing_rail)
            words = f"An overload, and no capacitor cures it: {rail} is short by {format_si(held.missing_a, 'A')} with everybody on. {ten}."
    else:
        words = (
            f"It is without its volts for {seconds(held.dip_s)}: {format_si(held.needed_f, 'F')} would hold it. {ten}."
        )
    working = (
        f"t = C (V1² − V2²) / 2P, V1 = {format_si(held.from_v, 'V')}, V2 = {format_si(held.to_v, 'V')}, "
        f"P = {format_si(held.watts, 'W')}"
    )
    return HoldUpSeen(steady=held.steady, words=words, working=working)
