"""Nothing that is kept may be without effect: each figure of the catalogue typed on an engine of which nothing is known."""

import math
import re
from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from tests.valvetrain.builders import empty_build
from valvetrain.errors import ContradictionError, ValveTrainError
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.studies.checks.check import CheckCode
from valvetrain.studies.review.build import review
from valvetrain.studies.train.assembly import CompletedBuild, complete
from valvetrain.studies.train.side_figures import seat_load, weakest
from valvetrain.studies.train.spring_told import settle_line

KINDS = (
    EngineKind(1, 2, Gear.DOHC, Follower.FINGER, Adjuster.SHIM_ON_STEM),
    EngineKind(1, 1, Gear.OHC, Follower.ROCKER, Adjuster.SCREW),
    EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND),
)
LBF = 4.4482216152605


def fresh(kind: EngineKind) -> BuildRecord:
    side = SideRecord(springs=(PartRecord("outer"), PartRecord("inner")))
    return replace(empty_build(kind), stock=dict.fromkeys(Side, side), proposed=dict.fromkeys(Side, side))


def typed(record: BuildRecord, owner: Owner, key: str, figure: Figure) -> BuildRecord:
    """The record with one figure typed, on the proposed set-up where it belongs to a part or a fit."""
    if owner is Owner.ENGINE:
        return replace(record, engine={**record.engine, key: figure})
    if owner is Owner.GOAL:
        return replace(record, goal={**record.goal, key: figure})

    def on(side: SideRecord) -> SideRecord:
        if owner is Owner.FIT:
            return replace(side, fit={**side.fit, key: figure})
        if owner is Owner.SPRING:
            first = replace(side.springs[0], figures={**side.springs[0].figures, key: figure})
            return replace(side, springs=(first, *side.springs[1:]))
        part = side.parts.get(owner, PartRecord())
        return replace(side, parts={**side.parts, owner: replace(part, figures={**part.figures, key: figure})})

    return replace(record, proposed={side: on(each) for side, each in record.proposed.items()})


def told(record: BuildRecord) -> str:
    """Every check with its figure, limit, spread and verdict."""
    found = review(record)
    checks = [*found.stock.checks, *found.proposed.checks, *found.room.checks]
    return repr(
        [(c.code, c.about, round(c.figure, 12), round(c.limit, 12), round(c.spread, 12), c.verdict) for c in checks] + [found.piston_limit]
    )


@cache
def before(kind: EngineKind) -> tuple[str, CompletedBuild]:
    return told(fresh(kind)), complete(fresh(kind))


@pytest.mark.parametrize("owner, key", list(FIGURES), ids=str)
def test_a_typed_figure_moves_a_verdict_or_says_where_it_counts(owner: Owner, key: str) -> None:
    row, moved = FIGURES[owner, key], False
    for kind in KINDS:
        was, done = before(kind)
        side = done.proposed_sides[Side.INTAKE]
        own = {Owner.ENGINE: done.engine, Owner.GOAL: done.goal_figures, Owner.FIT: side.fit, Owner.SPRING: side.springs[0]}
        now = own.get(owner, side.parts.get(owner, {})).get(key)
        value = now.value * 1.06 if now and now.value else row.low + 0.3 * (row.high - row.low)
        value = min(max(value, row.low), row.high)
        try:
            moved = told(typed(fresh(kind), owner, key, Figure(value, 0.01 * abs(value), Basis.MEASURED))) != was
        except ValveTrainError as error:
            moved = len(str(error)) > 20  # a sentence why it cannot be
        if moved:
            break
    assert moved or row.counts


def test_a_seat_force_counts_at_once() -> None:
    """180 N typed and nothing else of the spring: 180 N are judged, on either side (it was kept and then ignored)."""
    record = typed(fresh(KINDS[0]), Owner.SPRING, "seat_load", Figure(180.0, 3.6, Basis.MEASURED))
    record = replace(record, proposed={side: replace(each, springs=each.springs[:1]) for side, each in record.proposed.items()})
    for side in complete(record).proposed.sides.values():
        assert seat_load(side, weakest(side)).value == pytest.approx(180.0)
    alone = replace(
        record, proposed={s: replace(e, springs=(PartRecord("s", {"load": Figure(80.0)}),)) for s, e in record.proposed.items()}
    )
    for side in complete(alone).proposed.sides.values():  # as kept before seat forces had a field of their own
        assert seat_load(side, weakest(side)).value == pytest.approx(80.0)


def test_a_kart_spring_known_by_its_load_alone_moves_the_float() -> None:
    """Common practice, no source: springs go by the load on the packet; 18 lbf shut against the class's usual must be felt."""
    kind = EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.LASH_CAP)
    plain = empty_build(kind)
    strong = replace(plain, proposed={s: SideRecord(springs=(PartRecord("18 lb", {"seat_load": Figure(18 * LBF, 2.0)}),)) for s in Side})
    a, b = complete(plain).proposed.sides[Side.INTAKE], complete(strong).proposed.sides[Side.INTAKE]
    assert seat_load(b, weakest(b)).value == pytest.approx(80.07, abs=0.01)
    assert seat_load(a, weakest(a)).value != pytest.approx(80.07, abs=1.0)


