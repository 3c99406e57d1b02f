"""What is due, as view-models."""

from dataclasses import dataclass
from datetime import date

from valvetrain.studies.logbook.due import Due, State, Unit, Whose

STATE_WORDS = {State.OVER: "past its time", State.DUE: "due", State.UNKNOWN: "never noted", State.SOON: "soon", State.RESTS: "stays"}
_NAMES = {Unit.HOURS: "h", Unit.PASSES: "passes", Unit.SEASONS: "years", Unit.LIVES: "of a mean life"}

_MANY = 10.0


@dataclass(frozen=True, kw_only=True)
class DueRow:
    """One rule as a line."""

    what: str
    state: str
    word: str
    used: str
    range: str
    left: str
    days: str
    measured: bool
    why: str
    does: str
    whose: str


def days_words(days: tuple[date, date | None] | None) -> str:
    """The days between which something falls due."""
    if days is None:
        return ""
    first, last = days
    if last is None:
        return f"from {first:%d %b %Y} on"
    return f"{first:%d %b %Y}" if first == last else f"{first:%d %b} to {last:%d %b %Y}"


def part_words(value: float) -> str:
    """Part of a mean life, in words."""
    if value < 1e-6:
        return "under a millionth"
    if value > _MANY:
        return "over ten"
    if value >= 0.1:
        return f"{value:.1f}"
    return f"{value:.6f}".rstrip("0") if value < 1e-4 else f"{value:.1g}"


def _used(row: Due, unit: str) -> str:
    if row.band is not None:
        return f"{part_words(row.band[0])} to {part_words(row.band[1])} {unit}"
    return "" if row.used is None else f"{row.used:.1f} {unit}"


def due_row(row: Due, days: tuple[date, date | None] | None = None) -> DueRow:
    """One of them."""
    rule, unit = row.rule, _NAMES[row.rule.unit]
    one = "year" if rule.unit is Unit.SEASONS and rule.most == 1.0 else unit
    range_ = f"{rule.least:.3g} {one}" if rule.most == rule.least else f"{rule.least:.3g} to {rule.most:.3g} {unit}"
    left = ""
    if row.left is not None and row.state in (State.SOON, State.RESTS):
        left = f"in {max(row.left[0], 0.0):.1f} to {row.left[1]:.1f} {unit}" if rule.most > rule.least else f"in {row.left[0]:.1f} {unit}"
    whose = f"{rule.whose}, {rule.page}" if rule.page else str(rule.whose)
    return DueRow(
        what=rule.what, state=row.state.name.lower(), word=STATE_WORDS[row.state], used=_used(row, unit), range=range_ if rule.most else "at once",
        left=left, days=days_words(days) if left else "", measured=rule.whose in (Whose.MEASURED, Whose.CARD, Whose.USE), why=rule.why, does=rule.does, whose=whose,
    )  # fmt: skip


def sentence(rows: list[Due], hours: float) -> str:
    """The page's first line."""
    out = [row.rule.what for row in rows if row.state in (State.OVER, State.DUE)]
    unknown = sum(row.state is State.UNKNOWN for row in rows)
    tail = f" Of {unknown} more nobody noted when it was done last." if unknown else ""
    if out:
        return f"At {hours:.1f} h due: {', '.join(dict.fromkeys(out))}.{tail}"
    return f"At {hours:.1f} h nothing stands out: leave it alone.{tail}"
