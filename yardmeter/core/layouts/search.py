"""The search for layouts: aims one by one, each choice made, solved and judged, cut where it fails; then the front of those that stand."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from yardmeter.core.answers.noise import noise_of
from yardmeter.core.answers.noise_solutions import noise_solutions
from yardmeter.core.answers.solved_plan import SolvedPlan, solve_plan
from yardmeter.core.answers.spread import spread
from yardmeter.core.checks.relief import STAYS
from yardmeter.core.diagnosis.observed import lost_with
from yardmeter.core.errors import YardError
from yardmeter.core.graph import graph_of
from yardmeter.core.layouts.candidates import Field, Place, field_of
from yardmeter.core.layouts.dips import Dip, deepest_dip
from yardmeter.core.layouts.made import Made, Mended, WithParts, cut_for, fed, heavy, make, mend, weight_g
from yardmeter.core.layouts.program import AIMS, Aim, Chosen, Cut, Program
from yardmeter.core.layouts.wishes import BUYS, Wishes
from yardmeter.core.parts import Part
from yardmeter.core.patience import go_on
from yardmeter.core.plan import Plan, Regulator
from yardmeter.core.plan.operations import Edit
from yardmeter.core.verdict import Verdict

ROUNDS = 8
"""Choices tried for one aim before it is given up."""
SAMPLES = 120
SAME = 1e-6
ELSEWHERE = ("signal", "data", "failure")
"""Families of findings that go by pins and numbers, not by who is fed from where."""


@dataclass(frozen=True)
class Numbers:
    """What builders weigh. No `picture_db` without a picture; `failure_lost` are the devices the worst failure of one regulator takes."""

    parts_added: int
    grams: float
    wires: int
    least_spare_a: float
    spare_at: str
    hottest_c: float
    hottest: str
    picture_db: float | None
    reset_chance: float
    failure_lost: tuple[str, ...]
    failure_of: str
    control_lost: bool
    heavy: int
    dip: Dip | None
    """What the plug and a punch bring nearest to a reset."""

    @property
    def scale(self) -> tuple[float, ...]:
        """All as less is better, in the order of `AXES`, as near as a builder tells them apart."""
        return (
            self.parts_added, round(self.grams, 1), self.wires, -round(self.least_spare_a, 2), round(self.hottest_c),
            round(self.picture_db if self.picture_db is not None else -200.0), round(self.reset_chance, 3),
            len(self.failure_lost) + 10 * self.control_lost, -round(self.dip.room_frac, 2) if self.dip else 0.0,
        )  # fmt: skip


Axis = str
BEST: tuple[tuple[str, tuple[int, ...]], ...] = (
    ("fewest parts", (0, 1, 2)), ("most left over", (3,)), ("coolest", (4,)), ("cleanest picture", (5,)), ("survives a failure", (7,)), ("fewest resets", (6,)), ("shallowest dip", (8,)),
)  # fmt: skip
"""What a layout can be best at, by its axes in that order."""


@dataclass(frozen=True)
class Layout:
    """`aim` is what it was found for; `edits` make it from the plan of today."""

    made: Made
    numbers: Numbers
    best_at: tuple[str, ...]
    aim: Aim
    edits: tuple[Edit, ...]

    @property
    def plan(self) -> Plan:
        return self.made.plan


@dataclass(frozen=True)
class Impossible:
    """Devices that cannot be served together. `verdict` is what no layout cures; else `volts` that none gives, or amps that are missing."""

    devices: tuple[str, ...]
    rail: str = ""
    missing_a: float = 0.0
    verdict: Verdict | None = None
    nowhere: bool = False
    school: bool = False
    """Nothing keeps to the schools that are held to."""


@dataclass(frozen=True)
class Layouts:
    """What was found. `today` are the numbers of the plan as it is; `tried` choices were made, `cuts` were not gone on with."""

    of: Field
    program: Program
    today: Numbers
    layouts: tuple[Layout, ...]
    impossible: tuple[Impossible, ...]
    tried: int
    cuts: tuple[Cut, ...]
    base: Plan
    mended: tuple[Mended, ...]
    """What was wrong whatever is fed from where, mended before."""


def propose(
    plan: Plan, wishes: Wishes, parts: Sequence[Part], with_parts: WithParts | None = None, watch: Callable[[float], None] | None = None,
    aims: Sequence[Aim] = AIMS, *, dips: bool = True,
) -> Layouts:  # fmt: skip
    """Three to six layouts that no other beats, or why there is none. Raises UnknownElementError and EditError for wishes that make
    no sense. `watch` is told how far it is; without `dips` nothing is run in time. Where nothing can be had with a reserve left, what uses all that is usable is tried."""
    wishes = wishes.checked(plan)
    found = _proposed(plan, wishes, parts, with_parts, watch, aims, dips=dips)
    if found.layouts or "fill" in wishes.school:
        return found
    full = replace(wishes, school={**wishes.school, "fill": "1.0"})
    # Where there is none again, for reasons no reserve is part of.
    return _proposed(plan, full, parts, with_parts, watch, aims, dips=dips)


def lightest(plan: Plan, wishes: Wishes, parts: Sequence[Part], with_parts: WithParts | None = None) -> Layout | None:
    """The layout with the fewest parts, moves and grams, where less is wrong with it than with the plan and nothing new. None where nothing is wrong
    with the plan, which adds nothing then, or nothing is better. Raises as `propose` does."""
    wrong = {one.key for one in heavy(solve_plan(plan))}
    wishes = replace(wishes, states=False)  # a wiring, and nothing that is believed of how it is used
    found = propose(plan, wishes, parts, with_parts, aims=("parts",), dips=False).layouts if wrong else ()
    return next((one for one in found if {left.key for left in one.made.left} < wrong), None)


def _proposed(
    plan: Plan, wishes: Wishes, parts: Sequence[Part], with_parts: WithParts | None, watch: Callable[[float], None] | None,
    goals: Sequence[Aim], *, dips: bool = True,
) -> Layouts:  # fmt: skip
    tell = watch or (lambda _: None)
    today = solve_plan(plan)
    base, mended = mend(today, wishes, with_parts, before=True)
    of = field_of(base, wishes, parts)
    left_g = None if wishes.max_g is None else max(wishes.max_g - weight_g(base.plan) + weight_g(plan), 0.0)
    program = Program(of, replace(wishes, max_g=left_g))
    stuck = frozenset(one.key for one in heavy(base) if not fed(one))
    cuts: list[Cut] = []
    standing: dict[tuple[tuple[str, str], ...], Made] = {}
    aims: dict[int, Aim] = {}
    almost: list[Made] = []
    tried = 0
    for position, aim in enumerate(goals):
        if position and not standing:
            break  # what stands for no aim does not for another
        for _ in range(ROUNDS):
            go_on()
            chosen = program.solve(aim, cuts)
            tell(0.9 * (position + min(tried, ROUNDS) / ROUNDS / 2) / len(goals))
            if chosen is None:
                break
            key = tuple(sorted(chosen.at.items()))
            if key in standing:
                break
            tried += 1
            try:
                made = make(of, chosen, wishes, with_parts, mended, stuck=stuck)
            except YardError:
                cuts.append(Cut(frozenset(chosen.at.items()), "cannot be made"))
                continue
            almost.append(made)
            worse = _of_the_choice(of, made)
            if not worse:
                standing[key] = made
                aims[id(made)] = aim
                break
            cuts.append(cut_for(replace(made, left=tuple(worse))))
    tell(0.9)
    now = numbers(plan, today, 0, dips=dips)
    layouts = _front(plan, [*standing.values()], aims, mended, now, dips=dips)
    impossible = tuple(_impossible(of, program, standing, almost))
    tell(1.0)
    return Layouts(of, program, now, tuple(layouts), impossible, tried, tuple(cuts), base.plan, mended)


def _of_the_choice(of: Field, made: Made) -> list[Verdict]:
    """What is left and may be the choice's doing: what was there before, about things no choice touches, is not."""
    before = {one.key for one in heavy(of.case)}
    own = [one for one in made.left if one.code.split(".")[0] not in ELSEWHERE]
    graph = graph_of(made.plan)
    # Pack and leads carry the motors, whatever is chosen.
    touched = set(of.movable) | {p.rail for p in of.places if p.bought is None and graph.regulators_above(p.rail)}
    touched |= set(made.rail_of.values())
    touched |= {s.id for s in made.plan.supplies if s.output in touched}
    return [one for one in own if one.key not in before or set(one.elements) & touched]


