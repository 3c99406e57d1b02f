"""A search of the shelf for one side of a build: what may go where, asked of the workers shard by shard, and what they found so far."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from statistics import median

from rocklash.answers import tasks
from rocklash.answers.results import train_key
from rocklash.answers.rows import part_record, record_of
from rocklash.answers.store import content_key
from rocklash.records.models import Build, Part, Search
from rocklash.records.selectors.builds import parts_that_fit
from valvetrain.errors import ContradictionError, StoppedError, ValveTrainError
from valvetrain.memory import Kept
from valvetrain.parts.engine import EngineKind, Follower, Side
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.checks.check import Check
from valvetrain.studies.choose.compare import Shown, shown_stock, try_shown
from valvetrain.studies.choose.proposal import bench_of, stock_part
from valvetrain.studies.choose.search import Found, ShardResult, merged, search_shard, shards_of
from valvetrain.studies.choose.slots import NOTHING, Candidate, PartSet, Shelf, Slot, Wishes
from valvetrain.studies.choose.tables import Tables, set_at
from valvetrain.studies.review.with_motion import check_motion

COLUMNS = {
    Slot.CAM: "cam", Slot.OUTER: "outer_spring", Slot.INNER: "inner_spring", Slot.RETAINER: "retainer", Slot.KEEPERS: "keepers", Slot.VALVE: "valve",
    Slot.FOLLOWER: "follower",
}  # fmt: skip
WORDS = {
    Slot.CAM: "cam", Slot.OUTER: "outer spring", Slot.INNER: "inner spring", Slot.RETAINER: "retainer", Slot.KEEPERS: "keepers", Slot.VALVE: "valve",
    Slot.FOLLOWER: "follower", Slot.SPRING_SHIM: "shim under the springs",
}  # fmt: skip
_KIND = "choose"
_LEAST, _MOST, _SETS = 4, 120, 250_000  # shards that a search is cut into where workers share it, and about how many sets one holds
_TABLES: Kept[Tables] = Kept(6)
_SHOWN: Kept[Shown | str] = Kept(96)
_Inputs = tuple[str, int, int]


@dataclass(frozen=True, eq=False, kw_only=True)
class Plan:
    """A search as it would be asked now: the record, the shelf with the places that may change, the wishes, and the name of all that."""

    record: BuildRecord
    side: Side
    shelf: Shelf
    wishes: Wishes
    key: str
    needs: dict[Slot, int]

    @property
    def tables(self) -> Tables:
        """The shelf made ready. Raises ValveTrainError when the build's own figures contradict one another."""
        return _tables(self.record, self.side, self.shelf)


@dataclass(frozen=True, eq=False, kw_only=True)
class Progress:
    """How far a search is: `done` of `shards`, the share done of all, what was found so far; `state` none, running, done or stopped."""

    state: str
    shards: int
    done: int
    share: float
    left: float | None
    found: ShardResult | None
    trouble: str = ""


def _tables(record: BuildRecord, side: Side, shelf: Shelf) -> Tables:
    return _TABLES.get(content_key(record, side, shelf), lambda: Tables(bench_of(record, side), shelf))


def needed(kind: EngineKind, side: Side, valves: int) -> dict[Slot, int]:
    """How many of each part one side takes."""
    counts = dict.fromkeys(Slot, valves)
    counts[Slot.CAM] = 1
    counts[Slot.FOLLOWER] = valves // kind.on_a_lobe(side)
    return counts


def _candidate(part: Part, need: int, *, stock: bool) -> Candidate:
    price = None if part.price is None else float(part.price) * math.ceil(need / part.pack)
    days = 0 if part.quantity >= need else part.lead_days
    record = part_record(part)
    return Candidate(
        key=str(part.pk), record=record, price=0.0 if stock else price, days=0 if stock else days, service=part.service_hours, stock=stock
    )  # fmt: skip


def _guessed(rows: list[Candidate]) -> list[Candidate]:
    """Prices and lead times that nobody told, taken as the middle of the others in their place, and marked: nothing untold is cheapest or soonest."""
    prices = [each.price for each in rows if each.price is not None and not each.stock and not each.empty]
    dates = [each.days for each in rows if each.days is not None and not each.stock and not each.empty]
    price, days = (median(prices) if prices else 0.0), (int(median(dates)) if dates else 0)
    return [
        replace(
            each,
            price=price if each.price is None else each.price,
            days=days if each.days is None else each.days,
            guessed=each.price is None or each.days is None,
        )
        for each in rows
    ]


