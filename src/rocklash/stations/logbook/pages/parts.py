"""Parts with hours of their own and springs over seasons, as view-models."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime

from django.utils import timezone

from rocklash.answers.due import PartHours, SpringSeason
from rocklash.answers.logbook import Meter
from valvetrain.errors import OutOfRangeError
from valvetrain.studies.logbook.seasons import RENEW, LoadTest, least_factor, pays, season_cost
from valvetrain.units import QuantityKind, UnitSystem, quantity

_SLOTS = {
    "cam": "cam", "low_cam": "low cam", "valve": "valves", "retainer": "retainers", "keepers": "keepers", "follower": "followers",
    "outer_spring": "outer springs", "inner_spring": "inner springs",
}  # fmt: skip
_W, _H, _LEFT, _BOTTOM = 640.0, 220.0, 44.0, 28.0


@dataclass(frozen=True, kw_only=True)
class PartRow:
    """One part with its hours."""

    what: str
    name: str
    side: str
    part: int
    since: str
    day: str
    hours: str
    left: str
    over: bool
    had: str


def part_row(row: PartHours) -> PartRow:
    """One of them."""
    known = row.since is not None
    left = row.left
    words = "" if left is None else f"renew in {left:.1f} h" if left > 0.0 else f"{-left:.1f} h past its {row.part.service_hours:g} h"
    return PartRow(
        what=_SLOTS[row.slot], name=row.part.name, side=row.side, part=row.part.pk, since=f"{row.since:%d %b %Y}" if row.since else "not noted",
        day=row.since.isoformat() if row.since else "", hours=f"{row.hours:.1f} h" if known else f"up to {row.hours:.1f} h", left=words,
        over=left is not None and left <= 0.0 and known, had=f"{row.start.had / 3600.0:g} h" if row.start else "",
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Dot:
    """A test on the drawing."""

    x: float
    least: float
    middle: float


@dataclass(frozen=True, kw_only=True)
class SeasonRow:
    """One spring with its tests, a drawing of what it lost, and whether it is used again."""

    name: str
    side: str
    new: str
    tests: tuple[tuple[str, str, str, int], ...]
    word: str
    state: str
    left: str
    why: str
    dots: tuple[Dot, ...]
    line: str
    limit: float
    ticks: tuple[tuple[float, str], ...]
    marks: tuple[tuple[float, str], ...]


def _axis(top: float) -> tuple[tuple[float, str], ...]:
    step = next(each for each in (1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1e3, 1e4, 1e5, 1e9) if top / each <= 6.0)
    return tuple((step * number, f"{step * number:g}") for number in range(int(top / step) + 1))


def season_row(row: SpringSeason, system: UnitSystem) -> SeasonRow:
    """One of them."""
    load = lambda value: quantity(value, QuantityKind.FORCE, system)
    life = row.life
    again, left, words = None, "", row.why
    if life:
        again = life.again
        least, most = life.left
        left = "now" if most == 0.0 else f"in {least:.0f} h at the earliest" if most is None else f"in {least:.0f} to {most:.0f} h"
    lost = life.lost if life else ()
    span = max([hours for hours, _, _ in lost], default=1.0) * 1.15
    deep = max([share for _, share, _ in lost] + [1.4 * RENEW])
    x = lambda hours: _LEFT + (_W - _LEFT - 12.0) * hours / span
    y = lambda share: 10.0 + (_H - _BOTTOM - 10.0) * max(0.0, share) / deep
    dots = tuple(Dot(x=round(x(hours), 1), least=round(y(weak), 1), middle=round(y(mid), 1)) for hours, weak, mid in lost)
    line = " ".join([f"{x(0.0):.1f},{y(0.0):.1f}", *(f"{dot.x},{dot.least}" for dot in dots)])
    tests = tuple(
        (f"{hours:.1f} h", load(test.least), f"{100.0 * weak:.1f} %", test.count)
        for (hours, weak, _), test in zip(lost, row.tests, strict=True)
    )
    word = {True: "use again", False: "renew", None: "the tester cannot tell"}[again] if life else ""
    return SeasonRow(
        name=row.part.name, side=row.side, new=load(row.new) if row.new else "", tests=tests, word=word,
        state={True: "holds", False: "short", None: "unproven"}[again] if life else "", left=left, why=words, dots=dots, line=line, limit=round(y(RENEW), 1),
        ticks=tuple((round(x(value), 1), text) for value, text in _axis(span)),
        marks=tuple((round(y(value / 100.0), 1), f"{text} %") for value, text in _axis(100.0 * deep)),
    )  # fmt: skip


def season_rows(found: Iterable[SpringSeason], system: UnitSystem) -> list[SeasonRow]:
    """Each spring once, with both sides where it stands on both and ran the same."""
    by: dict[tuple[int, tuple[LoadTest, ...]], list[SpringSeason]] = {}
    for row in found:
        by.setdefault((row.part.pk, row.tests), []).append(row)
    return [replace(season_row(rows[0], system), side=" and ".join(dict.fromkeys(row.side for row in rows))) for rows in by.values()]


@dataclass(frozen=True, kw_only=True)
class HeightRow:
    """One valve's installed heights against hours, and how far it crept since the first."""

    valve: str
    told: tuple[str, ...]
    crept: str


