"""Proof: what the engine did before and after, and what that teaches."""

from functools import partial
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.text import slugify

from rocklash.answers import stand_ins
from rocklash.answers.clearances import statuses
from rocklash.answers.failure import highest_known, witnesses_of
from rocklash.answers.hands import pairs_of, promises_of
from rocklash.answers.own_priors import is_used, kept_results, prior_of
from rocklash.answers.own_results import aged
from rocklash.answers.proof import anchors_of, as_scored, firing_trouble, newest, usual_top, would_move
from rocklash.answers.proof_files import samples_in
from rocklash.desk.access import in_shop, on_build
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.desk.papers import inline, paper
from rocklash.records.models import Build, Membership, ProofKind
from rocklash.records.selectors import proof as rows
from rocklash.records.selectors.builds import build_row_or_404
from rocklash.records.selectors.clearances import sheets_of
from rocklash.records.selectors.job import finding_pictures_of, findings_of
from rocklash.records.selectors.room import over_revs_of
from rocklash.records.selectors.springs import rested_on
from rocklash.stations.proof.commands import forecasts, own_results, tests
from rocklash.stations.proof.commands import planner as plan
from rocklash.stations.proof.pages import cylinders, failure, glance, learn, own, pulls, runs
from valvetrain.errors import OutOfRangeError
from valvetrain.studies.proof import planner
from valvetrain.studies.proof.air import Standard
from valvetrain.studies.proof.evidence import CANNOT_KNOW
from valvetrain.units import QuantityKind, UnitSystem, quantity
from valvetrain.wording import proof as wording

_CYLINDERS = {
    "compression": tests.KeepCompression, "leak": tests.KeepLeak, "light": tests.KeepLight, "starter": tests.KeepStarter, "remove": tests.RemoveTest,
}  # fmt: skip
_PULLS = {"rev": tests.KeepRev, "sound": tests.KeepSound, "anchor": tests.AnchorTo, "heard": tests.TakeFound, "remove": tests.RemoveTest}
_RUNS = {"run": tests.KeepRun, "heard": tests.TakeFound, "remove": tests.RemoveTest}
_THROTTLE = {"vacuum": tests.KeepVacuum, "remove": tests.RemoveTest}
_FAILURE = {"failure": tests.KeepFailure}
_LEARN = {"take-in": own_results.TakeIn, "use": own_results.UseResults}
_STATES = {"seen": "there", "absent": "not there"}


def _tight(bench: Bench) -> tuple[int, ...]:
    """Cylinders with a clearance below its range, from the newest sheet."""
    found = statuses(bench.build, bench.session, bench.result)
    return tuple(sorted({row.position.cylinder for row in found if row.state == "tight"}))


def _working(bench: Bench, kind: ProofKind) -> list[pulls.Working]:
    """Files of this kind that are being worked out, each begun if it is not yet."""
    return [pulls.working_of(test, tests.tell_work(test), bench.system) for test in rows.pending_of(bench.build, kind)]


@build_page("proof", "proof/glance.html", {"foretell": forecasts.MakeForecasts}, fold=True)
def glance_view(bench: Bench) -> dict[str, Any]:
    """The answer first, what is measured before and after, forecasts and their results."""
    found, told = rows.tests_of(bench.build), rows.forecasts_of(bench.build)
    page = runs.runs_page([test for test in found if test.kind == ProofKind.RUN], [], "", bench.result, bench.system)
    place = {"shop": bench.member.workshop.slug, "number": bench.build.pk}
    return {
        "page": glance.glance(found, told, page.sentence, place), "bores": cylinders.bores_of(bench.build, found, bench.result, bench.system),
        "measured": pulls.on_the_ladder(found), "plots": page.plots, "forecasts": learn.forecast_rows(told, bench.system), "standing": learn.standing(bench.result, anchors_of(bench.build, bench.result), bench.system),
    }  # fmt: skip


@build_page("proof", "proof/cylinders.html", _CYLINDERS, fold=True)
def cylinders_view(bench: Bench) -> dict[str, Any]:
    """Compression, leak-down, light, starter current."""
    found, tight = rows.tests_of(bench.build), _tight(bench)
    return {
        "tests": cylinders.views_of(found, bench.result, bench.system, tight),
        "bores": cylinders.bores_of(bench.build, found, bench.result, bench.system, tight), "compression": bench.form(tests.KeepCompression),
        "leak": bench.form(tests.KeepLeak), "starter": bench.form(tests.KeepStarter), "valves": list(bench.build.engine.positions.all()),
        "firing_trouble": firing_trouble(bench.build), "expected": cylinders.expected_words(bench.result, bench.system),
    }  # fmt: skip


