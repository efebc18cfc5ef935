"""Fields of a plan in the builder's words, for the history, the change strip and the tickets."""

from __future__ import annotations

from yardmeter.core.plan import Plan

FIELDS: dict[str, str] = {
    "name": "name", "kind": "kind", "osd": "overlay chip", "revision": "revision", "pinout": "pin-out taken from",
    "weight_g": "mass", "esc_limit_a": "amps its ESCs carry", "note": "note", "label": "label", "direction": "direction", "role": "what the pin is",
    "port": "port", "level_v": "drives at", "tolerant_v": "stands up to", "input_levels": "reads as",
    "inverted": "comes inverted", "inverts": "can invert", "default": "shown at power-up", "board": "board",
    "nominal_v": "volts", "to": "goes to", "pin": "pin", "width_m": "trace width", "copper_m": "copper thickness",
    "rise_k": "allowed rise", "energy": "powered from", "pack_state": "pack", "cell_v": "volts of a cell",
    "pack_v": "volts of the pack", "air": "air", "throttle_frac": "throttle", "powered_up": "powered up here",
    "default_state": "devices are", "duty_frac": "part of the time", "period_s": "period", "distance_m": "distance",
    "spacing_m": "spacing of the pair", "share_frac": "share", "law": "draws as", "min_v": "least volts",
    "max_v": "most volts", "brownout_v": "resets below", "restart_v": "starts again above", "hold_s": "rides through",
    "boot_s": "takes to start", "draws": "draws", "demand_a": "its maker asks for", "throttle": "amps over throttle",
    "input_f": "input capacitor", "keeps_control": "needed to fly", "part": "part", "ripple_max_v": "ripple it stands",
    "rejection_db": "keeps ripple off by", "at_v": "at volts", "provenance": "taken from", "tol_frac": "band",
    "rail": "rail", "pad": "pad", "forward_v": "volts of a LED", "series": "in a row", "strings": "strings",
    "resistor_ohm": "resistor", "max_a": "most a LED stands", "count": "how many", "kv_rpm_v": "Kv",
    "pole_pairs": "pole pairs", "loaded_frac": "speed under a propeller", "commutation_frac": "pulses with commutation",
    "gauge_awg": "gauge", "length_m": "length", "joined": "pad on pad", "colour": "colour", "lay": "lies",
    "connector": "connector", "connector_ohm": "connector's resistance", "connector_limit_a": "connector stands",
    "inline": "in line", "melts_a2s": "a short melts it at", "cold_ohm": "when cold", "cools_s": "cools within",
    "dcr_ohm": "wire resistance", "saturation_a": "saturates at", "heating_a": "stands", "at": "fitted at",
    "fitted": "fitted", "ohm_100mhz": "at 100 MHz", "volts": "volts", "limit_a": "limit", "series_ohm": "resistance",
    "drop_v": "drop", "farad": "capacitance", "esr_ohm": "ESR", "rated_v": "printed volts", "dielectric": "dielectric",
    "lead_m": "leads", "ripple_a": "ripple it stands", "damping_ohm": "damping resistor",
    "damping_farad": "damping capacitor", "henry": "inductance", "resonance_hz": "own resonance", "hz": "frequency",
    "amplitude_pp": "peak to peak", "chemistry": "chemistry", "cells": "cells", "parallel": "side by side", "capacity_ah": "capacity of one",
    "cell_ohm": "resistance of a cell", "inductance_h": "inductance", "resistance_tol_frac": "band of the resistance",
    "discharge_c": "C rating", "board_derate_frac": "usable of a print, on a board",
    "alone_derate_frac": "usable of a print, alone", "over_voltage_frac": "kept below the most volts",
    "thin_margin_frac": "little spare below", "thin_headroom_v": "little headroom below", "still_air_c": "still air",
    "moving_air_c": "moving air", "hot_margin_k": "warned this far below the trip", "wire_rise_k": "wire may warm by",
    "punch_s": "a punch lasts", "connector_burst_frac": "connector's burst", "copper_c": "copper is at", "fault_weights": "how often faults happen",
    "wire_drop_frac": "wire may drop", "paralleling": "regulators side by side", "cascade": "regulators in a row",
    "video_shift_v": "shift seen in a picture", "edge_s": "an edge lasts", "esc_edge_frac": "edge of a motor's amps",
    "pwm_hz": "ESC PWM", "stray_m": "loops to motor leads", "earth_field_t": "earth's field",
    "compass_limit_deg": "compass may err by", "guess_share_frac": "guesses told from",
    "tol_measured_frac": "band of measured", "tol_sheet_frac": "band of sheets", "tol_reported_frac": "band of reports",
    "tol_guess_frac": "band of guesses", "input": "fed from", "output": "feeds", "place": "stands", "set_v": "set to",
    "adjustable": "volts can be set", "set_tol_frac": "band of its volts", "rating_a": "printed amps",
    "derate_frac": "usable of the print", "current_limit_a": "cuts off at", "quiescent_a": "own draw",
    "dropout_v": "dropout", "dropout_ohm": "dropout for each ampere", "output_ohm": "output resistance",
    "duty_max_frac": "most duty", "gain_max": "most step-up", "start_v": "starts at", "stop_v": "stops below",
    "soft_start_s": "soft start", "limit_style": "at its limit", "retry_s": "tries again after",
    "input_max_v": "most volts in", "theta_still_k_w": "warms in still air by", "theta_moving_k_w": "warms in moving air by",
    "tau_s": "takes to warm", "trip_c": "trips at", "fails": "fails", "backfeeds": "lets current back",
    "two_way": "hands current back", "noisy": "ripples", "switch_hz": "switches at", "ripple_v": "ripple out",
    "bandwidth_hz": "holds up to", "output_f": "output capacitor", "output_esr_ohm": "its ESR", "source": "from",
    "sink": "to", "ground": "its ground", "choices": "choices", "selected": "bridged to", "feed": "feed", "wire": "wire",
    "ways": "ways to power it", "way": "powered by", "fitting": "how it sits", "boot": "while it starts", "off": "switched off",
    "clamps": "clamps", "standoff_v": "stands off", "breakdown_v": "breaks down at", "dynamic_ohm": "rises by", "pulse_j": "pulse it survives",
    "led": "LEDs", "burst": "bursts", "compass": "compass", "motors": "motors", "lead": "lead", "trace": "trace",
    "returns": "ground", "pins": "pins", "pads": "pads", "efficiency": "efficiency", "states": "states",
    "idle": "idle", "typical": "typical", "peak": "peak", "value": "value", "unit": "unit", "amps": "amps",
    "efficiency_frac": "efficiency", "begins": "begins in", "duration_s": "lasts", "acts": "acts", "runs_at": "draws once it runs", "scenarios": "scenarios",
    "act": "act", "at_s": "at", "over_s": "over", "anti_spark_ohm": "resistor in the plug", "anti_spark_s": "it stands there for",
    "bounces": "bounces", "bounce_s": "a bounce lasts", "inlet": "source", "supply": "supply",
    "for_s": "for", "how": "how", "to_frac": "to",
}  # fmt: skip
"""By the last name of a field's path; what has a unit is read and shown with it."""
WHOLE = ("feed", "led", "burst", "compass", "motors", "lead", "trace", "wire")
"""Parts of a path that say where a field is: “feed length”."""
REFERENCES = (
    "board",
    "to",
    "pin",
    "rail",
    "pad",
    "at",
    "input",
    "output",
    "source",
    "sink",
    "ground",
    "selected",
    "choices",
)
"""Fields that hold ids of other elements: shown, and chosen, by name."""


def field_words(path: str) -> str:
    """A field's dotted path as a builder says it: `feed.wire.length_m` is “feed length”."""
    *where, last = path.split(".")
    places = [FIELDS[one] for one in where if one in WHOLE and one != "wire"]
    return " ".join([*places, FIELDS.get(last, last.replace("_", " "))])


def value_words(plan: Plan, path: str, value: object) -> str:
    """What a field is set to, with names in the place of ids."""
    if value is None:
        return "not said"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if path.rsplit(".", 1)[-1] in REFERENCES:
        ids = value if isinstance(value, list | tuple) else [value]
        return ", ".join(_name(plan, str(one)) for one in ids) or "nothing"
    return str(value)


def _name(plan: Plan, one: str) -> str:
    if one == "pack":
        return "the pack"
    if one in plan.pin_of:
        return f"{plan.owner_of[one].name} {plan.pin_of[one].label}"
    if one in plan.pad_of:
        return plan.pad_of[one][1].label
    return plan.title(one) if one in plan.elements else one
