"""The mixed integer program: who is fed from where, what is bought. It decides what to try next, never what is true."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from yardmeter.core.graph import graph_of
from yardmeter.core.layouts.candidates import Field, is_picture
from yardmeter.core.layouts.wishes import Wishes
from yardmeter.core.once import cached_property
from yardmeter.core.solver.circuit import Floats, Ints

if TYPE_CHECKING:
    from scipy.sparse import csr_array

Aim = Literal["parts", "spare", "cool", "picture", "failure"]
AIMS: tuple[Aim, ...] = ("parts", "spare", "cool", "picture", "failure")
PART, MOVE, GRAM, CHARGING = 10.0, 1.0, 0.02, 10.0
"""What a part, a wire laid again, a gram and one more pack to charge count beside each other where as little as possible is to be done;
our choice."""
LITTLE = 0.02
"""How much the same counts where something else is aimed at."""
SECONDS = 5.0
SOFT, SAME_A = 1.15, 1e-4
NOISY_BESIDE = ("servo", "sender", "digital")


@dataclass(frozen=True)
class Cut:
    """These places together are not tried again, with why."""

    places: frozenset[tuple[str, str]]
    why: str


@dataclass(frozen=True)
class Chosen:
    """By device the rail, or key of something bought, it is fed from; and the value of the aim, less is better."""

    at: dict[str, str]
    value: float
    within: bool = True
    """Whether the program says that there is nothing better; else it ran out of time."""


class Program:
    """The constraints once; asked for each aim."""

    def __init__(self, field: Field, wishes: Wishes) -> None:
        self.field, self.wishes = field, wishes
        self.x = {(p.device, p.rail): k for k, p in enumerate(field.places)}
        self.bought_of = {b.key: b for b in field.bought}
        self.y = {b.key: len(field.places) + k for k, b in enumerate(field.bought)}
        self.top = len(field.places) + len(field.bought)
        self.size = self.top + 1  # the last is the share of the fullest supply
        self.rows: list[tuple[dict[int, float], float, float]] = []
        self.amps_of: dict[int, str] = {}
        """By row, the rail or bought thing whose amps it bounds."""
        self._one_place_each()
        self._bought_where_used()
        self._within_amps()
        self._schools()

    def _add(self, row: dict[int, float], low: float, high: float) -> None:
        self.rows.append((row, low, high))

    def _one_place_each(self) -> None:
        for device in self.field.movable:
            self._add({k: 1.0 for (d, _), k in self.x.items() if d == device}, 1.0, 1.0)

    def _bought_where_used(self) -> None:
        for (_, rail), k in self.x.items():
            if rail in self.y:
                self._add({k: 1.0, self.y[rail]: -1.0}, -np.inf, 0.0)
        for (
            key,
            k,
        ) in self.y.items():  # the second of a part only beside the first, so that equal ones are not tried twice
            stem, copy = key.split("#")
            if copy != "0" and f"{stem}#0" in self.y:
                self._add({k: 1.0, self.y[f"{stem}#0"]: -1.0}, -np.inf, 0.0)
            here = {x: -1.0 for (_, rail), x in self.x.items() if rail == key}
            self._add({k: 1.0, **here}, -np.inf, 0.0)
            if self.bought_of[key].cells:  # one device's own
                self._add(dict.fromkeys(here, 1.0), -np.inf, 1.0)
        if self.wishes.max_g is not None and self.y:
            grams = {self.y[b.key]: b.part.weight_g for b in self.field.bought}
            self._add(grams, -np.inf, self.wishes.max_g)

    def loads(self, rail: str, condition: str) -> dict[int, float]:
        """Amps each choice asks of a rail."""
        row: dict[int, float] = {}
        for place in self.field.places:
            amps = place.amps_a[condition]
            k = self.x[place.device, place.rail]
            if place.rail == rail:
                row[k] = row.get(k, 0.0) + amps
            elif place.bought is None:
                row[k] = row.get(k, 0.0) + amps * dict(self.field.supplies[place.rail].above).get(rail, 0.0)
            elif rail == self.field.case.plan.pack.rail:
                volts = self.field.case.rail(rail).states[condition].volts_v
                row[k] = row.get(k, 0.0) + place.bought.pack_a(amps, volts)
        return {k: a for k, a in row.items() if a > 0}

    def _within_amps(self) -> None:
        fill, share = self.wishes.fill_frac, self.top
        conditions = [c.id for c in self.field.case.pack_conditions()]
        for rail, supply in self.field.supplies.items():
            for c in conditions:
                row, usable = self.loads(rail, c), supply.usable_a[c]
                if not row or not np.isfinite(usable):
                    continue
                self.amps_of[len(self.rows)] = rail
                self._add(row, -np.inf, self._left(rail, c, fill))
                if usable > 0:
                    self._add(
                        {**{k: a / usable for k, a in row.items()}, share: -1.0},
                        -np.inf,
                        -min(supply.fixed_a[c] / usable, 1.0),
                    )
        for one in self.field.bought:
            for c in conditions:
                row, usable = self.loads(one.key, c), one.usable_a[c]
                if row:
                    self.amps_of[len(self.rows)] = one.key
                    self._add(row, -np.inf, fill * usable)
                    self._add({**{k: a / usable for k, a in row.items()}, share: -1.0}, -np.inf, 0.0)

    def _left(self, rail: str, condition: str, fill: float) -> float:
        """Amps of a rail that devices may ask for. Where what cannot move fills it already there is no reserve to keep; where that is
        over by itself, they may ask what they ask today."""
        supply = self.field.supplies[rail]
        fixed, usable = supply.fixed_a[condition], supply.usable_a[condition]
        today = max(self.field.case.rail(rail).states[condition].asked_a - fixed, 0.0)
        if fixed >= usable:
            # Over whatever moves: by motors on a pack, nobody here can help it; behind a regulator no more than today.
            return today * SOFT if graph_of(self.field.case.plan).regulators_above(rail) else np.inf
        left = (usable if fixed > fill * usable else fill * usable) - fixed
        # Lead and pack stand as much as today and a little more: what that means is for the rules to say.
        return left if graph_of(self.field.case.plan).regulators_above(rail) else max(left, today * SOFT)

    def _schools(self) -> None:
        plan = self.field.case.plan
        rails = dict.fromkeys(p.rail for p in self.field.places)
        kind = {d.id: d.kind for d in plan.devices}
        control = [d for d in self.field.movable if plan.device_of[d].keeps_control and kind[d] == "receiver"]
        for rail in rails:
            here = {d: k for (d, r), k in self.x.items() if r == rail}
            if self.wishes.school.get("control") == "apart":
                self._apart(here, control, [d for d in here if kind[d] in NOISY_BESIDE])
            if self.wishes.school.get("sender") == "apart":
                self._apart(
                    here,
                    [d for d in here if kind[d] in ("sender", "digital")],
                    [d for d in here if kind[d] == "camera"],
                )
        wanted = self.wishes.school.get("sender_feed", "open")
        for place in self.field.places:
            follows = place.bought is None and graph_of(plan).follows_the_pack(place.rail)
            if wanted != "open" and kind[place.device] in ("sender", "digital") and follows != (wanted == "pack"):
                self._add({self.x[place.device, place.rail]: 1.0}, 0.0, 0.0)
        if self.wishes.school.get("sender") == "shared":
            senders = [d for d in self.field.movable if kind[d] in ("sender", "digital")][:1]
            for camera in (d for d in self.field.movable if kind[d] == "camera"):
                for sender in senders:
                    for rail in rails:
                        both = [self.x[one, rail] for one in (camera, sender) if (one, rail) in self.x]
                        if len(both) == 2:
                            self._add({both[0]: 1.0, both[1]: -1.0}, 0.0, 0.0)
                        elif both:  # where one of them cannot be, the other is not
                            self._add({both[0]: 1.0}, 0.0, 0.0)

    def _apart(self, here: dict[str, int], ones: Sequence[str], others: Sequence[str]) -> None:
        """None of the ones beside any of the others; what is held has its place here too."""
        for one in ones:
            for other in others:
                if one in here and other != one and other in here:
                    self._add({here[one]: 1.0, here[other]: 1.0}, -np.inf, 1.0)

    def least(self) -> Floats:
        """Cost of doing: parts, moves, grams."""
        cost = np.zeros(self.size)
        for place in self.field.places:
            if not place.stays:
                cost[self.x[place.device, place.rail]] = MOVE
        owned = dict(self.wishes.owned)
        for one in self.field.bought:
            have = owned.get(one.part.key, 0) > one.copy
            cost[self.y[one.key]] = (
                (0.2 if have else 1.0) * PART + GRAM * one.part.weight_g + (CHARGING if one.cells else 0.0)
            )
        return cost

    def cost_of(self, aim: Aim) -> Floats:
        little = LITTLE * self.least()
        cost = self.least() if aim == "parts" else little
        plan = self.field.case.plan
        if aim in ("spare", "cool"):
            cost[self.top] = 10.0
        if aim == "cool":
            # Amps through what burns most of them: a linear regulator's fall, a small one's resistance.
            for place in self.field.places:
                cost[self.x[place.device, place.rail]] += (
                    0.3
                    * max(place.amps_a.values(), default=0.0)
                    * (2.0 if place.noise == 0 else 0.3 if place.bought else 1.0)
                )
        if aim == "picture":
            for place in self.field.places:
                if is_picture(plan, place.device):
                    cost[self.x[place.device, place.rail]] += 4.0 * place.noise
        if aim == "failure":
            for place in self.field.places:
                one = plan.device_of[place.device]
                others = len([d for d in self.field.movable if d != place.device])
                shared = 0.0 if place.bought else 1.0
                cost[self.x[place.device, place.rail]] += (3.0 if one.keeps_control else 0.5) * shared * min(others, 3)
            for (
                device,
                rail,
            ), k in self.x.items():  # what keeps control by itself: nobody else at what was bought for it
                if rail in self.y and plan.device_of[device].keeps_control:
                    cost[k] -= 0.5
        return cost

    def solve(self, aim: Aim, cuts: Sequence[Cut] = (), *, barred: Sequence[tuple[str, str]] = ()) -> Chosen | None:
        """The best for an aim beside what was cut; None where nothing is within the bounds."""
        if not self.field.movable:
            return Chosen({}, 0.0)
        rows = list(self.rows)
        for cut in cuts:
            known = [self.x[one] for one in cut.places if one in self.x]
            if len(known) == len(cut.places):
                rows.append((dict.fromkeys(known, 1.0), -np.inf, len(known) - 1.0))
        upper = np.ones(self.size)
        upper[self.top] = np.inf
        for one in barred:
            if one in self.x:
                upper[self.x[one]] = 0.0
        kinds = np.ones(self.size, np.intp)
        kinds[self.top] = 0
        found = _least(self.cost_of(aim), kinds, upper, rows, {"time_limit": SECONDS, "mip_rel_gap": 1e-6})
        if found.x is None:
            return None
        at = {device: rail for (device, rail), k in self.x.items() if found.x[k] > 0.5}
        return Chosen(at, float(found.fun), within=found.status == 0)

    def chosen(self, at: Mapping[str, str]) -> Floats:
        """A choice as the program's own numbers; the fullest supply is left as empty as its rows let it be."""
        x = np.zeros(self.size)
        for device, rail in at.items():
            x[self.x[device, rail]] = 1.0
            if rail in self.y:
                x[self.y[rail]] = 1.0
        matrix, _, high = self._bounds
        fullest = (matrix @ x - high)[self._shares]
        x[self.top] = max(float(fullest.max(initial=0.0)), 0.0)
        return x

    @cached_property
    def _bounds(self) -> tuple[csr_array, Floats, Floats]:
        """Every row, with the least and the most of it."""
        return (
            _matrix(self.rows, self.size), np.array([low for _, low, _ in self.rows]), np.array([high for _, _, high in self.rows]),
        )  # fmt: skip

    @cached_property
    def _shares(self) -> Ints:
        """Rows that hold the share of the fullest supply."""
        return np.array([k for k, (row, _, _) in enumerate(self.rows) if row.get(self.top) == -1.0], np.intp)

    def allows(self, at: Mapping[str, str]) -> bool:
        """Whether a choice is within every bound."""
        matrix, low, high = self._bounds
        sums = matrix @ self.chosen(at)
        return bool((sums >= low - SAME_A).all() and (sums <= high + SAME_A).all())

    def value(self, aim: Aim, at: Mapping[str, str]) -> float:
        """What a choice comes to for an aim."""
        return float(self.cost_of(aim) @ self.chosen(at))

    def short_of(self) -> dict[str, float]:
        """Amps that are missing at rails and bought things, as few as can be, where nothing is within the bounds; volts and schools
        hold."""
        rows = [(dict(row), low, high) for row, low, high in self.rows]
        slack = {}
        for extra, k in enumerate(self.amps_of):
            rows[k][0][self.size + extra] = -1.0
            slack[self.size + extra] = self.amps_of[k]
        cost = np.concatenate([1e-3 * self.least(), np.ones(len(slack))])
        kinds = np.concatenate([np.ones(self.size, np.intp), np.zeros(len(slack), np.intp)])
        kinds[self.top] = 0
        upper = np.concatenate([np.ones(self.size), np.full(len(slack), np.inf)])
        upper[self.top] = np.inf
        found = _least(cost, kinds, upper, rows, {"time_limit": SECONDS})
        missing: dict[str, float] = {}
        if found.x is None:
            return missing
        for column, rail in slack.items():
            if found.x[column] > SAME_A:
                missing[rail] = max(missing.get(rail, 0.0), float(found.x[column]))
        return missing


def _least(cost: Floats, kinds: Ints, upper: Floats, rows: Sequence[tuple[dict[int, float], float, float]], options: Any) -> Any:  # fmt: skip
    """The cheapest choice within rows of coefficients and their bounds; `kinds` 1 where a number is whole."""
    # Loaded when a layout is asked for, not when a server starts.
    from scipy.optimize import Bounds, LinearConstraint, milp

    within = LinearConstraint(_matrix(rows, cost.size), [low for _, low, _ in rows], [high for _, _, high in rows])
    bounds = Bounds(np.zeros(cost.size), upper)
    return milp(cost, integrality=kinds, bounds=bounds, constraints=within, options=options)


def _matrix(rows: Sequence[tuple[dict[int, float], float, float]], size: int) -> csr_array:
    from scipy.sparse import csr_array

    data = [(k, column, value) for k, (row, _, _) in enumerate(rows) for column, value in row.items()]
    where = np.array([one[:2] for one in data], int).T if data else np.zeros((2, 0), int)
    return csr_array((np.array([one[2] for one in data]), (where[0], where[1])), shape=(len(rows), size))
