"""The rev ladder: one rpm axis with the engine's life and each limit found, stock above and proposed below."""

from dataclasses import dataclass, replace
from functools import lru_cache

from rocklash.ui.drawings.rev_marks import FloatMark, LadderData, MotionMark, SurgeMark, figures, rpm_text, worst_surges
from rocklash.ui.drawings.scale import Axis, Row, round_step, text_width
from rocklash.ui.drawings.shapes import Figures, Shape, drawing, group, hatch, path, rect, strong, text


@dataclass(frozen=True)
class Label:
    """A text at a place; `group` moves with the folded ladder."""

    x: float
    y: float
    text: str
    strong: str = ""
    css: str = ""
    group: str = ""

    def shape(self) -> Shape:
        """The text, its strong part behind."""
        words = (f"{self.text} ", strong(self.strong)) if self.strong else (self.text,)
        return text(f"halo {self.css} {self.group}", self.x, self.y, *words)


@dataclass(frozen=True)
class FloatLane:
    """A float drawn as bar, box and whiskers; `rigid` is where a rigid train would let go, when the bar is that of the motion."""

    name: str
    y: float
    low: float
    box: float
    box_width: float
    centre: float
    high: float
    proposed: bool
    label: Label
    rigid: float | None = None
    css: str = ""
    caption: Label | None = None
    tried: tuple[float, float, float] | None = None

    def shape(self, left: float, width: float, *, phone: bool) -> Shape:
        """The lane; a phone's has no box and no line of its own."""
        css, y, low, high = "l-prop" if self.proposed else "l-stock", self.y, self.low, self.high
        drawn = [text(self.caption.css, self.caption.x, self.caption.y, self.caption.text)] if self.caption else []
        if not (self.proposed and phone):
            drawn.append(path("grid", f"M{left} {y}H{width}"))
        drawn.append(path(css, f"M{low} {y}H{high}M{low} {y}m0-5v10M{high} {y}m0-5v10"))
        if not phone:
            drawn.append(rect(f"{css}-box" if self.proposed else css, self.box, y, self.box_width, 11, transform="translate(0 -5.5)"))
        drawn.append(path(f"{css}-c", f"M{self.centre} {y}m0-6v12"))
        if self.rigid is not None:
            drawn.append(path(f"{css} l-rigid", f"M{self.rigid} {y}m0-4.5l4.5 4.5-4.5 4.5-4.5-4.5z"))
        if self.tried:
            low, middle, high = self.tried
            drawn.append(rect("l-tried", low, y - 8, round(high - low, 1), 16))
            drawn.append(path("l-tried", f"M{middle} {y}m0-8v16"))
        label = self.label
        return group(self.css, *drawn, text(f"halo {label.css}", label.x, label.y, strong(label.strong), f" {label.text}"))


@dataclass(frozen=True)
class Zone:
    """A hatched stretch of a surge lane with its label."""

    x: float
    y: float
    width: float
    label: Label | None

    def shape(self) -> Shape:
        """Hatching and label."""
        label = [text(f"s12 halo {self.label.css}", self.label.x, self.label.y, self.label.text)] if self.label else []
        return group("f-off", rect("l-surge", self.x, self.y, self.width, 11, fill="url(#surge)"), *label)


@dataclass(frozen=True)
class Flag:
    """A life mark: a line from y1 to y2 with its class; `group` moves with the folded ladder."""

    x: float
    y1: float
    y2: float
    css: str
    group: str = ""


