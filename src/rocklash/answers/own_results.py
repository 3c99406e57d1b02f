"""Results for a workshop's own priors, gathered from its records, and what springs that lost load come to."""

import math
import statistics
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from rocklash.answers.calibration import learning_of
from rocklash.answers.hands import pairs_of
from rocklash.answers.own_priors import FIGURES, OwnResult, counting, kept_results, learnt
from rocklash.answers.results import BuildResult, result_of
from rocklash.answers.tester import fits_of_text
from rocklash.answers.wear import trends_of
from rocklash.records.models import Build, Workshop
from rocklash.records.selectors import proof as rows
from rocklash.records.selectors.builds import build_or_404
from rocklash.records.selectors.clearances import sheets_of
from rocklash.records.selectors.springs import rested_on
from valvetrain.errors import ValveTrainError
from valvetrain.parts.figure import Basis
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.checks.assessment import check_float
from valvetrain.studies.proof.own_hand import learn as learn_hand
from valvetrain.studies.proof.own_results import Learned, OwnPrior, told_by
from valvetrain.studies.train.estimates import complete_engine
from valvetrain.studies.train.side_figures import seat_load, weakest
from valvetrain.units import UnitSystem

_MOST_BUILDS, _MOST_RESULTS = 40, 60
_TESTER, _HAND = 0.012, 0.2  # of a load: what two runs of a tester leave open; of a hand's own width. Source: judgement
_LEAST_LOSS, _LEAST_PACE = 0.004, 0.1e-6  # a result at or below zero says so little; it is held there, with a wide doubt
_VAGUE = 0.7

# Gathering. Each result is one engine's side, one spring's log or one hand, so that a head of sixteen valves does not count sixteen times.


def _from_motion(build: Build, answer: BuildResult) -> Iterable[OwnResult]:
    if answer.review is None:
        return
    engine, trade = answer.review.completed.engine, complete_engine(answer.record.kind, answer.record.engine)
    for seen in rested_on(build):
        job = learning_of(answer, seen)
        if job is None or job.result is None or job.result.fits:
            continue
        for what, key in FIGURES.items():
            moved = next((each for each in job.result.learnt if each.name == f"shake:{key}"), None)
            if moved is None or engine[key].basis is not Basis.ESTIMATE:
                continue
            told = told_by(moved.score, 1.0 - moved.narrowed, engine[key].spread / engine[key].value, engine[key].value / trade[key].value)
            if told is not None:
                about = build.engine.gear if what is Learned.STIFFNESS else ""
                words = f"{build.name}, {seen.side}, gave up on {seen.at:%d %b %Y}"
                yield OwnResult(what=what, value=told.value, doubt=told.doubt, words=words, build=build.pk, about=about)


def _from_wear(build: Build, answer: BuildResult) -> Iterable[OwnResult]:
    trends = trends_of(build, answer, sheets_of(build))
    for side in ("exhaust", "intake"):
        mine = [trend for _, place, trend, _ in trends if place == side and trend is not None and len(trend.hours) > 1]
        if not mine:
            continue
        rate = statistics.median(-trend.rate for trend in mine)
        wide = statistics.median((trend.band[1] - trend.band[0]) / 4.0 for trend in mine) / math.sqrt(len(mine))
        value = max(rate, _LEAST_PACE)
        doubt = min(wide / value, 1.5) if rate > _LEAST_PACE else 1.0
        words = f"{build.name}, {side}, {len(mine)} valves over {max(trend.hours[-1] - trend.hours[0] for trend in mine):.0f} h"
        yield OwnResult(what=Learned.RECESSION, value=value, doubt=doubt, words=words, build=build.pk)


def _from_springs(workshop: Workshop) -> Iterable[OwnResult]:
    for part, new, used in rows.spring_pairs(workshop):
        try:
            fresh = fits_of_text(new.text, UnitSystem(new.system))[0]
            run = fits_of_text(used.text, UnitSystem(used.system))
            height = min([fresh.height, *(fit.height for fit in run)])
            was = fresh.load_at(height).value
            lost = 1.0 - statistics.median(fit.load_at(height).value for fit in run) / was
        except (ValveTrainError, ZeroDivisionError, IndexError):
            continue
        value = max(lost, _LEAST_LOSS)
        doubt = _VAGUE if lost <= _LEAST_LOSS else min(_TESTER / value, _VAGUE)
        words = f"{part}, {len(run)} tested on {used.at:%d %b %Y}"
        yield OwnResult(what=Learned.LOAD_LOSS, value=value, doubt=doubt, words=words)


def _from_hands(workshop: Workshop) -> Iterable[OwnResult]:
    for user, name in rows.people_of(workshop):
        hand = learn_hand(pairs_of(workshop, user))
        if hand.used:
            yield OwnResult(what=Learned.BLADE, value=hand.half, doubt=_HAND, words=f"{name}, {hand.pairs} pairs")


def gather(workshop: Workshop) -> dict[Learned, list[OwnResult]]:
    """Every result that the workshop's records hold now; practice copies do not count."""
    found: dict[Learned, list[OwnResult]] = {what: [] for what in Learned}
    for number in rows.telling_builds(workshop, _MOST_BUILDS):
        build = build_or_404(workshop, number)
        answer = result_of(build)
        for result in (*_from_motion(build, answer), *_from_wear(build, answer)):
            found[result.what].append(result)
    for result in (*_from_springs(workshop), *_from_hands(workshop)):
        found[result.what].append(result)
    return found


def joined(workshop: Workshop) -> dict[Learned, list[OwnResult]]:
    """What is kept and what the records hold now: the newer of two with the same words. A result whose working out was thrown away stays."""
    now, kept = gather(workshop), kept_results(workshop)
    return {what: list({row.words: row for row in (*kept[what], *now[what])}.values())[-_MOST_RESULTS:] for what in Learned}


def taken_in(workshop: Workshop) -> dict[str, Any]:
    """What is to be kept with the workshop: every result by figure, switches as they are, on where there was none."""
    own, found = workshop.own, {}
    for what, results in joined(workshop).items():
        key = what.name.lower()
        if results:
            found[key] = {"used": own.get(key, {}).get("used", True), "results": [row.kept() for row in results]}
    return found


@dataclass(frozen=True, kw_only=True)
class Aged:
    """A side once its springs have lost what they usually do: seat load (N) now, then, least and most, and the first float as a part of today's."""

    side: str
    now: float
    then: float
    least: float
    most: float
    part: float


def _weaker(train: TrainSide, part: float) -> TrainSide:
    springs = tuple(
        replace(each, spring=replace(each.spring, load=replace(each.spring.load, value=each.spring.load.value * part)))
        for each in train.springs
    )
    return replace(train, springs=springs)


def aged(build: Build, answer: BuildResult) -> tuple[OwnPrior | None, list[Aged]]:
    """What springs lose, by the workshop's own results (None: by the trade's), and each proposed side with springs that have lost it."""
    prior = counting(build, Learned.LOAD_LOSS)
    if answer.review is None:
        return prior, []
    used, done, found = prior or learnt(Learned.LOAD_LOSS, ()), answer.review.completed, []
    for side, train in done.proposed.sides.items():
        try:
            share = check_float(_weaker(train, 1.0 - used.middle), done.goal).figure / check_float(train, done.goal).figure
        except (ValveTrainError, ZeroDivisionError):
            continue
        now = seat_load(train, weakest(train)).value
        ends = (now * (1.0 - used.high), now * (1.0 - used.low))
        found.append(Aged(side=side.value, now=now, then=now * (1.0 - used.middle), least=ends[0], most=ends[1], part=share))
    return prior, found