@build_page("proof", "proof/pulls.html", _PULLS, fold=True)
def pulls_view(bench: Bench) -> dict[str, Any]:
    """Where it gave up, by tachometer and by ear."""
    found, seen = rows.tests_of(bench.build, ProofKind.REV, ProofKind.SOUND), rested_on(bench.build)
    return {
        "working": _working(bench, ProofKind.SOUND),
        "tests": [pulls.view_of(test, seen) for test in reversed(found)], "difference": pulls.difference(found), "rev": bench.form(tests.KeepRev),
        "sound": bench.form(tests.KeepSound), "looks": pulls.LOOKS, "firing_trouble": firing_trouble(bench.build),
        "measured": pulls.on_the_ladder(found), "usual_top": f"{60 * usual_top(bench.result):,.0f}",
    }  # fmt: skip


@build_page("proof", "proof/runs.html", _RUNS, fold=True)
def runs_view(bench: Bench) -> dict[str, Any]:
    """Dyno and logger runs, laid over one another."""
    found = rows.tests_of(bench.build, ProofKind.RUN)
    asked = [int(each) for each in bench.request.GET.getlist("run") if each.isdigit() and len(each) < 12]
    page = runs.runs_page(found, asked, bench.request.GET.get("standard", ""), bench.result, bench.system)
    file = rows.file_of(found[-1]) if found else None
    where = reverse("proof-samples", kwargs={"shop": bench.member.workshop.slug, "number": bench.build.pk})
    return {
        "working": _working(bench, ProofKind.RUN), "samples_url": f"{where}?{urlencode([('run', number) for number in page.asked])}",
        "page": page, "form": bench.form(tests.KeepRun), "mapping": runs.mapping_of(file), "in_use": runs.gears_words(bench.result),
        "standards": [each.value for each in Standard],
    }  # fmt: skip


@build_page("proof", "proof/throttle.html", _THROTTLE, fold=True)
def throttle_view(bench: Bench) -> dict[str, Any]:
    """Vacuum at full throttle."""
    found = rows.tests_of(bench.build, ProofKind.VACUUM)
    return {
        "limits": runs.vacuum_limits(bench.system),
        "tests": [runs.vacuum_view(test, bench.build, bench.system) for test in reversed(found)],
        "form": bench.form(tests.KeepVacuum),
    }


@build_page("proof", "proof/next.html", {"table": plan.KeepTable}, fold=True)
def next_view(bench: Bench) -> dict[str, Any]:
    """Which test tells most for its time and money."""
    found = rows.tests_of(bench.build, ProofKind.REV, ProofKind.SOUND)
    odds, why = learn.odds_from(found, bench.request.GET)
    shop = bench.member.workshop
    shop.refresh_from_db(fields=["rev_tests"])
    hour = float(shop.hour_price or 0)
    observed = tests.speed_of(found[-1])[0] if found else None
    foretold = learn.told_beforehand(
        would_move(bench.result, observed), learn.standing(bench.result, anchors_of(bench.build, bench.result), bench.system)
    )
    made = learn.made_already(found, clearances=bench.session is not None and bench.session.signed_at is not None)
    return {
        "rows": learn.planner_rows(plan.tests_of_shop(shop), odds, hour, foretold, made, set(shop.rev_tests)), "cause_keys": planner.CAUSES, "why": why, "hour": hour, "causes": [planner.CAUSE_WORDS[cause] for cause in planner.CAUSES],
        "odds": [(cause, planner.CAUSE_WORDS[cause], f"{100 * odds[cause]:.0f}") for cause in planner.CAUSES],
    }  # fmt: skip


@build_page("proof", "proof/learn.html", _LEARN, fold=True)
def learn_view(bench: Bench) -> dict[str, Any]:
    """What bands were worth over the workshop, and one's own hand."""
    scores, sentence = learn.score_rows(
        [as_scored(row) for row in rows.told_forecasts(bench.member.workshop)] + promises_of(bench.member.workshop)
    )
    hand, pairs, other = learn.hand_of_member(pairs_of(bench.member.workshop, bench.member.user_id))
    zero_told = learn.block_words(bench.request.GET, bench.system)
    shop = bench.member.workshop
    shop.refresh_from_db(fields=["own"])
    return {
        "own": own.own_rows(kept_results(shop), partial(is_used, shop), lambda what, about: prior_of(shop, what, about=about), bench.system),
        "has_own": bool(shop.own), "aged": own.aged_words(*aged(bench.build, bench.result), bench.system),
        "zero_told": zero_told, "typed_block": bench.request.GET,
        "scores": scores, "sentence": sentence, "hand": hand, "hand_words": wording.hand_sentence(hand), "pairs": pairs, "other": other,
        "blade": quantity(hand.blade, QuantityKind.LENGTH, bench.system),
        "slips": [(each.valve, quantity(each.error, QuantityKind.LENGTH, bench.system)) for each in hand.slips],
    }  # fmt: skip