def numbers(before: Plan, solved: SolvedPlan, parts_added: int, *, dips: bool = True) -> Numbers:
    """What a plan comes to, all at its worst on the pack; the runs for its dips are left out where nobody compares them."""
    plan, conditions = solved.plan, [c.id for c in solved.pack_conditions()]
    graph = graph_of(plan)
    # What a board's own logic has left is the board's; a pack's and a lead's are the motors'.
    chosen = [
        r.id
        for r in plan.rails
        if graph.regulators_above(r.id) and any(d.kind not in STAYS for d in plan.devices_on(r.id))
    ]
    spare = [
        (solved.rail(r).states[c].spare_a, r)
        for r in chosen or plan.rail_of
        for c in conditions
        if solved.rail(r).states[c].limits
    ]
    hot = [
        (s, one.id)
        for one in solved.budget.supplies
        for c in conditions
        if (s := one.states[c].still_temp_c) is not None
    ]
    videos = noise_of(plan, noise_solutions(solved.solved)).videos
    picture = max((max(v.level_db.values()) for v in videos), default=None)
    flown = plan.model_copy(update={"conditions": solved.pack_conditions() or plan.conditions})
    risks = spread(flown, samples=SAMPLES).devices
    failures = list(_failures(solved))
    worst = max(
        failures, key=lambda one: (any(plan.device_of[d].keeps_control for d in one[1]), len(one[1])), default=("", ())
    )
    least = min(spare, default=(0.0, ""))
    hottest = max(hot, default=(0.0, ""))
    return Numbers(
        parts_added, weight_g(plan) - weight_g(before), _wires(before, plan), least[0], least[1], hottest[0], hottest[1], picture,
        max((one.chance_frac for one in risks), default=0.0), worst[1], worst[0], any(plan.device_of[d].keeps_control for d in worst[1]),
        len(heavy(solved)), deepest_dip(plan) if dips else None,
    )  # fmt: skip


