"""Room: every gap, how it is known, over-revs with their inspection, and gearing."""

from typing import Any

from rocklash.answers.gaps import room_answer, room_map
from rocklash.answers.over_rev import judged, reached_of, trouble_of
from rocklash.commands.facts import KeepRods, KeepWord
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.desk.words import engine_facts
from rocklash.records.selectors.room import gap_readings_of, over_revs_of
from rocklash.stations.room import commands
from rocklash.stations.room.pages.gaps import room_page
from rocklash.stations.room.pages.gearing import gearing_page
from rocklash.stations.room.pages.measure import measure_page
from rocklash.stations.room.pages.over_rev import over_rev_page
from valvetrain.units import told

_MEASURE = {"read": commands.KeepGaps, "drop": commands.DropGap, "rods": KeepRods}
_OVER_REV = {"begin": commands.BeginOverRev, "found": commands.KeepFinding, "close": commands.CloseCase}


@build_page("room", "room/room.html", fold=True)
def room(bench: Bench) -> dict[str, Any]:
    """Section, gap curves, phaser map, every gap against its limit, and what would free room."""
    asked = bench.request.GET
    where = "rest" if asked.get("phaser") == "rest" else "worst"
    what = "valve" if asked.get("map") == "valve" else "piston"
    found, mapped = room_answer(bench.result, where), room_map(bench.result, bench.side, what)
    page = room_page(found, mapped, gap_readings_of(bench.build), bench.system) if found else None
    return {"page": page, "where": where, "what": what}


@build_page("room", "room/measure.html", _MEASURE, fold=True)
def measure(bench: Bench) -> dict[str, Any]:
    """What the gaps follow from, and gaps as read at the bench."""
    page = measure_page(bench.result, bench.build, gap_readings_of(bench.build), bench.system, bench.field_error)
    return {"page": page, "gap_form": bench.form(commands.KeepGaps)}


@build_page("room", "room/over_rev.html", _OVER_REV, fold=True)
def over_rev(bench: Bench) -> dict[str, Any]:
    """An over-rev: how far it went, what that means, and the inspection."""
    build, result, cases = bench.build, bench.result, over_revs_of(bench.build)
    wanted = bench.request.GET.get("case", "")
    case = next((each for each in cases if str(each.pk) == wanted), cases[0] if cases else None)
    cannot = trouble_of(result, case) if case else ""  # a sprocket may have been cleared since
    judgement = judged(result, case, compute="motions" in bench.request.GET) if case and not cannot else None
    reached = reached_of(result, case) if case and not cannot else None
    bench.forget_result()  # motions may have been computed for the judgement
    page = over_rev_page(bench.result, build, case, cases, judgement, bench.system)
    shown = {"page": page, "refused": bench.refused or told(cannot, bench.system), "form": bench.form(commands.BeginOverRev)}
    return shown | {"reached": (reached.low * 60, reached.high * 60) if reached else None}


@build_page("room", "room/gearing.html", {"fact": KeepWord}, fold=True)
def gearing(bench: Bench) -> dict[str, Any]:
    """Speed from gearing, and whether a sprocket is the cheaper speed."""
    page = gearing_page(bench.result, bench.build, bench.system, bench.field_error)
    return {"page": page, "facts": engine_facts(bench.build, ("machine",))}
