"""The best trade-offs: what each set adds in spring force over what it costs; the front as a stair, near misses beside it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from math import dist

from rocklash.ui.drawings.scale import Axis, round_step
from rocklash.ui.drawings.shapes import Shape, circle, dots, drawing, group, hatch, path, rect, shape, text

_W, _H = 452.0, 300.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 44.0, _W - 8.0, 26.0, 252.0
_AROUND = ((1.0, -0.7), (-1.0, -0.7), (1.0, 0.7), (-1.0, 0.7), (0.0, -1.0), (0.0, 1.0), (1.2, 0.0), (-1.2, 0.0))
CLEAR = 13.0  # from the middle of a letter to that of the largest mark that leaves it free


@dataclass(frozen=True)
class Mark:
    """One set: price and force added (display units), how it stands, its address, what is said of it; `letter` its role, `soon` 0 to 1."""

    x: float
    y: float
    verdict: str
    url: str
    words: str
    letter: str = ""
    soon: float = 0.5
    picked: bool = False


@dataclass(frozen=True)
class TradeOffs:
    """The plot laid out. `budget` on the x axis; `unit` of force."""

    marks: tuple[Mark, ...]
    budget: float | None
    unit: str
    x: Axis
    y: Axis

    def shape(self, spoken: str) -> Shape:
        """The whole drawing; each mark is a link."""
        drawn = [
            text("s12 i2", 4, 14, f"{self.unit} open force added over stock, one valve"), *self._grid(), *self._front(), *self._over(),
            path("sv-rim", f"M{_LEFT} {_TOP}V{_BOTTOM}H{_RIGHT}"),
            text("s12 end i2", _RIGHT, _H - 4, "price added"), text("s12 i2", _LEFT, _H - 4, "large mark: soon on the bench"),
        ]  # fmt: skip
        picked = next((mark for mark in self.marks if mark.picked), None)
        if picked:
            drawn += self._cross(picked)
        letters = self.letters()
        drawn += [self._mark(mark, letters) for mark in sorted(self.marks, key=lambda mark: (mark.picked, bool(mark.letter)))]
        patterns = (hatch("nothing", "tr-none", 6), dots("overbudget", "tr-dot", 7, 0.9))
        return drawing("tradeoffs", f"0 0 {_W} {_H}", spoken, *drawn, patterns=patterns, role="group")

    def _grid(self) -> list[Shape]:
        found = []
        step = round_step(self.x.high - self.x.low, 6)
        value = (self.x.low // step + 1) * step
        while value < self.x.high:
            at = self.x.at(value)
            found += [path("grid", f"M{at} {_TOP}V{_BOTTOM}"), text("s12 mid i2", at, _BOTTOM + 15, f"{value:g}")]
            value += step
        step = round_step(self.y.high - self.y.low, 6)
        value = (self.y.low // step + 1) * step
        while value < self.y.high:
            at = self.y.at(value)
            found += [path("grid", f"M{_LEFT} {at}H{_RIGHT}"), text("s12 end i2", _LEFT - 5, at + 4, f"{value:g}")]
            value += step
        return found

    def _front(self) -> list[Shape]:
        """The stair under which no set stands that holds; hatched below."""
        held = sorted((mark.x, mark.y) for mark in self.marks if mark.verdict in ("holds", "slim", "unproven"))
        stair: list[tuple[float, float]] = []
        for x, y in held:
            if not stair or y < stair[-1][1]:
                stair.append((x, y))
        if not stair:
            return [rect("tr-nothing", _LEFT, _TOP, _RIGHT - _LEFT, _BOTTOM - _TOP, fill="url(#nothing)")]
        d = f"M{self.x.at(stair[0][0])} {_TOP}V{self.y.at(stair[0][1])}"
        for x, y in stair[1:]:
            d += f"H{self.x.at(x)}V{self.y.at(y)}"
        d += f"H{_RIGHT}"
        return [path("tr-nothing", f"{d}V{_BOTTOM}H{_LEFT}V{_TOP}z", fill="url(#nothing)"), path("tr-front", d)]

    def _over(self) -> list[Shape]:
        if self.budget is None or not self.x.holds(self.budget):
            return []
        at = self.x.at(self.budget)
        return [
            rect("tr-over", at, _TOP, _RIGHT - at, _BOTTOM - _TOP, fill="url(#overbudget)"), path("sv-rim", f"M{at} {_TOP}V{_BOTTOM}"),
            text("s12 b end", at - 4, _BOTTOM - 6, f"budget {self.budget:g}"),
        ]  # fmt: skip

    def _cross(self, mark: Mark) -> list[Shape]:
        x, y = self.x.at(mark.x), self.y.at(mark.y)
        return [path("x-line", f"M{_LEFT} {y}H{x}V{_BOTTOM}")]

    def _mark(self, mark: Mark, letters: dict[str, tuple[float, float]]) -> Shape:
        x, y, r = self.x.at(mark.x), self.y.at(mark.y), 4.0 + 4.0 * mark.soon
        if mark.verdict == "holds":
            inside = [circle("m-holds", x, y, r), path("m-tick", f"M{x - r / 2} {y}l{r / 3} {r / 3} {r / 1.6} {-r / 1.4}")]
        elif mark.verdict == "slim":
            inside = [path("m-slim-o", f"M{x} {y - r}l{r} {r}-{r} {r}-{r}-{r}z"), path("m-slim", f"M{x - r} {y}h{2 * r}l-{r} {r}z")]
        elif mark.verdict == "unproven":
            inside = [rect("m-unproven", x - r, y - r, 2 * r, 2 * r), circle("m-unprovenf", x, y, 1.6)]
        else:
            inside = [path("m-short", f"M{x - 6} {y - 5}h12l-6 10z")]
        if mark.picked:
            inside.append(circle("tr-ring", x, y, r + 5))
        if mark.letter:
            inside.append(text("s12 b mid", *letters[mark.letter], mark.letter))
        if not mark.url:
            return group("", *inside)
        return shape(
            "a", "tr-mark", [*inside, circle("tr-hit", x, y, 12), shape("title", "", (mark.words,))], href=mark.url, aria_label=mark.words
        )

    def letters(self) -> dict[str, tuple[float, float]]:
        """Middle and foot of each letter: the place round its mark that the fewest other marks, all taken as the largest, and letters lie on."""
        found: dict[str, tuple[float, float]] = {}
        for mark in (each for each in self.marks if each.letter):
            x, y = self.x.at(mark.x), self.y.at(mark.y)
            away = 11.0 + 4.0 * mark.soon
            places = [(x + across * (away + more), y + up * (away + more) + 4.0) for more in (0.0, 8.0) for across, up in _AROUND]
            inside = [place for place in places if _LEFT + 6 < place[0] < _RIGHT - 6 and _TOP + 10 < place[1] < _BOTTOM - 2] or places
            others = [(self.x.at(other.x), self.y.at(other.y) + 4.0) for other in self.marks if other is not mark] + list(found.values())
            found[mark.letter] = min(inside, key=partial(_covered, others))
        return found


def _covered(others: Sequence[tuple[float, float]], place: tuple[float, float]) -> int:
    """How many of the others a letter at this place would lie on."""
    return sum(dist(place, each) < CLEAR for each in others)


def trade_offs(marks: Sequence[Mark], budget: float | None, unit: str) -> TradeOffs:
    """The plot of these marks."""
    xs = [mark.x for mark in marks] + ([budget * 1.1] if budget else []) + [0.0]
    ys = [mark.y for mark in marks] + [0.0]
    wide, high = max(max(xs) - min(xs), 10.0), max(max(ys) - min(ys), 10.0)
    x = Axis(min(xs) - 0.06 * wide, max(xs) + 0.06 * wide, _LEFT, _RIGHT)
    y = Axis(min(ys) - 0.1 * high, max(ys) + 0.12 * high, _BOTTOM, _TOP)
    return TradeOffs(tuple(marks), budget, unit, x, y)
