"""Logbook: what it ran, what happened to it, and what is due."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.http import urlencode

from rocklash.answers.due import part_hours, rows_of, spring_seasons, standing_kept
from rocklash.answers.logbook import Meter, log_of, logs_told, meter_of
from rocklash.answers.strain import profile_of
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.desk.papers import inline, paper
from rocklash.records.models import Build, Membership
from rocklash.records.selectors import logbook as rows
from rocklash.records.selectors.due import typed_rules
from rocklash.stations.logbook.commands import due as due_commands
from rocklash.stations.logbook.commands import entries
from rocklash.stations.logbook.pages import due, parts, timeline, wear
from valvetrain.errors import ValveTrainError
from valvetrain.studies.logbook.use import PROFILES, Use, of_log, of_profile
from valvetrain.units import told

_SHOWN = 60


def _meter(bench: Bench, laid: timeline.Rows | None = None) -> Meter:
    """By all sheets and runs; the sheets of the line are all there are where it holds no more than it shows."""
    whole = laid is not None and len(laid.sheets) <= _SHOWN
    return meter_of(rows.runs_of(bench.build), laid.sheets if laid and whole else rows.metered_sheets(bench.build))


def _laid(build: Build, most: int = rows.MOST) -> timeline.Rows:
    """All that is laid on the line, the newest of each kind."""
    return timeline.Rows(
        runs=rows.run_entries(build, most), care=rows.care_of(build, most), sheets=rows.metered_sheets(build, most), tests=rows.proof_tests_kept(build, most),
        jobs=rows.jobs_kept(build, most), findings=rows.findings_kept(build, most), cases=rows.over_revs_kept(build, most),
        visits=rows.shop_visits(build, most), springs=rows.spring_tests(build, most), lines=rows.journal_lines(build, 2 * most),
        notes=rows.notes_kept(build, most),
    )  # fmt: skip


def _events(bench: Bench, laid: timeline.Rows) -> list[timeline.Event]:
    return timeline.events_of(bench.build, laid, {"shop": bench.member.workshop.slug, "number": bench.build.pk})


@on_build
def picture(request: HttpRequest, member: Membership, build: Build, picture: int) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """One picture, to nobody but the members of its workshop."""
    answer = HttpResponse(bytes(rows.picture_or_404(build, picture).data), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=3600"
    return answer


@on_build
def history(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """An engine's history for its next owner, as PDF: what was measured apart from what was done and what was told. Whose engine it was is left out."""

    def lay_out() -> str:
        bench = Bench(request, member, build)
        laid, meter = _laid(build), _meter(bench)
        told = timeline.history_of(_events(bench, laid), laid.runs)
        context = {
            "build": build, "member": member, "history": told, "hours": f"{meter.hours():.1f}", "passes": meter.passes(), "now": timezone.now(),
            "pictures": inline(rows.pictures_kept(build)), "backwards": meter.backwards, "theme": "light",
        }  # fmt: skip
        return render_to_string("logbook/history.html", context, request=request)

    return paper(request, member, build, lay_out, name="history", making="logbook/making.html")


_LINE = {
    "run": entries.KeepRun, "remove": entries.RemoveEntry, "note": entries.AddNote, "unnote": entries.RemoveNote, "picture": entries.AddNotePicture,
}  # fmt: skip


@build_page("logbook", "logbook/timeline.html", _LINE, fold=True)
def timeline_view(bench: Bench) -> dict[str, Any]:
    """What it ran and everything that happened, the newest first."""
    asked = bench.request.GET
    kinds, words = asked.getlist("kind"), asked.get("q", "")[:80]
    whole = bool(kinds or words or asked.get("all"))
    laid = _laid(bench.build, rows.MOST if whole else _SHOWN + 1)
    events, meter = timeline.chosen(_events(bench, laid), kinds, words), _meter(bench, laid)
    shown = len(events) if asked.get("all") else _SHOWN
    return {
        "hours": f"{meter.hours():.1f}", "passes": meter.passes(), "backwards": meter.backwards, "events": events[:shown], "more": len(events) > shown,
        "kinds": [(key, words, key in asked.getlist("kind")) for key, words in timeline.KINDS], "q": asked.get("q", "")[:80], "form": bench.form(entries.KeepRun),
        "note_form": bench.form(entries.AddNote), "whole_query": urlencode([("q", words), *(("kind", kind) for kind in kinds), ("all", "yes")]),
    }  # fmt: skip


