"""Whether ngspice goes the way of a run through contacts that open, close and bounce, parts that fail and throttle, in any order."""

from __future__ import annotations

import numpy as np

from tools.agree.cases import Case
from tools.agree.simulated import ALIKE, NEAR_A, SWITCHING, moved, pin_volts, simulator
from tools.agree.statements import Told, statement
from tools.random_orders import random_order
from yardmeter.core.errors import YardError
from yardmeter.core.graph import graph_of
from yardmeter.core.runs import Run, run_scenario
from yardmeter.core.solver.circuit import Bools, Floats
from yardmeter.core.solver.transient.trace import Happening

PAUSES_S, RESTS_S = (0.0, 0.0005, 0.002, 0.006), (0.004, 0.012)
"""Short ones: what a contact does is over in milliseconds, and a simulator is asked for every microsecond of it."""
AGAIN = (Happening.CHATTERS, Happening.HICCUPS, Happening.RETRIES, Happening.LOOPS)
"""What goes on by itself for ever: of such a run only that a simulator comes to its end is asked."""
ITS_OWN, AFTER_S = (*SWITCHING, Happening.LIMITS, Happening.FREE, Happening.BOOTS), 0.5e-3
"""What a netlist has as a function of time, or with a lag of its own, as a regulator that comes to its limit and leaves it: so long
after such a moment nothing is compared."""
NEAR_FRAC, SETTLED_S, APART_S = 0.02, 2e-5, 1e-7
"""Of the most volts there are; a netlist has ten nanofarads at every node, which are charged first; moments closer than that are one."""


@statement("ngspice goes the way of a random order of contacts, on the netlist of it", share=0.1)
def orders_simulated(case: Case) -> Told:
    program = simulator()
    order = random_order(case.plan, case.rng.randrange(10**9), pauses_s=PAUSES_S, rests_s=RESTS_S)
    what = f"{', '.join(act.act for act in order.acts)} from {order.begins or 'nothing'}"
    try:
        run = run_scenario(case.plan, order)
    except YardError:
        return  # no point to begin at: another statement
    if run.stuck_s is not None:
        yield f"{what}: the run ends at {run.stuck_s:.6f} s"
        return
    found = moved(program, run)
    if found is None:
        yield f"{what}: ngspice finds no way to the end of its netlist"
    elif not any(one.code in AGAIN for one in run.events) and not graph_of(case.plan).ungrounded:
        yield from list(_far(run, what, *found))[:1]


def _far(run: Run, what: str, times: Floats, volts: Floats, nodes: list[str]) -> Told:
    """Devices that differ in the most they see, or while they draw, along the way or in the least.

    How much charge is left where nothing draws any more is a matter of microseconds and of leaks.
    """
    bound = NEAR_FRAC * float(np.abs(run.trace.column("volts")).max())
    every = np.union1d(times, run.times_s)
    moments = every[_compared(run, every)]
    for device in run.plan.devices:
        mine = np.interp(moments, run.times_s, run.pin_v(device.id))
        their = np.interp(moments, times, pin_volts(device.id, volts, nodes))
        draws = np.interp(moments, run.times_s, run.load_a(device.id)) > NEAR_A
        gaps = [abs(float(mine.max(initial=0.0) - their.max(initial=0.0)))]
        if draws.any():
            apart = np.diff(moments[draws], prepend=-1.0) > APART_S
            gaps.append(float(np.percentile(np.abs(mine - their)[draws][apart], ALIKE)))
            gaps.append(abs(float(mine[draws].min() - their[draws].min())))
        if max(gaps) > bound:
            said = ", ".join(f"{one:.3f} V" for one in gaps)
            yield f"{what}: {device.id} is off by {said} at its most, along the way and at its least; {bound:.3f} V are allowed"


def _compared(run: Run, times: Floats) -> Bools:
    """Moments that are compared: after the netlist's nanofarads are charged, and not right after what goes by a clock of its own."""
    found: Bools = times > SETTLED_S
    for one in run.events:
        if one.code in ITS_OWN:
            found &= (times < one.at_s) | (times > one.at_s + AFTER_S)
    return found
