"""The way of every camera's picture, board by board, with and without an on-screen-display chip in it."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter.core.plan import Device, Plan, Signal

SENDS = ("sender", "digital", "computer", "recorder")
"""What a picture is for: sent, or kept."""


@dataclass(frozen=True)
class VideoPath:
    """Owners from the camera on; `arrives` when the last of them sends or keeps the picture, `display` when a chip writes on it."""

    signals: tuple[str, ...]
    owners: tuple[str, ...]
    arrives: bool
    display: bool


def video_paths(plan: Plan) -> tuple[VideoPath, ...]:
    """One path per video signal that leaves a camera."""
    return tuple(
        _follow(plan, signal)
        for signal in plan.signals
        if signal.kind == "video" and isinstance(plan.owner_of[signal.source], Device)
    )


def _follow(plan: Plan, first: Signal) -> VideoPath:
    signals, owners = [first.id], [plan.owner_of[first.source].id]
    signal: Signal | None = first
    display = False
    while signal is not None:
        at = plan.owner_of[signal.sink]
        if at.id in owners:
            break
        owners.append(at.id)
        if isinstance(at, Device):
            return VideoPath(tuple(signals), tuple(owners), at.kind in SENDS, display)
        display = display or at.osd
        # A board without the chip has no way from its video input to its output.
        signal = next((s for s in plan.signals if s.kind == "video" and plan.owner_of[s.source].id == at.id), None) if at.osd else None  # fmt: skip
        if signal is not None:
            signals.append(signal.id)
    return VideoPath(tuple(signals), tuple(owners), False, display)


def path_words(plan: Plan, path: VideoPath) -> str:
    """“Camera → Controller (on-screen display) → Sender”."""
    words = []
    for owner in path.owners:
        board = plan.board_of.get(owner)
        words.append(plan.title(owner) + (" (on-screen display)" if board and board.osd else ""))
    return " → ".join(words)