@dataclass(frozen=True)
class Ladder:
    """The ladder laid out, in pixels of a view box `width` x `height`."""

    width: float
    height: float
    left: float
    rule_top: float
    rule_bottom: float
    idle_x: float
    idle_text: str
    break_x: float
    ticks: tuple[tuple[float, str, bool], ...]
    lanes: tuple[FloatLane, ...]
    flags: tuple[Flag, ...]
    labels: tuple[Label, ...]
    goal_x: float
    goal_flag: tuple[float, float, float]
    goal_text: str
    gutter: tuple[Label, ...]
    zones: tuple[Zone, ...]
    told: Figures

    def figures(self) -> Figures:
        """Every mark with its speed, whether or not there was room for it."""
        return self.told

    def _rule(self) -> list[Shape]:
        """The rule between the lanes, with its ticks."""
        top, bottom, left = self.rule_top, self.rule_bottom, self.left
        drawn = [
            path("ink", f"M{left} {top}H{self.width}M{left} {bottom}H{self.width}"),
            path("sheet ink", f"M{self.break_x} {top}l5 7-5 7 5 8"),
            text("mid b", self.idle_x, bottom, self.idle_text, dy=-6),
        ]
        if left:
            drawn.append(text("s12 i2 end", left, bottom, "rpm", dx=-8, dy=-6))
        for x, words, major in self.ticks:
            long = 5 if major else 3
            drawn.append(path("ink", f"M{x} {top}v{long}M{x} {bottom}v-{long}"))
            if words:
                drawn.append(text("mid b", x, bottom, words, dy=-6))
        return drawn

    def shape(self) -> Shape:
        """The whole drawing."""
        drawn = [text(f"{g.css} {g.group}", g.x, g.y, g.text) for g in self.gutter]
        drawn += [group("f-rule", *self._rule()), *(zone.shape() for zone in self.zones)]
        drawn += [path(f"{flag.css} {flag.group}", f"M{flag.x} {flag.y1}V{flag.y2}") for flag in self.flags]
        drawn.append(path("l-goal", f"M{self.goal_x} 4V{self.height}"))
        drawn += [lane.shape(self.left, self.width, phone=self.height <= 100) for lane in self.lanes]
        drawn += [label.shape() for label in self.labels]
        if self.goal_flag[2]:
            drawn.append(rect("l-flag", *self.goal_flag, 19))
            drawn.append(path("l-flag", f"M{self.goal_x} 27l-5-6h10z"))
            drawn.append(text("s15 b mid onblue", self.goal_x, 17.5, self.goal_text))
        return drawing(
            "with-surge" if self.zones else "", f"0 0 {self.width} {self.height}", "Rev ladder", *drawn,
            patterns=[hatch("surge", "l-surge-line", 6)], preserveAspectRatio="xMidYMin slice",
        )  # fmt: skip


def _axis(data: LadderData, start: float, end: float) -> Axis:
    marks = [data.peak, data.limiter, data.goal, data.over_rev]
    marks += [edge for mark in (*data.stock, *data.proposed, *data.tried) for edge in (mark.rpm - mark.spread, mark.rpm + mark.spread)]
    marks += [edge for mark in (*data.stock_motion, *data.proposed_motion) for edge in (mark.low, mark.high)]
    marks += data.reached or ()
    marks += [speed for _, speed in data.measured]
    if data.piston < 1.35 * data.goal:
        marks.append(data.piston)
    low, high = min(marks), max(marks)
    pad = max((high - low) * 0.07, 200.0)
    room = (high + 2.2 * pad) - (low - pad)  # labels stand to the right of their marks
    step = round_step(room, 8)
    return Axis(max(low - pad - 0.3 * step, 0.0), high + 2.2 * pad, start, end)


