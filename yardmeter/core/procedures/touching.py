"""What a step touches: the joints whose change makes its reading another one, so that it has to be taken again."""

from __future__ import annotations

from collections.abc import Iterable

from yardmeter.core.graph import graph_of
from yardmeter.core.network.keys import Key, Node
from yardmeter.core.once import cached_property
from yardmeter.core.probing.passive import PassiveTable
from yardmeter.core.probing.points import Point
from yardmeter.core.ways import nets


class Touching:
    """Joints of a build, by the nets of copper they are on."""

    def __init__(self, table: PassiveTable) -> None:
        self.table = table

    @cached_property
    def _name(self) -> dict[int, str]:
        found = {number: ":".join(node) for node, number in self.table.node.items()}
        return found | {number: pin for pin, number in self.table.pin_at.items()}

    @cached_property
    def _net(self) -> dict[int, int]:
        """Which net of copper a node is on; a node without copper is one of its own."""
        found = {node: k for k, nodes in enumerate(nets(self.table.copper)) for node in nodes}
        return found | {node: -1 - node for node in range(self.table.nodes) if node not in found}

    @cached_property
    def _on(self) -> dict[int, tuple[str, ...]]:
        """Everything joined to a net: wires by both their ends, parts by where they stand."""
        found: dict[int, set[str]] = {}
        table = self.table
        parts = [(one.element, one.a, one.b) for one in table.resistances]
        parts += [(one.element, one.anode, one.cathode) for one in table.junctions]
        parts += [(one.element, one.a, one.b) for one in table.storages]
        for element, a, b in parts:
            text = f"{element} {self._name.get(a, '-')} {self._name.get(b, '-')}"
            for end in (a, b):
                found.setdefault(self._net[end], set()).add(text)
        return {net: tuple(sorted(texts)) for net, texts in found.items()}

    def net(self, point: Point) -> tuple[str, ...]:
        """Everything on a point's net, where that is not the ground everything stands on."""
        net = self._net[point.node]
        return () if net == self._net[self.table.minus] else self._on.get(net, ())

    def way(self, red: Point, black: Point) -> tuple[str, ...]:
        """The wires from one point to another."""
        return tuple(_text(key) for key in self.table.copper_way(red.node, black.node) or ())

    def everything(self) -> tuple[str, ...]:
        """Every joint there is: what the first power goes through."""
        return tuple(sorted({text for texts in self._on.values() for text in texts}))

    def rail(self, rail_id: str, node: Node) -> tuple[str, ...]:
        """What hangs on a rail, and what feeds it from the source on."""
        number = self.table.node[node]
        above = [f"{one.id} {one.input} {one.output}" for one in graph_of(self.table.plan).supplies_above(rail_id)]
        return (*self._on.get(self._net[number], ()), *above)


def _text(key: Key) -> str:
    return f"{key.role} {key.element} {key.part}"


def joined(texts: Iterable[tuple[str, ...]]) -> tuple[str, ...]:
    """Each once, in order."""
    return tuple(dict.fromkeys(text for one in texts for text in one))
