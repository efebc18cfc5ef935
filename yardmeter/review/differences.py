"""What is wired differently between two plans, in words."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.plan import Board, Clamp, Filter, Plan, Rail, Signal, Supply

Part = Board | Rail | Supply | Filter | Clamp | Signal


def differences(first: Plan, other: Plan) -> list[str]:
    """What is added, left out, moved or changed in `other`, a line each."""
    words = []
    groups: tuple[tuple[str, Sequence[Part], Sequence[Part]], ...] = (
        ("board", first.boards, other.boards),
        ("rail", first.rails, other.rails),
        ("supply", first.supplies, other.supplies),
        ("filter", first.filters, other.filters),
        ("clamp", first.clamps, other.clamps),
        ("signal", first.signals, other.signals),
    )
    for kind, before, after in groups:
        old, new = {x.id: x for x in before}, {x.id: x for x in after}
        words += [f"{kind} {new[k].name} added" for k in new if k not in old]
        words += [f"{kind} {old[k].name} left out" for k in old if k not in new]
        words += [
            f"{new[k].name} changed"
            for k in new
            if k in old and new[k] != old[k] and kind in ("supply", "filter", "clamp", "signal")
        ]
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
    words += [f"{d.name} left out" for d in first.devices if d.id not in other.device_of]
    return words
