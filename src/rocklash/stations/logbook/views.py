"""Logbook: what it ran, what happened to it, and what is due."""

from typing import Any

from django.utils import timezone

from rocklash.answers.logbook import Meter, due_of, meter_of
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.records.selectors import logbook as rows
from rocklash.stations.logbook import commands
from rocklash.stations.logbook.pages import due, timeline
from valvetrain.errors import OutOfRangeError

_SHOWN = 200


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
    build, meter = bench.build, _meter(bench)
    trouble, found = "", []
    try:
        found = list(
            due_of(
                build,
                bench.result,
                meter,
                rows.care_of(build),
                rows.metered_sheets(build),
                rows.over_revs_kept(build),
                timezone.localdate(),
            )
        )
    except OutOfRangeError as error:
        trouble = error.told(bench.system)
    return {
        "rows": [due.due_row(row) for row in found],
        "sentence": due.sentence(found, meter.hours()),
        "trouble": trouble or meter.backwards,
    }