def _wires(before: Plan, after: Plan) -> int:
    """Wires to solder: those that end elsewhere than before, or are new."""
    return len(_ends(after) - _ends(before))


def _ends(plan: Plan) -> set[tuple[str, str, str]]:
    found = {("feed", d.id, f"{d.feed.rail} {d.feed.pad}") for d in plan.devices if d.feed and not d.feed.wire.joined}
    found |= {("ground", wire.id, wire.to) for _, wire in plan.returns() if not wire.wire.joined}
    found |= {("supply", s.id, f"{s.input} {s.output}") for s in plan.supplies if s.feed}
    return found | {("signal", s.id, f"{s.source} {s.sink}") for s in plan.signals}


def _failures(solved: SolvedPlan) -> Iterator[tuple[str, tuple[str, ...]]]:
    """By regulator the devices that have nothing on the pack once it gives nothing."""
    flown = next(iter(solved.pack_conditions()), None)
    for one in solved.plan.supplies:
        if flown is not None and isinstance(one, Regulator):
            yield (
                one.id,
                tuple(d for d in lost_with(solved.plan, one, flown) if solved.plan.device_of[d].kind != "motor"),
            )


def _front(
    before: Plan,
    made: Sequence[Made],
    aims: dict[int, Aim],
    mended: Sequence[Mended],
    today: Numbers,
    *,
    dips: bool = True,
) -> list[Layout]:
    """Those that no other beats in every number, nor today's plan does, named by what they are best at."""
    own = [(one, numbers(before, one.solved, len(one.rail_of) + _filters(before, one.plan), dips=dips)) for one in made]
    kept: list[tuple[Made, Numbers]] = []
    for one, found in own:
        rivals = [n for other, n in own if other is not one] + ([today] if today.heavy <= found.heavy else [])
        beaten = any(_beats(rival, found) for rival in rivals)
        same = any(n.scale == found.scale for _, n in kept)
        if not beaten and not same:
            kept.append((one, found))
    if not kept and own:  # each as good as today's: the first says so
        kept = own[:1]
    names: dict[int, list[str]] = {k: [] for k in range(len(kept))}
    for name, axes in BEST:
        if kept:
            best = min(range(len(kept)), key=lambda k: tuple(kept[k][1].scale[a] for a in axes))
            names[best].append(name)
    # Named ones first, in the order of what they are best at.
    rank = {name: n for n, (name, _) in enumerate(BEST)}
    order = sorted(range(len(kept)), key=lambda k: rank[names[k][0]] if names[k] else len(BEST))
    first = tuple(edit for one in mended for edit in one.fix.edits)
    return [
        Layout(kept[k][0], kept[k][1], tuple(names[k]), aims[id(kept[k][0])], (*first, *kept[k][0].edits))
        for k in order
    ]


def _beats(one: Numbers, other: Numbers) -> bool:
    """As good in every number and better in some."""
    return all(a <= b + SAME for a, b in zip(one.scale, other.scale, strict=True)) and one.scale != other.scale


def _filters(before: Plan, after: Plan) -> int:
    known = {one.id for one in before.filters}
    return sum(one.id not in known for one in after.filters)


