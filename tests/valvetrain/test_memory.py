"""What is kept by content is what would be worked out anew, whatever was changed before."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from valvetrain.formats import build_file
from valvetrain.memory import Kept, name_of
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Figure
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.studies.gaps import gaps
from valvetrain.studies.review import build as reviews
from valvetrain.studies.review.build import BuildReview, review
from valvetrain.studies.train import assembly

BUILDS = sorted((Path(__file__).parents[2] / "src/rocklash/demo/builds").glob("*.json"))
ALL_KEPT = (reviews._JUDGED, assembly._STOCK, assembly._PROPOSED, gaps._PISTON, gaps._OTHER, gaps._BORE)
Change = Callable[[BuildRecord], BuildRecord]


def _side(record: BuildRecord, name: str, **figures: float) -> BuildRecord:
    """The exhaust side of a set-up with other figures of its first spring."""
    sides = getattr(record, name)
    side = next(side for side in sides if side.value == "exhaust")
    first, *rest = sides[side].springs
    told = {**first.figures, **{key: Figure(value, value * 0.02) for key, value in figures.items()}}
    return replace(record, **{name: {**sides, side: replace(sides[side], springs=(replace(first, figures=told), *rest))}})


def _valve(record: BuildRecord) -> BuildRecord:
    """A larger intake valve, which takes room from its neighbours on the other side too."""
    side = next(iter(record.proposed))
    own = record.proposed[side]
    valve = own.parts.get(Owner.VALVE, PartRecord())
    bigger = replace(valve, figures={**valve.figures, "head_diameter": Figure(0.0262, 1e-5)})
    return replace(record, proposed={**record.proposed, side: replace(own, parts={**own.parts, Owner.VALVE: bigger})})


def _stock_height(record: BuildRecord) -> BuildRecord:
    """The stock exhaust springs stand higher; the proposed ones at that height too, where nothing else is told."""
    side = next(side for side in record.stock if side.value == "exhaust")
    own = record.stock[side]
    taller = replace(own, fit={**own.fit, "installed_height": Figure(36.4e-3, 1e-4)})
    return replace(record, stock={**record.stock, side: taller})


CHANGES: dict[str, Change] = {
    "rate": lambda record: _side(record, "proposed", rate=31e3),
    "stock height": _stock_height,
    "stock rate": lambda record: _side(record, "stock", rate=29e3),
    "goal": lambda record: replace(record, goal={**record.goal, "goal_rpm": Figure(118.0)}),
    "limiter": lambda record: replace(record, engine={**record.engine, "limiter": Figure(115.0)}),
    "valve": _valve,
}


def _forget() -> None:
    for kept in ALL_KEPT:
        kept._found.clear()


def _kept() -> list[dict[str, object]]:
    return [dict(kept._found) for kept in ALL_KEPT]


def _put_back(found: list[dict[str, object]]) -> None:
    _forget()
    for kept, each in zip(ALL_KEPT, found, strict=True):
        kept._found.update(each)  # type: ignore[arg-type]


def _told(found: BuildReview) -> tuple[object, ...]:
    return found.stock, found.proposed, found.room.checks, found.room.how, found.room.counts


@pytest.mark.slow
@pytest.mark.parametrize("path", BUILDS, ids=lambda path: path.stem)
def test_a_change_after_a_change_ends_in_the_same_review(path: Path) -> None:
    """Every pair of changes, with what the record and the first of them left in memory, against a review from nothing."""
    record = build_file.read(path.read_text())
    fresh: list[tuple[BuildRecord, tuple[object, ...]]] = []  # two changes that do not touch one another end alike in either order

    def from_nothing(changed: BuildRecord) -> tuple[object, ...]:
        for before, told in fresh:
            if before == changed:
                return told
        _forget()
        fresh.append((changed, _told(review(changed))))
        return fresh[-1][1]

    _forget()
    review(record)
    at_first = _kept()
    for first, change in CHANGES.items():
        _put_back(at_first)
        once = change(record)
        review(once)
        after = _kept()
        for second in (each for each in CHANGES if each != first):
            twice = CHANGES[second](once)
            _put_back(after)
            assert _told(review(twice)) == from_nothing(twice), (first, second)


def test_a_side_left_alone_is_not_judged_again(monkeypatch: pytest.MonkeyPatch) -> None:
    record = build_file.read(BUILDS[0].read_text())
    review(record)
    judged: list[object] = []
    own = reviews.checks_of_side
    monkeypatch.setattr(reviews, "checks_of_side", lambda *args: judged.append(args[2].value) or own(*args))
    review(CHANGES["rate"](record))
    assert judged == ["exhaust"]


def test_kept_raises_again_and_drops_the_oldest() -> None:
    kept: Kept[int] = Kept(2)
    for _ in range(2):
        with pytest.raises(ZeroDivisionError):
            kept.get("a", lambda: 1 // 0)
    assert [kept.get(name, lambda name=name: ord(name)) for name in "abc"] == [97, 98, 99]
    assert kept.get("c", lambda: 0) == 99
    assert kept.get("a", lambda: 0) == 0
    assert name_of(1, "a") != name_of("1", "a")
