"""What every station of a build shows around itself: title, rev ladder, rail with honest states."""

from typing import Any

from django.http import HttpRequest
from django.utils import timezone

from rocklash.answers.job import found_on, strip_of
from rocklash.answers.motion import pending
from rocklash.commands.undo import undoable
from rocklash.desk.bench import Bench
from rocklash.desk.fields import BASES
from rocklash.desk.ladder import ladder_data
from rocklash.desk.registry import rail, station_of, tabs
from rocklash.ui.drawings import rev_ladder, rev_marks
from rocklash.ui.how import HOW
from valvetrain.studies.review.build import SetupReview


def narrow(request: HttpRequest) -> bool:
    """Whether the reader's screen is a phone's: the page told so in a cookie, or the browser says it before any page did."""
    kept = request.COOKIES.get("narrow")
    return kept == "yes" if kept else request.headers.get("Sec-CH-UA-Mobile") == "?1"


def frame(
    bench: Bench, current: str, *, fold: bool = False, reached: tuple[float, float] | None = None, measured: tuple[tuple[str, float], ...] = (),
    tried: SetupReview | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Context that every page of a build needs: title, rail, ladder, last clearance sheet, what can be undone. `reached` rpm of an over-rev
    what was `measured`, and floats with a fix that is `tried` go onto the ladder, of which one is sent: the one for the reader's screen."""
    member, build, result = bench.member, bench.build, bench.result
    data, small = (
        ladder_data(result, bench.system, reached, measured, tried),
        current != "sheet" and narrow(bench.request),
    )  # the sheet is for paper
    items = rail(bench, current)
    return {
        "heading": build.name,
        "subheading": build.engine.description,
        "station_name": station_of(current).name,
        "how": HOW.get(current, ""),
        "station_key": current,
        "bases": BASES,
        "session": bench.session,
        "member": member,
        "build": build,
        "answer": result,
        "system": bench.system.value,
        "side": bench.side.value,
        "rail": items,
        "tabs": tabs(bench, current),
        "undoable": undoable(member, build),
        "open_findings": found_on(build) if bench.standing.found_open else [],
        "open_engine": strip_of(build, timezone.now()) if bench.standing.job_open else None,
        "motion_pending": pending(result),
        "was_refused": bool(bench.outcome and bench.outcome.refused),
        "ladder": data
        and {
            "drawn": rev_ladder.phone(data) if small else rev_ladder.full(data),
            "phone": small,
            "fold": fold and not small,
            "key": rev_marks.key(data),
        },
    }
