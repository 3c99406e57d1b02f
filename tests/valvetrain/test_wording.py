"""Sentences: every number in them is computed, nothing is claimed that the checks do not say."""

from dataclasses import replace

import pytest

from tests.valvetrain.builders import TRIPLE, empty_build, known_build
from valvetrain import wording
from valvetrain.errors import ContradictionError, OutOfRangeError, QuantityError
from valvetrain.parts.catalogue import FIGURES, Owner, of_owner
from valvetrain.parts.figure import Basis, Figure, estimate
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import CheckCode, Verdict
from valvetrain.studies.review.build import MeasureNext, SetupReview, overall, review
from valvetrain.studies.review.next_act import GIVES_UP, NextAct, effort, next_act
from valvetrain.units import FORCE, LENGTH, PRESSURE, RATE, QuantityKind, UnitSystem, amount, bare, quantity


def test_headline_follows_the_worst_verdict() -> None:
    found = review(known_build()).proposed
    for verdict, words in (
        (Verdict.SHORT, "Does not hold the goal yet."),
        (Verdict.UNPROVEN, "Not proven yet."),
        (Verdict.SLIM, "It holds, but only just."),
        (Verdict.HOLDS, "It holds."),
    ):
        assert wording.headline(replace(found, verdict=verdict)) == words


def test_summary_names_what_is_short_by_how_much() -> None:
    found = review(known_build(goal_rpm=170.0, over_rev=175.0)).proposed
    short = [check for check in found.checks if check.verdict is Verdict.SHORT]
    assert short
    for system in UnitSystem:
        said = wording.summary(found, system)
        for check in short:
            way = "short" if check.at_least else "over"
            assert f"{wording.title(check)} is {way} by {quantity(abs(check.margin), check.kind, system)}." in said
    holding = sum(check.verdict is Verdict.HOLDS for check in found.checks)
    assert said[-1] == f"{holding} of {len(found.checks)} checks hold."


def test_good_to_is_a_speed_that_holds() -> None:
    """Assessed again at the speed it is said to be good to, float and piston speed are not short."""
    record = known_build(goal_rpm=160.0, over_rev=160.0)
    found = review(record).proposed
    assert found.good_to is not None
    assert f"{int(found.good_to * 6) * 10:,} rpm" in wording.good_to(found, UnitSystem.METRIC)
    lower = replace(record, goal={**record.goal, "goal_rpm": Figure(found.good_to), "over_rev": Figure(found.good_to)})
    for check in review(lower).proposed.checks:
        if check.code in (CheckCode.FLOAT, CheckCode.PISTON):
            assert check.margin >= -1e-9


def test_a_gap_that_is_short_is_mended_by_no_lower_speed() -> None:
    record = known_build(coil_bind_limit=4e-3)
    found = review(record).proposed
    assert found.good_to is None
    assert wording.good_to(found, UnitSystem.METRIC).startswith("Fewer revs will not fix this")


@pytest.mark.parametrize(
    ("what", "name", "how"),
    [
        ("rate_0", "spring rate", "spring tester"),
        ("load_1", "spring load, inner", "spring tester"),
        ("mass:retainer", "retainer mass", "scale"),
        ("mass:spring 0", "spring mass", "scale"),
        ("goal:back", "back pressure", "tap at the exhaust manifold"),
        ("shape", "the lobe's flank, on a degree wheel", "degree wheel"),
    ],
)
def test_inputs_have_names_and_ways_to_measure(what: str, name: str, how: str) -> None:
    assert wording.input_name(what) == name
    assert how in wording.how_to_measure(what)


def test_every_input_that_can_be_asked_for_has_a_plain_name() -> None:
    """Whatever an unknown engine asks to have measured, no internal key reaches a page."""
    for record in (empty_build(TRIPLE), known_build(boost=0.4e5)):
        found = review(record)
        for each in (found.stock, found.proposed):
            for check in each.checks:
                for what, _ in check.dominant:
                    assert "_" not in wording.input_name(what)
                    assert ":" not in wording.input_name(what)


def test_overall_is_the_worst() -> None:
    checks = list(review(known_build()).proposed.checks)
    for verdicts, worst in (
        ((Verdict.HOLDS, Verdict.SLIM), Verdict.SLIM),
        ((Verdict.UNPROVEN, Verdict.SLIM), Verdict.UNPROVEN),
        ((Verdict.SHORT, Verdict.UNPROVEN), Verdict.SHORT),
    ):
        pair = [replace(check, verdict=verdict) for check, verdict in zip(checks, verdicts, strict=False)]
        assert overall(pair) is worst
    assert isinstance(review(known_build()).stock, SetupReview)


