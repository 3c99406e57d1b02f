"""A job: its plan, the bench, what was found, what helps, when it is done, and what a symptom may mean."""

from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed, JsonResponse
from django.shortcuts import get_object_or_404
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify

from rocklash.answers.job import pace_of, plan_of, school_of, usual_spec
from rocklash.answers.proof import way_heard
from rocklash.commands.base import Outcome, require_change
from rocklash.desk.access import in_shop, on_build
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.desk.papers import inline, paper
from rocklash.records.models import Build, JobDetour, Membership, ProofKind
from rocklash.records.selectors import job as rows
from rocklash.records.selectors.builds import build_or_404, build_row_or_404
from rocklash.records.selectors.proof import tests_of
from rocklash.stations.job.commands import course, findings, helpers, plan
from rocklash.stations.job.pages import at_bench
from rocklash.stations.job.pages import course as course_page
from rocklash.stations.job.pages import findings as findings_page
from rocklash.stations.job.pages import helpers as helpers_page
from rocklash.stations.job.pages import plan as plan_page
from rocklash.stations.job.pages import symptoms as symptoms_page
from rocklash.stations.job.pages.calendar import calendar_of
from valvetrain.studies.job.facts import KIND_WORDS, JobKind
from valvetrain.units import UnitSystem, told

_PLAN = {
    "begin-job": plan.BeginJob, "tick": plan.Tick, "untick": plan.TakeBack, "close": plan.CloseJob, "move": plan.MoveStep, "way": plan.SetWay,
    "trouble": course.StrikeTrouble, "untrouble": course.DropTrouble,
}  # fmt: skip
_COURSE = {
    "promise": course.KeepPromise, "wait": course.AddWait, "got": course.GotWait, "unwait": course.DropWait, "habits": course.KeepHabits,
}  # fmt: skip
_FINDINGS = {
    "finding": findings.KeepFinding, "settle": findings.SettleFinding, "picture": findings.AddFindingPicture,
    "unpicture": findings.RemoveFindingPicture,
}  # fmt: skip


def _rows(build: Build) -> plan_page.JobRows | None:
    job = rows.job_of(build)
    if job is None:
        return None
    return plan_page.JobRows(
        job=job, build=build, ticks=rows.ticks_of(job), overrides=rows.overrides_of(job), detours=rows.detours_of(job), waits=rows.waits_of(job),
        findings=rows.findings_of(build),
    )  # fmt: skip


def _pace(member: Membership) -> tuple[float, int]:
    return pace_of(rows.ticks_to_learn_from(member.workshop))


def _course(found: plan_page.JobRows, member: Membership, pace: tuple[float, int] | None = None) -> course_page.Course:
    pace = pace or _pace(member)
    planned = plan_of(found.job, found.build, found.detours)
    return course_page.course_of(found.job, planned, found.ticks, found.waits, member.workshop, timezone.localtime(), pace)


def _asked(bench: Bench) -> str:
    """The step to look at: the one that was sent, where something of it is left or refused; the first one of a trouble that struck; else the address's."""
    sent = bench.command
    if isinstance(sent, course.StrikeTrouble) and isinstance(bench.made, JobDetour):
        return f"t{bench.made.number}.1"
    if isinstance(sent, plan.TakeBack) or (isinstance(sent, plan.Tick) and not isinstance(sent, plan.MoveStep)):
        return sent.text("key", 12)
    return bench.request.GET.get("step", "")[:12] if sent is None or (bench.outcome and bench.outcome.refused) else ""


@build_page("job", "job/plan.html", _PLAN, fold=True)
def plan_view(bench: Bench) -> dict[str, Any]:
    """The job under way: the way, the step at hand, the head; or a form to begin one."""
    initial = usual_spec(bench.build)
    kind = bench.request.GET.get("kind", "")
    if kind in set(JobKind):
        initial["kind"] = kind
    found = _rows(bench.build)
    form = bench.form(plan.BeginJob, **initial)
    if found is None:
        return {"page": None, "form": form}
    moves_on, dates = isinstance(bench.command, plan.Tick), _course(found, bench.member)
    page = plan_page.plan_page(found, _asked(bench), dates, bench.system, moves_on=moves_on)
    return {"page": page, "form": form, "course": dates, "job": found.job, "earlier": plan_page.earlier(rows.jobs_before(found.job))}


@build_page("job", "job/course.html", _COURSE, fold=True)
def course_view(bench: Bench) -> dict[str, Any]:
    """What it waits for, when it is done, what it costs, what else to do while it is open, and the bench's other jobs."""
    shop, found = bench.member.workshop, _rows(bench.build)
    habits = bench.form(course.KeepHabits, day_hours=shop.day_hours, hour_price=shop.hour_price, **shop.schools)
    if found is None:
        return {"course": None, "habits": habits}
    now, pace = timezone.localtime(), _pace(bench.member)
    promise = bench.form(course.KeepPromise, promised=found.job.promised)
    steps = at_bench.steps_left(found, bench.system)
    offers = at_bench.offers_of(found, shop, rows.prices_of(shop))
    return {
        "course": _course(found, bench.member, pace), "habits": habits, "promise": promise, "wait": bench.form(course.AddWait), "job": found.job,
        "steps": [(step.key, step.act) for step in steps], "offers": offers, "others": _others(bench.member, bench.build.pk, now, pace),
    }  # fmt: skip


