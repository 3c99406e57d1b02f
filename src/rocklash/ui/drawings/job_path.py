"""The way of a job as a steel rule: one tick a step, done, now and ahead; troubles as loops below it, waits as two bars, the finish as box and whisker."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, drawing, path, rect, text

_WIDTH, _LEFT, _RIGHT, _LINE = 1100.0, 10.0, 840.0, 52.0
_BOX = (880.0, 1080.0)
_LETTER = 6.6  # px a letter of the small type takes


@dataclass(frozen=True)
class Stretch:
    """Steps of one kind that follow one another."""

    name: str
    done: int
    total: int


@dataclass(frozen=True)
class Loop:
    """A trouble: before which step of the rule it lies, its name, and how many of its steps are done."""

    at: int
    name: str
    done: int
    total: int


@dataclass(frozen=True)
class Bars:
    """Something waited for: before which step of the rule, and what."""

    at: int
    what: str


@dataclass(frozen=True)
class Ends:
    """The finish: days as words at early, middle and late, with their places 0 to 1; the promised day, if any."""

    early: tuple[str, float]
    middle: tuple[str, float]
    late: tuple[str, float]
    promised: tuple[str, float] | None


@dataclass(frozen=True)
class JobPath:
    """The whole way."""

    stretches: tuple[Stretch, ...]
    now: int | None
    loops: tuple[Loop, ...]
    bars: tuple[Bars, ...]
    ends: Ends | None

    @property
    def _count(self) -> int:
        return max(sum(each.total for each in self.stretches), 1)

    def _x(self, step: float) -> float:
        return round(_LEFT + (_RIGHT - _LEFT) * step / self._count, 1)

    def _rule(self) -> list[Shape]:
        drawn, begun, named = [], 0, set()
        reach = -1.0
        for stretch in self.stretches:
            left, right = self._x(begun), self._x(begun + stretch.total)
            drawn.append(rect("jp-ahead", left, _LINE - 6, right - left - 1.5, 12))
            if stretch.done:
                css = "jp-done" if stretch.done >= stretch.total else "jp-work"
                drawn.append(rect(css, left, _LINE - 6, self._x(begun + stretch.done) - left - 1.5, 12))
            if left >= reach and stretch.name not in named:
                named.add(stretch.name)
                drawn.append(text("s12 b" if stretch.done < stretch.total else "s12 i2", left, _LINE - 14, stretch.name))
                reach = left + _LETTER * len(stretch.name) + 10.0
            begun += stretch.total
        drawn.append(path("jp-tick", "".join(f"M{self._x(n)} {_LINE + 6}v4" for n in range(self._count + 1))))
        return drawn

    def _loops(self) -> list[Shape]:
        drawn = []
        for loop in self.loops:
            x = self._x(loop.at)
            reach = 13.0 * loop.total
            start = min(x, _RIGHT - reach)
            drawn.append(
                path("jp-loop", f"M{x} {_LINE + 6}V{_LINE + 26}H{start}v0h{reach}" if start < x else f"M{x} {_LINE + 6}v20h{reach}")
            )
            drawn += [
                rect("jp-bit-done" if number < loop.done else "jp-bit", start + 3 + 13 * number, _LINE + 21, 9, 9)
                for number in range(loop.total)
            ]
            drawn.append(text("s12 b tslim", start, _LINE + 44, f"{loop.name}, {loop.done} of {loop.total}"))
        return drawn

    def _waits(self) -> list[Shape]:
        drawn = []
        for bar in self.bars:
            x = self._x(bar.at)
            drawn += [rect("jp-wait", x - 5, _LINE - 9, 3.5, 18), rect("jp-wait", x + 1, _LINE - 9, 3.5, 18)]
        return drawn

    def _finish(self) -> list[Shape]:
        if self.ends is None:
            return []
        place = lambda share: round(_BOX[0] + (_BOX[1] - _BOX[0]) * min(max(share, 0.0), 1.0), 1)
        early, middle, late = (place(each[1]) for each in (self.ends.early, self.ends.middle, self.ends.late))
        drawn = [
            path("jp-whisker", f"M{early} {_LINE}H{late}M{early} {_LINE - 5}v10M{late} {_LINE - 5}v10"),
            rect("jp-box", middle - 5, _LINE - 8, 10, 16), text("s13 b mid", middle, _LINE + 26, self.ends.middle[0]),
        ]  # fmt: skip
        if self.ends.promised:
            x = place(self.ends.promised[1])
            drawn += [
                path("jp-flag", f"M{x} {_LINE + 10}V{_LINE - 22}h14l-4 5 4 5h-14"),
                text("s12 mid" if x < _WIDTH - 60 else "s12 end", min(x, _WIDTH - 2), _LINE - 28, f"promised {self.ends.promised[0]}"),
            ]
        return drawn

    def shape(self, spoken: str) -> Shape:
        """The whole drawing."""
        drawn = [*self._rule(), *self._loops(), *self._waits()]
        if self.now is not None:
            x = self._x(self.now + 0.5)
            drawn += [circle("jp-now", x, _LINE, 11), circle("jp-point", x, _LINE, 3.5)]
        height = 106 if self.loops else 84
        return drawing("jobpath", f"0 0 {_WIDTH} {height}", spoken, *drawn, *self._finish())
