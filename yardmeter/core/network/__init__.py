"""A plan plus situations becomes one electrical network, return conductors included."""

from yardmeter.core.network.build import Layout, Network, Situation, build_network, derive, lay_out

__all__ = ["Layout", "Network", "Situation", "build_network", "derive", "lay_out"]