def test_figures_refuse_what_cannot_be() -> None:
    for value, spread in ((float("nan"), 0.0), (1.0, -0.1), (float("inf"), 0.0)):
        with pytest.raises(OutOfRangeError):
            Figure(value, spread)
    assert estimate(2.0, 0.25).spread == 0.5
    assert Figure(1.0, 0.1, Basis.MEASURED).plus(0.5) == Figure(1.5, 0.1, Basis.MEASURED)


@pytest.mark.parametrize("owner", list(Owner))
def test_the_catalogue_is_sound(owner: Owner) -> None:
    """Every figure has a label, an order of bounds and spreads that make sense; measured is never worse than the card."""
    for row in of_owner(owner):
        assert row.label
        assert row.low < row.high
        assert 0.0 <= row.measured_spread <= max(row.card_spread, 0.01)
        row.check((row.low + row.high) / 2)
        with pytest.raises(QuantityError, match="cannot be; it lies between"):
            row.check(row.high * 1.5 + 1e-6)


def test_bounds_are_told_in_the_persons_units() -> None:
    bore = FIGURES[Owner.ENGINE, "bore"]
    with pytest.raises(QuantityError, match=r"37\.7953 in cannot be; it lies between \.7874 and 7\.8740 in"):
        bore.check(0.96, UnitSystem.INCH)
    assert bore.kind is QuantityKind.LENGTH


def test_the_first_sentence_answers_whether_the_valves_follow() -> None:
    """The question of the goal: whether the valves follow to the speed typed, and what holds them back."""
    for speed, words in ((100.0, "follow the cams to 6,000 rpm"), (260.0, "do not follow the cams to 15,600 rpm")):
        found = review(known_build(goal_rpm=speed, over_rev=speed))
        first = wording.summary(found.proposed, UnitSystem.METRIC, speed)[0]
        assert words in first
        assert "lets go between" in first


def test_stock_springs_against_themselves_are_told_as_such() -> None:
    found = review(empty_build(TRIPLE))
    for check in found.proposed.checks:
        if check.code is CheckCode.SEAT:
            assert check.basis == "same spring as stock"
            assert check.spread > 0.0
            assert check.verdict is Verdict.HOLDS


def test_good_to_and_lower_goal_are_one_figure() -> None:
    found = review(known_build(goal_rpm=150.0, over_rev=150.0, reserve=0.1)).proposed
    lower = [remedy.amount for check in found.checks for remedy in check.remedies if remedy.action == "a lower goal"]
    assert lower
    assert found.good_to is not None
    assert min(lower) == pytest.approx(found.good_to, abs=1.0 / 6.0)


def test_measure_next_leaves_out_what_would_change_nothing() -> None:
    """A float short by far more than its doubt is short however well its lobe is known."""
    found = review(known_build(goal_rpm=260.0, over_rev=260.0)).proposed
    short = {check.about for check in found.checks if check.code is CheckCode.FLOAT}
    assert not [item for item in found.measure_next if item.about in short and item.what == "shape"]


@pytest.mark.parametrize(
    ("said", "metric", "inches"),
    [
        (f"leaves {amount(0.12e-3, LENGTH)}.", "leaves 0.12 mm.", "leaves .0047 in."),
        (
            f"from {bare(35e-3, LENGTH)} to {amount(27e-3, LENGTH)} the load falls from {bare(180.0, FORCE)} to {amount(120.0, FORCE)}",
            "from 35.00 to 27.00 mm the load falls from 180 to 120 N",
            "from 1.3780 to 1.0630 in the load falls from 40.5 to 27.0 lbf",
        ),
        (f"{amount(30e3, RATE)} and {amount(0.6e5, PRESSURE, 1)}", "30.0 N/mm and 0.6 bar", "171 lbf/in and 8.7 psi"),
        ("8,400 rpm, 12° and a 6 mm bolt stay", "8,400 rpm, 12° and a 6 mm bolt stay", "8,400 rpm, 12° and a 6 mm bolt stay"),
    ],
)
def test_sentences_of_the_core_in_either_system(said: str, metric: str, inches: str) -> None:
    """NIST SP 811: 1 in = 25.4 mm, 1 lbf = 4.448222 N. Only what is an amount is turned, however it looks."""
    assert wording.told(said, UnitSystem.METRIC) == metric
    assert wording.told(said, UnitSystem.INCH) == inches