def _failure(bench: Bench) -> dict[str, Any]:
    """Marks and suspects of the newest sheet, at the speed it tells or else the highest on record."""
    found = rows.tests_of(bench.build)
    latest = newest(found, ProofKind.FAILURE)
    typed = latest.conditions.get("reached") if latest else None
    known = highest_known(found, over_revs_of(bench.build))
    reached = typed or (known[0] if known else None)
    witnesses = witnesses_of(bench.build, bench.result, sheets_of(bench.build), reached) if latest else ()
    top = 60 * reached if reached else None
    return {
        "marks": failure.mark_rows(latest), "suspects": failure.suspects_of(latest, witnesses, bench.system), "cannot_know": CANNOT_KNOW,
        "log_reached": f"{60 * typed:,.0f}" if typed else "", "known": f"{60 * known[0]:,.0f} rpm, {known[1]}" if known and not typed else "",
        "reached": (top, top) if top and latest else None,
    }  # fmt: skip


@build_page("proof", "proof/failure.html", _FAILURE, fold=True)
def failure_view(bench: Bench) -> dict[str, Any]:
    """After a failure: marks, odds, what speaks against, what nobody can know."""
    return _failure(bench)


@on_build
def report_view(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """The same as PDF, with what was found on the parts and its pictures."""

    def lay_out() -> str:
        bench = Bench(request, member, build)
        shown = _failure(bench)
        told = [(words, _STATES[state]) for _, words, state in shown["marks"] if state]
        context = {
            **shown, "build": build, "member": member, "now": timezone.now(), "marks": told, "found": failure.found_rows(findings_of(build)),
            "pictures": inline(finding_pictures_of(build)),
        }  # fmt: skip
        return render_to_string("proof/report.html", context, request=request)

    return paper(request, member, build, lay_out, name="after-a-failure", making="proof/making.html")


@on_build
def working_view(request: HttpRequest, member: Membership, build: Build, test: int) -> HttpResponse:
    """How far the working out of one file is; nothing of one that was left out while it was asked for."""
    try:
        row = rows.any_test_or_404(build, test)
    except Http404:
        return HttpResponse(status=204)
    page = "proof-pulls" if row.kind == ProofKind.SOUND else "proof-runs"
    action = reverse(page, kwargs={"shop": member.workshop.slug, "number": build.pk})
    shown = pulls.working_of(row, tests.tell_work(row), UnitSystem(member.user.unit_system)) if rows.PENDING in row.found else None
    return render(request, "proof/working_one.html", {"t": shown, "action": action, "member": member, "build": build})


@in_shop
def file_view(request: HttpRequest, member: Membership, number: int, test: int) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """The file that a test came as, as it came."""
    build = build_row_or_404(member.workshop, number)
    row = rows.any_test_or_404(build, test)
    file = rows.file_of(row)
    if file is None:
        raise Http404("This test came as no file.")
    sound = row.kind == ProofKind.SOUND
    answer = HttpResponse(rows.unpacked(file), content_type="audio/wav" if sound else "text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(build.name)}-{row.kind}-{row.pk}.{"wav" if sound else "csv"}"'
    return answer


@in_shop
def samples_view(request: HttpRequest, member: Membership, number: int) -> JsonResponse:
    """Every sample of the runs asked for, as measured, for the plot that is looked into."""
    build = build_row_or_404(member.workshop, number)
    asked = [int(each) for each in request.GET.getlist("run") if each.isdigit() and len(each) < 12][: runs.MOST_LAID]
    lines = []
    for test in rows.tests_of(build, ProofKind.RUN):
        file = rows.file_of(test) if test.pk in asked else None
        if file is not None:
            lines.append((test.name, *samples_in(rows.unpacked(file), file.columns, file.units, test.found)))
    return JsonResponse(runs.plot_data(lines))


@in_shop
def stand_in_view(request: HttpRequest, member: Membership, number: int, what: str) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """A file as a meter, a phone or a dyno would give it of this engine: simulated, to try the page with."""
    build = build_row_or_404(member.workshop, number)
    try:
        body, kind, name = stand_ins.file_of(what, build.engine.cylinders)
    except OutOfRangeError as error:
        raise Http404(str(error)) from error
    answer = HttpResponse(body, content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="simulated-{name}"'
    return answer
