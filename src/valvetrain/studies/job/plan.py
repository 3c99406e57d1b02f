"""A plan: the steps that apply, in an order that keeps every rule; with the head on, strip and refit go cylinder by cylinder."""

import heapq
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import ValvePosition
from valvetrain.studies.job.knowledge import Trouble
from valvetrain.studies.job.steps import Facts, OrderRule, Step, order_rules, steps

# What is done for one cylinder from the hold to its release, before the next one is begun.
_ROUND = frozenset({
    "h01", "h02", "h03", "h04", "h05", "s01", "s02", "s03", "s04", "s05", "s06", "s07", "i01", "i02", "i03", "i04", "i08", "i22", "a01", "a02", "a03", "a04",
    "a06", "a07", "a08", "a09", "a10", "a13", "a14",
})  # fmt: skip
_NODE = "round"
_FACTOR = {"keepers": 2}


@dataclass(frozen=True)
class PlanItem:
    """One line of a plan: a step with the places it is done at; `cylinder` where it belongs to a round, `detour` where a trouble put it in."""

    step: Step
    places: tuple[str, ...]
    cylinder: int = 0
    detour: int = 0

    @property
    def key(self) -> str:
        """Its name in records: the step, and its cylinder in a round."""
        return f"{self.step.id}-{self.cylinder}" if self.cylinder else self.step.id

    @property
    def times(self) -> int:
        """How often the step is done here."""
        return max(len(self.places), 1)


@dataclass(frozen=True)
class Broken:
    """Two steps that stand against a rule: `later` was put before `earlier`."""

    rule: OrderRule
    earlier: str
    later: str


@dataclass(frozen=True)
class Plan:
    """A job's plan: facts it was composed of, and its items in order."""

    facts: Facts
    items: tuple[PlanItem, ...]

    def hours(self) -> tuple[float, float]:
        """Least and most seconds of work, waits left out."""
        work = [(item.step.least * item.times, item.step.most * item.times) for item in self.items if not item.step.waits]
        return sum(low for low, _ in work), sum(high for _, high in work)

    def waits(self) -> tuple[float, float]:
        """Least and most seconds of waiting."""
        still = [(item.step.least, item.step.most) for item in self.items if item.step.waits]
        return sum(low for low, _ in still), sum(high for _, high in still)


def edges(present: Iterable[str], facts: Facts = frozenset()) -> list[tuple[str, str, OrderRule]]:
    """Pairs of present steps, earlier and later, by every rule of such an engine; a rule passes through groups of which nothing is there."""
    return _edges(frozenset(present), facts)


@lru_cache(maxsize=64)
def _edges(here: frozenset[str], facts: Facts) -> list[tuple[str, str, OrderRule]]:
    found = []
    for rule in order_rules():
        if not rule.when(facts):
            continue
        for chain in rule.chains:
            groups = [[each for each in group if each in here] for group in chain]
            for number, early in enumerate(groups):
                for late in groups[number + 1 :]:
                    found += [(one, two, rule) for one in early for two in late]
    return found


def sort(present: Sequence[str], pairs: Iterable[tuple[str, str]]) -> list[str]:
    """A topological order, as near to the given one as the pairs allow. Raises ContradictionError naming steps that wait for one another."""
    rank = {each: number for number, each in enumerate(present)}
    after: dict[str, set[str]] = {each: set() for each in present}
    waits = dict.fromkeys(present, 0)
    for one, two in set(pairs):
        if two not in after[one]:
            after[one].add(two)
            waits[two] += 1
    ready = [(rank[each], each) for each in present if not waits[each]]
    heapq.heapify(ready)
    done = []
    while ready:
        _, each = heapq.heappop(ready)
        done.append(each)
        for late in after[each]:
            waits[late] -= 1
            if not waits[late]:
                heapq.heappush(ready, (rank[late], late))
    if len(done) < len(present):
        left = [each for each in present if each not in done]
        raise ContradictionError(f"These steps wait for one another: {', '.join(left[:6])}.")
    return done


def _per_cylinder(facts: Facts) -> bool:
    return "headon" in facts and "springs" in facts and bool(facts & {"rope", "air"})


