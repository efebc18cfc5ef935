"""The plan as a whole: elements, lookups, and the cross-checks that make it one electrical network."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any, Literal

from pydantic import Field, ValidationError, model_validator

from yardmeter.core.errors import PlanError, UnknownElementError
from yardmeter.core.once import cached_property
from yardmeter.core.plan.boards import Board, Pad, Rail
from yardmeter.core.plan.clamps import Clamp
from yardmeter.core.plan.conditions import STANDARD_CONDITIONS, Condition
from yardmeter.core.plan.devices import Device
from yardmeter.core.plan.filters import FerriteFilter, Filter, LcFilter, MeasuredNoise
from yardmeter.core.plan.packs import Pack
from yardmeter.core.plan.parts import Model, Name, Note, Return, Wire
from yardmeter.core.plan.pins import Pin
from yardmeter.core.plan.policies import Policy
from yardmeter.core.plan.scenarios import Scenario, named_by
from yardmeter.core.plan.signals import Signal
from yardmeter.core.plan.sources import Inlet
from yardmeter.core.plan.supplies import Regulator, Strap, Supply
from yardmeter.core.plan.text import plain_message
from yardmeter.core.plan.upgrades import SCHEMA_VERSION, bring_up

RESERVED_IDS = frozenset({"pack"})

Owner = Board | Device
"""What has a ground, pins and return wires."""
Element = Board | Rail | Supply | Device | Inlet | Condition | Signal | Filter | Clamp | MeasuredNoise | Scenario
COLLECTIONS = (
    "boards",
    "rails",
    "supplies",
    "devices",
    "inlets",
    "signals",
    "filters",
    "clamps",
    "noises",
    "conditions",
    "scenarios",
)


class Plan(Model):
    """One way to wire a build; the unit that is edited, solved, compared and exported."""

    format: Literal["yard-meter-plan"] = "yard-meter-plan"
    version: Literal[3] = 3
    name: Name
    note: Note = ""
    pack: Pack
    boards: tuple[Board, ...] = Field(min_length=1, max_length=200)
    rails: tuple[Rail, ...] = Field(min_length=1, max_length=400)
    supplies: tuple[Supply, ...] = Field(default=(), max_length=400)
    devices: tuple[Device, ...] = Field(default=(), max_length=1000)
    inlets: tuple[Inlet, ...] = Field(default=(), max_length=20)
    signals: tuple[Signal, ...] = Field(default=(), max_length=400)
    filters: tuple[Filter, ...] = Field(default=(), max_length=100)
    clamps: tuple[Clamp, ...] = Field(default=(), max_length=100)
    noises: tuple[MeasuredNoise, ...] = Field(default=(), max_length=100)
    conditions: tuple[Condition, ...] = Field(default=STANDARD_CONDITIONS, min_length=1, max_length=40)
    scenarios: tuple[Scenario, ...] = Field(
        default=(), max_length=40, description="The builder's own, or a shipped one made otherwise under its id."
    )
    policy: Policy = Policy()

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Plan:
        """A copy that looks its elements up anew: what was cached belongs to the original."""
        copy = super().model_copy(update=update, deep=deep)
        for name in [one for one in copy.__dict__ if one not in type(self).model_fields]:
            del copy.__dict__[name]
        return copy

    @cached_property
    def plain(self) -> dict[str, Any]:
        """Its plain data, as in a file. Shared with the plans that come of it: never to be changed."""
        return self.model_dump(mode="json")

    @cached_property
    def elements(self) -> dict[str, Element]:
        """Every element by id."""
        return {one.id: one for name in COLLECTIONS for one in getattr(self, name)}

    @cached_property
    def rail_of(self) -> dict[str, Rail]:
        return {rail.id: rail for rail in self.rails}

    @cached_property
    def board_of(self) -> dict[str, Board]:
        return {board.id: board for board in self.boards}

    @cached_property
    def device_of(self) -> dict[str, Device]:
        return {device.id: device for device in self.devices}

    @cached_property
    def supply_of(self) -> dict[str, Supply]:
        return {supply.id: supply for supply in self.supplies}

    @cached_property
    def cell_rails(self) -> frozenset[str]:
        """Rails of cells that are some device's own: nothing else is proposed for them."""
        return frozenset(one.rail for one in self.inlets if one.kind == "cell")

    @cached_property
    def inlet_of(self) -> dict[str, Inlet]:
        return {inlet.id: inlet for inlet in self.inlets}

    @cached_property
    def signal_of(self) -> dict[str, Signal]:
        return {signal.id: signal for signal in self.signals}

    @cached_property
    def _filters_at(self) -> dict[str, tuple[Filter, ...]]:
        found: dict[str, tuple[Filter, ...]] = {}
        for one in self.filters:
            if one.fitted:
                found[one.at] = (*found.get(one.at, ()), one)
        return found

    def filters_at(self, element_id: str) -> tuple[Filter, ...]:
        """Filters fitted at a rail, device or regulator; what is only claimed does not count."""
        return self._filters_at.get(element_id, ())

    def series_ohm(self, element_id: str) -> float:
        """Resistance its filters put into the feed of a device or regulator [Ω]."""
        coils = [one for one in self.filters_at(element_id) if isinstance(one, LcFilter | FerriteFilter)]
        return sum(one.dcr_ohm for one in coils)

    @cached_property
    def pad_of(self) -> dict[str, tuple[Rail, Pad]]:
        return {pad.id: (rail, pad) for rail in self.rails for pad in rail.pads}

    @cached_property
    def owners(self) -> tuple[Owner, ...]:
        return (*self.boards, *self.devices)

    @cached_property
    def owner_of(self) -> dict[str, Owner]:
        """Boards and devices by id, and by the id of each of their pins."""
        found: dict[str, Owner] = {one.id: one for one in self.owners}
        found.update({pin.id: one for one in self.owners for pin in one.pins})
        return found

    @cached_property
    def pin_of(self) -> dict[str, Pin]:
        return {pin.id: pin for one in self.owners for pin in one.pins}

    @cached_property
    def return_of(self) -> dict[str, tuple[str, Return]]:
        """Every ground wire by id, with the id of its owner."""
        return {wire.id: (owner, wire) for owner, wire in self.returns()}

    def inner_ids(self) -> Iterator[str]:
        """Ids of what lives inside an element: pads, pins, returns."""
        yield from self.pad_of
        yield from self.pin_of
        yield from self.return_of

    def element(self, element_id: str) -> Element:
        """The element of that id; raises UnknownElementError."""
        try:
            return self.elements[element_id]
        except KeyError:
            raise UnknownElementError(
                f"This plan has no element “{element_id}”.",
                where=element_id,
                remedy="It may have been removed; reload the plan.",
            ) from None

    def condition(self, condition_id: str) -> Condition:
        """The condition of that id; raises UnknownElementError."""
        for one in self.conditions:
            if one.id == condition_id:
                return one
        raise UnknownElementError(
            f"This plan has no condition “{condition_id}”.",
            where=condition_id,
            remedy=f"It has: {', '.join(c.id for c in self.conditions)}.",
        )

    def title(self, element_id: str) -> str:
        """Display name of an element, `pack` included; a rail or supply whose name is not the only one has its board's in front."""
        return "Pack" if element_id == "pack" else self._titles.get(element_id) or self.element(element_id).name

    @cached_property
    def _titles(self) -> dict[str, str]:
        """Display names of what shares its own with another of its kind."""
        found = {}
        for kind in (self.rails, self.supplies):
            count = Counter(one.name for one in kind)
            for one in kind:
                board = self.elements[one.board].name
                if count[one.name] > 1 and board not in one.name:
                    found[one.id] = f"{board}, {one.name}"
        return found

    def returns(self) -> Iterator[tuple[str, Return]]:
        """Every ground wire with the id of the board or device it leaves."""
        for owner in self.owners:
            for wire in owner.returns:
                yield owner.id, wire

    def ground_of(self, rail_id: str) -> str:
        """The board or device whose ground a rail's volts are above: the device's own, where it is an output of one."""
        own = next((one.board for one in self.supplies_into(rail_id) if one.board in self.device_of), None)
        return own or self.rail_of[rail_id].board

    def supplies_into(self, rail_id: str) -> tuple[Supply, ...]:
        """Supplies whose output is that rail."""
        return self._into.get(rail_id, ())

    @cached_property
    def _into(self) -> dict[str, tuple[Supply, ...]]:
        found: dict[str, tuple[Supply, ...]] = {}
        for supply in self.supplies:
            found[supply.output] = (*found.get(supply.output, ()), supply)
        return found

    @cached_property
    def punching(self) -> dict[bool, Condition]:
        """A condition that is a punch, and one that is held for minutes, where there are such."""
        return {one.is_punch: one for one in self.conditions}

    def devices_on(self, rail_id: str) -> tuple[Device, ...]:
        """Devices fed from that rail."""
        return self._on.get(rail_id, ())

    @cached_property
    def _on(self) -> dict[str, tuple[Device, ...]]:
        found: dict[str, tuple[Device, ...]] = {}
        for device in self.devices:
            if device.feed:
                found[device.feed.rail] = (*found.get(device.feed.rail, ()), device)
        return found

    def supplies_from(self, name: str) -> tuple[Supply, ...]:
        """Supplies that take from that rail or device."""
        return self._from.get(name, ())

    @cached_property
    def _from(self) -> dict[str, tuple[Supply, ...]]:
        found: dict[str, tuple[Supply, ...]] = {}
        for supply in self.supplies:
            for name in self.inputs_of(supply):
                found[name] = (*found.get(name, ()), supply)
        return found

    def inputs_of(self, supply: Supply) -> tuple[str, ...]:
        """Rails or the device a supply really takes from; a strap may take from several or none."""
        return supply.selected if isinstance(supply, Strap) else (supply.input,)

    @model_validator(mode="before")
    @classmethod
    def _standard_conditions(cls, data: Any) -> Any:
        """Where conditions are left out the standard six hold, less the USB one on a plan without a USB inlet."""
        if isinstance(data, dict) and "conditions" not in data:
            # Anything may stand here; what is no list of inlets is refused further on.
            given = data.get("inlets")
            inlets = given if isinstance(given, list | tuple) else ()
            ids = [one.get("id") if isinstance(one, dict) else getattr(one, "id", None) for one in inlets]
            return {**data, "conditions": [c for c in STANDARD_CONDITIONS if "usb" not in c.energy or "usb" in ids]}
        return data

    @model_validator(mode="after")
    def _one_network(self) -> Plan:
        problems = list(_duplicates(self)) + list(_dangling(self))
        if problems:
            raise ValueError("; ".join(problems))
        return self


