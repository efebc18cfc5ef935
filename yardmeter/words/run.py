"""Words of a run: its acts, what switched, and the chain of causes of a reset."""

from __future__ import annotations

from yardmeter.core.plan import Plan
from yardmeter.core.plan.scenarios import ScenarioAct
from yardmeter.core.runs.report import DeviceLife, Report
from yardmeter.core.runs.why import ChainLink, Why
from yardmeter.core.solver.transient.trace import Happening
from yardmeter.core.units import format_si

CODES: dict[Happening, str] = {
    Happening.UNDER: "falls under its brown-out volts",
    Happening.BACK: "recovers in time",
    Happening.RESET: "resets",
    Happening.BOOTS: "boots",
    Happening.RUNS: "runs",
    Happening.STARTS: "starts",
    Happening.STOPS: "stops: its input is too low",
    Happening.LIMITS: "is at its limit",
    Happening.FREE: "leaves its limit",
    Happening.HICCUPS: "gives up, and will try again",
    Happening.LATCHES: "opens, and stays open until power is cycled",
    Happening.TRIPS: "trips: too hot",
    Happening.COOLS: "has cooled down",
    Happening.MELTS: "loses its fuse",
    Happening.LOOPS: "boots and resets over and over",
    Happening.RETRIES: "starts and gives up over and over",
    Happening.CHATTERS: "starts and stops over and over",
    Happening.ACT: "",
}


def seconds(value_s: float) -> str:
    """A time as on the bench: µs, ms, s, minutes."""
    if value_s >= 120:
        return f"{value_s / 60:.3g} min"
    return format_si(value_s, "s")


def act_words(plan: Plan, act: ScenarioAct) -> str:
    """An act in a few words."""
    match act.act:
        case "plug":
            own, ohm = plan.pack.lead.inline, act.anti_spark_ohm
            if ohm is None:
                ohm = own.ohm if own and own.kind == "spark" else 0.0
            through = f" through {format_si(ohm, 'Ω')}" if ohm else ""
            return f"pack in{through}" + (
                f", bounces {'once' if act.bounces == 1 else f'{act.bounces} times'}" if act.bounces else ""
            )
        case "unplug":
            return "pack out"
        case "connect":
            return f"{plan.title(act.inlet)} in"
        case "disconnect":
            return f"{plan.title(act.inlet)} out"
        case "throttle":
            over = f" over {seconds(act.over_s)}" if act.over_s else ""
            return f"throttle to {act.to_frac * 100:.0f} %{over}"
        case "brake":
            return f"brake for {seconds(act.for_s)}"
        case "state":
            return f"{plan.title(act.device)}: {act.state}"
        case "draw":
            unit = "W" if plan.device_of[act.device].law == "power" else "A"
            return f"{plan.title(act.device)} draws {format_si(act.value, unit)}"
        case "strap":
            names = ", ".join(plan.title(one) for one in act.selected) or "nothing"
            return f"{plan.title(act.supply)} bridged to {names}"
        case "fail":
            return f"{plan.title(act.element)} fails {act.how}"


def event_words(plan: Plan, code: Happening, element: str, period_s: float = 0.0, rounds: int = 0) -> str:
    """What switched, in a sentence without a full stop."""
    every = f", every {seconds(period_s)}, {rounds} rounds not drawn" if rounds else ""
    return f"{plan.title(element)} {CODES[code]}{every}"