def ordered(facts: Facts) -> tuple[list[str], list[str]]:
    """Steps that apply in order, the round of one cylinder as one entry of its own name; and the order inside it (empty where there is none)."""
    present = [each.id for each in steps().values() if each.when(facts)]
    if {"passes", "sealfirst"} <= facts and {"a03", "a04"} <= set(present):
        present.remove("a04")
        present.insert(present.index("a03"), "a04")
    pairs = [(one, two) for one, two, _ in edges(present, facts)]
    if not _per_cylinder(facts):
        return sort(present, pairs), []
    inside = [each for each in present if each in _ROUND]
    outside = [each for each in present if each not in _ROUND]
    place = next(n for n, each in enumerate(present) if each in _ROUND)
    outside.insert(sum(1 for each in present[:place] if each not in _ROUND), _NODE)
    name = lambda each: _NODE if each in _ROUND else each
    moved = [(name(one), name(two)) for one, two in pairs if name(one) != name(two)]
    return sort(outside, moved), sort(inside, [(one, two) for one, two in pairs if one in _ROUND and two in _ROUND])


def _places(step: Step, valves: Sequence[ValvePosition], cylinder: int = 0) -> tuple[str, ...]:
    mine = [valve for valve in valves if not cylinder or valve.cylinder == cylinder]
    if step.per == "valve":
        return tuple(valve.name for valve in mine)
    if step.per == "cyl":
        return tuple(f"cylinder {number}" for number in dict.fromkeys(valve.cylinder for valve in mine))
    if step.per in ("side", "cam"):
        return tuple(dict.fromkeys(valve.side.value for valve in mine))
    return ()


def compose(facts: Facts, valves: Sequence[ValvePosition]) -> Plan:
    """The plan of a job on an engine with these valves. Raises ContradictionError where rules would wait for one another."""
    outer, inner = ordered(facts)
    known, items = steps(), []
    for each in outer:
        if each == _NODE:
            cylinders = sorted(dict.fromkeys(valve.cylinder for valve in valves))
            items += [PlanItem(known[step], _places(known[step], valves, number), number) for number in cylinders for step in inner]
        else:
            items.append(PlanItem(known[each], _places(known[each], valves)))
    return Plan(facts, tuple(items))


@dataclass(frozen=True)
class Detour:
    """A trouble that struck before the item `at`: its number and what it is."""

    number: int
    trouble: Trouble
    at: str


def with_detours(plan: Plan, detours: Iterable[Detour]) -> Plan:
    """The plan with the steps of each trouble put in before the item it struck at; what it waits for stands in its last step but one."""
    items = list(plan.items)
    for detour in detours:
        trouble, count = detour.trouble, len(detour.trouble.steps)
        low, high = (3600.0 * each / count for each in trouble.hours)
        new = [
            PlanItem(_detour_step(f"t{detour.number}.{number + 1}", act, trouble, low, high), (), detour=detour.number)
            for number, act in enumerate(trouble.steps)
        ]
        place = next((number for number, item in enumerate(items) if item.key == detour.at), len(items))
        items[place:place] = new
    return Plan(plan.facts, tuple(items))


def _detour_step(name: str, act: str, trouble: Trouble, low: float, high: float) -> Step:
    why = trouble.at_once if name.endswith(".1") else f"{trouble.name}."
    return Step(
        id=name, act=act, why=why, done="It is as it should be, and written down", tool="", counted=(), cautions=(), least=low, most=high, waits=False,
        per="job", hard=3, two=False, when=lambda _: True, names=frozenset(),
    )  # fmt: skip


def moved(plan: Plan, moves: Sequence[tuple[str, str]]) -> Plan:
    """The plan in a person's own order: each move puts one item before another; what is not there any more is passed over."""
    items = list(plan.items)
    for key, before in moves:
        names = [item.key for item in items]
        if key in names and before in names and key != before:
            item = items.pop(names.index(key))
            items.insert([each.key for each in items].index(before), item)
    return Plan(plan.facts, tuple(items))


def newly_broken(plan: Plan, key: str, before: str) -> list[Broken]:
    """Rules that a move would break and that the plan as it stands keeps."""
    known = {(each.rule.id, each.earlier, each.later) for each in broken_by([item.key for item in plan.items], plan.facts)}
    after = broken_by([item.key for item in moved(plan, [(key, before)]).items], plan.facts)
    return [each for each in after if (each.rule.id, each.earlier, each.later) not in known]


