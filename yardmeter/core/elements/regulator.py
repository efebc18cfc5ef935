"""A regulator between input, output and ground; a diode, a port and a fuse are simpler ones of the same law.

It wants its set point behind its output's ohms, hands on its input less a fall where it `passes` (a boost that has more than
it is set to), and never gives more than its ceiling, what its switch that is fully on makes of its input.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from enum import IntEnum
from typing import Literal, TypeVar

import numpy as np
from numpy.typing import NDArray

from yardmeter.core.elements.bands import Band
from yardmeter.core.elements.deck import Deck
from yardmeter.core.elements.load import netlist_slope, slope_law
from yardmeter.core.elements.registry import Element, enter
from yardmeter.core.elements.transfer import TransferFunction, constant


class Kind(IntEnum):
    """How a converter's input current follows its output."""

    SERIES = 0
    """Output current comes straight out of the input: linear regulator, diode, limiter."""
    SWITCHING = 1
    """Output power plus loss comes out of the input."""
    SOURCE = 2
    """No input: a port or supply of its own."""


SERIES, SWITCHING, SOURCE = int(Kind.SERIES), int(Kind.SWITCHING), int(Kind.SOURCE)
MIN_INPUT_V = 0.3
"""Below this a switching input counts as a resistance, which keeps its current finite [V]."""
OUTPUT_OHM: Band = (500, 4e3, 20e3)
"""From its output to its ground, to a meter: its divider and what it holds down."""
ENTRY_OHM: Band = (10e3, 100e3, 2e6)
"""From its input to its ground, likewise."""
FOLD_FLOOR = 0.3
"""What a limit that folds back has left at no output volts, of the whole; common practice, no source."""


def ceil_gain(kind: str, duty_max_frac: float, gain_max: float) -> float:
    """What its switch that is fully on makes of its input: a buck's longest duty, a boost's largest gain."""
    gains = {"linear": 1.0, "buck": duty_max_frac, "boost": gain_max, "buckboost": gain_max}
    return gains[kind]


def passed_v(input_v: float, drop_v: float) -> float:
    """What one that passes its input on hands over with nothing drawn [V]."""
    return input_v - drop_v


def ceiling_v(input_v: float, ceil_gain: float, drop_v: float, passes: bool) -> float:
    """The most it can hold at this input with nothing drawn [V]: the one ceiling that rules, runs and netlists ask for."""
    return ceil_gain * input_v - (0.0 if passes else drop_v)


Amps = TypeVar("Amps", float, NDArray[np.float64])
"""One current, or an array of them."""


def needed_v(set_v: float, out_ohm: float, gain: float, drop_v: float, drop_ohm: float, amps: Amps) -> Amps:
    """Input at which its ceiling just meets its set point [V]: `(Vset − (Ro − Rd) I + Vd) / gain`."""
    return (set_v - out_ohm * amps + drop_v + drop_ohm * amps) / gain


def target_law(
    sourced: bool, passes: bool, set_v: float, out_ohm: float, ceil_gain: float, drop_v: float, drop_ohm: float,
    input_v: float, amps: float,
) -> tuple[float, float, float, bool]:  # fmt: skip
    """Where one that conducts wants its output above its ground [V], with slopes by input volts and by its current [Ω],
    and whether it holds its set point there."""
    volts, by_input, by_current, holds = set_v - out_ohm * amps, 0.0, -out_ohm, True
    through = passed_v(input_v, drop_v) - drop_ohm * amps
    if passes and through > volts:
        volts, by_input, by_current, holds = through, 1.0, -drop_ohm, False
    if not sourced:
        most = ceiling_v(input_v, ceil_gain, drop_v, passes) - drop_ohm * amps
        if most < volts:
            volts, by_input, by_current, holds = most, ceil_gain, -drop_ohm, False
    return volts, by_input, by_current, holds


def loss_law(k1_v: float, k2_ohm: float, drop_v: float, drop_ohm: float, amps: float) -> tuple[float, float]:
    """Loss of a switching one beside its quiescent current [W] and its slope by output current [W/A].

    As its sheet's efficiency was fitted, and never less than what its switch drops.
    """
    size = abs(amps)
    fitted, floor = k1_v * size + k2_ohm * size**2, drop_v * size + drop_ohm * size**2
    slope = drop_v + 2 * drop_ohm * size if fitted < floor else k1_v + 2 * k2_ohm * size
    return max(fitted, floor), (-slope if amps < 0 else slope)


def series_law(sinks: bool, amps: float) -> tuple[float, float]:
    """What one that hands its current through takes [A], and its slope by that; what it sinks goes to its ground."""
    return (0.0, 0.0) if sinks and amps < 0 else (amps, 1.0)


def switching_law(output_v: float, amps: float, loss_w: float, loss_slope: float, input_v: float) -> tuple[float, float, float, float]:  # fmt: skip
    """What a switching one takes [A], with slopes by input volts, output volts and output current."""
    guarded = max(input_v, MIN_INPUT_V)
    taken = (output_v * amps + loss_w) / guarded
    by_input = -taken / guarded if input_v > MIN_INPUT_V else 0.0
    return taken, by_input, amps / guarded, (output_v + loss_slope) / guarded


