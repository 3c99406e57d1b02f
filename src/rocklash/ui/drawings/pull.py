"""What was heard of a pull: traced speed over time, where nothing was heard left open, gear changes dashed, the end in red."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from rocklash.ui.drawings.scale import Axis, round_step
from rocklash.ui.drawings.shapes import Shape, drawing, line, path, rect, text

_LEFT, _TOP, _WIDTH, _HEIGHT = 48.0, 22.0, 520.0, 190.0


@dataclass(frozen=True, kw_only=True)
class Pull:
    """Time (s), speed (rpm), whether heard; changes (s); end: s, rpm, one sigma."""

    time: Sequence[float]
    speed: Sequence[float]
    heard: Sequence[bool]
    changes: Sequence[float]
    end_at: float
    end: float
    doubt: float
    spoken: str

    def shape(self) -> Shape:
        """The whole drawing."""
        told = [value for value, known in zip(self.speed, self.heard, strict=True) if known] or [1000.0, self.end]
        low, high = min(told), max(*told, self.end)
        pad = 0.08 * (high - low) + 50.0
        across, up = Axis(0.0, max(self.time[-1], 1.0), _LEFT, _WIDTH - 8.0), Axis(low - pad, high + pad, _TOP + _HEIGHT, _TOP)
        drawn: list[Shape] = [text("b", _LEFT, _TOP, "Speed, rpm", dy=-7)]
        step = round_step(up.high - up.low, 5)
        for number in range(math.ceil(up.low / step), math.floor(up.high / step) + 1):
            y = up.at(number * step)
            drawn += [path("grid", f"M{_LEFT} {y}H{_WIDTH - 8}"), text("s12 end i2", _LEFT, y, f"{number * step:,.0f}", dx=-5, dy=4)]
        seconds = round_step(across.high, 8)
        for number in range(math.floor(across.high / seconds) + 1):
            x = across.at(number * seconds)
            drawn.append(text("s12 mid i2", x, _TOP + _HEIGHT, f"{number * seconds:g}", dy=15))
        drawn.append(text("s12 end i2", _WIDTH - 8, _TOP + _HEIGHT, "s", dy=28))
        for at in self.changes:
            x = across.at(at)
            drawn.append(path("pu-change", f"M{x} {_TOP}V{_TOP + _HEIGHT}"))
        low_y, high_y = up.at(self.end + 2.0 * self.doubt), up.at(self.end - 2.0 * self.doubt)
        drawn.append(rect("pu-doubt", _LEFT, low_y, _WIDTH - 8.0 - _LEFT, round(max(1.0, high_y - low_y), 1)))
        run: list[str] = []
        for at, value, known in zip(self.time, self.speed, self.heard, strict=True):
            if known:
                run.append(f"{across.at(at)},{up.at(value)}")
            elif run:
                drawn.append(line("p-proposed", " ".join(run)))
                run = []
        if run:
            drawn.append(line("p-proposed", " ".join(run)))
        x = across.at(self.end_at)
        drawn.append(path("pu-end", f"M{x} {_TOP}V{_TOP + _HEIGHT}"))
        anchor = "end " if x > 0.6 * _WIDTH else ""
        drawn.append(
            text(f"s14 b halo {anchor}", x, _TOP + _HEIGHT - 8, f"ends at {self.end:,.0f} ±{2 * self.doubt:,.0f}", dx=-6 if anchor else 6)
        )
        return drawing("pull", f"0 0 {_WIDTH} {_TOP + _HEIGHT + 32}", self.spoken, *drawn)
