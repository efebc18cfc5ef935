"""A plan plus situations becomes one electrical network, return conductors included."""

from yardmeter.core.network.branches import BranchTable, branch_table
from yardmeter.core.network.build import Network, Situation, build_network, derive

__all__ = ["BranchTable", "Network", "Situation", "branch_table", "build_network", "derive"]
