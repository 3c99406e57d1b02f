"""Forecasts against results, own hand, and what the tests at hand would tell, as view-models."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.answers.proof import Anchor, as_scored, foretell, way_heard
from rocklash.answers.results import BuildResult
from rocklash.records.models import Forecast, ProofKind, ProofTest
from rocklash.ui.drawings.forecast import ForecastBar
from valvetrain.errors import OutOfRangeError, QuantityError
from valvetrain.quantities import parse
from valvetrain.studies.job.symptoms import heard_odds
from valvetrain.studies.proof import planner, score
from valvetrain.studies.proof.own_hand import Hand, Pair, learn, zero_of
from valvetrain.units import QuantityKind, UnitSystem, quantity
from valvetrain.wording import proof as wording

USUAL_ODDS: Mapping[str, float] = {"float": 0.35, "clearance": 0.15, "fuel": 0.20, "spark": 0.20, "limiter": 0.10}


@dataclass(frozen=True, kw_only=True)
class ForecastRow:
    """One forecast with its result."""

    words: str
    middle: str
    band: str
    result: str
    verdict: str
    bar: ForecastBar
    when: str
    rests_on: str


@dataclass(frozen=True, kw_only=True)
class ScoreRow:
    """One kind of forecast over the workshop."""

    kind: str
    held: str
    between: str
    bias: str
    narrow: bool


@dataclass(frozen=True, kw_only=True)
class TestRow:
    """One test at hand: what it tells for its time, and each outcome's likelihood by cause."""

    key: str
    words: str
    minutes: str
    money: str
    takes: str
    about_float: str
    share: int
    outcomes: list[tuple[str, list[tuple[str, str]]]]
    foretold: str
    made: bool
    own: bool
    cost: tuple[str, str]


def _row(row: Forecast, system: UnitSystem) -> ForecastRow:
    kind = QuantityKind(row.unit)
    scored = as_scored(row)
    verdict = ""
    if row.result is not None:
        verdict = "inside" if scored.inside else "above" if row.result > row.high else "below"
    return ForecastRow(
        words=row.words, middle=quantity(row.middle, kind, system), band=f"{quantity(row.low, kind, system)} to {quantity(row.high, kind, system)}",
        result=quantity(row.result, kind, system) if row.result is not None else "", verdict=verdict, bar=ForecastBar(scored.place),
        when=f"{localtime(row.at):%d %b %Y}", rests_on=row.rests_on,
    )  # fmt: skip


def forecast_rows(rows: list[Forecast], system: UnitSystem) -> list[ForecastRow]:
    """Forecasts of a build, newest first."""
    return [_row(row, system) for row in rows]


def score_rows(rows: list[score.Forecast]) -> tuple[list[ScoreRow], str]:
    """Scores of the workshop by kind, and the sentence over all."""
    scores = score.by_kind(rows)
    told = [
        ScoreRow(
            kind=each.kind, held=f"{each.held} of {each.count}", between=f"{100 * each.low:.0f} to {100 * each.high:.0f} in 100",
            bias="about right" if abs(each.bias) < 0.25 else "the model says too little" if each.bias > 0 else "the model says too much",
            narrow=each.too_narrow,
        )
        for each in scores
    ]  # fmt: skip
    return told, wording.score_sentence(scores)


def hand_of_member(pairs: list[Pair]) -> tuple[Hand, list[tuple[str, str, str, str]], int]:
    """A person's hand with its pairs as text (valve, promised, read, difference) and how many of another hand there are."""
    rows = [
        (each.valve, f"{each.promised * 1e3:.3f}", f"{each.read * 1e3:.3f}", f"{each.error * 1e3:+.3f}".replace("-", "\N{MINUS SIGN}"))
        for each in reversed(pairs[-12:])
    ]
    return learn(pairs), rows, sum(pair.other_hand for pair in pairs)


