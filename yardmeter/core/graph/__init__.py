"""The plan as a graph: what is upstream and downstream, one net, reachable, on the way, or a ring of returns."""

from yardmeter.core.graph.pictures import Picture, pictures
from yardmeter.core.graph.plan_graph import PlanGraph, Ring, graph_of, reached

__all__ = ["Picture", "PlanGraph", "Ring", "graph_of", "pictures", "reached"]
