"""The plan document: the one definition used by core, API, files and database."""

from yardmeter.core.plan.boards import Board, Pad, Rail, Trace, rail_title
from yardmeter.core.plan.clamps import Clamp
from yardmeter.core.plan.conditions import STANDARD_CONDITIONS, Condition
from yardmeter.core.plan.devices import (
    VIDEO_KINDS,
    BurstDraw,
    Compass,
    Device,
    Draw,
    Draws,
    Feed,
    LedString,
    LoadLaw,
    Motors,
    ThrottlePoint,
    WayIn,
)
from yardmeter.core.plan.document import Element, Owner, Plan, load_plan
from yardmeter.core.plan.filters import CapacitorFilter, FerriteFilter, Filter, LcFilter, MeasuredNoise, NoiseKind
from yardmeter.core.plan.ids import fresh_id
from yardmeter.core.plan.packs import Pack
from yardmeter.core.plan.parts import Model, Provenance, Return, Wire
from yardmeter.core.plan.pins import Pin
from yardmeter.core.plan.policies import Policy
from yardmeter.core.plan.refeeding import fed_from
from yardmeter.core.plan.scenarios import Scenario, ScenarioAct
from yardmeter.core.plan.signals import Signal, SignalKind
from yardmeter.core.plan.sources import Inlet
from yardmeter.core.plan.supplies import Diode, EfficiencyPoint, Link, Regulator, Strap, Supply
from yardmeter.core.plan.upgrades import SCHEMA_VERSION

__all__ = [
    "SCHEMA_VERSION",
    "STANDARD_CONDITIONS",
    "VIDEO_KINDS",
    "Board",
    "BurstDraw",
    "CapacitorFilter",
    "Clamp",
    "Compass",
    "Condition",
    "Device",
    "Diode",
    "Draw",
    "Draws",
    "EfficiencyPoint",
    "Element",
    "Feed",
    "FerriteFilter",
    "Filter",
    "Inlet",
    "LcFilter",
    "LedString",
    "Link",
    "LoadLaw",
    "MeasuredNoise",
    "Model",
    "Motors",
    "NoiseKind",
    "Owner",
    "Pack",
    "Pad",
    "Pin",
    "Plan",
    "Policy",
    "Provenance",
    "Rail",
    "Regulator",
    "Return",
    "Scenario",
    "ScenarioAct",
    "Signal",
    "SignalKind",
    "Strap",
    "Supply",
    "ThrottlePoint",
    "Trace",
    "WayIn",
    "Wire",
    "fed_from",
    "fresh_id",
    "load_plan",
    "rail_title",
]  # fmt: skip