def _duplicates(plan: Plan) -> Iterator[str]:
    names = [one.id for name in COLLECTIONS for one in getattr(plan, name)]
    names += [pad.id for rail in plan.rails for pad in rail.pads] + [wire.id for _, wire in plan.returns()]
    names += [pin.id for owner in plan.owners for pin in owner.pins]
    for name, count in Counter(names).items():
        if count > 1:
            yield f"the id “{name}” is used {count} times; ids are unique in a plan"
        if name in RESERVED_IDS:
            yield f"the id “{name}” is reserved"


def _wires(plan: Plan) -> Iterator[tuple[str, Wire]]:
    """Every wire but the pack's lead, with what it belongs to."""
    for owner, back in plan.returns():
        yield owner, back.wire
    for device in plan.devices:
        if device.feed:
            yield device.id, device.feed.wire
    for supply in plan.supplies:
        yield from ((supply.id, wire) for wire in (supply.feed, supply.lead) if wire)
    yield from ((signal.id, signal.wire) for signal in plan.signals)


def _dangling(plan: Plan) -> Iterator[str]:
    rails, boards, devices = plan.rail_of, plan.board_of, plan.device_of
    if plan.pack.rail not in rails:
        yield f"pack.rail names “{plan.pack.rail}”, which is no rail"
    for rail in plan.rails:
        if rail.board not in boards:
            yield f"rail “{rail.id}” stands on board “{rail.board}”, which does not exist"
    for supply in plan.supplies:
        inputs = supply.choices if isinstance(supply, Strap) else (supply.input,)
        for one in inputs:
            if one not in rails and one not in devices:
                yield f"supply “{supply.id}” takes from “{one}”, which is neither a rail nor a device"
        if supply.output not in rails:
            yield f"supply “{supply.id}” feeds “{supply.output}”, which is no rail"
        if supply.board not in boards and supply.board not in devices:
            yield f"supply “{supply.id}” stands on “{supply.board}”, which is neither a board nor a device"
        if supply.output in inputs:
            yield f"supply “{supply.id}” feeds the rail it takes from"
    for owner, own in _wires(plan):
        if own.inline and own.inline.kind == "spark":
            yield f"“{owner}” has an anti-spark contact in its wire: it does nothing anywhere but in the pack's lead"
    for device in plan.devices:
        if device.feed and device.feed.rail not in rails:
            yield f"device “{device.id}” is fed from “{device.feed.rail}”, which is no rail"
        if (
            device.feed
            and device.feed.pad
            and plan.pad_of.get(device.feed.pad, (None,))[0] is not rails.get(device.feed.rail)
        ):
            yield f"device “{device.id}” is fed from pad “{device.feed.pad}”, which is no pad of that rail"
    for owner, wire in plan.returns():
        if wire.to == owner:
            yield f"return “{wire.id}” goes from “{owner}” to itself"
        elif wire.to != "pack" and wire.to not in boards and wire.to not in devices:
            yield f"return “{wire.id}” goes to “{wire.to}”, which is no board, no device and not the pack"
    yield from _dangling_signals(plan)
    yield from _dangling_filters(plan)
    yield from _dangling_scenarios(plan)
    for inlet in plan.inlets:
        if inlet.rail not in rails:
            yield f"inlet “{inlet.id}” enters rail “{inlet.rail}”, which does not exist"
    for condition in plan.conditions:
        for one in condition.energy:
            if one != "pack" and one not in plan.inlet_of:
                yield f"condition “{condition.id}” uses “{one}”, which is neither the pack nor an inlet"
        for one in condition.states:
            if one not in devices:
                yield f"condition “{condition.id}” sets the state of “{one}”, which is no device"


