"""View-models of the drawings: what is drawn lies where its value says, and labels do not cover one another."""

import math
import re
from dataclasses import replace
from itertools import pairwise
from xml.etree import ElementTree as ET

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rocklash.ui.drawings import curves, head_map, lobe_section, margin_bar, rev_ladder, shapes, stack, timing_dial, waterfall
from rocklash.ui.drawings.curves import Curve, PlotData
from rocklash.ui.drawings.head_map import ValveData
from rocklash.ui.drawings.lobe_section import SectionData
from rocklash.ui.drawings.readout import packed
from rocklash.ui.drawings.rev_ladder import Ladder
from rocklash.ui.drawings.rev_marks import FloatMark, LadderData
from rocklash.ui.drawings.scale import Axis, round_step, text_width
from rocklash.ui.drawings.stack import CoilData, StackData
from rocklash.ui.drawings.timing_dial import Open
from rocklash.ui.drawings.trade_offs import CLEAR, Mark, trade_offs

PETREL = LadderData(
    idle=1250, peak=7400, limiter=7800, goal=8400, over_rev=9000, piston=9565, piston_label="piston 22.0 m/s", stock=(FloatMark("intake", 8280, 220), FloatMark("exhaust", 8210, 230)),
    proposed=(FloatMark("intake", 9240, 160), FloatMark("exhaust", 9160, 165)),
)  # fmt: skip


def _boxes(ladder: Ladder, y: float) -> list[tuple[float, float]]:
    boxes = []
    for label in ladder.labels:
        if label.y == y:
            width = text_width(f"{label.text} {label.strong}")
            left = label.x - width if "end" in label.css else label.x
            boxes.append((left, left + width))
    for lane in ladder.lanes:
        if ladder.height < 100 and lane.label.y == y and lane.label.strong:
            width = text_width(f"{lane.label.strong} {lane.label.text}".strip())
            left = lane.label.x - width if "end" in lane.label.css else lane.label.x
            boxes.append((left, left + width))
    return sorted(boxes)


speeds = st.floats(1500, 20000)


@given(speeds, speeds, speeds, speeds, st.floats(5, 4000), speeds, speeds)
def test_labels_of_a_row_never_overlap_and_stay_inside(
    peak: float, limiter: float, goal: float, over: float, spread: float, stock: float, proposed: float
) -> None:
    data = LadderData(
        idle=1000,
        peak=peak,
        limiter=limiter,
        goal=goal,
        over_rev=over,
        piston=goal * 1.2,
        piston_label="piston 22.0 m/s",
        stock=(FloatMark("intake", stock, spread),),
        proposed=(FloatMark("exhaust", proposed, spread),),
    )
    for ladder in (rev_ladder.full(data), rev_ladder.phone(data)):
        for y in {label.y for label in ladder.labels}:
            boxes = _boxes(ladder, y)
            assert all(left[1] <= right[0] for left, right in pairwise(boxes))
            assert all(left >= ladder.left and right <= ladder.width for left, right in boxes)
        assert ladder.left < ladder.goal_x < ladder.width


def test_marks_stand_in_the_order_of_their_speeds() -> None:
    ladder = rev_ladder.full(PETREL)
    x = {flag.css: flag.x for flag in ladder.flags}
    assert x["l-peak"] < x["l-limiter"] < ladder.goal_x < x["l-over"] < x["l-piston"]
    lanes = {(lane.name, lane.proposed): lane for lane in ladder.lanes}
    lane = lanes["exhaust float", True]
    assert lane.low < lane.box < lane.centre < lane.box + lane.box_width < lane.high
    assert lanes["exhaust float", False].y < ladder.rule_top < ladder.rule_bottom < lane.y
    told = {row[0]: row[1:] for row in ladder.figures().rows}
    assert told["goal"][0] == "8,400"
    assert told["proposed exhaust float, simple sum"][0] == "9,160"