def _lane(mark: FloatMark, motion: MotionMark | None, y: float, axis: Axis, goal_x: float, *, proposed: bool) -> FloatLane:
    """A camshaft's lane: its motion where that is known, with a diamond at the rigid float; else the rigid float with its spread."""
    shown = motion or MotionMark(mark.side, mark.rpm, mark.rpm - mark.spread, mark.rpm + mark.spread)
    low, high, centre = axis.at(shown.low), axis.at(shown.high), axis.at(shown.rpm)
    # one standard deviation of a k = 2 spread either side of the centre holds two thirds
    box, end = centre - (centre - low) * 0.5, centre + (high - centre) * 0.5
    rigid = axis.at(mark.rpm) if motion else None
    spread = f"±{rpm_text(mark.spread)}" if motion is None else f"{rpm_text(shown.low)}–{rpm_text(shown.high)}"
    strong = f"{rpm_text(shown.rpm)}{'+' if motion and motion.beyond else ''}"
    width = text_width(f"{strong} {spread}")
    # the diamond of the rigid float keeps its place: the figure goes past it only where the two would touch
    clear = rigid is None or rigid + 6 < high or rigid - 6 > high + width + 10
    far = high if clear or rigid is None else max(high, rigid + 6)
    near = low if rigid is None or rigid > low - 6 else rigid - 6
    # the figure stands right of its whisker, unless the goal's line would run through it
    right = not (far < goal_x < far + width + 8) or near - width < axis.start - 60
    label = Label(
        far + 6 if right else near - 6, y + 4.5, spread, strong=strong, css=f"{'blue' if proposed else ''}{'' if right else ' end'}"
    )
    return FloatLane(
        name=f"{mark.side} float",
        y=y,
        low=low,
        box=round(box, 1),
        box_width=round(end - box, 1),
        centre=centre,
        high=high,
        proposed=proposed,
        label=label,
        rigid=rigid,
    )


def _tried(data: LadderData, side: str, axis: Axis) -> tuple[float, float, float] | None:
    """Where the rigid float of a side would come to lie: its low end, middle and high end."""
    mark = next((mark for mark in data.tried if mark.side == side), None)
    return (axis.at(mark.rpm - mark.spread), axis.at(mark.rpm), axis.at(mark.rpm + mark.spread)) if mark else None


def _motion_of(motions: tuple[MotionMark, ...], side: str) -> MotionMark | None:
    return next((motion for motion in motions if motion.side == side), None)


def _zones(marks: tuple[SurgeMark, ...], y: float, axis: Axis, goal_x: float, *, proposed: bool) -> list[Zone]:
    """Hatched stretches of one surge lane; a label only where there is room for it beside the goal's line."""
    row, zones = Row(axis.start - 10, axis.end + 14), []
    row.block(goal_x - 3, goal_x + 3)
    within: list[tuple[float, float]] = []
    shown = [mark for mark in worst_surges(marks) if axis.holds(mark.low) and axis.holds(mark.high)]
    for mark in shown:
        row.block(axis.at(mark.low) - 5, axis.at(mark.high) + 5)
    for mark in shown:
        low, high = axis.at(mark.low), axis.at(mark.high)
        low, high = (low, high) if high - low > 10 else ((low + high) / 2 - 5, (low + high) / 2 + 5)
        colour = "blue" if proposed else "i2"
        middle, half = (low + high) / 2, text_width(mark.name, 12) / 2
        if abs(middle - goal_x) < half + 4:  # the goal's line would run through it: to the side that is wider
            middle = goal_x + (half + 5 if high - goal_x > goal_x - low else -half - 5)
        inside = low + 2 < middle - half and middle + half < high - 2 and all(middle + half < a or middle - half > b for a, b in within)
        if inside:
            within.append((middle - half, middle + half))
        placed = (round(middle, 1), "mid") if inside else row.place(high, mark.name) or row.place(low, mark.name)
        label = Label(placed[0], y + 4.5, mark.name, css=f"{placed[1]} {colour}") if placed else None
        zones.append(Zone(round(low, 1), y - 5.5, round(high - low, 1), label))
    return zones