def _dangling_signals(plan: Plan) -> Iterator[str]:
    for signal in plan.signals:
        for end in (signal.source, signal.sink):
            if end not in plan.owner_of:
                yield f"signal “{signal.id}” ends at “{end}”, which is no pin, no board and no device"
        if signal.ground is not None and signal.ground not in plan.return_of:
            yield f"signal “{signal.id}” has the ground wire “{signal.ground}”, which is no return"
    for device in plan.devices:
        own = {pin.id for pin in device.pins}
        if device.feed and device.feed.pin and device.feed.pin not in own:
            yield f"the feed of “{device.id}” lands on “{device.feed.pin}”, which is no pin of it"
    for owner in plan.owners:
        for wire in owner.returns:
            if wire.pin and wire.pin not in {pin.id for pin in owner.pins}:
                yield f"return “{wire.id}” starts at “{wire.pin}”, which is no pin of “{owner.id}”"


def _dangling_filters(plan: Plan) -> Iterator[str]:
    for one in plan.filters:
        supply = plan.supply_of.get(one.at)
        if one.kind == "capacitor" and one.at not in plan.rail_of and one.at not in plan.device_of and supply is None:
            yield f"filter “{one.id}” stands at “{one.at}”, which is no rail, no device and no supply"
        if one.kind != "capacitor" and isinstance(supply, Regulator) and supply.feed is None:
            yield f"filter “{one.id}” stands in the feed of “{one.at}”, which has no feed wire; give it one"
        elif one.kind != "capacitor" and one.at not in plan.device_of and not isinstance(supply, Regulator):
            yield f"filter “{one.id}” stands in the feed of “{one.at}”, which is no device and no regulator"
    for clamp in plan.clamps:
        if clamp.at not in plan.rail_of and clamp.at not in plan.device_of:
            yield f"clamp “{clamp.id}” stands at “{clamp.at}”, which is no rail and no device"
    for noise in plan.noises:
        if noise.element not in plan.device_of and not isinstance(plan.supply_of.get(noise.element), Regulator):
            yield f"measured noise “{noise.id}” is made by “{noise.element}”, which is no device and no regulator"