def test_figures_of_curves_are_those_of_the_curves() -> None:
    """The table beside a drawing, against values known without it: the sine at the marks, its ends, a band, a hole, two stretches of one line."""
    x = tuple(float(n) for n in range(-90, 91))
    sine = tuple(10 * math.sin(math.radians(v)) for v in x)
    left = Curve(x[:61], tuple(1.0 for _ in x[:61]), "p-proposed", name="stretch")
    right = Curve(x[120:], tuple(3.0 for _ in x[120:]), "p-proposed", name="stretch")
    data = [PlotData("Height", "mm", (Curve(x, sine, "p-stock", band=(0.5,) * len(x)), left, right))]
    marks = [(-90.0, "BDC"), (0.0, "TDC"), (30.0, "30"), (90.0, "90"), *((float(n), str(n)) for n in (40, 50, 60))]
    told = curves.draw(data, -90, 90, marks).figures()
    assert told.columns == ("", "Height, mm: stock", "Height, mm: stretch")
    rows = {row[0]: row[1:] for row in told.rows}
    assert rows["TDC"] == ("0.0 ± 0.5", "")
    assert rows["30"] == ("5.0 ± 0.5", "3.0")
    assert rows["BDC"] == ("\N{MINUS SIGN}10.0 ± 0.5", "1.0")
    assert (rows["highest"][0], rows["lowest"][0]) == ("10.0 at 90", "\N{MINUS SIGN}10.0 at \N{MINUS SIGN}90")


def test_figures_of_a_fast_engine_and_of_an_empty_curve() -> None:
    """Speeds above ten thousand are written out; a curve that has no point yet has no highest."""
    told = curves.draw(
        [PlotData("Power", "kW", (Curve((9_000.0, 12_345.0), (60.0, 75.0), "p-stock"), Curve((), (), "p-c")))],
        9_000,
        13_000,
        [(9_000.0, "9,000")],
    )
    rows = {row[0]: row[1:] for row in told.figures().rows}
    assert rows["highest"][0].endswith("at 12,345")
    assert rows["highest"][1] == ""


def _walked(d: str) -> np.ndarray:
    """Where a path of steps leads, a row a point."""
    start, _, rest = d.strip("Mz").partition("l")
    return np.cumsum([[float(number) for number in step.split(",")] for step in (start, *rest.split())], axis=0)


def test_a_line_written_by_its_steps_goes_where_its_points_are() -> None:
    points = [(n / 7.0, 50 * math.sin(n / 9.0)) for n in range(400)]
    drawn = shapes.line("p-ink", " ".join(f"{x:.1f},{y:.1f}" for x, y in points)).attributes["d"]
    assert _walked(str(drawn)) == pytest.approx(np.array(points), abs=0.06)


@given(st.lists(st.floats(-1e5, 1e5), max_size=60), st.integers(0, 4))
def test_what_is_packed_sums_up_to_what_is_read(values: list[float], decimals: int) -> None:
    """The sums of the bends are slopes, the sums of the slopes the values: by a library's sums, not by the packer's own way back."""
    one, *bends = map(int, packed(values, decimals).split())
    assert np.cumsum(np.cumsum(bends)) / one == pytest.approx(np.round(values, decimals), abs=10.0**-decimals / 1.99)


def test_a_smooth_curve_packs_into_single_figures() -> None:
    assert all(-10 < int(bend) < 10 for bend in packed([9.0 * math.cos(n / 30.0) for n in range(120)], 2).split()[3:])


def test_boxes_written_by_their_steps_lie_where_they_were() -> None:
    boxes = [(10.0, 20.0, 3.05, 5.0), (40.3, 20.0, 6.1, 5.0), (10.0, 15.0, 30.0, 5.0)]
    d = str(shapes.cells("r-lost", boxes).attributes["d"])
    x = y = 0.0
    found = []
    for right, down, wide, high in re.findall(r"m([-\d.]+),([-\d.]+)h([\d.]+)v([\d.]+)h-\3z", d):
        x, y = x + float(right), y + float(down)
        found.append((x, y, float(wide), float(high)))
    assert found == [pytest.approx(box, abs=0.06) for box in boxes]