def _impossible(
    of: Field, program: Program, standing: dict[tuple[tuple[str, str], ...], Made], almost: Sequence[Made]
) -> Iterator[Impossible]:  # fmt: skip
    """Devices that no volts suit; amps that are missing; what is wrong whatever is fed from where."""
    for device in of.nowhere:
        yield Impossible((device,), nowhere=True)
    told: set[str] = set()
    for made in standing.values():
        for verdict in made.left:
            if verdict.key not in told:
                told.add(verdict.key)
                yield Impossible(tuple(e for e in verdict.elements if e in made.plan.device_of), verdict=verdict)
    if standing:
        return
    if program.solve("parts") is None:
        missing = program.short_of()
        if not missing and not of.nowhere:
            yield Impossible(of.movable, school=True)
        for rail, amps in missing.items():
            yield Impossible(
                tuple(dict.fromkeys(p.device for p in of.places if p.rail == rail or _through(of, p, rail))), rail, amps
            )
    elif almost:
        fewest = min(almost, key=lambda one: len(one.left))
        for verdict in fewest.left:
            yield Impossible(tuple(e for e in verdict.elements if e in fewest.plan.device_of), verdict=verdict)


def _through(of: Field, place: Place, rail: str) -> bool:
    """Whether a place takes its amps from a rail further up."""
    if place.bought is not None:
        return rail == of.case.plan.pack.rail
    return rail in dict(of.supplies[place.rail].above)


@dataclass(frozen=True)
class Instead:
    """What would be done without a place: where the device goes, and what that adds to parts and grams."""

    rail: str
    parts: int
    grams: float


def next_best(found: Layouts, layout: Layout, devices: Sequence[str]) -> Instead | None:
    """The best place beside the one that is taken: of one device with the rest as it is, of several together with whatever follows.
    None where nothing else is within the bounds."""
    program, at = found.program, layout.made.chosen.at
    other: dict[str, str] | None = None
    if len(devices) == 1:
        device = devices[0]
        tried = ({**at, device: p.rail} for p in found.of.places if p.device == device and p.rail != at[device])
        other = min(
            (one for one in tried if program.allows(one)), key=lambda one: program.value(layout.aim, one), default=None
        )
    else:
        solved = program.solve(layout.aim, found.cuts, barred=[(d, at[d]) for d in devices])
        other = solved.at if solved else None
    if other is None:
        return None
    weight = {b.key: b.part.weight_g for b in found.of.bought}
    was, now = ({r for r in one.values() if r in weight} for one in (at, other))
    return Instead(other[devices[0]], len(now) - len(was), sum(weight[k] for k in now) - sum(weight[k] for k in was))


@dataclass(frozen=True)
class Alternative:
    """One place of one device, everything else as it is; `left` are dangers and faults that come with it."""

    rail: str
    place: str
    """The rail, or the key of what would be bought."""
    made: Made
    numbers: Numbers
    left: tuple[Verdict, ...]


MOST_ALTERNATIVES = 8
PARTS_SHOWN, CELLS_SHOWN = 3, 1


def alternatives(plan: Plan, device: str, parts: Sequence[Part]) -> tuple[Field, tuple[Alternative, ...]]:
    """Where one device could be fed, each made and solved; what brings nothing heavy first, then by parts and grams."""
    others = frozenset(d.id for d in plan.devices if d.id != device)
    today = solve_plan(plan)
    wishes = Wishes(held=others, buy=frozenset(BUYS)).checked(plan)
    of = field_of(today, wishes, parts)
    fixed = {p.device: p.rail for p in of.places if p.stays and p.device != device}
    own = sorted(
        (p for p in of.places if p.device == device),
        key=lambda p: (p.bought is not None, p.bought.part.weight_g if p.bought else 0.0),
    )
    rails = [p for p in own if p.bought is None]
    offered = [p for p in own if p.bought is not None and p.bought.copy == 0]
    bought = [p for p in offered if p.bought and not p.bought.cells][:PARTS_SHOWN]
    bought += [p for p in offered if p.bought and p.bought.cells][:CELLS_SHOWN]
    before = {one.key for one in heavy(today)}
    found = []
    for place in (*rails, *bought)[:MOST_ALTERNATIVES]:
        go_on()
        chosen = Chosen({**fixed, device: place.rail}, 0.0)
        try:
            made = make(of, chosen, wishes, mends=False)
        except YardError:
            continue
        left = tuple(one for one in made.left if one.key not in before)
        found.append(
            Alternative(
                made.rail_of.get(place.rail, place.rail),
                place.rail,
                made,
                numbers(plan, made.solved, len(made.rail_of)),
                left,
            )
        )
    return of, tuple(
        sorted(found, key=lambda one: (len(one.left), one.numbers.heavy, one.numbers.parts_added, one.numbers.grams))
    )
