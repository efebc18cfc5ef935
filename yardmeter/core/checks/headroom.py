"""`headroom.` rules: whether regulators hold their output on the sagged, low pack."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.answers.model import SupplyState
from yardmeter.core.answers.supplies import wanted_headroom_v
from yardmeter.core.answers.windows import consumers_below
from yardmeter.core.checks.finding import Finding, Fix, Severity, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.plan import Condition, Regulator
from yardmeter.core.plan.operations import SetValue
from yardmeter.core.units import format_si

DEEP_FRAC = 0.03
"""Share of its set point a rail may sink out of regulation before that is a fault by itself; our choice."""


def _powered(case: Case, supply: Regulator) -> list[tuple[Condition, SupplyState]]:
    """The conditions on the pack in which the regulator has an input at all."""
    return [
        (c, s)
        for c, s in case.supply_states(supply)
        if c.on_pack and s.in_v > 0.5 and s.headroom_v is not None and not _starved(case, supply, c)
    ]


def _starved(case: Case, supply: Regulator, condition: Condition) -> bool:
    """Whether its input rail is low only because an overload upstream cut off; that overload has its own finding."""
    feeding = case.plan.device_of[supply.input].feed if supply.input in case.plan.device_of else None
    return case.starved(feeding.rail if feeding else supply.input, condition)


def _set_lower(case: Case, supply: Regulator) -> Iterator[Fix]:
    """The nearest half volt inside the advised output range."""
    advice = next(a for a in case.windows.advice if a.supply == supply.id)
    top = min(advice.high_v, supply.set_v - 0.5)
    volts = int(top * 2) / 2
    if volts >= advice.low_v:
        edits = [SetValue(element=supply.id, field="set_v", value=volts)]
        if case.plan.rail_of[supply.output].nominal_v:
            edits.append(SetValue(element=supply.output, field="nominal_v", value=volts))
        yield Fix(title=f"Set {supply.name} to {volts:g} V", edits=tuple(edits))


def _cell_note(case: Case, supply: Regulator) -> str:
    event = next((e for e in case.windows.events if e.kind == "leaves" and e.element == supply.id), None)
    return f" It leaves regulation at {event.cell_v:.2f} V a cell." if event else ""


@rule("headroom.dropout", sense="at least")
def dropout(case: Case) -> Iterator[Finding]:
    """A buck or linear regulator out of regulation in a pack condition."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        bad = [
            (s.headroom_v or 0.0, c, s)
            for c, s in _powered(case, supply)
            if s.mode == "dropout" and (s.headroom_v or 0.0) < 0
        ]
        if not bad or _never_holds(case, supply):
            continue
        least, worst, state = min(bad, key=lambda item: item[0])
        hurt = [
            d
            for d in consumers_below(case.plan, supply.output)
            if case.device(d.id).states[worst.id].verdict in ("low", "reset")
        ]
        sunk = 1 - state.out_v / supply.set_v
        severity: Severity = (
            "danger" if any(d.keeps_control for d in hurt) else "fault" if hurt or sunk > DEEP_FRAC else "caution"
        )
        yield Finding(
            severity=severity,
            conditions=tuple(c.id for _, c, _ in bad),
            worst=worst.id,
            elements=(supply.id,),
            title=f"{supply.name} loses {supply.set_v:g} V: {state.in_v:.2f} V in, {state.out_v:.2f} V out",
            cause=f"It needs {state.in_v - least:.2f} V at its input here.{_cell_note(case, supply)}"
            + (f" {', '.join(d.name for d in hurt)} suffer." if hurt else ""),
            remedy="Set a lower output, feed it from a higher rail, or use more cells.",
            numbers=(
                number("input", state.in_v, "V"),
                number("needed", state.in_v - least, "V"),
                number("headroom", least, "V"),
            ),
            fixes=tuple(_set_lower(case, supply)),
        )


