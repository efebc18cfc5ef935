"""The first lines of a device's ticket: volts that are good for it, where it could live as it is, and what is not certain of it."""

from __future__ import annotations

from yardmeter.core.answers.model import Answer
from yardmeter.core.answers.windows import MARGIN_FRAC
from yardmeter.core.errors import EditError
from yardmeter.core.plan import Device, Plan, Provenance
from yardmeter.review.placement import Place, places

SHOWN = 3
UNSURE: tuple[Provenance, ...] = ("reported", "guess")


class UnsureDraw(Answer):
    """A draw nobody measured, and the band it lies in at its quoted volts."""

    state: str
    provenance: Provenance
    low_a: float
    high_a: float


class Lead(Answer):
    """Volts well inside the window, `good_low_v` to `good_high_v`, and how high a full pack may be on it, where one may at all.

    `places` are rails that are there, best first, the one it is on among them where it can stay.
    """

    good_low_v: float
    good_high_v: float
    good_pack_v: float | None
    places: tuple[Place, ...]
    not_here: str | None
    """What speaks against where it is now."""
    fitting: int
    """How many of the rails that are there would do."""
    unsure: tuple[UnsureDraw, ...]
    demand_a: float | None


def lead(plan: Plan, device_id: str) -> Lead:
    """Raises UnknownElementError for a device that is not there, EditError for an element that is none."""
    device = plan.element(device_id)
    if not isinstance(device, Device):
        raise EditError(f"{device.name} is not a device.", where=device_id, remedy="Choose a device.")
    every = places(plan, device_id, every_way=False)
    here = next((one for one in every if one.current), None)
    found = [one for one in every if one.refused is None]
    low_v, high_v = device.min_v * (1 + MARGIN_FRAC), device.max_v * (1 - MARGIN_FRAC)
    pack_v = device.max_v * (1 - plan.policy.over_voltage_frac)
    return Lead(
        good_low_v=low_v,
        good_high_v=high_v,
        good_pack_v=pack_v if pack_v > low_v else None,
        places=tuple(one for k, one in enumerate(found) if k < SHOWN or one.current),
        not_here=here.refused if here else None,
        fitting=len(found),
        unsure=tuple(_unsure(plan, device)),
        demand_a=device.demand_a,
    )


def _unsure(plan: Plan, device: Device) -> list[UnsureDraw]:
    if device.throttle or device.law == "led":
        return []
    found = []
    for state in ("idle", "typical", "peak"):
        draw = getattr(device.draws, state)
        if draw.provenance in UNSURE and draw.value > 0:
            band = draw.tol_frac if draw.tol_frac is not None else plan.policy.band_frac(draw.provenance)
            amps = draw.amps_at(device.nominal_v)
            found.append(
                UnsureDraw(
                    state=state, provenance=draw.provenance, low_a=max(amps * (1 - band), 0.0), high_a=amps * (1 + band)
                )
            )
    return found
