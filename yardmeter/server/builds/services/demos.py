"""Loading the demo builds that ship as data files."""

from __future__ import annotations

from dataclasses import dataclass

from yardmeter import demo
from yardmeter.server.builds.models import Build
from yardmeter.server.builds.services.lifecycle import create_build


@dataclass(frozen=True)
class DemoInfo:
    key: str
    name: str
    note: str


def demo_list() -> list[DemoInfo]:
    return [DemoInfo(one.key, one.name, one.note) for one in demo.DEMOS]


def keys() -> list[str]:
    return [one.key for one in demo.DEMOS]


def add_demo(key: str) -> Build:
    """A fresh build from a demo's plans; raises KeyError for an unknown key."""
    found = demo.find(key)
    return create_build(found.name, demo.plans(found), note=found.note, demo=found.key, summary="Demo build")


def load_all_demos() -> list[Build]:
    return [add_demo(one.key) for one in demo.DEMOS]
