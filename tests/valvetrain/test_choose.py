"""The search against every set judged one by one as its own page would, and against closed forms."""

import math
from collections import Counter
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.valvetrain.shelves import drawn_shelf
from valvetrain.formats import build_file
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.studies.checks.assessment import checks_of_side
from valvetrain.studies.checks.check import CheckCode, Verdict
from valvetrain.studies.choose.answer import clashes, near_misses, swaps, trays
from valvetrain.studies.choose.checks import BIT, SetCheck
from valvetrain.studies.choose.compare import shown
from valvetrain.studies.choose.motions import Motion
from valvetrain.studies.choose.proposal import Bench, bench_of, filled, with_set
from valvetrain.studies.choose.ranking import Wish, rank
from valvetrain.studies.choose.search import Found, ShardResult, best_front, merged, search_shard, shards_of
from valvetrain.studies.choose.slots import Candidate, Shelf, Slot, Wishes
from valvetrain.studies.choose.tables import Tables, every_set, goes_together, head_part, set_at
from valvetrain.studies.choose.warm import warm
from valvetrain.studies.gaps.gaps import room_review
from valvetrain.studies.train.assembly import complete

BUILDS = Path(__file__).resolve().parents[2] / "src/rocklash/demo/builds"
SMALL = {
    Slot.CAM: 1, Slot.OUTER: 2, Slot.INNER: 1, Slot.RETAINER: 1, Slot.KEEPERS: 1, Slot.VALVE: 2, Slot.FOLLOWER: 1, Slot.SPRING_SHIM: 1,
}  # fmt: skip
WISHES = Wishes(budget=200.0, days=30)
CHECKS = {
    CheckCode.FLOAT: SetCheck.FLOAT, CheckCode.SEAT: SetCheck.SEAT, GapKind.COIL_BIND: SetCheck.BIND, GapKind.RETAINER: SetCheck.RETAINER,
}  # fmt: skip
RANK = {Verdict.HOLDS: 0, Verdict.SLIM: 1, Verdict.UNPROVEN: 2, Verdict.SHORT: 3}


def demo(name: str) -> BuildRecord:
    return build_file.read((BUILDS / f"{name}.json").read_text(encoding="utf-8"))


def searched(tables: Tables, wishes: Wishes = WISHES, about: int = 8) -> ShardResult:
    found = [search_shard(tables, shard, wishes) for shard in shards_of(tables, about)]
    return merged([each for each in found if each is not None])


def by_hand(bench: Bench, tables: Tables, numbers: dict[Slot, int]) -> tuple[int, int]:
    """One set through the pages' own path: mask of the checks it falls short at, and how it stands where it does at none."""
    chosen = set_at(tables.shelf, numbers)
    record = with_set(bench, chosen)
    done = complete(record)
    train, mask, worst = done.proposed.sides[bench.side], 0, 0
    for check in checks_of_side(done.proposed, done.goal, bench.side):
        if check.code in CHECKS:
            mask |= (check.verdict is Verdict.SHORT) << BIT[CHECKS[check.code]]
            worst = max(worst, RANK[check.verdict])
    room = room_review(record, done)
    for check in room.checks:
        guess = check.verdict is Verdict.UNPROVEN and room.how[check.code, check.about] == "estimate"
        if check.side in (None, bench.side) and not guess:
            mask |= (check.verdict is Verdict.SHORT) << BIT[SetCheck.ROOM]
            worst = max(worst, RANK[check.verdict])
    top = max(place.deviation for place in train.positions)
    for packed in train.springs:
        height = train.installed_height.value - train.spring_shim.value - packed.step.value + top
        mask |= (packed.spring.force(height) <= 0.0) << BIT[SetCheck.STAND]
    mask |= (chosen.price > 200.0) << BIT[SetCheck.BUDGET] | (chosen.days > 30) << BIT[SetCheck.DAYS]
    mask |= bool(Motion(tables, (numbers[Slot.CAM], numbers[Slot.FOLLOWER])).why) << BIT[SetCheck.LOBE]
    return mask, worst