def _others(member: Membership, here: int, now: Any, pace: tuple[float, int]) -> list[course_page.BenchLine]:
    asked = []
    for job in rows.open_jobs_of(member.workshop):
        planned = plan_of(job, job.build, rows.detours_of(job))
        if not isinstance(planned, str):
            waits = rows.waits_of(job)
            found = course_page.course_of(job, planned, rows.ticks_of(job), waits, member.workshop, now, pace).found
            asked.append((job, job.build, found.work if found else 0.0, course_page.ready_on(waits)))
    return course_page.bench_of(asked, here, member.workshop, now)


@build_page("job", "job/findings.html", _FINDINGS, fold=True)
def findings_view(bench: Bench) -> dict[str, Any]:
    """What was found, what it means, with pictures."""
    found = findings_page.findings_page(rows.findings_of(bench.build))
    return {
        "found": found,
        "form": bench.form(findings.KeepFinding, valve=bench.request.GET.get("valve", "")),
        "open": sum(not each.settled for each in found),
    }


@build_page("job", "job/valves.html", {"place": findings.KeepPlace}, fold=True)
def valves_view(bench: Bench) -> dict[str, Any]:
    """Which part lies at which valve, where it came from and why."""
    build = bench.build
    names = [place.name for place in build.engine.positions.all()]
    slots = findings_page.slots_of(build)
    page = findings_page.places_page(names, rows.places_of(build), rows.findings_of(build), slots)
    return {"places": page, "names": names, "slots": slots, "ways": findings.WAYS}


@build_page("job", "job/helpers.html", {"helper": helpers.KeepHelper}, fold=True)
def helpers_view(bench: Bench) -> dict[str, Any]:
    """Cam caps, head bolts, air: computed from this build's own springs and sizes."""
    job = rows.job_of(bench.build)
    told_of = job.helper if job else {}
    evenly = school_of(job, "caps") == "evenly" if job else False
    page = helpers_page.helpers_page(bench.result, bench.build, told_of, bench.system, evenly=evenly)
    form = bench.form(helpers.KeepHelper, **helpers_page.shown(told_of, bench.system))
    return {"page": page, "form": form, "job": job}


@build_page("job", "job/symptoms.html", fold=True, reads=True)
def symptoms_view(bench: Bench) -> dict[str, Any]:
    """From a symptom to its causes and the test that tells most."""
    heard = way_heard(tests_of(bench.build, ProofKind.REV, ProofKind.SOUND))
    asked = bench.request.GET.get("symptom", "")
    return {"page": symptoms_page.symptoms_page(asked, bench.request.GET.getlist("said"), *(heard or ()))}


@build_page("job", "job/bench.html", reads=True)
def bench_view(bench: Bench) -> dict[str, Any]:
    """One step at a time in large type; it goes on when the line is cut."""
    found = _rows(bench.build)
    if found is None:
        return {"job": None}
    return {"job": found.job, "bench": at_bench.bench_page(found, bench.request.GET.get("step", ""), bench.system)}


@build_page("job", "job/wall.html", reads=True)
def wall_view(bench: Bench) -> dict[str, Any]:
    """The whole way on paper, with codes that open a step on the phone."""
    found, each = _rows(bench.build), bench.request.GET.get("codes") == "each"
    where = bench.request.build_absolute_uri(bench.request.path.replace("/wall/", "/bench/"))
    kind = KIND_WORDS[JobKind(found.job.kind)] if found else ""
    wall = at_bench.wall_page(found, where, bench.system, each=each) if found else None
    return {"job": found and found.job, "kind": kind, "now": timezone.now(), "wall": wall}


@in_shop
def tick_view(request: HttpRequest, member: Membership, number: int, key: str) -> HttpResponse:
    """A tick from the bench: kept, or a sentence why not; as JSON, so that what was held back can be sent later."""
    build = build_row_or_404(member.workshop, number)
    if request.method != "POST":
        return HttpResponseNotAllowed(["POST"])
    require_change(member)
    kind = plan.TakeBack if request.POST.get("act") == "untick" else plan.Tick
    outcome: Outcome = kind(member, build, _with_key(request, key)).run()
    sentence = told(outcome.sentence, UnitSystem(member.user.unit_system))
    return JsonResponse({"state": outcome.state, "sentence": sentence}, status=outcome.status)


def _with_key(request: HttpRequest, key: str) -> Any:
    sent = request.POST.copy()
    sent["key"] = key
    return sent


@on_build
def picture(request: HttpRequest, member: Membership, build: Build, picture: int) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """One picture, to nobody but the members of its workshop."""
    row = get_object_or_404(rows.finding_pictures_of(build), pk=picture)
    answer = HttpResponse(bytes(row.data), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=3600"
    return answer


@on_build
def report(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """What was found, for the owner, as PDF with its pictures."""

    def lay_out() -> str:
        found = findings_page.findings_page(rows.findings_of(build))
        pictures = inline(rows.finding_pictures_of(build))
        context = {"build": build, "member": member, "found": found, "pictures": pictures, "now": timezone.now(), "job": rows.job_of(build)}
        return render_to_string("job/report.html", context, request=request)

    return paper(request, member, build, lay_out, name="findings", making="job/making.html")


@in_shop
def dates_file(request: HttpRequest, member: Membership, number: int) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """Waits, finish and promised day as iCalendar."""
    build = build_or_404(member.workshop, number)
    found = _rows(build)
    text = calendar_of(
        build.name, found.job if found else None, found.waits if found else [], _course(found, member) if found else None, timezone.now()
    )
    answer = HttpResponse(text, content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(build.name) or "build"}-job.ics"'
    return answer
