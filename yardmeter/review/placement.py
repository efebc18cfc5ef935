"""Where could this device live? Every place that was tried, with what speaks against it and for it in words."""

from __future__ import annotations

from collections.abc import Sequence

from yardmeter.core.answers.model import Answer
from yardmeter.core.choices.places import Kind, Tried, Weights
from yardmeter.core.choices.places import places as tried
from yardmeter.core.parts import Part
from yardmeter.core.plan import Device, Plan
from yardmeter.core.plan.operations import Edit
from yardmeter.words.fitness import refusal

NOISE_WORDS = (
    "quiet: behind a linear regulator",
    "ripple of a switching regulator",
    "ripple of two",
    "everything on the pack: motors, ESCs",
)


class Place(Answer):
    """One place with its numbers, all of the worst pack condition; `refused` says why it cannot be."""

    title: str
    kind: Kind
    rail: str | None
    current: bool
    edits: tuple[Edit, ...]
    refused: str | None
    score: float
    already: str | None = None
    """What is wrong there whether the device comes or not."""
    spare_a: float | None = None
    spare_frac: float | None = None
    headroom_v: float | None = None
    still_temp_c: float | None = None
    drop_v: float | None = None
    noise: int = 3
    noise_words: str = ""
    added_g: float = 0.0
    added_wires: int = 0
    on_short_v: float | None = None
    room_frac: float = 1.0
    """How much of the room wanted under its maximum it has, where the volts follow the pack."""
    short_words: str = ""


def places(
    plan: Plan, device_id: str, weights: Weights | None = None, becs: Sequence[Part] = (), *, every_way: bool = True
) -> tuple[Place, ...]:
    """All places as `core.choices.places` ranks them. Raises UnknownElementError, EditError."""
    found = tried(plan, device_id, weights, becs, every_way=every_way)
    return tuple(_told(plan.device_of[device_id], one) for one in found)


def _told(device: Device, one: Tried) -> Place:
    if one.at is None or one.so is None:
        return Place(
            title=one.title, kind=one.kind, rail=one.rail, current=False, edits=one.edits, refused=one.error, score=0.0
        )
    after = one.at.at.plan
    powered = after.device_of[device.id]
    against = refusal(after, one.at if one.edits else one.so)
    return Place(
        title=one.title, kind=one.kind, rail=one.rail, current=not one.edits, edits=one.edits,
        refused=against, already=None if against else refusal(after, one.so), score=one.score,
        spare_a=one.spare_a, spare_frac=one.spare_frac, headroom_v=one.headroom_v, still_temp_c=one.still_temp_c,
        drop_v=one.drop_v, noise=one.noise, noise_words=NOISE_WORDS[one.noise], added_g=one.added_g,
        added_wires=one.added_wires, on_short_v=one.on_short_v, room_frac=one.room_frac,
        short_words=_short_words(powered, one.on_short_v),
    )  # fmt: skip


def _short_words(device: Device, short_v: float | None) -> str:
    if short_v is None:
        return "no regulator to fail"
    return (
        f"survives {short_v:.1f} V"
        if device.at_volts(short_v) != "high"
        else f"lost: {short_v:.1f} V on {device.max_v:g} V"
    )