def test_an_outline_closes() -> None:
    assert shapes.outline("p-band", "1,1 2,5 4,1").attributes["d"] == "M1,1l1,4 2,-4z"


def test_a_mark_without_room_keeps_its_figure() -> None:
    """However close the speeds lie, the table beside the ladder tells each."""
    crowded = replace(PETREL, peak=8_390.0, limiter=8_395.0, over_rev=8_410.0)
    told = {row[0]: row[1] for row in rev_ladder.full(crowded).figures().rows}
    assert (told["stock peak"], told["stock limiter"], told["over-rev"]) == ("8,390", "8,400", "8,410")


def test_axis_and_steps() -> None:
    axis = Axis(1000, 3000, 100, 500)
    assert (axis.at(1000), axis.at(2000), axis.at(3000)) == (100, 300, 500)
    assert [round_step(width, 10) for width in (10, 19, 24, 45, 90, 3000)] == pytest.approx([1, 2, 2.5, 5, 10, 500])


def valve(pk: int, side: str, cylinder: int, state: str = "unread", low: float | None = None, high: float | None = None) -> ValveData:
    return ValveData(
        pk=pk,
        name=f"{side} {pk}",
        side=side,
        cylinder=cylinder,
        state=state,
        figure="",
        interval="",
        low=low,
        high=high,
        low_after=None,
        high_after=None,
        least=0.22,
        most=0.28,
        aim=0.25,
        shim_line="",
        word=state,
        url="?",
        current=pk == 1,
    )


@pytest.mark.parametrize(("cylinders", "each"), [(1, 1), (1, 2), (2, 2), (3, 2), (4, 2), (2, 3), (4, 3), (8, 2)])
@pytest.mark.parametrize("phone", [False, True])
def test_valves_do_not_touch_and_lie_in_the_casting(cylinders: int, each: int, phone: bool) -> None:
    data = [
        valve(n * 10 + k + s * 100, side, n)
        for s, side in enumerate(("exhaust", "intake"))
        for n in range(1, cylinders + 1)
        for k in range(each)
    ]
    drawn = head_map.draw(data, phone=phone)
    for a in drawn.valves:
        assert drawn.gauge.radius <= a.x <= drawn.width - drawn.gauge.radius
        assert drawn.top < a.y - drawn.gauge.radius
        assert a.y + drawn.gauge.radius < drawn.bottom
        for b in drawn.valves:
            if a is not b:
                assert ((a.x - b.x) ** 2 + (a.y - b.y) ** 2) ** 0.5 >= 2 * drawn.gauge.radius
    assert {mark.row for mark in drawn.valves} == {0, 1}


def test_the_limits_bar_puts_readings_where_they_are() -> None:
    tight = head_map.draw([valve(1, "exhaust", 1, "tight", 0.18, 0.20)]).valves[0].bar
    inside = head_map.draw([valve(1, "exhaust", 1, "in range", 0.24, 0.26)]).valves[0].bar
    assert tight.reading is not None
    assert inside.reading is not None
    assert tight.reading[0] + tight.reading[1] <= tight.band[0]
    assert inside.band[0] < inside.reading[0] < inside.band[0] + inside.band[1]
    assert tight.aim == pytest.approx(tight.band[0] + tight.band[1] / 2, abs=0.2)


def test_the_stack_is_to_scale() -> None:
    springs = (CoilData("outer", 37.2, 28.2, 0.0, 26.8, 4.1, 27.0, 6.5), CoilData("inner", 35.9, 26.9, 1.3, 20.9, 2.6, 18.0, 8.0))
    drawn = stack.draw(
        StackData(
            valve="EX 1",
            lift=9.0,
            installed=37.2,
            shim=0.0,
            seal_gap=11.0,
            stem=6.0,
            springs=springs,
            bucket=33.0,
            tightest=("1.4", ".055 in", "coil bind"),
        ),
        dict.fromkeys(("installed", "lift", "open"), "x"),
        dict.fromkeys(("installed", "lift", "open"), "x"),
    )
    assert (drawn.seat - drawn.shut.under) / drawn.scale == pytest.approx(37.2, abs=0.02)
    assert (drawn.open.under - drawn.shut.under) / drawn.scale == pytest.approx(9.0, abs=0.03)
    assert (drawn.seat - drawn.solid_y) / drawn.scale == pytest.approx(26.8, abs=0.02)
    assert (drawn.seal[1] - drawn.shut.under) / drawn.scale == pytest.approx(2.4 + 11.0, abs=0.03)
    outer = [coil for coil in drawn.shut.coils if coil[2] == pytest.approx(4.1 / 2 * drawn.scale, abs=0.1)]
    assert max(y for _, y, _ in outer) == pytest.approx(drawn.seat - 4.1 / 2 * drawn.scale, abs=0.1)
    assert min(y for _, y, _ in outer) == pytest.approx(drawn.shut.under + 4.1 / 2 * drawn.scale, abs=0.1)


