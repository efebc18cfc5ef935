"""What a builder sees that is wrong: each symptom as what shows in which situation and in which it does not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.diagnosis.observed import CRAFT, KIND_OF, Obs, SubjectKind, held_v
from yardmeter.core.diagnosis.situations import When, whens
from yardmeter.core.errors import EditError, UnknownElementError
from yardmeter.core.plan import Device, Plan, Regulator
from yardmeter.core.plan.devices import DeviceKind
from yardmeter.core.plan.signals import SignalKind

Group = Literal["power", "picture", "signals", "bench"]


@dataclass(frozen=True)
class Look:
    """`shows` in that situation, or does not."""

    obs: Obs
    when: When
    shows: bool = True


@dataclass(frozen=True)
class Symptom:
    """`near` are symptoms to choose from instead, where this build has nothing it could be about."""

    id: str
    group: Group
    looks: tuple[Look, ...]
    kinds: tuple[DeviceKind, ...] = ()
    """Of devices it is about; any where none are named."""
    signals: tuple[SignalKind, ...] = ()
    near: tuple[str, ...] = ()

    @property
    def about(self) -> SubjectKind:
        return KIND_OF[self.looks[0].obs]


def _yes(obs: Obs, when: When) -> Look:
    return Look(obs, when)


def _no(obs: Obs, when: When) -> Look:
    return Look(obs, when, shows=False)


POWER: tuple[Symptom, ...] = (
    Symptom("resets-hover", "power", (_yes("lost", "hover"), _no("lost", "bench")), near=("resets-late", "resets-any")),
    Symptom("resets-punch", "power", (_yes("lost", "punch"), _no("lost", "hover"), _no("lost", "bench")), near=("resets-late", "resets-any")),
    Symptom("resets-warm", "power", (_yes("lost", "warm"), _no("lost", "bench")), near=("resets-any",)),
    Symptom("resets-plug", "power", (_yes("lost", "plug"), _no("lost", "bench")), near=("dead", "resets-any")),
    Symptom("resets-servo", "power", (_yes("lost", "servo"), _no("lost", "bench")), near=("resets-hover", "resets-any")),
    Symptom("resets-sender", "power", (_yes("lost", "sender"), _no("lost", "bench")), near=("resets-any",)),
    Symptom("resets-late", "power", (_yes("lost", "late"), _no("lost", "bench")), near=("resets-any",)),
    Symptom("resets-armed", "power", (_yes("lost", "armed"), _no("lost", "bench")), near=("resets-hover", "resets-any")),
    Symptom("resets-any", "power", (_yes("loose", "bench"),)),
    Symptom("usb-only", "power", (_yes("lost", "bench"), _no("lost", "usb")), near=("dead",)),
    Symptom("pack-only", "power", (_yes("lost", "usb"), _no("lost", "bench")), near=("dead",)),
    Symptom("dead", "power", (_yes("lost", "bench"),)),
    Symptom("died", "power", (_yes("over", "plug"),)),
    Symptom("hot-part", "power", (_yes("hot", "warm"),)),
    Symptom("smell", "power", (_yes("burnt", "bench"),)),
    Symptom("cell-low", "power", (_yes("cell", "bench"),)),
    Symptom("sparks", "power", (_yes("spark", "plug"),)),
    Symptom("lamp-lit", "power", (_yes("lamp", "bench"),)),
    Symptom("rail-low", "power", (_yes("low", "bench"),)),
    Symptom("rail-low-punch", "power", (_yes("low", "punch"), _no("low", "bench")), near=("rail-low",)),
    Symptom("rail-high", "power", (_yes("high", "bench"),)),
    Symptom("sags", "power", (_yes("sag", "punch"),), near=("rail-low",)),
    Symptom("short-flight", "power", (_yes("thirst", "hover"),), near=("greedy",)),
    Symptom("greedy", "power", (_yes("greedy", "bench"),)),
)  # fmt: skip
PICTURE: tuple[Symptom, ...] = (
    Symptom("lines-throttle", "picture", (_yes("lines", "hover"),), near=("lines-standing",)),
    Symptom("lines-standing", "picture", (_yes("bars", "bench"),)),
    Symptom("picture-black", "picture", (_yes("black", "bench"),)),
    Symptom("picture-black-air", "picture", (_yes("black", "hover"), _no("black", "bench")), near=("picture-black",)),
    Symptom("picture-black-punch", "picture", (_yes("black", "punch"), _no("black", "hover")), near=("picture-black",)),
    Symptom("picture-black-armed", "picture", (_yes("black", "armed"), _no("black", "bench")), near=("picture-black",)),
    Symptom("picture-black-warm", "picture", (_yes("black", "warm"), _no("black", "bench")), near=("picture-black",)),
    Symptom("snow", "picture", (_yes("weak", "sender"),), near=("picture-black",)),
    Symptom("rolling", "picture", (_yes("rolls", "bench"),)),
    Symptom("overlay-flickers", "picture", (_yes("lines", "punch"),), near=("lines-throttle", "lines-standing")),
    Symptom("overlay-gone", "picture", (_yes("overlay", "bench"),)),
)  # fmt: skip
SIGNALS: tuple[Symptom, ...] = (
    Symptom("link-dead", "signals", (_yes("bad", "bench"),), signals=("serial", "one-wire", "other"), near=("no-control", "no-fix")),
    Symptom("link-throttle", "signals", (_yes("bad", "punch"), _no("bad", "bench")), signals=("serial", "one-wire", "receiver", "other"), near=("link-dead",)),
    Symptom("no-control", "signals", (_yes("bad", "bench"),), signals=("receiver",), near=("link-dead",)),
    Symptom("control-far", "signals", (_yes("noisy", "hover"),), kinds=("receiver",), near=("no-control",)),
    Symptom("no-fix", "signals", (_yes("noisy", "bench"),), kinds=("gnss",), near=("link-dead",)),
    Symptom("heading-wrong", "signals", (_yes("heading", "bench"),), kinds=("gnss", "sensor"), near=("no-fix",)),
    Symptom("heading-swings", "signals", (_yes("heading", "hover"), _no("heading", "bench")), kinds=("gnss", "sensor"), near=("no-fix",)),
    Symptom("compass-dead", "signals", (_yes("bad", "bench"),), signals=("i2c",), near=("heading-wrong",)),
    Symptom("servo-jitter", "signals", (_yes("bad", "hover"),), signals=("servo",), near=("resets-servo",)),
    Symptom("motor-stutters", "signals", (_yes("bad", "hover"),), signals=("esc",), near=("esc-dead",)),
    Symptom("esc-dead", "signals", (_yes("bad", "bench"),), signals=("esc",), near=("dead",)),
    Symptom("lights-wrong", "signals", (_yes("bad", "bench"),), signals=("led",), near=("dead",)),
)  # fmt: skip
BENCH: tuple[Symptom, ...] = (
    Symptom("beep-stays", "bench", (_yes("closed", "bench"),)),
    Symptom("beep-missing", "bench", (_yes("open", "bench"),)),
    Symptom("beeps-on", "bench", (_yes("cell", "bench"),)),
)
SYMPTOMS: dict[str, Symptom] = {one.id: one for one in (*POWER, *PICTURE, *SIGNALS, *BENCH)}


def find_symptom(name: str) -> Symptom:
    """The symptom of that id; raises UnknownElementError."""
    if name not in SYMPTOMS:
        raise UnknownElementError(
            f"There is no symptom “{name}”.", where=name, remedy=f"Choose one of: {', '.join(SYMPTOMS)}."
        )
    return SYMPTOMS[name]


def places(plan: Plan, symptom: Symptom) -> tuple[str, ...]:
    """What this build has that the symptom can be about, the likeliest first; none where it has nothing of the kind."""
    if not {one.when for one in symptom.looks} <= set(whens(plan)):
        return ()
    if symptom.id == "overlay-gone" and not any(board.osd for board in plan.boards):
        return ()
    if symptom.id == "lamp-lit" and not any(one.in_line for one in plan.inlets):
        return ()
    found: dict[SubjectKind, Callable[[], tuple[str, ...]]] = {
        "craft": lambda: (CRAFT,),
        "rail": lambda: tuple(sorted((one.id for one in plan.rails), key=lambda r: held_v(plan, r) is None)),
        "picture": lambda: tuple(one.id for one in plan.signals if one.kind == "video"),
        "signal": lambda: tuple(one.id for one in plan.signals if one.kind in symptom.signals),
        "part": lambda: tuple(
            one.id for one in (*sorted(plan.supplies, key=lambda s: not isinstance(s, Regulator)), *plan.devices)
        ),
        "device": lambda: tuple(one.id for one in sorted(plan.devices, key=_first) if _suits(one, symptom)),
    }
    return found[symptom.about]()


def _first(device: Device) -> tuple[bool, bool]:
    """What the craft is flown by is meant first."""
    return device.kind != "logic", not device.keeps_control


def _suits(device: Device, symptom: Symptom) -> bool:
    if symptom.looks[0].obs == "heading":
        return device.compass is not None
    if symptom.kinds:
        return device.kind in symptom.kinds
    return not (device.throttle and {one.when for one in symptom.looks} & {"usb", "bench", "warm", "plug"})


def asked_about(plan: Plan, symptom: Symptom, where: str | None) -> str:
    """The place a symptom is about: as said, or the likeliest. Raises EditError where this build has none, naming the nearest."""
    found = places(plan, symptom)
    if not found:
        near = [one for one in symptom.near if places(plan, SYMPTOMS[one])]
        rest = [one.id for one in SYMPTOMS.values() if one.group == symptom.group and places(plan, one)]
        raise EditError(
            "This build has nothing that could show this.", where=symptom.id, remedy=f"Nearest: {', '.join(near or rest[:3])}.",
        )  # fmt: skip
    if where is None:
        return found[0]
    if where not in found:
        raise UnknownElementError(
            f"“{where}” cannot show this here.", where=where, remedy=f"Choose one of: {', '.join(found)}."
        )
    return where