@rule("headroom.thin", sense="at least")
def thin_headroom(case: Case) -> Iterator[Finding]:
    """Holding, but with little to spare in the worst pack condition."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        wanted = wanted_headroom_v(case.plan, supply)
        held = _powered(case, supply)
        if not held or any((s.headroom_v or 0.0) < 0 for _, s in held):
            continue
        thin = [(s.headroom_v or 0.0, c) for c, s in held if (s.headroom_v or 0.0) < wanted]
        if thin:
            least, worst = min(thin, key=lambda item: item[0])
            yield Finding(
                severity="caution",
                conditions=tuple(c.id for _, c in thin),
                worst=worst.id,
                elements=(supply.id,),
                title=f"{supply.name}: {format_si(least, 'V')} of headroom left",
                cause=f"A deeper sag or an older pack takes it out of regulation.{_cell_note(case, supply)}",
                remedy="Set its output about a volt under the sagged low pack.",
                numbers=(number("headroom", least, "V"), number("wanted", wanted, "V")),
                fixes=tuple(_set_lower(case, supply)),
            )


def _never_holds(case: Case, supply: Regulator) -> bool:
    """Whether even the full pack at rest cannot hold a buck's or linear's set point."""
    gain = supply.duty_max_frac if supply.kind == "buck" else 1.0
    best = max((s.in_v for _, s in _powered(case, supply)), default=0.0)
    full = case.plan.pack.rest_v("full")
    return (
        supply.kind in ("buck", "linear")
        and 0.5 < best <= full * 1.01
        and gain * full - supply.dropout_v < supply.set_v
    )


@rule("headroom.boost", sense="at most")
def boost_needed(case: Case) -> Iterator[Finding]:
    """A step-down regulator asked for more volts than its input ever has."""
    for supply in case.plan.supplies:
        if isinstance(supply, Regulator) and _never_holds(case, supply):
            highest = max(s.in_v for _, s in _powered(case, supply))
            yield Finding(
                severity="fault",
                conditions=tuple(c.id for c, _ in _powered(case, supply)),
                worst=min(_powered(case, supply), key=lambda item: item[1].in_v)[0].id,
                elements=(supply.id,),
                title=f"{supply.name} cannot make {supply.set_v:g} V from {highest:.2f} V",
                cause="A step-down regulator gives at most its input less its drop; only a boost keeps this rail up.",
                remedy="Fit a boost or buck-boost regulator.",
                numbers=(number("highest input", highest, "V"), number("set point", supply.set_v, "V")),
                fixes=(
                    Fix(
                        title=f"Make {supply.name} a buck-boost",
                        edits=(SetValue(element=supply.id, field="kind", value="buckboost"),),
                    ),
                ),
            )


@rule("headroom.start", sense="at least")
def below_start(case: Case) -> Iterator[Finding]:
    """A regulator with an input that is too low for it to run."""
    for supply in case.plan.supplies:
        if not isinstance(supply, Regulator):
            continue
        off = [
            (s.in_v, c, s)
            for c, s in case.supply_states(supply)
            if s.mode in ("off", "hiccup") and s.in_v > 1.0 and c.on_pack and not _starved(case, supply, c)
        ]
        needed = {c.id: supply.start_v if c.throttle_frac == 0 else supply.stop_v for _, c, _ in off}
        off = [item for item in off if item[0] < needed[item[1].id] + 0.05 or item[2].mode == "hiccup"]
        if off:
            volts, worst, _ = min(off, key=lambda item: item[0])
            yield Finding(
                severity="fault",
                conditions=tuple(c.id for _, c, _ in off),
                worst=worst.id,
                elements=(supply.id,),
                title=f"{supply.name} does not run: {volts:.2f} V in, {'starts' if worst.throttle_frac == 0 else 'stops'} at {needed[worst.id]:g} V",
                cause="Below its under-voltage lock-out it is off, and everything behind it is dark.",
                remedy="Raise its input, or choose a regulator that starts lower.",
                numbers=(number("input", volts, "V"), number("threshold", needed[worst.id], "V")),
            )