def test_margin_bar_ends_on_the_right_side_of_the_limit() -> None:
    short, spare = margin_bar.draw(-24, 23, "short"), margin_bar.draw(240, 160, "holds")
    assert short.left + short.width == pytest.approx(short.stop)
    assert spare.left == pytest.approx(spare.stop)
    assert spare.low > spare.stop
    assert 0 < short.low < short.high < 104


def test_the_dial_has_overlap_tdc_on_top_and_turns_once_in_720_degrees() -> None:
    assert timing_dial.point(0, 100) == (170.0, 70.0)
    assert timing_dial.point(360, 100) == (170.0, 270.0)  # the TDC that fires
    assert timing_dial.point(180, 100) == (270.0, 170.0)  # BDC of the intake stroke
    assert timing_dial.point(-180, 100) == (70.0, 170.0)
    valves = [
        Open("proposed", "intake", -20, 232, "intake opens|20° before", "intake shuts|52° after"),
        Open("proposed", "exhaust", -230, 14, "exhaust opens|50° before", "exhaust shuts|14° after"),
    ]
    drawn = timing_dial.draw(valves, 34, 23)
    assert drawn.overlap == "34°"
    assert drawn.wedge
    assert not any("|" in cell for row in drawn.figures().rows for cell in row)
    assert not timing_dial.draw(valves, -3, 23).wedge
    for label in drawn.labels:
        assert -76 <= label.x <= 416
        assert -8 <= label.y <= 344


def test_curves_stand_where_their_values_are() -> None:
    line = Curve((-90.0, 0.0, 90.0), (0.0, 8.0, -4.0), "p-proposed", "peak 8")
    drawn = curves.draw([PlotData("Lift", "mm", (line,)), PlotData("Velocity", "m/s", (line,))], -100, 100, [(0.0, "TDC")])
    first, second = drawn.plots
    assert second.top > first.bottom
    points = [tuple(map(float, pair.split(","))) for pair in first.lines[0][0].split()]
    scale = (points[1][1] - points[0][1]) / 8.0
    assert points[0][1] == pytest.approx(first.zero, abs=0.1)
    assert points[2][1] == pytest.approx(first.zero - 4.0 * scale, abs=0.2)
    assert points[1][0] == pytest.approx((drawn.left + drawn.right) / 2, abs=0.1)
    assert first.labels[0][0] == points[1][0]
    assert all(first.top <= y <= first.bottom for y, _ in first.ticks)
    tall = curves.draw([PlotData("Lift", "mm", (Curve((0.0, 1.0), (0.0, 9.5), "p-stock"),))], 0, 1, []).plots[0]
    assert [text for _, text in tall.ticks] == ["0.0", "2.5", "5.0", "7.5", "10.0"]


