"""Logbook: what it ran, what happened to it, and what is due."""

from typing import Any

from django.utils import timezone

from rocklash.answers.due import rows_of, standing_of
from rocklash.answers.logbook import Meter, log_of, meter_of
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.records.selectors import logbook as rows
from rocklash.stations.logbook import commands
from rocklash.stations.logbook.pages import due, timeline, wear
from valvetrain.errors import ValveTrainError
from valvetrain.studies.logbook.use import PROFILES, Use, of_log, of_profile
from valvetrain.units import told

_SHOWN = 200
_PROFILE = {"road_race": "race", "motocross": "race", "endurance": "race", "drag": "drag", "work": "work", "rescue": "water"}


def _meter(bench: Bench) -> Meter:
    return meter_of(rows.runs_of(bench.build), rows.metered_sheets(bench.build))


@build_page("logbook", "logbook/timeline.html", {"run": commands.KeepRun, "remove": commands.RemoveEntry}, fold=True)
def timeline_view(bench: Bench) -> dict[str, Any]:
    """What it ran and everything that happened, the newest first."""
    build, asked = bench.build, bench.request.GET
    meter = _meter(bench)
    laid = timeline.Rows(
        runs=list(meter.entries), care=rows.care_of(build), sheets=rows.metered_sheets(build), tests=rows.tests_kept(build), jobs=rows.jobs_kept(build),
        findings=rows.findings_kept(build), cases=rows.over_revs_kept(build), visits=rows.shop_visits(build), springs=rows.spring_tests(build),
        lines=rows.journal_lines(build),
    )  # fmt: skip
    place = {"shop": bench.member.workshop.slug, "number": build.pk}
    events = timeline.chosen(timeline.events_of(build, laid, place, bench.system), asked.getlist("kind"), asked.get("q", "")[:80])
    return {
        "hours": f"{meter.hours():.1f}", "passes": meter.passes(), "backwards": meter.backwards, "events": events[:_SHOWN], "more": max(0, len(events) - _SHOWN),
        "kinds": [(key, words, key in asked.getlist("kind")) for key, words in timeline.KINDS], "q": asked.get("q", "")[:80], "form": bench.form(commands.KeepRun),
    }  # fmt: skip


@build_page("logbook", "logbook/due.html", {"care": commands.KeepCare, "remove": commands.RemoveEntry}, fold=True)
def due_view(bench: Bench) -> dict[str, Any]:
    """What is due and what stays."""
    found = standing_of(bench.build, rows_of(bench.build), timezone.localdate())
    return {
        "rows": [due.due_row(row, found.days[row.rule.id]) for row in found.rows],
        "sentence": due.sentence(list(found.rows), found.meter.hours()),
        "trouble": told(found.trouble, bench.system),
    }


def _use_asked(bench: Bench, meter: Meter) -> tuple[Use, dict[str, str], str]:
    """The use that the address asks for: a kept run's log, or a kind with hours and a highest speed; what stands in the fields, and what is wrong."""
    asked, trouble = bench.request.GET, ""
    review = bench.result.review
    goal = review.completed.goal.goal_rpm if review else 100.0
    usual = {
        "profile": _PROFILE.get(bench.build.use, "street"),
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
    logs = [(test.pk, f"{test.name or 'run'}, {test.made_on:%d %b %Y}") for test in rows.logs_of(bench.build)]
    return {
        "page": wear.wear_page(bench.result, use), "typed": typed, "trouble": trouble, "profiles": list(PROFILES), "logs": logs,
        "left_out": use.left_out, "use_hours": f"{use.hours:.2f}", "reached": (60.0 * use.highest, 60.0 * use.highest) if use.highest else None,
    }  # fmt: skip