def _dangling_scenarios(plan: Plan) -> Iterator[str]:
    conditions = {one.id for one in plan.conditions}
    kinds: dict[str, tuple[Mapping[str, object], str]] = {
        "device": (plan.device_of, "device"),
        "inlet": (plan.inlet_of, "inlet"),
        "strap": ({one.id: one for one in plan.supplies if isinstance(one, Strap)}, "strap"),
        "element": ({**plan.device_of, **plan.supply_of}, "device and no supply"),
    }
    for scenario in plan.scenarios:
        if scenario.begins is not None and scenario.begins not in conditions:
            yield f"scenario “{scenario.id}” begins in “{scenario.begins}”, which is no condition"
        for index, act in enumerate(scenario.acts):
            for kind, name in named_by(act):
                known, words = kinds[kind]
                if name not in known:
                    yield f"act {index + 1} ({act.act}) of scenario “{scenario.id}” names “{name}”, which is no {words}"
            if act.act == "strap" and act.supply in kinds["strap"][0]:
                strap = plan.supply_of[act.supply]
                strange = [one for one in act.selected if isinstance(strap, Strap) and one not in strap.choices]
                if strange:
                    yield f"act {index + 1} (strap) of scenario “{scenario.id}” bridges “{strange[0]}”, which is none of the strap's choices"


def load_plan(data: Any) -> Plan:
    """Validate plain data (as read from JSON), of whatever version ever was, into a Plan; raises PlanError with one problem per fault found."""
    if not isinstance(data, dict):
        raise PlanError("A plan is a JSON object.", remedy="Open a file that was exported as a plan.")
    data = bring_up(data, data.get("version", SCHEMA_VERSION))
    try:
        return Plan.model_validate(data)
    except ValidationError as error:
        raise plan_error(error) from None


def plan_error(error: ValidationError) -> PlanError:
    """Translate a validation error into PlanErrors that name the field, the value and the remedy."""
    problems = []
    for item in error.errors():
        where = ".".join(str(part) for part in item["loc"])
        what = plain_message(item["type"], item["msg"], item.get("ctx") or {}, item["loc"])
        value = item["input"]
        shown = f" (got {value!r})" if isinstance(value, str | int | float | bool) else ""
        problems.append(PlanError(f"{what[0].upper()}{what[1:]}{shown}.", where=where, remedy="Correct this field."))
    first = problems[0]
    what = first.what if len(problems) == 1 else f"{first.what} And {len(problems) - 1} more."
    return PlanError(what, where=first.where, remedy=first.remedy, problems=tuple(problems))
