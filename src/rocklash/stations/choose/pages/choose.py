"""The main page of Choose: does anything hold, what stops the rest, what to take, and what nearly would do."""

from dataclasses import dataclass, replace
from datetime import date

from rocklash.answers.choose import WORDS, Plan, Progress, at_speed, named_set, set_name, set_of, shown_as_stock, shown_of, stock_set
from rocklash.records.models import Search
from rocklash.stations.choose.pages.against import Against, against
from rocklash.ui.drawings.sieve import Sieve, SieveRow, sieve
from rocklash.ui.drawings.trade_offs import Mark, TradeOffs, trade_offs
from valvetrain.errors import ValveTrainError
from valvetrain.quantities import in_unit
from valvetrain.studies.choose.answer import Clash, clashes, near_misses, swaps, trays
from valvetrain.studies.choose.checks import SetCheck
from valvetrain.studies.choose.compare import Shown, undecided
from valvetrain.studies.choose.ranking import Ranking, Wish, rank, weights_of
from valvetrain.studies.choose.search import Found
from valvetrain.studies.choose.slots import Slot
from valvetrain.units import LENGTH, QuantityKind, UnitSystem, show, shown_unit, told, unit_symbol
from valvetrain.wording.checks import remedy, title, verdict_word

_SHOWN_MOST = 60  # marks of the plot beside those with a role
VERDICT = ("holds", "slim", "unproven", "short")
_LETTERS = ("A", "B", "C")


@dataclass(frozen=True)
class PlaceRow:
    """One place of a set: its word, how many parts are there for it, whether it may change."""

    slot: str
    words: str
    count: int
    open: bool


@dataclass(frozen=True)
class WishRow:
    """One wish: its number, words, weight, and where another set would come first."""

    number: int
    words: str
    weight: float
    turns: str


@dataclass(frozen=True)
class RankRow:
    """One of the first sets: letter, score, how the wishes make it up (widths in per cent of the whole)."""

    letter: str
    score: str
    widths: tuple[tuple[str, int], ...]
    second: bool


@dataclass(frozen=True)
class MissRow:
    """A near miss: what is short, by how much; the least change that saves it, and what then holds."""

    number: int
    name: str
    short: str
    verdict: str
    remedies: tuple[str, ...]
    url: str
    swaps: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class ChoosePage:
    """Everything of the page that a finished or running search shows."""

    count: str
    verdict: str
    sentence: str
    more: str
    sieve: Sieve
    most: str
    plot: TradeOffs
    wishes: list[WishRow]
    ranks: list[RankRow]
    table: Against
    misses: list[MissRow]
    clashes: list[str]
    foot: list[str]
    pick: str
    pick_name: str
    over: str
    previous: str
    following: str
    dropped: list[str]
    lobes: list[str]
    untold: str
    waits: bool


def place_rows(plan: Plan, search: Search) -> list[PlaceRow]:
    """The places of a set with how many parts may go there."""
    rows = []
    for slot in Slot:
        count = sum(not each.empty for each in plan.shelf.parts[slot])
        rows.append(PlaceRow(slot.value, WORDS[slot], count, not search.places or slot.value in search.places))
    return rows


@dataclass(frozen=True)
class SearchState:
    """What the page says of the search itself, whether it found anything yet or not."""

    state: str
    done: int
    shards: int
    percent: int
    left: float | None
    cells: list[str]
    places: list[PlaceRow]
    stale: str
    count: str
    trouble: str
    cam_known: bool


def search_state(plan: Plan, progress: Progress, search: Search, system: UnitSystem, *, cam_known: bool) -> SearchState:
    """How far the search is, and what it would be asked now."""
    cells = ["on" if number < progress.done else "" for number in range(progress.shards)]
    return SearchState(
        state=progress.state, done=progress.done, shards=progress.shards, percent=round(100 * progress.share), left=progress.left, cells=cells,
        places=place_rows(plan, search), stale=stale_words(plan, search), count=f"{plan.shelf.count:,}", trouble=told(progress.trouble, system),
        cam_known=cam_known,
    )  # fmt: skip


def stale_words(plan: Plan, search: Search) -> str:
    """Why what was searched is not true any more; empty where it is."""
    if search.asked_key and search.asked_key != plan.key:
        return "Parts, goal or engine have changed since this was searched: search again."
    return ""


@dataclass(frozen=True)
class Asked:
    """What the page's address asks: a set by its name, and the near miss whose saving parts are wanted; `ask` has motions worked out."""

    name: str
    saves: str
    ask: bool


