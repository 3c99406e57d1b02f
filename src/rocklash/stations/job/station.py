"""The Job station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.stations.job import shop_views, views
from valvetrain.studies.job.facts import KIND_WORDS, JobKind

_STATES = {
    "written": ("work", "order being written"), "sent": ("waits", "at the machine shop"), "back": ("work", "back, to be checked"),
    "closed": ("done", "machine shop done"),
}  # fmt: skip


def _state(bench: Bench) -> State:
    """What job is under way, or how far the machine shop is."""
    job = bench.standing.job_open
    if job:
        return "work", KIND_WORDS[JobKind(job)].lower()
    return _STATES.get(bench.standing.at_shop or "", ("none", "not begun"))


STATION = Station(
    key="job",
    name="Job",
    number="7",
    order=7,
    prefix="job/",
    state=_state,
    tabs=(
        ("job", "Plan"),
        ("job-findings", "Findings"),
        ("job-valves", "Where parts went"),
        ("job-helpers", "Caps, bolts, air"),
        ("job-course", "Dates and cost"),
        ("job-symptoms", "Symptoms"),
        ("job-shop", "Machine shop"),
    ),
    urls=[
        path("", views.plan_view, name="job"),
        path("findings/", views.findings_view, name="job-findings"),
        path("findings/<int:picture>.jpg", views.picture, name="job-picture"),
        path("findings/report.pdf", views.report, name="job-report"),
        path("valves/", views.valves_view, name="job-valves"),
        path("helpers/", views.helpers_view, name="job-helpers"),
        path("dates/", views.course_view, name="job-course"),
        path("dates.ics", views.dates_file, name="job-dates"),
        path("symptoms/", views.symptoms_view, name="job-symptoms"),
        path("bench/", views.bench_view, name="job-bench"),
        path("tick/<str:key>/", views.tick_view, name="job-tick"),
        path("wall/", views.wall_view, name="job-wall"),
        path("shop/", shop_views.shop, name="job-shop"),
        path("shop/sheet/", shop_views.sheet, name="job-sheet"),
        path("shop/machine-shop.csv", shop_views.table, name="job-csv"),
    ],
)