@pytest.mark.parametrize(
    "name, side, seed, told",
    [
        ("petrel_1498", Side.EXHAUST, 1, 1.0), ("dunlin_598", Side.INTAKE, 3, 0.6), ("plover_305", Side.EXHAUST, 4, 1.0),
        ("avocet_636", Side.INTAKE, 6, 0.5), ("sanderling_449", Side.EXHAUST, 7, 0.8),
    ],
)  # fmt: skip
@pytest.mark.slow
def test_the_search_equals_every_set_judged_as_its_page_would(name: str, side: Side, seed: int, told: float) -> None:
    record = demo(name)
    bench = bench_of(record, side)
    tables = Tables(bench, drawn_shelf(record, side, SMALL, seed, told=told))
    head, masks, classes = head_part(bench), Counter[int](), Counter[int]()
    for numbers in every_set(tables.shelf):
        places = dict(zip(Slot, numbers, strict=True))
        if goes_together(tables.shelf, head, places):
            mask, worst = by_hand(bench, tables, places)
            masks[mask] += 1
            classes[worst] += mask == 0
    found = searched(tables)
    assert {mask: int(count) for mask, count in enumerate(found.seen) if count} == dict(masks)
    assert found.classes == tuple(classes[code] for code in range(3))
    assert tables.joins.count() == sum(masks.values()) > 20  # the funnel's matrices count what was enumerated
    assert trays(tables.joins, found)[-1].left == sum(found.classes)


def test_any_split_into_shards_gives_the_same() -> None:
    record = demo("petrel_1498")
    shelf = drawn_shelf(record, Side.EXHAUST, SMALL | {Slot.OUTER: 4}, 11)
    whole = searched(Tables(bench_of(record, Side.EXHAUST), shelf), about=1)
    for about in (3, 40):
        split = searched(Tables(bench_of(record, Side.EXHAUST), shelf), about=about)
        assert np.array_equal(split.seen, whole.seen)
        assert (split.classes, split.front, split.misses) == (whole.classes, whole.front, whole.misses)


def test_a_sets_figures_are_those_of_its_own_page() -> None:
    """Of every set on the front: open force, mass and price, and that it stands as the search says."""
    record = demo("avocet_636")
    bench = bench_of(record, Side.INTAKE)
    tables = Tables(bench, drawn_shelf(record, Side.INTAKE, SMALL, 6))
    found = searched(tables, Wishes())
    assert len(found.front) > 2
    for each in found.front:
        one = shown(bench, set_at(tables.shelf, dict(zip(Slot, each.numbers, strict=True))))
        assert (each.force, each.mass) == (pytest.approx(one.open_force.value, rel=1e-12), pytest.approx(one.mass, rel=1e-12))
        assert each.price == one.chosen.price
        worst = max(RANK[check.verdict] for check in one.checks if check.code in CHECKS)
        assert worst <= each.code


def test_a_search_that_is_left_out_stops_and_says_nothing() -> None:
    record = demo("petrel_1498")
    tables = Tables(bench_of(record, Side.EXHAUST), drawn_shelf(record, Side.EXHAUST, SMALL, 1))
    assert search_shard(tables, shards_of(tables, 1)[0], WISHES, lambda _: False) is None


def test_an_untold_figure_is_an_estimate_of_the_part_alone() -> None:
    """A retainer of unknown mass weighs the same in whatever set; what is told of it stays."""
    record = demo("petrel_1498")
    bench = bench_of(record, Side.EXHAUST)
    part = PartRecord("light", {"outer_diameter": Figure(28e-3)})
    known = filled(bench, Slot.RETAINER, part)
    assert known.figures["mass"].basis is Basis.ESTIMATE
    assert known.figures["outer_diameter"] == Figure(28e-3)
    assert filled(bench, Slot.RETAINER, known) == known
    spring = filled(bench, Slot.OUTER, PartRecord("by its packet", {"seat_load": Figure(260.0, 5.0)}))
    assert {"rate", "solid_height", "mass"} <= spring.figures.keys()
    assert "load" not in spring.figures  # its force stands at whatever height it is installed at