_DETOUR = OrderRule("detour", (), False, "A trouble is being mended: that comes first.")


def waiting_for(plan: Plan, key: str, done: Mapping[str, int]) -> list[Broken]:
    """Rules against doing an item now: what must be wholly done before it and is not; in a round, of its own cylinder; before all, a trouble's own steps."""
    items = {item.key: item for item in plan.items}
    mine = items[key]
    if mine.detour:
        return []
    ahead = plan.items[: plan.items.index(mine)]
    mending = next((item for item in ahead if item.detour and done.get(item.key, 0) < item.times), None)
    return ([Broken(_DETOUR, mending.key, mine.step.id)] if mending else []) + _waits_by_rule(plan, mine, done)


def _waits_by_rule(plan: Plan, mine: PlanItem, done: Mapping[str, int]) -> list[Broken]:
    names = {item.step.id for item in plan.items}
    found = []
    for one, two, rule in edges(names, plan.facts):
        if two != mine.step.id:
            continue
        before = [item for item in plan.items if item.step.id == one and (not mine.cylinder or item.cylinder in (0, mine.cylinder))]
        if any(done.get(item.key, 0) < item.times for item in before):
            found.append(Broken(rule, one, two))
    return found


def broken_by(order: Sequence[str], facts: Facts = frozenset()) -> list[Broken]:
    """Rules that an order of step ids stands against; ids of a round carry their cylinder and are held to the rules within it."""
    place: dict[tuple[str, str], int] = {}
    for number, key in enumerate(order):
        step, _, cylinder = key.partition("-")
        place[step, cylinder] = number
    cylinders = sorted({cylinder for _, cylinder in place if cylinder}) or [""]
    found = []
    for one, two, rule in edges({step for step, _ in place}, facts):
        for own in cylinders:
            first, second = (place.get((each, own), place.get((each, ""), -1)) for each in (one, two))
            if first > second >= 0:
                found.append(Broken(rule, one, two))
                break
    return found


@dataclass(frozen=True)
class Out:
    """What is out of an engine and must go in again: how many have come out by what is done, how many are back."""

    what: str
    out: int
    back: int

    @property
    def missing(self) -> int:
        """How many are not back."""
        return self.out - self.back


def open_engine(plan: Plan, done: Mapping[str, int]) -> list[Out]:
    """What stands open, from how often each item (by key) was done: the first step that counts a thing takes it out (or puts it in the engine), the
    next one brings it back. A thing that only one step counts is not kept."""
    outs: dict[str, int] = {}
    backs: dict[str, int] = {}
    opener: dict[str, str] = {}
    counted = _counted(plan)
    twice = {what for what, by in counted.items() if len(by) > 1}
    for item in plan.items:
        for what in item.step.counted:
            if what not in twice:
                continue
            first = opener.setdefault(what, item.step.id)
            book = outs if item.step.id == first else backs
            book[what] = book.get(what, 0) + _FACTOR.get(what, 1) * min(done.get(item.key, 0), item.times)
    return [Out(what, outs[what], min(backs.get(what, 0), outs[what])) for what in opener if outs.get(what, 0)]


def unaccounted(plan: Plan, done: Mapping[str, int], key: str) -> list[Out]:
    """What must be back before an item closes the engine and is not: things whose last step of bringing back stands before it. Empty for a step that
    closes nothing."""
    place = {item.key: number for number, item in enumerate(plan.items)}
    if key not in place or plan.items[place[key]].step.id not in CLOSES:
        return []
    last = {what: number for number, item in enumerate(plan.items) for what in item.step.counted}
    return [each for each in open_engine(plan, done) if each.missing and last[each.what] < place[key]]


def _counted(plan: Plan) -> dict[str, set[str]]:
    found: dict[str, set[str]] = {}
    for item in plan.items:
        for what in item.step.counted:
            found.setdefault(what, set()).add(item.step.id)
    return found


CLOSES = frozenset({"z06", "r01", "r02"})  # steps that refuse until all is accounted for