def _ticks(axis: Axis, count: int, free_from: float, free_to: float) -> tuple[tuple[float, str, bool], ...]:
    """Ticks of the rule; a number is left out where it would run into the idle's break or out of the drawing."""
    step = round_step(axis.high - axis.low, count)
    small = step / 5
    number = int(axis.low // small) + 1
    ticks = []
    while number * small <= axis.high:
        value = number * small
        major = number % 5 == 0
        x, text = axis.at(value), f"{value:,.0f}"
        half = text_width(text) / 2
        ticks.append((x, text if major and free_from <= x - half and x + half <= free_to else "", major))
        number += 1
    return tuple(ticks)


def _lowest(data: LadderData) -> FloatMark | None:
    """The proposed camshaft that gives up first."""
    return min(data.proposed, key=lambda mark: (_motion_of(data.proposed_motion, mark.side) or mark).rpm, default=None)


@lru_cache(maxsize=128)
def full(data: LadderData) -> Ladder:
    """The ladder, 1280 x 150, or 1280 x 186 with its surge lanes. Folded it shows the rule, the life marks and the lowest proposed lane: its groups
    are moved and hidden by the style sheet, so that one drawing serves both."""
    surge = 18.0 if data.stock_surge or data.proposed_surge else 0.0
    width, left, top, bottom = 1280.0, 148.0, 66.0 + surge, 88.0 + surge
    height, foot = 150.0 + 2 * surge, 148.0 + 2 * surge
    axis = _axis(data, left + 100, width - 24)
    goal_x = axis.at(data.goal)
    lanes, gutter = [], [Label(16, 15, "STOCK", css="s12 i2", group="f-off")]
    for number, mark in enumerate(data.stock):
        lane = _lane(mark, _motion_of(data.stock_motion, mark.side), 29.0 + 19 * number, axis, goal_x, proposed=False)
        lanes.append(replace(lane, css="f-off", caption=Label(16, lane.y + 4, lane.name, css="i2")))
    lowest = _lowest(data)
    for number, mark in enumerate(reversed(data.proposed)):
        y = 103.0 + 2 * surge + 19 * number
        lane = _lane(mark, _motion_of(data.proposed_motion, mark.side), y, axis, goal_x, proposed=True)
        css = f"f-lane{number}" if mark is lowest else "f-off"
        lanes.append(replace(lane, css=css, caption=Label(16, lane.y + 4, lane.name, css="blue"), tried=_tried(data, mark.side, axis)))
    zones: list[Zone] = []
    if surge:
        zones = _zones(data.stock_surge, top - 10, axis, goal_x, proposed=False)
        zones += _zones(data.proposed_surge, bottom + 10, axis, goal_x, proposed=True)
        gutter += [Label(16, top - 6, "surge", css="i2", group="f-off"), Label(16, bottom + 14, "surge", css="blue", group="f-off")]
    gutter.append(Label(16, height - 6, "PROPOSED", css="s12 blue", group="f-off"))
    gutter.append(Label(16, top + 16, "Rev ladder", css="s14 b", group="f-rule"))
    goal_text = f"goal {rpm_text(data.goal)}"
    flag = text_width(goal_text, 15) + 22
    above, below = Row(left + 4, width - 4, 1.28), Row(left + 4, width - 4, 1.28)  # down to a screen of 1000 px
    above.block(goal_x - flag / 2 - 4, goal_x + flag / 2 + 4)
    if data.measured:
        below.block(goal_x - 2, goal_x + 2)  # the goal's line runs through
    flags, labels = [], []
    for value, words, css, row in (
        (data.reached[1] if data.reached else -1.0, "reached", "l-reached", below),
        (data.over_rev, "over-rev", "l-over", below),
        *((speed, words.removeprefix("measured "), "l-measured", below) for words, speed in reversed(data.measured)),
        (data.limiter, "limiter", "l-limiter", above),
        (data.piston, data.piston_label, "l-piston", above),
        (data.peak, "peak", "l-peak", above),
    ):
        if not axis.holds(value):
            continue
        x, said = axis.at(value), f"{words} {rpm_text(value)}"
        placed = row.place(x + (3 if css == "l-piston" else 0), said)
        up = row is above
        if placed is None and css in ("l-limiter", "l-peak"):
            placed = below.place(x, said)  # no room among the marks above: it stands among those below
            up = placed is None
        if css == "l-piston":
            flags += [Flag(at, 6.0, foot, css, "f-whole") for at in (x, x + 3)]
        else:
            flags.append(Flag(x, 6.0 if up else bottom, top if up else foot, css, "f-above" if up else "f-below"))
        if placed:
            colour = "tshort" if css in ("l-over", "l-reached") else "i2"
            labels.append(
                Label(
                    placed[0],
                    15.0 if up else height - 5.0,
                    words,
                    strong=rpm_text(value),
                    css=f"{placed[1]} {colour}",
                    group="" if up else "f-foot",
                )
            )
    if data.reached and axis.holds(data.reached[0]):
        low = axis.at(data.reached[0])  # what slip may have spared it
        flags.append(Flag(low, bottom, foot, "l-reached l-spared", "f-below"))
    return Ladder(
        width=width, height=height, left=left, rule_top=top, rule_bottom=bottom, idle_x=left + 34, idle_text=rpm_text(data.idle), break_x=left + 76, ticks=_ticks(axis, 10, left + 84, width), lanes=tuple(lanes), flags=tuple(flags),
        labels=tuple(labels), goal_x=goal_x, goal_flag=(round(goal_x - flag / 2, 1), 3.0, round(flag, 1)), goal_text=goal_text, gutter=tuple(gutter), zones=tuple(zones), told=figures(data),
    )  # fmt: skip


@lru_cache(maxsize=128)
def phone(data: LadderData) -> Ladder:
    """The ladder of a phone, 390 x 58: rule, life marks and the lowest proposed lane."""
    width, left, height = 390.0, 0.0, 58.0
    top, bottom = height / 2 - 10, height / 2 + 10
    axis = _axis(data, left + 56, width - 10)
    goal_x, goal_text = axis.at(data.goal), f"goal {rpm_text(data.goal)}"
    above, below = Row(left + 4, width - 4), Row(left + 4, width - 4)
    labels, flags, lanes = [], [], []

    def put(row: Row, x: float, text: str, strong: str, css: str) -> None:
        placed = row.place(x, f"{text} {strong}")
        if placed:
            labels.append(Label(placed[0], top - 7 if row is above else height - 5, text, strong, f"{placed[1]} {css}"))

    put(above, goal_x, "goal", rpm_text(data.goal), "blue")
    lowest = _lowest(data)
    if lowest:
        motion = _motion_of(data.proposed_motion, lowest.side)
        lane = _lane(lowest, motion, bottom + 6.0, axis, goal_x, proposed=True)
        below.block(lane.low - 3, lane.high + 3)
        below.block(goal_x - 2, goal_x + 2)  # the goal's line runs through
        words, spread = f"{lane.name} {lane.label.strong}", lane.label.text
        # right of the whisker, else left of it, else only the number, else nothing: the drawing itself stands
        for much, light in ((words, spread), (lane.label.strong, spread), (lane.label.strong, "")):
            said = f"{much} {light}".strip()
            anchor = below.place(lane.high, said) or below.place(lane.low, said)
            if anchor:
                label = Label(anchor[0], height - 5, light, much, f"{anchor[1]} blue")
                break
        else:
            label = Label(lane.high, height - 5, "", "", "blue")
        lanes.append(replace(lane, label=label))
    for value, words, css, row in (
        (data.limiter, "stock limiter", "l-limiter", above),
        (data.reached[1] if data.reached else -1.0, "reached", "l-reached", below),
        (data.over_rev, "over-rev", "l-over", below),
        (data.piston, data.piston_label, "l-piston", above),
        *((speed, words.removeprefix("measured "), "l-measured", below) for words, speed in data.measured[-1:]),
    ):
        if axis.holds(value):
            x = axis.at(value)
            flags.append(Flag(x, 6.0 if row is above else bottom, top if row is above else height - 6, css))
            put(row, x, words, rpm_text(value), "tshort" if css in ("l-over", "l-reached") else "i2")
    return Ladder(
        width=width, height=height, left=left, rule_top=top, rule_bottom=bottom, idle_x=left + 26, idle_text=rpm_text(data.idle), break_x=left + 48,
        ticks=_ticks(axis, 4, left + 56, width), lanes=tuple(lanes), flags=tuple(flags), labels=tuple(labels), goal_x=goal_x, goal_flag=(0.0, 0.0, 0.0), goal_text=goal_text,
        gutter=(), zones=(), told=figures(data),
    )  # fmt: skip