def height_rows(noted: Iterable[tuple[datetime, str, str, float]], meter: Meter, system: UnitSystem) -> list[HeightRow]:
    """Valves whose height was noted more than once; a height that grows is a keeper sinking into its cone, or a seat receding less than it."""
    by: dict[str, list[tuple[str, float]]] = {}
    for at, _, valve, height in noted:
        hours = meter.hours(timezone.localtime(at).date())
        by.setdefault(valve, []).append((f"{quantity(height, QuantityKind.LENGTH, system)} at {hours:.1f} h", height))
    return [
        HeightRow(
            valve=valve, told=tuple(words for words, _ in rows), crept=quantity(rows[-1][1] - rows[0][1], QuantityKind.LENGTH, system)
        )
        for valve, rows in by.items()
        if len(rows) > 1
    ]


_USUAL = {"price": "", "life": "", "season": "", "better": "", "longer": ""}


@dataclass(frozen=True, kw_only=True)
class CostPage:
    """What a season costs, as typed and worked out."""

    typed: Mapping[str, str]
    words: tuple[str, ...]
    trouble: str


def _range(text: str, what: str) -> tuple[float, float]:
    """A figure or a range: 20 to 40, 20-40. Raises OutOfRangeError."""
    parts = text.replace("\u2013", "-").replace("to", "-").replace(",", ".").split("-")
    try:
        numbers = [float(part) for part in parts]
    except ValueError:
        numbers = []
    if len(numbers) not in (1, 2) or not all(0.0 < number < 1e6 for number in numbers):
        raise OutOfRangeError(f"{what}: write one figure or a range, such as 20 to 40.")
    return numbers[0], numbers[-1]


def cost_page(asked: Mapping[str, str]) -> CostPage:
    """Cost of a season with sets as they are, and with a treatment or a better spring: price of a set, hours it lasts, hours a season; price and how many
    times longer."""
    typed = {key: asked.get(key, usual)[:40].strip() for key, usual in _USUAL.items()}
    if not (typed["price"] and typed["life"] and typed["season"]):
        return CostPage(typed=typed, words=(), trouble="")
    try:
        price, life, season = (
            _range(typed["price"], "Price"),
            _range(typed["life"], "Hours a set lasts"),
            _range(typed["season"], "Hours a season"),
        )
        plain = season_cost(price[0], life, season)
        words = [f"As they are: {plain.sets[0]:.1f} to {plain.sets[1]:.1f} sets a season, {plain.cost[0]:.0f} to {plain.cost[1]:.0f}."]
        if typed["better"]:
            better = _range(typed["better"], "Price of the better set")
            factor = least_factor(price[0], better[0])
            words.append(f"The better set pays once it lasts {factor:.2f} times as long.")
            if typed["longer"]:
                longer = _range(typed["longer"], "How many times longer")
                other = season_cost(better[0], (life[0] * longer[0], life[1] * longer[1]), season)
                words.append(f"With it: {other.sets[0]:.1f} to {other.sets[1]:.1f} sets, {other.cost[0]:.0f} to {other.cost[1]:.0f}.")
                same = longer[0] / factor, longer[1] / factor  # hours and season are the same for both: what is left is this ratio
                told = pays(plain, other)
                if told is None:
                    told = True if same[0] > 1.0 else False if same[1] < 1.0 else None
                words.append(
                    {True: "It pays.", False: "It does not pay.", None: "Whether it pays is not decided: test a set to its end."}[told]
                )
    except OutOfRangeError as error:
        return CostPage(typed=typed, words=(), trouble=error.sentence)
    return CostPage(typed=typed, words=tuple(words), trouble="")
