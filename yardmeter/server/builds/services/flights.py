"""Flights of the log: read, kept packed, and worked out again when they are asked for."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import datetime
from typing import Any

import numpy as np
from django.db import transaction

from yardmeter.core.errors import YardError
from yardmeter.core.flights.fits import Fit, PhaseDraw, fits, phase_draws
from yardmeter.core.flights.flight import Confirmed, Flight, flight_of
from yardmeter.core.flights.overlay import Overlay, overlay
from yardmeter.core.flights.sheet import Guess, guesses, read_sheet
from yardmeter.core.plan import Plan as PlanDocument
from yardmeter.core.runs.recorded import Sheet
from yardmeter.core.solver.circuit import Floats
from yardmeter.server.builds.errors import NotFoundError
from yardmeter.server.builds.models import LogEntry, LogFlight, Revision
from yardmeter.server.builds.services import log
from yardmeter.server.builds.services.analysis import document_of, reviewed
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.server.kept import Kept

_flights: Kept[Flight] = Kept("flights", lambda one: sum(v.nbytes for v in one.series.values()) + one.times_s.nbytes)
_overlays: Kept[Overlay] = Kept(
    "overlays", lambda one: sum(rows.nbytes for rows in (one.run.times_s, one.run.pack_a)) * 40
)


_fits: Kept[tuple[tuple[Fit, ...], tuple[PhaseDraw, ...]]] = Kept(
    "fits", lambda both: 400 * (len(both[0]) + len(both[1]))
)


def forget_flights() -> None:
    for kept in (_flights, _overlays, _fits):
        kept.clear()


def rails_of(plan: PlanDocument) -> list[tuple[str, float]]:
    """Rails with their volts, the pack's first."""
    pack = (plan.pack.rail, plan.pack.rest_v("nominal"))
    return [pack, *((one.id, one.nominal_v) for one in plan.rails if one.nominal_v and one.id != pack[0])]


def looked_at(plan_id: int, text: str) -> tuple[Sheet, tuple[Guess, ...]]:
    """A table before it is confirmed."""
    plan = reviewed(head_of(get_plan(plan_id))).plan
    sheet = read_sheet(text)
    return sheet, guesses(sheet, rails_of(plan))


@transaction.atomic
def keep(
    plan_id: int,
    name: str,
    text: str,
    confirmed: Sequence[Confirmed],
    note: str,
    who: str,
    at: datetime | None = None,
    sheet: Sheet | None = None,
) -> LogEntry:
    """Read a flight as it was confirmed, and keep it with an entry."""
    flight = flight_of(sheet or read_sheet(text), confirmed)
    data: dict[str, Any] = {"minutes": round(flight.duration_s / 60, 2), "rows": int(flight.times_s.size), "notes": list(flight.notes)}  # fmt: skip
    entry = log.add(plan_id, "flight", name, note, data, who, at)
    LogFlight.objects.create(entry=entry, packed=_packed(flight))
    return entry


def _packed(flight: Flight) -> bytes:
    out = io.BytesIO()
    names = np.array(list(flight.series), dtype=str)
    values = [np.asarray(one, np.float32) for one in flight.series.values()]
    np.savez_compressed(out, times=flight.times_s, names=names, values=np.stack(values), notes=np.array(flight.notes, dtype=str), gaps=np.array(flight.gaps, np.int64))  # fmt: skip
    return out.getvalue()


def flight_at(plan_id: int, entry_id: int) -> tuple[LogEntry, Flight]:
    entry = log.get_entry(plan_id, entry_id)
    found = _flights.get(entry.pk)
    if found is None:
        row = LogFlight.objects.filter(entry=entry).first()
        if row is None:
            raise NotFoundError("This entry is no flight.", where=f"entry {entry_id}", remedy="Choose a flight.")
        with np.load(io.BytesIO(bytes(row.packed)), allow_pickle=False) as held:
            series: dict[str, Any] = {
                str(n): np.asarray(v, np.float32) for n, v in zip(held["names"], held["values"], strict=True)
            }
            made = Flight(held["times"], series, tuple(map(str, held["notes"])), tuple(held["gaps"].tolist()))
        found = _flights.put(entry.pk, made)
    return entry, found


def plan_at(entry: LogEntry) -> PlanDocument:
    """The plan as it was flown."""
    return document_of(Revision.objects.select_related("base").get(pk=entry.revision_id))


def fits_of(plan_id: int, entry_id: int) -> tuple[tuple[Fit, ...], tuple[PhaseDraw, ...]]:
    """What a flight settles, held against the plan as it stands now."""
    head = head_of(get_plan(plan_id))
    found = _fits.get((head.pk, entry_id))
    if found is None:
        _, flight = flight_at(plan_id, entry_id)
        found = _fits.put((head.pk, entry_id), (fits(reviewed(head).plan, flight), phase_draws(flight)))
    return found


def overlay_of(plan_id: int, entry_id: int) -> Overlay:
    """The plan as it stands now laid over a flight."""
    _, flight = flight_at(plan_id, entry_id)
    head = head_of(get_plan(plan_id))
    key = (head.pk, entry_id)
    return _overlays.get(key) or _overlays.put(key, overlay(reviewed(head).plan, flight))


def shown_plan(plan_id: int) -> PlanDocument:
    return reviewed(head_of(get_plan(plan_id))).plan


def laid_over(plan_id: int, entry_id: int) -> tuple[Overlay | None, str]:
    """The overlay, or why there is none."""
    try:
        return overlay_of(plan_id, entry_id), ""
    except YardError as error:
        return None, f"{error.what} {error.remedy}".strip()


def model_of(laid: Overlay, plan: PlanDocument, series: str, at_s: Floats) -> Floats | None:
    """What the plan says for a series at these times; None for what it says nothing of."""
    run = laid.run
    if series == "volts":
        own = run.rail_v(plan.pack.rail)
    elif series == "amps":
        own = run.pack_a
    elif series.startswith("rail:") and series[5:] in plan.rail_of:
        own = run.rail_v(series[5:])
    else:
        return None
    found: Floats = np.interp(at_s, run.times_s, own, right=np.nan)
    return found