_DUE = {"care": entries.KeepCare, "remove": entries.RemoveEntry, "rule": due_commands.KeepRule, "unrule": due_commands.DropRule}


@build_page("logbook", "logbook/due.html", _DUE, fold=True)
def due_view(bench: Bench) -> dict[str, Any]:
    """What is due and what stays."""
    found = standing_kept(bench.build, timezone.localdate())
    return {
        "rows": [due.due_row(row, found.days[row.rule.id]) for row in found.rows],
        "sentence": due.sentence(list(found.rows), found.meter.hours()),
        "trouble": told(found.trouble, bench.system),
        "typed": typed_rules(bench.member.workshop, bench.build),
        "form": bench.form(due_commands.KeepRule),
    }


@build_page("logbook", "logbook/parts.html", {"start": entries.KeepStart}, fold=True)
def parts_view(bench: Bench) -> dict[str, Any]:
    """Hours of each part, springs over seasons, and what a season costs."""
    kept, today = rows_of(bench.build), timezone.localdate()
    meter = meter_of(kept.runs, kept.sheets)
    mine = part_hours(bench.build, meter, kept.starts, today)
    over = [row.part.name for row in mine if row.since and row.left is not None and row.left <= 0.0]
    words = f"Past its own service hours: {', '.join(dict.fromkeys(over))}." if over else "No part is past its own service hours."
    return {
        "parts": [parts.part_row(row) for row in mine], "today": today.isoformat(), "cost": parts.cost_page(bench.request.GET.dict()),
        "springs": parts.season_rows(spring_seasons(meter, mine, kept.logs), bench.system),
        "heights": parts.height_rows(rows.heights_noted(bench.build), meter, bench.system),
        "sentence": f"The engine has {meter.hours(today):.1f} h. {words}",
    }  # fmt: skip


def _use_asked(bench: Bench, meter: Meter) -> tuple[Use, dict[str, str], str]:
    """The use that the address asks for: a kept run's log, or a kind with hours and a highest speed; what stands in the fields, and what is wrong."""
    asked, trouble = bench.request.GET, ""
    review = bench.result.review
    goal = review.completed.goal.goal_rpm if review else 100.0
    usual = {
        "profile": profile_of(bench.build),
        "hours": f"{meter.hours() or 10.0:.1f}",
        "highest": f"{60.0 * goal:.0f}",
        "log": "",
    }
    typed = {key: asked.get(key, usual[key])[:20] for key in usual}
    try:
        if typed["log"].isdigit() and len(typed["log"]) < 12:
            return of_log(*log_of(bench.build, int(typed["log"]))), typed, ""
        hours, highest = (float(typed[key].replace(",", ".")) for key in ("hours", "highest"))
        return of_profile(typed["profile"], hours, highest / 60.0), typed, ""
    except ValueError:
        trouble = "Write hours as 40 and the highest speed in rpm as 9500."
    except ValveTrainError as error:
        trouble = error.told(bench.system)
    return of_profile(usual["profile"], float(usual["hours"]), goal), typed, trouble


@build_page("logbook", "logbook/wear.html", fold=True)
def wear_view(bench: Bench) -> dict[str, Any]:
    """What a use takes out of springs and seats."""
    use, typed, trouble = _use_asked(bench, _meter(bench))
    logs = logs_told(bench.build)
    return {
        "page": wear.wear_page(bench.result, use), "typed": typed, "trouble": trouble, "profiles": list(PROFILES), "logs": logs,
        "left_out": use.left_out, "use_hours": f"{use.hours:.2f}", "reached": (60.0 * use.highest, 60.0 * use.highest) if use.highest else None,
    }  # fmt: skip
