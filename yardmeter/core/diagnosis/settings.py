"""Settings and habits that look like an electrical fault: no plan can see them, so what they make is common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from yardmeter.core.plan import Plan
from yardmeter.core.plan.devices import DeviceKind
from yardmeter.core.plan.signals import SignalKind

SettingId = Literal[
    "full card", "watchdog", "low power", "channel", "line standard", "overlay off", "port function", "not bound", "antennas",
    "compass turned", "compass not set", "esc protocol", "motor timing", "throttle not low", "pack alarm", "servo rate", "power when armed",
    "amps scale", "led order", "brightness",
]  # fmt: skip


@dataclass(frozen=True)
class Setting:
    """`makes` are symptoms with the chance that it shows as this one, where it is set wrong; `often` how often it is."""

    id: SettingId
    often: float
    makes: dict[str, float]
    devices: tuple[DeviceKind, ...] = ()
    signals: tuple[SignalKind, ...] = ()
    minutes: float = 2.0


SETTINGS: tuple[Setting, ...] = (
    Setting("full card", 0.02, {"resets-warm": 0.3, "resets-any": 0.3}, ("computer", "recorder"), (), 3.0),
    Setting("watchdog", 0.02, {"resets-warm": 0.2, "resets-any": 0.5, "resets-armed": 0.1}, ("logic", "computer"), (), 4.0),
    Setting("low power", 0.04, {"snow": 0.7, "picture-black": 0.2}, ("sender", "digital")),
    Setting("channel", 0.06, {"picture-black": 0.6, "snow": 0.5, "picture-black-armed": 0.1}, ("sender", "digital"), (), 1.0),
    Setting("line standard", 0.04, {"rolling": 0.9, "overlay-gone": 0.3, "overlay-flickers": 0.3}, ("camera",), ("video",)),
    Setting("overlay off", 0.05, {"overlay-gone": 0.9}, ("camera",), ("video",)),
    Setting("port function", 0.1, {"link-dead": 0.9, "no-control": 0.6, "no-fix": 0.4}, (), ("serial", "receiver", "one-wire")),
    Setting("not bound", 0.06, {"no-control": 0.9}, ("receiver",), (), 3.0),
    Setting("antennas", 0.08, {"control-far": 0.9, "snow": 0.4}, ("receiver", "sender"), (), 3.0),
    Setting("compass turned", 0.08, {"heading-wrong": 0.9}, ("gnss", "sensor")),
    Setting("compass not set", 0.05, {"heading-wrong": 0.4, "heading-swings": 0.2}, ("gnss", "sensor"), (), 4.0),
    Setting("esc protocol", 0.05, {"esc-dead": 0.8, "motor-stutters": 0.3}, ("motor",), ("esc",)),
    Setting("motor timing", 0.04, {"motor-stutters": 0.7}, ("motor",), (), 4.0),
    Setting("throttle not low", 0.06, {"esc-dead": 0.6, "beeps-on": 0.3}, ("motor",), (), 1.0),
    Setting("pack alarm", 0.06, {"resets-late": 0.2, "short-flight": 0.4, "beeps-on": 0.4}, ("motor",)),
    Setting("servo rate", 0.04, {"servo-jitter": 0.6}, ("servo",)),
    Setting("power when armed", 0.04, {"picture-black-armed": 0.7, "snow": 0.3}, ("sender", "digital")),
    Setting("amps scale", 0.06, {"short-flight": 0.6}, ("motor",)),
    Setting("led order", 0.06, {"lights-wrong": 0.9}, ("led",), ("led",)),
    Setting("brightness", 0.04, {"greedy": 0.1, "lights-wrong": 0.2}, ("led",)),
)  # fmt: skip


def settings_of(plan: Plan) -> tuple[Setting, ...]:
    """Those this craft can have set wrong: one of its devices, or signals, takes it."""
    devices, signals = {one.kind for one in plan.devices}, {one.kind for one in plan.signals}
    return tuple(one for one in SETTINGS if devices & set(one.devices) or signals & set(one.signals))