def test_another_retainer_moves_the_installed_height_by_what_is_told_or_leaves_it_open() -> None:
    """By hand: keepers that raise by 0.6 mm and a face 0.4 mm higher give 1.0 mm more; untold, the height is unsure by 0.3 mm a part."""
    record = demo("petrel_1498")
    own = record.stock[Side.EXHAUST]
    told = {Owner.KEEPERS: {"rise": Figure(0.0)}, Owner.RETAINER: {"spring_face": Figure(1.5e-3)}}
    parts = {
        owner: replace(part, figures={**part.figures, **told.get(owner, {})}) for owner, part in own.parts.items()
    }  # fmt: skip
    stock = replace(own, parts=parts)
    record = replace(record, stock={**record.stock, Side.EXHAUST: stock}, proposed={**record.proposed, Side.EXHAUST: stock})
    bench = bench_of(record, Side.EXHAUST)
    base = drawn_shelf(record, Side.EXHAUST, {}).parts
    height = bench.fit["installed_height"].value
    keepers = Candidate(key="k", record=PartRecord("plus", {"mass": Figure(2e-3), "rise": Figure(0.6e-3)}))
    face = Candidate(key="r", record=PartRecord("dished", {"mass": Figure(9e-3), "spring_face": Figure(1.1e-3)}))
    bare = Candidate(key="b", record=PartRecord("bare", {"mass": Figure(9e-3)}))
    shelf = lambda retainer: Shelf(parts={**base, Slot.KEEPERS: (keepers,), Slot.RETAINER: (retainer,)})
    first = with_set(bench, set_at(shelf(face), dict.fromkeys(Slot, 0))).proposed[Side.EXHAUST].fit["installed_height"]
    assert first.value - height == pytest.approx(1.0e-3, abs=1e-9)
    untold = with_set(bench, set_at(shelf(bare), dict.fromkeys(Slot, 0))).proposed[Side.EXHAUST].fit["installed_height"]
    assert untold.value - height == pytest.approx(0.6e-3, abs=1e-9)
    assert untold.spread == pytest.approx(math.hypot(0.3e-3, bench.fit["installed_height"].spread), rel=0.02)


def _found(*rows: tuple[float, float, float, float, float], code: int = 0) -> list[Found]:
    return [Found(code, 0.0, *row, (n,)) for n, row in enumerate(rows)]


def test_the_front_is_what_nothing_beats() -> None:
    """Closed form: of four sets one is dearer and no better than another; where one is best in everything it is the front."""
    rows = _found((500, 0.07, 300, 10, 100), (480, 0.08, 320, 10, 100), (510, 0.07, 310, 12, 100), (520, 0.06, 300, 10, 100))
    assert {each.numbers for each in best_front(rows)} == {(0,), (1,), (3,)}
    assert best_front(list(reversed(rows))) == best_front(rows)
    assert [each.numbers for each in best_front(_found((1, 0.01, 1, 1, 9), (2, 0.02, 2, 2, 8)))] == [(0,)]


def test_weights_decide_who_comes_first_and_say_where_another_would() -> None:
    """Closed form, two sets: one best by force (1 to 0), one by price; equal weights tie, and above equal weight the other comes first."""
    rows = _found((400, 0.07, 300, 10, 1e9), (500, 0.07, 200, 10, 1e9))
    assert rank(rows, {Wish.FORCE: 2.0, Wish.PRICE: 1.0}).order[0] == 0
    assert rank(rows, {Wish.FORCE: 1.0, Wish.PRICE: 2.0}).order[0] == 1
    turns = rank(rows, {Wish.FORCE: 2.0, Wish.PRICE: 1.0}).turns[Wish.PRICE]
    assert [number for _, number in turns] == [0, 1]
    assert turns[1][0] == pytest.approx(2.1)
    slim = [rows[0], replace(rows[1], code=1)]
    assert rank(slim, {Wish.PRICE: 5.0}).order[0] == 0  # what holds with room comes before what just does


