"""`ground.` rules that the supply network itself needs: every board and device has a way back."""

from __future__ import annotations

from collections.abc import Iterator

import networkx as nx

from yardmeter.core.checks.finding import Finding, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.plan import Board, Device


@rule("ground.none")
def no_return(case: Case) -> Iterator[Finding]:
    """A board or device whose ground has no path to the pack's negative."""
    plan = case.plan
    graph: nx.Graph[str] = nx.Graph()
    graph.add_node("pack")
    graph.add_edges_from((owner, wire.to) for owner, wire in plan.returns())
    reached = nx.node_connected_component(graph, "pack")
    owners: tuple[Board | Device, ...] = (*plan.boards, *plan.devices)
    for owner in owners:
        if owner.id in reached:
            continue
        yield Finding(
            code="ground.none",
            severity="fault",
            conditions=tuple(c.id for c in plan.conditions),
            worst=plan.conditions[0].id,
            elements=(owner.id,),
            title=f"{owner.name} has no ground return",
            cause="Without a wire back to the pack no current flows; it may find a way through a signal line instead.",
            remedy="Run a return to the ground of the board that feeds it.",
            numbers=(number("ways back to the pack", 0, ""), number("needed", 1, "")),
        )