def test_seat_force_and_a_load_at_another_height_give_the_rate() -> None:
    """By hand: 180 N at 36 mm and 450 N at 27 mm are 30 N/mm; with 30.6 N/mm typed too, all three are adjusted; 40 cannot be."""
    line = {"seat_load": Figure(180.0, 3.6), "load": Figure(450.0, 9.0), "load_height": Figure(27e-3)}
    found = settle_line(line, 36e-3, 0.0)
    assert (found["load"].value, found["rate"].value) == (pytest.approx(180.0), pytest.approx(30e3))
    assert "load_height" not in found
    three = settle_line({**line, "rate": Figure(30.6e3, 0.6e3)}, 36e-3, 0.0)
    assert 30.0e3 < three["rate"].value < 30.6e3
    assert three["load"].value < 180.0
    assert three["rate"].spread < 0.6e3
    with pytest.raises(ContradictionError, match=r"30\.0 N/mm"):
        settle_line({**line, "rate": Figure(40e3, 0.8e3)}, 36e-3, 0.0)


@pytest.mark.parametrize("seed", [seed if seed < 12 else pytest.param(seed, marks=pytest.mark.slow) for seed in range(48)])
def test_any_figures_together_end_in_verdicts_or_in_a_sentence(seed: int) -> None:
    """What a builder happens to know, in any combination, near to what such engines have: numbers throughout, or what contradicts what."""
    random = np.random.default_rng(seed)
    kind = KINDS[seed % len(KINDS)]
    _, done = before(kind)
    side, record = done.proposed_sides[Side.INTAKE], fresh(kind)
    own = {Owner.ENGINE: done.engine, Owner.FIT: side.fit, Owner.SPRING: side.springs[0], **side.parts}
    keys = [pair for pair in FIGURES if pair[0] in own and pair[1] in own[pair[0]] and own[pair[0]][pair[1]].value > 0.0]
    keys += [(Owner.SPRING, "seat_load")]
    for number in random.choice(len(keys), size=random.integers(2, 9), replace=False):
        owner, key = keys[number]
        value = side.springs[0]["load"].value if key == "seat_load" else own[owner][key].value
        value = float(np.clip(value * math.exp(random.normal(0.0, 0.05)), FIGURES[owner, key].low, FIGURES[owner, key].high))
        record = typed(record, owner, key, Figure(value, 0.02 * value, Basis.CARD))
    try:
        found = review(record)
    except ValveTrainError as error:
        refused = str(error)
    else:
        refused = ""
    if refused:
        assert not re.search(r"\bnan\b|finite|Traceback", refused)
        return
    for check in [*found.stock.checks, *found.proposed.checks]:
        assert all(math.isfinite(value) for value in (check.figure, check.limit, check.margin, check.spread)), check
    assert {CheckCode.FLOAT, CheckCode.SEAT} <= {check.code for check in found.proposed.checks}


def test_seat_force_and_rate_without_a_height() -> None:
    """The two figures a packet usually has; nobody has measured a height yet."""
    kind, force = KINDS[0], Figure(176.0, 3.5, Basis.CARD)
    record = typed(typed(fresh(kind), Owner.SPRING, "seat_load", force), Owner.SPRING, "rate", Figure(21_500.0, 900.0, Basis.CARD))
    spring = complete(record).proposed_sides[Side.INTAKE].springs[0]
    assert (spring["load"].value, spring["rate"].value) == (176.0, 21_500.0)


def test_telling_the_height_leaves_the_seat_force_what_it_is() -> None:
    """176 N at the installed height, then the height as it is measured: the springs are the stock ones, so both set-ups stand there."""
    record = typed(fresh(KINDS[0]), Owner.SPRING, "seat_load", Figure(176.0, 3.5, Basis.CARD))
    record = replace(record, stock=record.proposed)
    for height in (33.1e-3, 36.8e-3):
        done = complete(typed(record, Owner.FIT, "installed_height", Figure(height, 0.1e-3, Basis.MEASURED)))
        for setup in (done.stock, done.proposed):
            side = setup.sides[Side.INTAKE]
            assert side.installed_height.value == height
            first = side.springs[0].spring
            assert first.load.value + first.rate.value * (first.load_height.value - height) == pytest.approx(176.0)
    told_both = replace(record, stock={side: replace(each, fit={"installed_height": Figure(35e-3)}) for side, each in record.stock.items()})
    moved = complete(typed(told_both, Owner.FIT, "installed_height", Figure(34e-3, 0.1e-3, Basis.MEASURED)))
    assert moved.stock.sides[Side.INTAKE].installed_height.value == 35e-3  # a stock height that is told stands
