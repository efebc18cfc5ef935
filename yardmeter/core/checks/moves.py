"""Fixes that give one device another feed."""

from __future__ import annotations

from yardmeter.core.checks.finding import Fix
from yardmeter.core.checks.places import better_rails
from yardmeter.core.checks.registry import Case
from yardmeter.core.checks.relief import new_regulator_fix
from yardmeter.core.plan import Device
from yardmeter.core.plan.operations import Move


def move_fixes(case: Case, device: Device) -> tuple[Fix, ...]:
    """The rails it could move to, then a regulator of its own."""
    moves = tuple(
        Fix(title=f"{device.name} → {rail.name}", edits=(Move(device=device.id, rail=rail.id),))
        for rail in better_rails(case, device)
    )
    own = new_regulator_fix(case, [device])
    return (*moves, own) if own else moves