def _section(**more: object) -> SectionData:
    ring = tuple((20 * math.cos(n / 10), 20 * math.sin(n / 10)) for n in range(63))
    common = {"outline": ring, "angle": (-10.0, 0.0, 10.0), "touch": ((0.0, 20.0),) * 3, "path": (0.0, 1.0, 0.0), "base": 15.0, "sense": 1}
    return SectionData(**(common | {"centre": ((0.0, 36.0),) * 3, "face": "pad", "radius": 16.0, "across": 25.0} | more))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "more",
    [
        {},
        {"face": "flat", "radius": 0.0, "centre": ((0.0, 20.0),) * 3},
        {"face": "domed", "radius": 60.0, "centre": ((0.0, 80.0),) * 3},
        {"face": "roller", "radius": 8.0, "centre": ((0.0, 28.0),) * 3},
        {"pivot": 38.0, "valve_arm": 36.0},
        {"pivot": 38.0, "valve_arm": 36.0, "face": "roller", "radius": 8.0, "centre": ((0.0, 28.0),) * 3},
        {"pivot": 38.0, "valve_arm": 36.0, "beyond": True},
    ],
    ids=["pad", "bucket", "domed", "roller", "finger", "roller finger", "rocker"],
)
def test_lobe_sections_stay_in_their_box(more: dict[str, object]) -> None:
    """Everything drawn at the nose lies in the view box; a rocker's valve stands beyond its pivot, a finger's before it."""
    found = lobe_section.draw(_section(**more))
    across, up = np.concatenate([_walked(d) for d in (found.lobe, found.follower, found.cap) if d]).T
    assert 0.0 <= across.min() < across.max() <= lobe_section.WIDTH
    assert 0.0 <= up.min() < up.max() <= lobe_section.HEIGHT
    if found.pivot and found.stem:
        assert (found.stem[0] > found.pivot[0]) == bool(more.get("beyond"))


def test_what_is_written_is_well_formed_and_holds_every_shape() -> None:
    """Read back by the standard library's XML parser, which is not ours."""
    ladder = rev_ladder.full(PETREL)
    root = ET.fromstring(shapes.written(ladder.shape()))
    assert root.get("viewBox") == f"0 0 {ladder.width} {ladder.height}"
    assert len(root.findall("path")) == len(ladder.flags) + 2  # and the goal's line with its flag
    assert "goal 8,400" in "".join(root.itertext())
    assert "goal 8,700" in shapes.written(rev_ladder.full(replace(PETREL, goal=PETREL.goal + 300)).shape())
    words = [element.text for element in root.iter("tspan") if element.get("class") == "b"]
    assert "8,280" in words
    assert "9,160" in words


@pytest.mark.parametrize("text", ["<script>alert(1)</script>", '"><g onload="x()">', "a & b < c", "it's"])
def test_no_word_of_a_person_becomes_markup(text: str) -> None:
    drawn = shapes.drawing("x", "0 0 1 1", text, shapes.text("b", 0, 0, text, data_name=text), shapes.circle("", 0, 0, 1, id=text))
    root = ET.fromstring(shapes.written(drawn))
    assert [element.tag for element in root.iter()] == ["svg", "text", "circle"]
    assert root.get("aria-label") == root[0].text == root[0].get("data-name") == root[1].get("id") == text


@pytest.mark.parametrize("goal", [6500, 7200, 7800, 8400, 8900, 9300, 9900])
def test_the_float_label_of_a_phone_keeps_off_the_goal_line(goal: int) -> None:
    """Wherever the goal lies beside a wide float, its line does not run through the figure that counts."""
    for rpm, spread in ((9000, 1200), (9160, 165), (8000, 300), (9600, 900)):
        drawn = rev_ladder.phone(replace(PETREL, goal=goal, proposed=(FloatMark("intake", rpm, spread),)))
        label = drawn.lanes[0].label
        text = f"{label.strong} {label.text}".strip()
        if not text:
            continue
        width = text_width(text)
        left = label.x - width if "end" in label.css else label.x
        assert not left < drawn.goal_x < left + width