def test_a_refusal_prints_in_the_readers_units() -> None:
    error = ContradictionError(f"A gap of {amount(31e-3, LENGTH)} cannot be.")
    assert str(error) == "A gap of 31.00 mm cannot be."
    assert error.told(UnitSystem.INCH) == "A gap of 1.2205 in cannot be."
    assert str(ContradictionError(f"EX 1: {error.sentence}")) == "EX 1: A gap of 31.00 mm cannot be."


def test_a_rigid_answer_says_that_vibration_is_not_in_it() -> None:
    """By hand: float 10 % beyond the goal on both sides, motion known of the intake alone. Only when both are known is it a plain yes."""
    found = review(known_build()).proposed
    floats = [each for each in found.checks if each.code is CheckCode.FLOAT]
    goal = min(each.figure for each in floats) / 1.2
    assert wording.answer(replace(found, checks=tuple(floats)), goal, UnitSystem.METRIC).startswith(
        "As rigid parts, before vibration and surge"
    )
    moved = [replace(each, code=CheckCode.MOTION) for each in floats]
    half = (*floats, moved[0])
    assert wording.answer(replace(found, checks=half), goal, UnitSystem.METRIC).startswith("As rigid parts")
    assert wording.answer(replace(found, checks=(*floats, *moved)), goal, UnitSystem.METRIC).startswith("The valves follow")


def test_three_answers_in_the_order_of_danger() -> None:
    """Whether the valves follow, the seats are held, everything has room; each word for word by its verdict, each number that of its check."""
    found = review(known_build(coil_bind_limit=4e-3)).proposed
    for system in UnitSystem:
        follow, seat, room = wording.three_answers(found, 100.0, system)[:3]
        assert "follow the cams" in follow
        assert "needed" in seat
        assert room.startswith("Not everything has room: ")
        worst = next(check for check in found.checks if check.code is GapKind.COIL_BIND and check.verdict is Verdict.SHORT)
        assert quantity(abs(worst.margin), worst.kind, system).lower() in room
    first = next(check for check in found.checks if check.code is CheckCode.SEAT)
    for verdict, words in (
        (Verdict.HOLDS, "are held:"),
        (Verdict.SLIM, "only just"),
        (Verdict.UNPROVEN, "not proven"),
        (Verdict.SHORT, "is not held"),
    ):
        alone = replace(found, checks=(replace(first, verdict=verdict),))
        assert words in wording.three_answers(alone, 100.0, UnitSystem.METRIC)[-1]


def test_the_next_act_is_a_fix_where_something_is_short_else_the_measurement_that_gains_most_a_minute() -> None:
    short = review(known_build(coil_bind_limit=4e-3)).proposed
    act = next_act(short)
    assert act.check is not None
    assert act.check.verdict is Verdict.SHORT
    assert act.remedy in act.check.remedies
    others = [each for each in act.check.remedies if each.suffices and not each.spoils and each.action not in GIVES_UP]
    assert act.remedy is not None
    assert not others or effort(act.remedy) == min(map(effort, others))
    open_ = replace(short, checks=tuple(replace(each, verdict=Verdict.UNPROVEN) for each in short.checks), measure_next=(
        MeasureNext("shape", "intake", QuantityKind.SPEED, 10.0, 2.0), MeasureNext("mass:valve", "intake", QuantityKind.SPEED, 10.0, 6.0),
    ))  # fmt: skip
    measured = next_act(open_).measure
    assert measured is not None
    assert measured.what == "mass:valve"  # four tenths in 8 minutes beat eight tenths in an hour
    held = replace(short, checks=tuple(replace(each, verdict=Verdict.HOLDS) for each in short.checks))
    assert next_act(held) == NextAct()
    assert next_act(replace(short, checks=())) == NextAct()


def test_one_figure_has_one_name() -> None:
    """The sum of a rigid train and the simulated one are told apart wherever they stand; verdicts are said in words of the bench."""
    assert wording.NAMES[CheckCode.FLOAT] != wording.NAMES[CheckCode.MOTION]
    assert {wording.verdict_word(each) for each in Verdict} == {"holds", "marginal", "not proven", "short"}
    assert wording.verdict_word("something") == "something"