def choose_page(plan: Plan, progress: Progress, search: Search, address: Asked, system: UnitSystem, today: date) -> ChoosePage:
    """The page of a search with at least one shard done. Raises ValveTrainError where the build contradicts itself."""
    asked, saves, ask = address.name, address.saves, address.ask
    found, tables = progress.found, plan.tables
    assert found is not None
    sets = list(found.front)
    weights = weights_of([float(weight) for weight in search.weights] or [1.0] * len(Wish))
    ranking = rank(sets, weights) if sets else None
    order = [int(number) for number in ranking.order] if ranking else []
    names = {number: set_name(set_of(plan, sets[number])) for number in order[:_SHOWN_MOST]}
    chosen = named_set(plan, asked) if asked else None
    picked = next((number for number, name in names.items() if name == asked), order[0] if order and chosen is None else -1)
    first = chosen or (set_of(plan, sets[picked]) if picked >= 0 else stock_set(plan))
    roles = [number for number in order if number != picked][:2]
    stock = shown_as_stock(plan)
    shown = [
        ("A", shown_of(plan, first)),
        *((_LETTERS[n + 1], shown_of(plan, set_of(plan, sets[number]))) for n, number in enumerate(roles)),
    ]
    speeds = {letter: at_speed(one, plan.side, ask=ask) for letter, one in shown if isinstance(one, Shown)}
    speeds["S"] = at_speed(stock, plan.side, ask=ask, role="stock")
    table = against(plan, stock, [(letter, one) for letter, one in shown if isinstance(one, Shown)], speeds, system, today)
    misses = [
        replace(_miss(plan, number, check, miss, system), swaps=_swaps(plan, miss) if saves == str(number) else ())
        for number, (check, miss) in enumerate(near_misses(found)[:3], start=1)
    ]
    hold, just, unproven = found.classes
    cheapest = min((each for each in sets if each.code == (0 if hold else 1 if just else 2)), key=lambda each: each.price, default=None)
    step = order.index(picked) if picked in order else 0
    beside = lambda move: names.get(order[step + move], "") if order and 0 <= step + move < min(len(order), _SHOWN_MOST) else ""
    return ChoosePage(
        count=f"{hold or just or unproven:,}", verdict="holds" if hold else "slim" if just else "unproven" if unproven else "short",
        sentence=_sentence(plan, found.classes, cheapest, stock, system), more=_more(found.classes, plan, progress), sieve=_sieve(plan, progress),
        most=_most(plan, progress), plot=_plot(plan, sets, names, picked, roles, misses_of=near_misses(found)[:3], stock=stock, system=system),
        wishes=_wishes(search, ranking, roles, picked), ranks=_ranks(ranking, picked, roles), table=table, misses=misses,
        clashes=[_clash_words(each) for each in clashes(found)], foot=_foot(plan, system), pick=set_name(first), pick_name=first.name,
        over=set_of(plan, sets[roles[0]]).name if roles else "", previous=beside(-1), following=beside(1),
        dropped=[f"{each.name}: {told(each.why, system)}" for each in tables.dropped],
        lobes=[f"{name}: {told(why, system)}" for name, why in found.lobes], untold=_untold(plan),
        waits=ask and any(each is None for each in speeds.values()),
    )  # fmt: skip


def _sentence(plan: Plan, classes: tuple[int, int, int], cheapest: Found | None, stock: Shown, system: UnitSystem) -> str:
    total = f"{plan.shelf.count:,}"
    if cheapest is None:
        return f"of {total} sets hold on the {plan.side} side."
    added = cheapest.force - stock.open_force.value
    unit = unit_symbol(QuantityKind.FORCE, system)
    words = (
        f"adds {show(added, QuantityKind.FORCE, system)} {unit}"
        if added >= 0
        else f"takes {show(-added, QuantityKind.FORCE, system)} {unit} off"
    )
    how = "hold with room to spare" if classes[0] else "hold, but only just" if classes[1] else "may hold: what decides is not proven"
    return f"of {total} sets {how}; the cheapest {words} and costs {cheapest.price:,.2f}."


