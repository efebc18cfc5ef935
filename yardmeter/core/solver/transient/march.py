"""A circuit's run from its start to its end."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from yardmeter.core.solver.transient.arrays import Start, TransientCircuit
from yardmeter.core.solver.transient.scheme import RTOL
from yardmeter.core.solver.transient.trace import Trace

if TYPE_CHECKING:
    from yardmeter.core.solver.transient.acts import Act


def march(
    circuit: TransientCircuit,
    acts: Sequence[Act],
    end_s: float,
    start: Start,
    *,
    rtol: float = RTOL,
    keep: bool = True,
    watch: Callable[[float], None] | None = None,
) -> Trace:
    """Run a circuit from its start to `end_s`, with acts on the way. The circuit's arrays are changed by the acts.

    Row 0 is recorded step by step where `keep`; extremes and events are of every row. Never raises for a circuit that
    cannot go on: `stuck_s` tells where. `watch` hears how far the slowest row is [s].
    """
    # The compiler takes most of a second to load: whoever runs nothing does not wait for it.
    from yardmeter.core.solver.transient.marching import Marching

    return Marching(circuit, acts, end_s, start, rtol, keep).run(watch)
