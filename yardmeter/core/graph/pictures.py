"""The way of every camera's picture, board by board, with and without an on-screen-display chip in it."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.plan import Device, Plan, Signal
from yardmeter.core.ways import chain

SENDS = ("sender", "digital", "computer", "recorder")
"""What a picture is for: sent, or kept."""


@dataclass(frozen=True)
class Picture:
    """Owners from the camera on; `arrives` when the last of them sends or keeps the picture, `display` when a chip writes on it."""

    signals: tuple[str, ...]
    owners: tuple[str, ...]
    arrives: bool
    display: bool


def pictures(plan: Plan) -> tuple[Picture, ...]:
    """One for each video signal that leaves a camera."""
    video = [one for one in plan.signals if one.kind == "video"]
    passing: dict[str, str] = {}
    onward: dict[str, Signal] = {}
    for signal in video:
        source, sink = plan.owner_of[signal.source], plan.owner_of[signal.sink]
        # A board without the chip has no way from its video input to its output; a device ends the way.
        if not isinstance(source, Device) and source.osd and source.id not in onward:
            onward[source.id] = signal
            passing[source.id] = sink.id
    cameras = [one for one in video if isinstance(plan.owner_of[one.source], Device)]
    return tuple(_picture(plan, one, passing, onward) for one in cameras)


def _picture(plan: Plan, first: Signal, passing: dict[str, str], onward: dict[str, Signal]) -> Picture:
    camera, entered = plan.owner_of[first.source].id, plan.owner_of[first.sink].id
    owners = [entered, *(one for one in chain(passing, entered)[1:] if one != camera)]
    ends_at = plan.owner_of[owners[-1]]
    device = ends_at if isinstance(ends_at, Device) else None
    boards = [plan.board_of[one] for one in owners if one in plan.board_of]
    passed = owners[:-1] if device else owners
    signals = [first.id, *(onward[one].id for one in passed if one in onward)]
    arrives = device is not None and device.kind in SENDS
    return Picture(tuple(signals), (camera, *owners), arrives, any(board.osd for board in boards))