def _more(classes: tuple[int, int, int], plan: Plan, progress: Progress) -> str:
    said = []
    if classes[0] and classes[1]:
        said.append(f"{classes[1]:,} more hold, but only just.")
    if sum(classes[:2]) and classes[2]:
        said.append(f"{classes[2]:,} more may, resting on estimates.")
    said.append("The spread of every figure is counted.")
    if plan.wishes.budget is not None:
        said.append(f"For no more than {plan.wishes.budget:,.2f}.")
    if progress.state != "done":
        said.append("The search is not through: more may come.")
    return " ".join(said)


_ASKS = {
    SetCheck.LOBE: "radius, face, path", SetCheck.STAND: "made for that height", SetCheck.ROOM: "piston, bore, nest", SetCheck.BUDGET: "any price",
    SetCheck.DAYS: "any date",
}  # fmt: skip


def _asks(plan: Plan, check: SetCheck, system: UnitSystem) -> str:
    goal = plan.tables.goal
    length = lambda value: f"at least {show(value, LENGTH, system)} {unit_symbol(LENGTH, system)}"
    if check is SetCheck.SEAT:
        return f"{show(goal.seat_force[plan.side].value, QuantityKind.FORCE, system)} {unit_symbol(QuantityKind.FORCE, system)} and gas"
    if check is SetCheck.FLOAT:
        return f"at least {max(goal.over_rev, goal.goal_rpm * (1 + goal.reserve)) * 60:,.0f} rpm"
    if check is SetCheck.BIND:
        return length(goal.coil_bind_limit)
    if check is SetCheck.RETAINER:
        return length(goal.retainer_limit)
    if check is SetCheck.BUDGET and plan.wishes.budget is not None:
        return f"at most {plan.wishes.budget:,.2f}"
    if check is SetCheck.DAYS and plan.wishes.days is not None:
        return f"within {plan.wishes.days} days"
    return _ASKS.get(check, "")


def _rows(plan: Plan, progress: Progress, system: UnitSystem) -> list[SieveRow]:
    assert progress.found is not None
    found = trays(plan.tables.joins, progress.found)[1:]
    asks = {check.value: _asks(plan, check, system) for check in SetCheck}
    names = {"lobe under its follower": "Lobe, follower", "springs as they stand": "Springs stand"}
    return [
        SieveRow(
            names.get(row.name, row.name[:1].upper() + row.name[1:]), asks.get(row.name, "stem, groove, cone, steps"), row.stops, row.left
        )
        for row in found
    ]


def _sieve(plan: Plan, progress: Progress, system: UnitSystem = UnitSystem.METRIC) -> Sieve:
    assert progress.found is not None
    hold, just, unproven = progress.found.classes
    caught = [("holds", hold, "hold with room to spare"), ("slim", just, "only just"), ("unproven", unproven, "not proven")]
    return sieve(_rows(plan, progress, system), plan.shelf.count, caught)


def _most(plan: Plan, progress: Progress) -> str:
    """The check that stops most of what comes to it, in words."""
    drawn = _sieve(plan, progress)
    row = drawn.rows[drawn.most]
    came = row.left + row.stops
    return f"{row.name} stops {row.stops / came:.0%} of what comes to it." if came and row.stops else ""


def _plot(
    plan: Plan, sets: list[Found], names: dict[int, str], picked: int, roles: list[int], *, misses_of: list[tuple[SetCheck, Found]], stock: Shown,
    system: UnitSystem,
) -> TradeOffs:  # fmt: skip
    added = lambda each: in_unit(each.force - stock.open_force.value, QuantityKind.FORCE, shown_unit(QuantityKind.FORCE, system))
    days = [sets[number].days for number in names] or [0.0]
    late = max(days) or 1.0
    letters = {picked: "A", **{number: _LETTERS[n + 1] for n, number in enumerate(roles)}}
    marks = [
        Mark(
            sets[number].price, added(sets[number]), VERDICT[sets[number].code], f"?side={plan.side}&set={name}",
            f"{set_of(plan, sets[number]).name}: {sets[number].price:,.2f}, {VERDICT[sets[number].code]}", letters.get(number, ""),
            1.0 - sets[number].days / late, number == picked,
        )
        for number, name in names.items()
    ]  # fmt: skip
    for number, (check, miss) in enumerate(misses_of, start=1):
        name = set_name(set_of(plan, miss))
        marks.append(
            Mark(
                miss.price,
                added(miss),
                "short",
                f"?side={plan.side}&set={name}",
                f"near miss {number}, short of {check.value}",
                str(number),
            )
        )
    marks.append(Mark(0.0, 0.0, "short", "", "stock", "S"))
    return trade_offs(marks, plan.wishes.budget, unit_symbol(QuantityKind.FORCE, system))