def odds_from(tests: list[ProofTest], typed: Mapping[str, str]) -> tuple[dict[str, float], list[str]]:
    """Odds of the causes before the next test: typed ones, else the usual ones moved by what was heard and seen; with what moved them."""
    told = {cause: typed.get(f"odds-{cause}", "").replace("%", "").replace(",", ".").strip() for cause in planner.CAUSES}
    numbers = {cause: float(text) for cause, text in told.items() if text.replace(".", "", 1).isdigit()}
    if numbers and sum(numbers.values()) > 0.0:
        whole = sum(numbers.values())
        return {cause: numbers.get(cause, 0.0) / whole for cause in planner.CAUSES}, ["as typed"]
    heard = way_heard(tests)
    if heard is None:
        return dict(USUAL_ODDS), ["usual odds: nothing is measured yet"]
    return heard_odds(USUAL_ODDS, heard[0]), [f"usual odds, moved by the {heard[1][0].lower()}{heard[1][1:]}"]


def made_already(tests: list[ProofTest], *, clearances: bool) -> set[str]:
    """Tests of the list that were made: another recording of the same tells little anew."""
    made = {"sound"} if any(test.kind == ProofKind.SOUND for test in tests) else set()
    return made | ({"clearances"} if clearances else set())


def told_beforehand(moves: Mapping[str, tuple[float, float, str]], standing: list[tuple[str, str]]) -> dict[str, str]:
    """What each test would show if the valves float, before it is made."""
    found = {"sound": "; ".join(f"{words}: {band}" for words, band in standing if "float" in words)}
    for key, (now, then, side) in moves.items():
        found[key] = (
            f"from {60 * now:,.0f} to some {60 * then:,.0f} rpm, {60 * (then - now):+,.0f}, on the {side} side; no change speaks for another cause"
        )
    return {key: words for key, words in found.items() if words}


def block_words(typed: Mapping[str, str], system: UnitSystem) -> str:
    """What readings of a block of known size tell of the instrument; empty where nothing was typed."""
    size, readings = typed.get("size", "").strip(), typed.get("readings", "").split()
    if not size or not readings:
        return ""
    try:
        known = parse(size, QuantityKind.LENGTH, system).value
        found = zero_of([parse(each, QuantityKind.LENGTH, system).value for each in readings[:20]], known)
    except (QuantityError, OutOfRangeError) as error:
        return error.told(system)
    finer = 4 if system is UnitSystem.METRIC else 5
    zero, doubt = (quantity(value, QuantityKind.LENGTH, system, finer) for value in (found.zero, 2.0 * found.uncertainty))
    if not found.told:
        return f"It reads {zero} off, give or take {doubt}: too little to tell from zero."
    return f"It reads {zero} {'too much' if found.zero > 0 else 'too little'}, give or take {doubt}: take it off, or set the instrument."


def planner_rows(
    known: Sequence[planner.RevTest], odds: Mapping[str, float], hour: float, foretold: Mapping[str, str], made: set[str], own: set[str]
) -> list[TestRow]:  # fmt: skip
    """Tests by what they tell an hour; those made already stand at the end; `own` names those with a table of the workshop's own."""
    ranked = sorted(planner.rank(odds, hour, known), key=lambda each: each.test.key in made)
    top = max(each.an_hour for each in ranked) or 1.0
    open_ = planner.entropy(list(odds.values())) or 1.0
    float_open = planner.entropy([odds["float"], 1.0 - odds["float"]]) or 1.0
    return [
        TestRow(
            key=each.test.key, words=each.test.words, minutes=f"{each.test.minutes:.0f} min", money=f"{each.test.money:.0f}" if each.test.money else "nothing",
            takes=f"{100 * each.bits / open_:.0f} %", about_float=f"{100 * each.about_float / float_open:.0f} %", share=max(1, round(100 * each.an_hour / top)),
            outcomes=[
                (outcome.words, [(f"p-{number}-{cause}", f"{100 * part:.0f}") for cause, part in zip(planner.CAUSES, outcome.under, strict=True)])
                for number, outcome in enumerate(each.test.outcomes)
            ],
            foretold=foretold.get(each.test.key, ""), made=each.test.key in made, own=each.test.key in own,
            cost=(f"{each.test.minutes:g}", f"{each.test.money:g}"),
        )
        for each in ranked
    ]  # fmt: skip


def standing(answer: BuildResult, anchors: Mapping[str, Anchor], system: UnitSystem) -> list[tuple[str, str]]:
    """What the model says now, words and band."""
    return [
        (
            each.words,
            f"{quantity(each.middle, each.unit, system)}, {quantity(each.low, each.unit, system)} to {quantity(each.high, each.unit, system)}",
        )
        for each in foretell(answer, anchors)
    ]