def _rides(kind: EngineKind, part: Part) -> bool:
    """Whether a follower is of the kind the engine has: buckets and tappets have an outside, fingers and rockers an arm."""
    bucket, arm = {"outside", "inside"} & part.figures.keys(), {"arm", "pivot", "valve_arm", "width"} & part.figures.keys()
    return not (bucket if kind.follower in (Follower.FINGER, Follower.ROCKER) else arm)


def _is_inner(part: Part) -> bool:
    return bool(part.facts.get("nested"))


def plan_of(build: Build, side: Side, search: Search | None) -> Plan:
    """The search as it would be asked now."""
    record = record_of(build)
    rows = {row.side: row for setup in build.setups.all() if setup.role == "stock" for row in setup.sides.all()}
    stock = rows[side.value]
    valves = sum(place.side == side.value for place in build.engine.positions.all()) or 1
    needs = needed(record.kind, side, valves)
    parts = [part for part in parts_that_fit(build).order_by("name", "pk") if not part.stock and part.side in ("", side.value)]
    open_places = {Slot(place) for place in search.places if place in set(Slot)} if search and search.places else set(Slot)
    found: dict[Slot, tuple[Candidate, ...]] = {}
    for slot in Slot:
        own = getattr(stock, COLUMNS[slot]) if slot in COLUMNS else None
        rows_of_slot = [_candidate(own, needs[slot], stock=True)] if own else []
        if not own and stock_part(record, side, slot) is not None and slot in COLUMNS and slot is not Slot.INNER:
            rows_of_slot = [
                Candidate(key=f"stock-{slot}", record=stock_part(record, side, slot) or NOTHING.record, price=0.0, days=0, stock=True)
            ]
        if slot in (Slot.INNER, Slot.SPRING_SHIM):
            rows_of_slot.insert(0, NOTHING)
        if slot in open_places:
            kind = slot.owner.value
            more = [part for part in parts if part.kind == kind and (own is None or part.pk != own.pk)]
            if kind == "follower":
                more = [part for part in more if _rides(record.kind, part)]
            if kind == "spring":
                more = [part for part in more if _is_inner(part) is (slot is Slot.INNER)]
            rows_of_slot += [_candidate(part, needs[slot], stock=False) for part in more]
        elif slot is Slot.INNER and own:
            rows_of_slot = rows_of_slot[1:]  # what must stay is not taken out either
        found[slot] = tuple(_guessed(rows_of_slot))
    shelf = Shelf(parts=found)
    wishes = Wishes(
        budget=float(search.budget) if search and search.budget is not None else None, days=search.days if search else None
    )  # fmt: skip
    return Plan(record=record, side=side, shelf=shelf, wishes=wishes, key=content_key(record, side, shelf, wishes), needs=needs)


@tasks.kind(_KIND)
def _work(inputs: _Inputs, go_on: tasks.GoOn) -> ShardResult:
    name, about, number = inputs
    asked = tasks.peek(_KIND, name)
    if not isinstance(asked, tasks.Ready):
        raise ContradictionError("What was to be searched is gone: search again.")
    record, side, shelf, wishes = asked.value
    tables = _tables(record, side, shelf)
    shards = shards_of(tables, about)
    if number >= 0:
        found = search_shard(tables, shards[number], wishes, go_on)
        if found is None:
            raise StoppedError
        return found
    results = []
    for place, shard in enumerate(shards):
        part = partial(_within, go_on, place, len(shards))
        one = search_shard(tables, shard, wishes, part)
        if one is None:
            raise StoppedError
        results.append(one)
    return merged(results)


def _within(go_on: Callable[[float], bool], place: int, count: int, share: float) -> bool:
    return go_on((place + share) / count)