def test_a_waterfall_takes_from_the_right_end_and_keeps_to_one_scale() -> None:
    """1.5 mm at rest, 0.4 and 0.3 taken, 0.8 left; the line of the limit at 1.0 (figures by hand)."""
    rows = (("rest", 0.0, 1.5), ("less", 1.1, 1.5), ("less", 0.8, 1.1), ("left", 0.0, 0.8))
    falls = tuple(waterfall.Fall(kind, "", kind, start, end) for kind, start, end in rows)
    root = ET.fromstring(shapes.written(waterfall.Waterfall(falls, 1.0, 1.5).shape()))
    bars = [(float(bar.get("x", "")), float(bar.get("width", ""))) for bar in root.findall("rect")]
    assert bars == [(104.0, 150.0), (214.0, 40.0), (184.0, 30.0), (104.0, 80.0)]
    assert root.findall("path")[0].get("d") == "M204.0 0V78"
    gone = waterfall.Waterfall((waterfall.Fall("left", "", "left", 0.0, -0.2),), 1.0, 1.5).shape()
    assert ET.fromstring(shapes.written(gone)).findall("rect")[0].get("width") == "0.0"


@pytest.mark.parametrize(
    ("gear", "brass", "keepers", "steel"),
    [
        ({}, 2, 2, "path"),
        ({"lever": True, "screw": True, "cap": False}, 0, 2, "polygon"),
        ({"lever": True, "screw": True, "cap": True}, 2, 2, "polygon"),
        ({"keepers": False}, 2, 0, "path"),
    ],
    ids=["bucket with shim", "screw", "screw with cap", "keyhole"],
)
def test_the_stack_draws_the_gear_that_is_there(gear: dict[str, bool], brass: int, keepers: int, steel: str) -> None:
    """A rocker is an arm and no bucket, a screw alone has no cap, a keyhole no keepers; what is not there has no number either."""
    data = StackData(
        valve="IN 1", lift=9.0, installed=37.0, shim=0.0, seal_gap=11.0, stem=6.0, springs=(CoilData("outer", 37.0, 28.0, 0.0, 26.0, 4.0, 24.0, 6.0),),
        bucket=33.0, tightest=("1.2", "", "coil bind"), **gear,
    )  # fmt: skip
    words = dict.fromkeys(("installed", "lift", "open"), "1")
    drawn = stack.draw(data, words, words)
    root = ET.fromstring(shapes.written(drawn.shape("stack")).replace("<svg", '<svg xmlns=""', 1))
    by = [(each.tag, each.get("class", "")) for each in root.iter()]
    assert sum(css == "k-brass" for _, css in by) == brass
    assert sum(css == "k-dark" for _, css in by) == 1 + keepers  # the seal is dark too
    assert {tag for tag, css in by if css == "k-steel"} == {steel}
    numbers = {balloon.number for balloon in drawn.balloons}
    assert (3 in numbers) == bool(keepers)
    assert (5 in numbers) == bool(brass)


@given(st.lists(st.tuples(st.floats(0, 300), st.floats(0, 80), st.floats(0, 1)), min_size=3, max_size=12), st.booleans())
def test_letters_of_sets_lie_on_no_mark_where_there_is_a_free_place(marks: list[tuple[float, float, float]], bunched: bool) -> None:
    near = 0.2 if bunched else 1.0
    made = [Mark(x * near, y * near, "holds", "", "", "ABC"[n : n + 1], soon, n == 0) for n, (x, y, soon) in enumerate(marks)]
    plot = trade_offs([*made, Mark(300.0, 80.0, "short", "", "")], 250.0, "N")
    letters = plot.letters()
    assert list(letters) == ["A", "B", "C"]
    for mark in made[:3]:
        at = letters[mark.letter]
        others = [(plot.x.at(other.x), plot.y.at(other.y) + 4.0) for other in plot.marks if other is not mark]
        if (
            sum(math.dist(each, (plot.x.at(mark.x), plot.y.at(mark.y) + 4.0)) < 40.0 for each in others) <= 2
        ):  # two marks cannot take every place
            assert all(math.dist(at, each) >= CLEAR for each in others)
        assert math.dist(at, (plot.x.at(mark.x), plot.y.at(mark.y) + 4.0)) < 40.0


def test_letters_of_two_sets_at_one_place_are_both_read() -> None:
    two = [Mark(100.0, 30.0, "holds", "", "", letter, 1.0, letter == "A") for letter in "AB"]
    first, second = trade_offs(two, None, "N").letters().values()
    assert math.dist(first, second) >= CLEAR
