"""What is wired differently between two plans, in words."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.plan import (
    Board,
    Clamp,
    Condition,
    Device,
    Filter,
    Inlet,
    MeasuredNoise,
    Pack,
    Plan,
    Rail,
    Scenario,
    Signal,
    Supply,
)

Part = Board | Rail | Supply | Filter | Clamp | Signal | Inlet | MeasuredNoise | Condition | Scenario


def differences(first: Plan, other: Plan) -> list[str]:
    """What is added, left out, moved or changed in `other`, a line each."""
    words = _pack(first.pack, other.pack)
    groups: tuple[tuple[str, Sequence[Part], Sequence[Part]], ...] = (
        ("board", first.boards, other.boards),
        ("rail", first.rails, other.rails),
        ("supply", first.supplies, other.supplies),
        ("filter", first.filters, other.filters),
        ("clamp", first.clamps, other.clamps),
        ("signal", first.signals, other.signals),
        ("port", first.inlets, other.inlets),
        ("measured noise", first.noises, other.noises),
        ("condition", first.conditions, other.conditions),
        ("scenario", first.scenarios, other.scenarios),
    )
    for kind, before, after in groups:
        old, new = {x.id: x for x in before}, {x.id: x for x in after}
        words += [f"{kind} {new[k].name} added" for k in new if k not in old]
        words += [f"{kind} {old[k].name} left out" for k in old if k not in new]
        words += [f"{new[k].name} changed" for k in new if k in old and new[k] != old[k]]
    for device in other.devices:
        was = first.device_of.get(device.id)
        if was is None:
            words.append(f"{device.name} added")
            continue
        rails = [d.feed.rail if d.feed else None for d in (was, device)]
        if rails[0] != rails[1]:
            names = [p.rail_of[r].name if r else "nothing" for p, r in zip((first, other), rails, strict=True)]
            words.append(f"{device.name}: fed from {names[1]} instead of {names[0]}")
        if [r.to for r in was.returns] != [r.to for r in device.returns]:
            words.append(
                f"{device.name}: ground to {', '.join(other.title(r.to) for r in device.returns) or 'nothing'}"
            )
        if was.way != device.way and device.way:
            words.append(f"{device.name}: powered by {device.way}")
        if was.draws != device.draws:
            words.append(f"{device.name}: other draws")
        words += _otherwise(was, device)
    words += [f"{d.name} left out" for d in first.devices if d.id not in other.device_of]
    if first.policy != other.policy:
        words.append("other policies")
    return words


TOLD_APART = {"feed", "returns", "way", "ways", "draws", "note"}
"""Fields of a device that have a line of their own, or change nothing that is compared."""


def _pack(was: Pack, now: Pack) -> list[str]:
    """Numbers of two packs are not to be compared unseen."""
    if was == now:
        return []
    if was.name != now.name or (was.series, was.parallel) != (now.series, now.parallel):
        return [f"another pack: {now.name}, {now.series}S, instead of {was.name}, {was.series}S"]
    return ["the pack’s numbers differ"]


def _otherwise(was: Device, now: Device) -> list[str]:
    """Another window, gauge or pin: whatever has no words of its own, in one line."""
    wires = [one.feed.wire if one.feed else None for one in (was, now)]
    found = ["other feed wire"] if None not in wires and wires[0] != wires[1] else []
    pads = [one.feed.pad if one.feed else None for one in (was, now)]
    found += ["other pad"] if pads[0] != pads[1] else []
    rest = [
        name for name in type(now).model_fields if name not in TOLD_APART and getattr(was, name) != getattr(now, name)
    ]
    found += ["other numbers"] if rest else []
    grounds = [[one.model_copy(update={"to": ""}) for one in device.returns] for device in (was, now)]
    found += ["other ground wire"] if grounds[0] != grounds[1] and len(grounds[0]) == len(grounds[1]) else []
    return [f"{now.name}: {', '.join(found)}"] if found else []