def _about(plan: Plan) -> int:
    """Into about how many shards a search is cut: small enough that the first is through at once."""
    trays = plan.tables.joins.trays
    return min(max((trays[-1].left if trays else 0) // _SETS, _LEAST), _MOST)


def _names(plan: Plan) -> tuple[list[str], list[int]]:
    """The names and numbers of the shards: one for all where no worker runs."""
    if not tasks.workers_run():
        return [f"{plan.key[:24]}-all"], [-1]
    count = len(shards_of(plan.tables, _about(plan)))
    return [f"{plan.key[:24]}-{number}" for number in range(count)], list(range(count))


def begin(plan: Plan) -> None:
    """Have a search worked out; what is there already is not worked out again. Raises ValveTrainError."""
    names, numbers = _names(plan)
    shared, about = f"{plan.key[:24]}-plan", _about(plan)
    tasks.keep(_KIND, shared, (plan.record, plan.side, plan.shelf, plan.wishes))
    tasks.ask_many(_KIND, [(name, (shared, about, number)) for name, number in zip(names, numbers, strict=True)])


def stop(plan: Plan) -> None:
    """Leave a search out."""
    tasks.stop_many(_KIND, _names(plan)[0])


def progress_of(plan: Plan) -> Progress:
    """How far a search is and what it found so far; begins nothing."""
    try:
        names, _ = _names(plan)
    except ValveTrainError as error:
        return Progress(state="none", shards=0, done=0, share=0.0, left=None, found=None, trouble=error.sentence)
    asked = tasks.peek_many(_KIND, names)
    for name in names:
        if name not in asked and (one := tasks.peek(_KIND, name)) is not None:
            asked[name] = one
    ready = [each.value for each in asked.values() if isinstance(each, tasks.Ready)]
    running = [each for each in asked.values() if isinstance(each, tasks.Running)]
    refused = [each.sentence for each in asked.values() if isinstance(each, tasks.Refused)]
    stopped = any(isinstance(each, tasks.Stopped) for each in asked.values())
    share = (len(ready) + sum(each.share for each in running)) / max(len(names), 1)
    state = "done" if len(ready) == len(names) else "running" if running else "stopped" if stopped else "none"
    lefts = [each.left for each in running if each.left is not None]
    return Progress(
        state=state, shards=len(names), done=len(ready), share=share, left=max(lefts) if lefts else None, found=merged(ready) if ready else None,
        trouble=refused[0] if refused else "",
    )  # fmt: skip


def set_of(plan: Plan, found: Found) -> PartSet:
    """The parts of a set that was found."""
    return set_at(plan.tables.shelf, dict(zip(Slot, found.numbers, strict=True)))


def stock_set(plan: Plan) -> PartSet:
    """What came with the engine."""
    shelf = plan.tables.shelf
    return PartSet({slot: next((each for each in shelf.parts[slot] if each.stock), shelf.parts[slot][0]) for slot in Slot})


def shown_of(plan: Plan, chosen: PartSet) -> Shown | str:
    """A set judged as its own overview would judge it, kept by content."""
    key = content_key(plan.record, plan.side, tuple((slot, each.key, each.record) for slot, each in chosen.picks.items()))
    return _SHOWN.get(key, lambda: try_shown(plan.tables.bench, chosen))


def shown_as_stock(plan: Plan) -> Shown:
    """The stock parts, judged against the goal."""
    found = _SHOWN.get(content_key(plan.record, plan.side, "stock"), lambda: shown_stock(plan.tables.bench, stock_set(plan)))
    assert isinstance(found, Shown)
    return found


def at_speed(one: Shown, side: Side, *, ask: bool, role: str = "proposed") -> Check | None:
    """The check by the motion of a set, where it is worked out already; with `ask` it is begun."""
    done = one.review.completed
    setup, stock = (done.proposed if role == "proposed" else done.stock), done.stock.sides[side]
    train = setup.sides[side]
    key = train_key(train, done.goal, stock=stock)
    found = tasks.ask("motion", key, (train, done.goal, stock)) if ask else tasks.peek("motion", key)
    if not isinstance(found, tasks.Ready):
        return None
    return check_motion(side, found.value, done.goal)


def named_set(plan: Plan, name: str) -> PartSet | None:
    """A set by its address: the keys of its parts in the order of the places, a dash between; None for what is no set of this shelf."""
    keys = name.split(".")
    shelf = plan.tables.shelf
    if len(keys) != len(Slot):
        return None
    picks = {}
    for slot, key in zip(Slot, keys, strict=True):
        found = next((each for each in shelf.parts[slot] if each.key == key), None)
        if found is None:
            return None
        picks[slot] = found
    return PartSet(picks)


def set_name(chosen: PartSet) -> str:
    """The address of a set."""
    return ".".join(chosen.picks[slot].key for slot in Slot)
