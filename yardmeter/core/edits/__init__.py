"""Edit operations: plan → plan."""

from yardmeter.core.edits.apply import apply_edits
from yardmeter.core.edits.removal import dependants

__all__ = ["apply_edits", "dependants"]