def most_law(limit_a: float, folds: bool, set_v: float, output_v: float) -> tuple[float, float]:
    """The most it gives at these output volts [A], and how fast that falls [S]."""
    if not folds:
        return limit_a, 0.0
    whole = max(set_v, 1e-3)
    share = output_v / whole
    factor = FOLD_FLOOR + (1 - FOLD_FLOOR) * min(max(share, 0.0), 1.0)
    return limit_a * factor, ((1 - FOLD_FLOOR) / whole * limit_a if 0 < share < 1 else 0.0)


Standing = Literal["off", "limiting", "dropout", "regulating"]
LIMIT_FRAC = 0.99
"""So near its limit it stands at it: a run's steps do not meet it to the last digit; our choice."""
HELD_FRAC = 0.98
"""A rail within this of what its regulator is set to is held: what a device misses then is lost in the wire; our choice."""


def limits(amps: float, most_a: float) -> bool:
    """Whether it stands at the most it gives there."""
    return amps >= LIMIT_FRAC * most_a


def drops_out(set_v: float, output_v: float, ceiling_v: float) -> bool:
    """Whether its rail is low because its input is: its ceiling with what it gives is under its set point."""
    return output_v < HELD_FRAC * set_v and ceiling_v < set_v


def is_hot(temp_c: float, trip_c: float, margin_k: float) -> bool:
    """Whether it is nearer to where it switches off than one wants."""
    return temp_c > trip_c - margin_k


def trips(temp_c: float, trip_c: float) -> bool:
    return temp_c >= trip_c


def standing(runs: bool, amps: float, most_a: float, set_v: float, output_v: float, ceiling_v: float) -> Standing:
    """What it does at a moment: instants of a run, chains of causes and reports ask here."""
    if not runs:
        return "off"
    if limits(amps, most_a):
        return "limiting"
    return "dropout" if drops_out(set_v, output_v, ceiling_v) else "regulating"


@dataclass(frozen=True)
class Sheet:
    """The figures of a converter's law, for what writes it in words; see `solver.circuit.Converters` for their meaning."""

    kind: int
    passes: bool
    sinks: bool
    out_ohm: float
    ceil_gain: float
    drop_v: float
    drop_ohm: float
    limit_a: float
    quiescent_a: float
    k1_v: float
    k2_ohm: float


LEAST_OHM = 1e-5
"""In a netlist: a simulator divides by it."""


def netlist_given(one: Sheet, wanted: str, vin: str, vout: str) -> str:
    """`target_law` in a netlist's words, turned round: what it gives by its volts; `wanted` is its set point."""
    return netlist_within(one, f"({wanted} - {vout})/{max(one.out_ohm, LEAST_OHM):.9g}", vin, vout)


def netlist_within(one: Sheet, amps: str, vin: str, vout: str) -> str:
    """What its switch and its limit leave of the amps its control asks for, in a netlist's words."""
    through = max(one.drop_ohm, LEAST_OHM)
    if one.passes:
        amps = f"max({amps}, ({vin} - {one.drop_v:.9g} - {vout})/{through:.9g})"
    if one.kind != SOURCE:
        fall_v = 0.0 if one.passes else one.drop_v
        amps = f"min({amps}, ({one.ceil_gain:.9g}*{vin} - {fall_v:.9g} - {vout})/{through:.9g})"
    amps = f"min({amps}, {one.limit_a:.9g})"
    return amps if one.sinks else f"max(0, {amps})"


def netlist_taken(one: Sheet, vin: str, vout: str, amps: str, entered: str | None = None) -> str:
    """`series_law` or `switching_law` in a netlist's words: what it takes, its quiescent current left out.

    `entered` are the volts its control sees, where those lag behind; its switch then passes its coil's current and no more.
    """
    if one.kind != SWITCHING:
        return f"max({amps}, 0)" if one.sinks else amps
    size = f"abs({amps})" if one.sinks else amps
    fitted = f"{one.k1_v:.9g}*{size} + {one.k2_ohm:.9g}*{amps}*{amps}"
    floor = f"{one.drop_v:.9g}*{size} + {one.drop_ohm:.9g}*{amps}*{amps}"
    taken = f"({vout}*{amps} + max({fitted}, {floor}))/max({entered or vin},{MIN_INPUT_V:g})"
    return taken if entered is None else f"min({taken}, {max(one.ceil_gain, 1.0):.9g}*{amps})"


GATE_OHM, GATE_F = 1e3, 1e-6
"""A netlist's regulator starts and stops within a few of these milliseconds."""


def netlist_gate(k: int, input_volts: str, stop_v: float, start_v: float, begins_v: float) -> list[str]:
    """Whether a regulator runs, as volts of a node: from its start on down to its stop, a moment after its input is there.

    A hard edge that its own current moves the input over leaves a simulator no time step small enough.
    """
    start_v, runs = max(start_v, stop_v), f"run{k}"
    drive = f"({input_volts} >= (v({runs}) > 0.5 ? {stop_v:.9g} : {start_v:.9g}) ? 1 : 0) - v({runs})"
    return [
        f"B{runs} 0 {runs} i = ({drive})/{GATE_OHM:g}",
        f"C{runs} {runs} 0 {GATE_F:g} ic={int(begins_v >= stop_v)}",
    ]