def link_words(plan: Plan, link: ChainLink, acts: tuple[ScenarioAct, ...]) -> str:
    """One link of a chain of causes."""
    volts = format_si(link.volts_v, "V") if link.volts_v is not None else ""
    amps = format_si(link.amps_a, "A") if link.amps_a is not None else ""
    name = "pack" if link.element in ("", "pack") else plan.title(link.element)
    limit = link.limit or 0.0
    match link.kind:
        case "act":
            return act_words(plan, acts[link.act]) if link.act is not None else "an act"
        case "motors":
            return f"motors {amps}"
        case "pack":
            return f"pack rail {volts}, {amps} from the pack"
        case "rail":
            return f"{name} {volts}"
        case "dropout":
            return f"{name} in dropout: {volts} in, {format_si(limit, 'V')} wanted"
        case "limit":
            return f"{name} at its limit of {format_si(limit, 'A')}"
        case "stopped":
            return f"{name} has stopped: {volts} in, it stops below {format_si(limit, 'V')}"
        case "hiccups":
            return f"{name} has given up over {format_si(limit, 'A')}"
        case "latched":
            return f"{name} has opened over {format_si(limit, 'A')}"
        case "tripped":
            return f"{name} has tripped at {limit:.0f} °C"
        case "fuse":
            return f"fuse of {name} melted at {amps}, printed {format_si(limit, 'A')}"
        case "wire":
            return f"{name} is {volts}: the rest is lost in the wire"
        case "no source":
            return f"{name} {volts}"
        case "pins":
            lasted = f" for {seconds(link.lasted_s)}" if link.lasted_s else ""
            return f"{name} {volts}{lasted}, resets below {format_si(limit, 'V')}"


def why_words(plan: Plan, found: Why, acts: tuple[ScenarioAct, ...]) -> str:
    """The chain as one line."""
    return " → ".join(link_words(plan, one, acts) for one in found.chain)


def outcome_words(plan: Plan, found: Report) -> tuple[str, ...]:
    """What is wrong in a scenario, a few words each; nothing where all is well."""

    def resets(one: DeviceLife) -> str:
        if one.loop_s is not None:
            return f"reboots every {seconds(one.loop_s)}"
        return (
            f"resets at {seconds(one.resets_s[0])}" if len(one.resets_s) == 1 else f"resets {len(one.resets_s)} times"
        )

    told = [f"fuse of {plan.title(one.element)} melts at {seconds(one.at_s)}" for one in found.melted]
    told += [f"{plan.title(one.id)} {resets(one)}" for one in found.devices if one.resets_s]
    told += [
        f"{plan.title(one.id)} sees {format_si(one.most_v, 'V')}, over its maximum for {seconds(one.over_s)}"
        for one in found.devices
        if one.over_s > 0
    ]
    told += [
        f"{plan.title(one.id)} gets {format_si(one.most_in_v or 0.0, 'V')} at its input, over what it takes for {seconds(one.over_in_s)}"
        for one in found.supplies
        if one.over_in_s > 0
    ]
    told += [
        f"{plan.title(one.id)} gets {format_si(one.most_v, 'V')}, over its print for {seconds(one.over_s)}"
        for one in found.capacitors
        if one.over_s > 0
    ]
    told += [f"{plan.title(one.id)} never starts" for one in found.devices if one.never]
    told += [
        f"{plan.title(one.id)} has {format_si(max(one.end_v, 0.0), 'V')} at the end, too few to run"
        for one in found.devices
        if one.short and not (one.never or one.resets_s)
    ]
    told += [f"{plan.title(one.id)} trips" for one in found.supplies if one.trips_s]
    told += [
        f"{plan.title(one.id)} starts and stops every {seconds(one.chatter_s)}"
        for one in found.supplies
        if one.chatter_s
    ]
    told += [f"{plan.title(one.id)} gives up at its limit" for one in found.supplies if one.gives_up_s]
    told += {"lit": ["the lamp stays lit"], "opened": ["the limiter opens"]}.get(found.limiter or "", [])
    if found.stuck_s is not None:
        told.append(f"the run was given up at {seconds(found.stuck_s)}: it found no way on, or too much switched")
    return tuple(told)


def steady_words(found: Why) -> str:
    """Whether a capacitor can help at all."""
    if found.steady:
        return "Its volts stay too low: this is no dip, and no capacitor cures it."
    return f"A dip of {seconds(found.below_s)}: a capacitor that holds so long would cure it."
