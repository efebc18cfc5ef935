"""Walks over a plan: feeds, nets, returns. Every other module asks here instead of walking by itself."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from yardmeter.core.once import cached_property, once_each
from yardmeter.core.plan import Condition, Device, Diode, Link, Plan, Regulator, Strap, Supply
from yardmeter.core.ways import Ways, beyond, chain, join, nets, shortest, ways

PACK: Literal["pack"] = "pack"


@dataclass(frozen=True)
class Ring:
    """Returns that close a loop: the wires, and the grounds they join, in order around it."""

    wires: tuple[str, ...]
    owners: tuple[str, ...]


def graph_of(plan: Plan) -> PlanGraph:
    """The graph of a plan, made once for each plan."""
    found = plan.__dict__.get("_graph")
    if not isinstance(found, PlanGraph):
        found = plan.__dict__["_graph"] = PlanGraph(plan)
    return found


def reached(starts: Mapping[str, str], edges: Iterable[tuple[str, str]]) -> dict[str, set[str]]:
    """By node, which sources reach it along directed edges; `starts` names where each source enters."""
    onward = ways(starts.values(), edges)
    found: dict[str, set[str]] = {}
    for source, node in starts.items():
        for one in (node, *beyond(onward, node)):
            found.setdefault(one, set()).add(source)
    return found


def _passed_v(supply: Supply, above_v: float) -> float:
    """The most a supply makes of the most its input sees [V]."""
    if not isinstance(supply, Regulator):
        return above_v
    if above_v <= 0:
        return 0.0
    if supply.kind in ("linear", "buck"):
        return min(supply.set_v, above_v)
    return max(supply.set_v, above_v) if supply.kind == "boost" else supply.set_v


class PlanGraph:
    """Graphs of one plan. Feeds run from source to consumer over rails and devices; grounds are joined by returns."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan

    @cached_property
    def feeds(self) -> Ways[str]:
        """Rails and devices, joined by whatever passes energy on: supplies, and devices that feed a rail of their own."""
        passing = [(one, s.output) for s in self.plan.supplies for one in self.plan.inputs_of(s)]
        passing += [(d.feed.rail, d.id) for d in self.plan.devices if d.feed]
        return ways((*self.plan.rail_of, *self.plan.device_of), passing)

    def feeding_rail(self, name: str) -> str | None:
        """The rail of that name, or the one that feeds the device of that name."""
        if name in self.plan.rail_of:
            return name
        feed = self.plan.device_of[name].feed
        return feed.rail if feed else None

    def rails_below(self, rails: Iterable[str]) -> set[str]:
        """These rails and every rail fed from them, through whatever supply or passing device."""
        return set().union(*(self.below(rail) for rail in rails))

    @once_each
    def below(self, rail_id: str) -> frozenset[str]:
        """A rail and every rail fed from it."""
        return frozenset({rail_id, *(beyond(self.feeds, rail_id) & self.plan.rail_of.keys())})

    def reachable_rails(self, condition: Condition) -> set[str]:
        """Rails that some connected source could feed, whatever state the supplies are in."""
        entries = {inlet.rail for inlet in self.plan.inlets if condition.uses(inlet)}
        return self.rails_below(entries | ({self.plan.pack.rail} if condition.on_pack else set()))

    @cached_property
    def _unregulated(self) -> Ways[str]:
        """Rails whose volts follow those of another: by wires, straps and diodes."""
        followers = [s for s in self.plan.supplies if not isinstance(s, Regulator)]
        return ways(self.plan.rail_of, ((one, s.output) for s in followers for one in self.plan.inputs_of(s)))

    @cached_property
    def most_v(self) -> dict[str, float]:
        """By rail the most volts any source of the plan can bring it to: a full pack, its ports, what regulates up [V]."""
        plan = self.plan
        found = dict.fromkeys(plan.rail_of, 0.0)
        cells = [c.cell_v * plan.pack.series for c in plan.conditions if c.cell_v is not None]
        packs = [plan.pack.rest_v("full"), *cells, *(c.pack_v for c in plan.conditions if c.pack_v is not None)]
        found[plan.pack.rail] = max(packs)
        for inlet in plan.inlets:
            if not inlet.in_line:
                found[inlet.rail] = max(found[inlet.rail], inlet.most_v)
        for _ in plan.supplies:
            for supply in plan.supplies:
                rails = [rail for one in plan.inputs_of(supply) if (rail := self.feeding_rail(one))]
                above = max((found[rail] for rail in rails), default=0.0)
                found[supply.output] = max(found[supply.output], _passed_v(supply, above))
                if isinstance(supply, Link | Strap) or (isinstance(supply, Regulator) and supply.backfeeds):
                    found |= {rail: max(found[rail], found[supply.output]) for rail in rails}
        return found

    @cached_property
    def never_start(self) -> frozenset[str]:
        """Regulators whose input never gets to where they start, whatever is plugged in: no flight ever began with them up."""
        own = (one for one in self.plan.supplies if isinstance(one, Regulator))
        return frozenset(
            one.id for one in own if (rail := self.feeding_rail(one.input)) and self.most_v[rail] < one.start_v
        )

    def runs_from_v(self, supply: Regulator, condition: Condition) -> float:
        """What its input must have: to start, where the craft is powered up or it never did; to go on, where it flies [V]."""
        return supply.start_v if condition.starts or supply.id in self.never_start else supply.stop_v

    @once_each
    def _following(self, rail_id: str) -> frozenset[str]:
        """A rail and those behind wires, straps and diodes from it."""
        return frozenset({rail_id, *beyond(self._unregulated, rail_id)})

    def consumers_below(self, rail_id: str) -> list[Device]:
        """Devices that see this rail's volts: on the rail, or behind wires, straps and diodes from it."""
        seen = self._following(rail_id)
        return [device for device in self.plan.devices if device.feed and device.feed.rail in seen]

    def regulators_fed(self, rail_id: str) -> list[Regulator]:
        """Regulators that see this rail's volts at their input: from the rail, or behind wires, straps and diodes from it."""
        seen = self._following(rail_id)
        return [one for one in self.plan.supplies if isinstance(one, Regulator) and one.input in seen]

    @cached_property
    def nets(self) -> tuple[frozenset[str], ...]:
        """Rails joined by plain wires and straps: electrically one net each."""
        joined = [s for s in self.plan.supplies if isinstance(s, Link | Strap)]
        rails = self.plan.rail_of
        pairs = ((one, s.output) for s in joined for one in self.plan.inputs_of(s) if one in rails)
        return tuple(frozenset(found) for found in nets(ways(rails, pairs, back=True)))

    # Upwards, to the sources

    @cached_property
    def _parents(self) -> dict[str, str]:
        """Each rail to the one it is drawn under: its first supply's input that does not hang from the rail itself."""
        tree: dict[str, str] = {}
        for rail in self.plan.rails:
            for supply in self.plan.supplies_into(rail.id) if rail.id != self.plan.pack.rail else ():
                feeding = self.feeding_rail(supply.input)
                if feeding and rail.id not in chain(tree, feeding):
                    tree[rail.id] = feeding
                    break
        return tree

    def parent(self, rail_id: str) -> str | None:
        """The rail a rail hangs from."""
        return self._parents.get(rail_id)

    @once_each
    def climb(self, rail_id: str) -> tuple[str, ...]:
        """The rail and those it hangs from, up to the source."""
        return chain(self._parents, rail_id)

    @cached_property
    def track_order(self) -> dict[str, tuple[int, ...]]:
        """Sorts rails depth first: the pack's first, children below their parent in the order of the plan."""
        position = {rail.id: index for index, rail in enumerate(self.plan.rails)}
        position[self.plan.pack.rail] = -1
        return {rail.id: tuple(position[one] for one in self.climb(rail.id)[::-1]) for rail in self.plan.rails}

    def between(self, start: str, end: str) -> list[str]:
        """The rails from one to another, over the nearest they both hang from; up to both tops where they share none."""
        up, down = self.climb(start), self.climb(end)
        shared = next((rail for rail in up if rail in down), None)
        if shared is None:
            return [*up, *down[::-1]]
        return [*up[: up.index(shared) + 1], *down[: down.index(shared)][::-1]]

    def _leading(self, onward: Callable[[str], str | None]) -> dict[str, str]:
        """Each rail to the next one it leads to."""
        return {one: to for one in self.plan.rail_of if (to := onward(one)) is not None}

    def _main_supply(self, rail_id: str) -> Supply | None:
        """What feeds a rail: a regulator where there is one. Nothing feeds the pack's own."""
        feeding = self.plan.supplies_into(rail_id) if rail_id != self.plan.pack.rail else ()
        return next((s for s in feeding if isinstance(s, Regulator)), next(iter(feeding), None))

    @cached_property
    def _mains(self) -> dict[str, str]:
        """Each rail to the one its main supply takes from."""

        def onward(rail: str) -> str | None:
            supply = self._main_supply(rail)
            return self.feeding_rail(supply.input) if supply else None

        return self._leading(onward)

    @cached_property
    def _tied(self) -> dict[str, str]:
        """Each rail to the one it is tied to by a wire or strap."""

        def onward(rail: str) -> str | None:
            if rail == self.plan.pack.rail:
                return None
            wires = [s for s in self.plan.supplies_into(rail) if not isinstance(s, Regulator | Diode)]
            return next((n for s in wires for n in self.plan.inputs_of(s) if n in self.plan.rail_of), None)

        return self._leading(onward)

    @once_each
    def supplies_above(self, rail_id: str) -> tuple[Supply, ...]:
        """Supplies between the sources and a rail, nearest first."""
        return tuple(supply for rail in chain(self._mains, rail_id) if (supply := self._main_supply(rail)))

    def regulators_above(self, rail_id: str) -> list[Regulator]:
        """Regulators between the sources and a rail, nearest first."""
        return [one for one in self.supplies_above(rail_id) if isinstance(one, Regulator)]

    def follows_the_pack(self, rail_id: str) -> bool:
        """Whether a rail hangs on the pack with nothing that regulates between."""
        above = self.climb(rail_id)
        regulated = any(isinstance(self.plan.supplies_into(one)[0], Regulator) for one in above[:-1])
        return above[-1] == self.plan.pack.rail and not regulated

    def full_v(self, rail_id: str) -> float | None:
        """What a rail has when what it hangs on is full, with nothing that regulates between: the pack, or a cell of its own [V]."""
        if self.follows_the_pack(rail_id):
            return self.plan.pack.rest_v("full")
        root = self.climb(rail_id)[-1]
        cells = [one.most_v for one in self.plan.inlets if one.kind == "cell" and one.rail == root]
        return max(cells) if cells and not self.regulators_above(rail_id) else None

    def passed_on(self, rail_id: str) -> bool:
        """Whether a rail is an output that some device passes on."""
        return any(supply.input in self.plan.device_of for supply in self.plan.supplies_into(rail_id))

    def behind_a_regulator(self, supply: Supply) -> bool:
        """Whether a supply takes what another regulator, or a device, makes."""
        rail = self.feeding_rail(supply.input)
        fed = [s for s in self.plan.supplies_into(rail) if isinstance(s, Regulator)] if rail else []
        return bool(fed) or supply.input in self.plan.device_of

    def feeding_ground(self, device: Device) -> str | None:
        """The board or device on whose ground a device's supply stands; the rail's board where nothing regulates."""
        if device.feed is None:
            return None
        supplies = self.plan.supplies_into(device.feed.rail)
        return supplies[0].board if supplies else self.plan.rail_of[device.feed.rail].board

    @once_each
    def reservoir(self, rail_id: str) -> str:
        """The board or device whose output capacitor holds a rail up: its regulator's, over wires, or the last board's."""
        last = rail_id
        for rail in chain(self._tied, rail_id):
            last = rail
            regulator = next((s for s in self.plan.supplies_into(rail) if isinstance(s, Regulator)), None)
            if regulator:
                return regulator.board
        return self.plan.rail_of[last].board

    # Grounds

    @cached_property
    def grounds(self) -> Ways[str]:
        """Boards, devices and the pack, joined by returns."""
        owners = (PACK, *(owner.id for owner in self.plan.owners))
        return ways(owners, ((owner, wire.to) for owner, wire in self.plan.returns()), back=True)

    @cached_property
    def ungrounded(self) -> tuple[str, ...]:
        """Boards and devices without a way back to the pack, in the plan's order."""
        back = beyond(self.grounds, PACK)
        return tuple(owner.id for owner in self.plan.owners if owner.id not in back)

    def islands(self, energy: Collection[str]) -> frozenset[str]:
        """Boards and devices whose ground reaches none of these sources: no current comes back from them, so none flows."""
        return self._islands(frozenset(energy))

    @once_each
    def _islands(self, energy: frozenset[str]) -> frozenset[str]:
        homes = {self.plan.ground_of(one.rail) for one in self.plan.inlets if one.id in energy and not one.in_line}
        homes |= {PACK} & {*energy}
        cut = [one for one in nets(self.grounds) if not homes & one]
        return frozenset().union(*cut) - {PACK}

    @cached_property
    def _ground_nets(self) -> dict[str, frozenset[int]]:
        """By board, device or pack the nets of boards and pack it is part of, or joined to by a wire of its own; devices join none."""
        devices = self.plan.device_of
        bare = {
            one: [to for to in onward if to not in devices]
            for one, onward in self.grounds.items()
            if one not in devices
        }
        net = {name: k for k, found in enumerate(nets(bare)) for name in found}
        joined = {one.id: frozenset(net[n] for n in self.grounds[one.id] if n in net) for one in self.plan.devices}
        return {**{name: frozenset({k}) for name, k in net.items()}, **joined}

    def chained_through(self, device_id: str, home: str) -> str | None:
        """The device nearest to this one that every way from its ground to `home` leads through; None where one does not."""
        net, grounds = self._ground_nets, self.grounds
        if home not in net or net[device_id] & net[home] or home in grounds[device_id] or home == device_id:
            return None
        way = shortest(grounds, device_id, home)
        return next(one for one in way[1:] if one in self.plan.device_of and one != home) if way else None

    @cached_property
    def rings(self) -> tuple[Ring, ...]:
        """Independent rings of returns, one for each wire that closes one; short wires make the tree, so rings are short."""
        tree: Ways[str] = ways(self.grounds, ())
        wire_of: dict[frozenset[str], str] = {}
        found = []
        for owner, wire in sorted(self.plan.returns(), key=lambda item: item[1].wire.run_m):
            if nodes := shortest(tree, owner, wire.to):
                wires = [wire_of[frozenset(pair)] for pair in itertools.pairwise(nodes)]
                found.append(Ring((wire.id, *wires), tuple(nodes)))
            else:
                join(tree, owner, wire.to)
                wire_of[frozenset((owner, wire.to))] = wire.id
        return tuple(found)

    # What stands and falls together

    @cached_property
    def _holds(self) -> Ways[str]:
        """From each element to those that cannot stand without it; a device whose feed is cut stays."""
        plan = self.plan
        pairs = [(rail.board, rail.id) for rail in plan.rails]
        for supply in plan.supplies:
            needs = supply.choices if isinstance(supply, Strap) else (supply.input,)
            pairs += [(one, supply.id) for one in (supply.board, supply.output, *needs)]
        pairs += [(inlet.rail, inlet.id) for inlet in plan.inlets]
        pairs += [(plan.owner_of[end].id, s.id) for s in plan.signals for end in (s.source, s.sink)]
        pairs += [(one.at, one.id) for one in (*plan.filters, *plan.clamps)]
        pairs += [(one.element, one.id) for one in plan.noises]
        return ways(plan.elements, pairs)

    def dependants(self, element: str) -> tuple[str, ...]:
        """Ids that go when `element` goes."""
        return tuple(sorted(beyond(self._holds, element))) if element in self._holds else ()