LIMITING_OHM = 1e4
"""What one at its limit is behind to a ripple: a current, nearly; our choice."""


@dataclass(frozen=True)
class Small:
    """A regulator to a ripple, at the point it stands at. `regulating` where it holds its set point, `limiting` at its limit."""

    limiting: bool
    regulating: bool
    ceil_gain: float
    rejection_db: float
    bandwidth_hz: float
    output_ohm: float
    dropout_ohm: float
    lead_ohm: float
    switching: bool
    input_v: float
    output_v: float
    amps: float

    @property
    def share(self) -> float:
        """What its input takes of a ripple of its output current."""
        return self.output_v / max(self.input_v, MIN_INPUT_V) if self.switching else 1.0

    @property
    def input_siemens(self) -> float:
        """Slope of its input at rest: one that holds its power takes less the more volts it has [S]."""
        watts = max(self.output_v * self.amps, 0.0) if self.switching else 0.0
        return -watts / max(self.input_v, MIN_INPUT_V) ** 2


def gain_law(one: Small) -> TransferFunction:
    """Share of a ripple at the input that comes through: its rejection worsens above its bandwidth."""
    if one.limiting:
        return constant(0.0)
    if not one.regulating:
        return constant(one.ceil_gain)
    low, corner = 10 ** (-one.rejection_db / 20), 2 * math.pi * one.bandwidth_hz
    return TransferFunction((low, low / corner), (1.0, low / corner))


def output_law(one: Small) -> TransferFunction:
    """Output impedance [Ω], which rises above its bandwidth."""
    if one.limiting:
        return constant(LIMITING_OHM)
    if not one.regulating:
        return constant(max(one.dropout_ohm, 1e-3) + one.lead_ohm)
    return TransferFunction((one.output_ohm + one.lead_ohm, one.output_ohm / (2 * math.pi * one.bandwidth_hz)))


def input_slope_law(one: Small) -> TransferFunction:
    """What its input is to a ripple there [S]."""
    return slope_law(one.input_siemens, one.bandwidth_hz)


def netlist_small(deck: Deck, one: Small, inp: str, out: str, gnd: str) -> Iterator[str]:
    """`gain_law`, `output_law` and what its input takes, in a netlist's words."""
    if one.input_siemens:
        yield from netlist_slope(deck, inp, gnd, one.input_siemens, one.bandwidth_hz)
    wanted, sense = deck.fresh(), deck.fresh()
    if one.regulating and not one.limiting:
        yield from _rejection(deck, one, inp, gnd, wanted)
        inner = one.output_ohm / (2 * math.pi * one.bandwidth_hz)
        yield from deck.series(wanted, sense, ("R", one.output_ohm + one.lead_ohm), ("L", inner))
    else:
        gain = 0.0 if one.limiting else one.ceil_gain
        yield f"E{deck.fresh()} {wanted} {gnd} {inp} {gnd} {gain:.12g}"
        yield deck.part("R", wanted, sense, LIMITING_OHM if one.limiting else max(one.dropout_ohm, 1e-3) + one.lead_ohm)
    meter = f"V{deck.fresh()}"
    yield f"{meter} {sense} {out} 0"
    yield f"F{deck.fresh()} {inp} {gnd} {meter} {one.share:.12g}"


def _rejection(deck: Deck, one: Small, inp: str, gnd: str, wanted: str) -> Iterator[str]:
    """Buffer, lead-lag divider, buffer: `low (1 + s/ω)/(1 + low s/ω)`."""
    low, corner = 10 ** (-one.rejection_db / 20), 2 * math.pi * one.bandwidth_hz
    upper, lower = 1e3 * (1 - low), 1e3 * low
    first, middle = deck.fresh(), deck.fresh()
    yield f"E{deck.fresh()} {first} 0 {inp} {gnd} 1"
    yield deck.part("R", first, middle, upper)
    yield deck.part("C", first, middle, 1 / (upper * corner))
    yield deck.part("R", middle, "0", lower)
    yield f"E{deck.fresh()} {wanted} {gnd} {middle} 0 1"


def seen_output_ohm() -> Band:
    """From its output to its ground, to a meter [Ω]: its divider and what it holds down."""
    return OUTPUT_OHM


def seen_entry_ohm() -> Band:
    """From its input to its ground, likewise [Ω]."""
    return ENTRY_OHM


enter(
    Element(
        "regulator",
        laws=(ceil_gain, passed_v, ceiling_v, needed_v, target_law, loss_law, series_law, switching_law, most_law),
        small_signal=(gain_law, output_law, input_slope_law),
        netlist=(netlist_given, netlist_taken, netlist_gate, netlist_small),
        meter=(seen_output_ohm, seen_entry_ohm),
        predicates=(limits, drops_out, is_hot, trips, standing),
    )
)