def _wishes(search: Search, ranking: Ranking | None, roles: list[int], picked: int) -> list[WishRow]:
    letters = {picked: "A", **{number: _LETTERS[n + 1] for n, number in enumerate(roles)}}
    rows = []
    for number, wish in enumerate(Wish):
        weight = float(search.weights[number]) if number < len(search.weights) else 1.0
        turns = [
            f"{letters[who]} first from {at:.1f}" for at, who in (ranking.turns[wish] if ranking else []) if who in letters and at > 0.0
        ]  # fmt: skip
        rows.append(WishRow(number, wish.value, weight, ", ".join(turns)))
    return rows


def _ranks(ranking: Ranking | None, picked: int, roles: list[int]) -> list[RankRow]:
    if ranking is None:
        return []
    rows = []
    for place, number in enumerate([picked, *roles]):
        if number < 0:
            continue
        widths = tuple((wish.value, round(100 * float(ranking.shares[number][n]))) for n, wish in enumerate(Wish))
        rows.append(RankRow(_LETTERS[place], f"{ranking.score(number):.2f}", widths, place > 0))
    return rows


def _miss(plan: Plan, number: int, check: SetCheck, miss: Found, system: UnitSystem) -> MissRow:
    chosen = set_of(plan, miss)
    url, one = f"?side={plan.side}&set={set_name(chosen)}", shown_of(plan, chosen)
    if check is SetCheck.BUDGET and plan.wishes.budget is not None:
        over = chosen.price - plan.wishes.budget
        return MissRow(
            number,
            chosen.name,
            f"costs {chosen.price:,.2f}, {over:,.2f} over the budget",
            "short",
            (f"a budget of {chosen.price:,.2f}",),
            url,
        )
    if check is SetCheck.DAYS and plan.wishes.days is not None:
        late = chosen.days - plan.wishes.days
        return MissRow(number, chosen.name, f"on the bench in {chosen.days} days, {late} late", "short", (f"{late} days more",), url)
    if isinstance(one, str):
        return MissRow(number, chosen.name, told(one, system), "short", (), url)
    short = [each for each in one.checks if each.verdict.value == "short" and each.side is plan.side]
    if not short:
        return MissRow(number, chosen.name, f"short of {check.value}", "short", (), url)
    worst = short[0]
    unit = unit_symbol(worst.kind, system)
    figures = f"{title(worst)} {show(worst.figure, worst.kind, system)} of {show(worst.limit, worst.kind, system)} {unit}"
    remedies = [remedy(each, system) + ("" if each.suffices else " (not enough alone)") for each in worst.remedies[:2]]
    return MissRow(number, chosen.name, told(figures, system), "short", tuple(told(each, system) for each in remedies), url)


def _swaps(plan: Plan, miss: Found) -> tuple[tuple[str, str], ...]:
    """Single parts in another's place that save a near miss, cheapest first, each with the address of its set."""
    tables = plan.tables
    found = []
    for slot, better in swaps(tables.bench, tables.shelf, plan.wishes, miss)[:4]:
        chosen = set_of(plan, better)
        words = f"{WORDS[slot]} {chosen.picks[slot].record.name or 'none'}: {VERDICT[better.code]} for {better.price:,.2f}"
        found.append((words, f"?side={plan.side}&set={set_name(chosen)}"))
    return tuple(found) or (("no single part on the shelf saves it", ""),)


def _clash_words(clash: Clash) -> str:
    names = " and ".join(check.value for check in clash.checks)
    said = f"Without {names} {clash.left:,} sets would be left"
    share = (
        f"; the nearest is {clash.miss:.1%} short"
        if len(clash.checks) == 1 and 0.0 < clash.miss < 5.0 and clash.checks[0] is not SetCheck.FLOAT
        else ""
    )
    return f"{said}{share}."


def _foot(plan: Plan, system: UnitSystem) -> list[str]:
    """What no set decides."""
    try:
        checks = undecided(plan.tables.bench)
    except ValveTrainError:
        return []
    return [f"{told(title(check), system)}: {verdict_word(check.verdict)}" for check in checks]


def _untold(plan: Plan) -> str:
    """How often a rule of what goes together could not be asked, because a dimension is not known."""
    untold = plan.tables.joins.untold
    if not untold:
        return ""
    return f"{len(untold)} of {len(plan.tables.joins.rules)} rules of what goes together could not be asked of some parts: their dimensions are not known."