def test_where_nothing_holds_the_limits_that_clash_are_named() -> None:
    """Closed form: 5 sets fall at float alone, 7 at float and price, 2 at seat force alone: without float five are left, and no pair is asked."""
    seen = np.zeros(1 << len(BIT), dtype=np.int64)
    seen[1 << BIT[SetCheck.FLOAT]], seen[1 << BIT[SetCheck.SEAT]] = 5, 2
    seen[1 << BIT[SetCheck.FLOAT] | 1 << BIT[SetCheck.BUDGET]] = 7
    found = ShardResult(seen, (0, 0, 0), (), {}, (), 14)
    assert [(each.checks, each.left) for each in clashes(found)] == [((SetCheck.FLOAT,), 5), ((SetCheck.SEAT,), 2)]
    seen[1 << BIT[SetCheck.FLOAT]] = seen[1 << BIT[SetCheck.SEAT]] = 0
    assert clashes(found)[0].checks == (SetCheck.FLOAT, SetCheck.BUDGET)


def test_a_near_miss_is_saved_by_a_swap_that_the_search_itself_found() -> None:
    record = demo("petrel_1498")
    bench = bench_of(record, Side.EXHAUST)
    tables = Tables(bench, drawn_shelf(record, Side.EXHAUST, SMALL | {Slot.OUTER: 6, Slot.SPRING_SHIM: 3}, 5))
    found = searched(tables, Wishes(budget=500.0))
    misses = near_misses(found)
    assert misses
    for check, miss in misses[:3]:
        assert miss.code == 3
        mask, _ = by_hand(bench, tables, dict(zip(Slot, miss.numbers, strict=True)))
        assert mask & 1 << BIT[check]
        for slot, better in swaps(bench, tables.shelf, Wishes(budget=500.0), miss):
            changed = [n for n, (a, b) in enumerate(zip(miss.numbers, better.numbers, strict=True)) if a != b]
            assert changed == [list(Slot).index(slot)]


def test_parts_that_contradict_themselves_are_left_out_by_name() -> None:
    record = demo("petrel_1498")
    shelf = drawn_shelf(record, Side.EXHAUST, SMALL, 1)
    wrong = Candidate(key="w", record=PartRecord("no lift told", {"duration_1": Figure(4.0)}))
    shelf = Shelf(parts={**shelf.parts, Slot.CAM: (*shelf.parts[Slot.CAM], wrong)})
    tables = Tables(bench_of(record, Side.EXHAUST), shelf)
    assert [(each.slot, each.name) for each in tables.dropped] == [(Slot.CAM, "no lift told")]


def test_every_rule_between_places_of_a_set_narrows_a_search() -> None:
    """Each rule that is about two places, or a place and the head, must find its matrix: a clash of each leaves fewer sets or none."""
    record = demo("petrel_1498")
    tables = Tables(bench_of(record, Side.EXHAUST), drawn_shelf(record, Side.EXHAUST, SMALL, 1))
    assert len(tables.joins.rules) == len(tables.joins.trays) >= 25
    cam = Candidate(
        key="odd",
        record=PartRecord("odd", {"lift": Figure(9e-3), "height_1": Figure(1e-3), "duration_1": Figure(4.1)}, {"drive": "pressed"}),
    )
    told = replace(record, facts={**record.facts, "cam_drive": "bolted"})
    base = drawn_shelf(record, Side.EXHAUST, SMALL, 1).parts
    odd = Tables(bench_of(told, Side.EXHAUST), Shelf(parts={**base, Slot.CAM: (base[Slot.CAM][0], cam)}))
    assert (
        odd.joins.trays[-1].left * 2
        == Tables(bench_of(record, Side.EXHAUST), Shelf(parts={**base, Slot.CAM: (base[Slot.CAM][0], cam)})).joins.trays[-1].left
    )
    assert all(motion[0] == 0 for motion in odd.motions)


def test_a_search_of_stock_parts_alone_warms_the_loops() -> None:
    assert warm() == 1
