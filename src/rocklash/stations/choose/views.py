"""Choose: search and compare, what goes together, deal the parts in hand, what to buy, sisters and the family."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone

from rocklash.answers.choose import plan_of, progress_of
from rocklash.answers.tasks import workers_run
from rocklash.commands.base import number_of
from rocklash.commands.facts import KeepWord
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.records.models import Decision, Part
from rocklash.records.selectors.builds import parts_that_fit
from rocklash.records.selectors.choose import decisions_of, notes_of, search_of, shelf_beside, shim_sizes, sisters_of, wished_days
from rocklash.stations.choose import commands
from rocklash.stations.choose.pages.choose import Asked, choose_page, search_state
from rocklash.stations.choose.pages.deal import deal_page, force_now
from rocklash.stations.choose.pages.fits import fit_sides, note_lines, rules_count, sister_lines
from rocklash.stations.choose.pages.materials import materials_page
from rocklash.stations.choose.pages.shopping import shopping_page
from valvetrain.errors import QuantityError, ValveTrainError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import parse, plain
from valvetrain.units import QuantityKind, told

_MAIN = {"search": commands.AskSearch, "stop": commands.StopSearch, "weigh": commands.Weigh, "propose": commands.ProposeSet}
_FAMILY = {
    "family": commands.KeepFamily, "sister": commands.AddSister, "twin": commands.AddSisterPart, "sister-gone": commands.DropSister,
    "note": commands.AddNote, "note-gone": commands.DropNote,
}  # fmt: skip


def _proposed(bench: Bench) -> HttpResponse | None:
    """What was proposed is shown with what is to be bought for it."""
    if bench.outcome and not bench.outcome.refused and isinstance(bench.command, commands.ProposeSet) and isinstance(bench.made, Decision):
        return redirect("choose-list", bench.member.workshop.slug, bench.build.pk)
    return None


@build_page("choose", "choose/choose.html", _MAIN, fold=True, after=_proposed)
def choose(bench: Bench) -> dict[str, Any]:
    """The count of sets that hold, the sieve, the trade-offs, check by check against stock, near misses."""
    search, review = search_of(bench.build, bench.side), bench.result.review
    shown: dict[str, Any] = {"page": None, "search": search, "state": None, "trouble": told(bench.result.contradiction, bench.system)}
    if review is None:
        return shown
    plan = plan_of(bench.build, bench.side, search)
    progress = progress_of(plan)
    lift = review.completed.proposed_sides[bench.side].parts[Owner.CAM]["lift"]
    shown["state"] = search_state(plan, progress, search, bench.system, cam_known=lift.basis is not Basis.ESTIMATE)
    if progress.found is not None and search.asked_key == plan.key:
        asked = Asked(
            bench.request.GET.get("set", "")[:400], bench.request.GET.get("saves", ""), ask=progress.state == "done" and workers_run()
        )
        try:
            shown["page"] = choose_page(plan, progress, search, asked, bench.system, timezone.localdate())
        except ValveTrainError as error:
            shown["trouble"] = told(error.sentence, bench.system)
    return shown


@build_page("choose", "choose/fits.html", fold=True)
def fits(bench: Bench) -> dict[str, Any]:
    """What goes together in the proposed set-up, by every rule that applies."""
    return {"sides": fit_sides(bench.build, bench.result.record, bench.system), "count": rules_count()}


def _part_of(bench: Bench, act: str, place: dict[str, Any]) -> Part | None:  # noqa: ARG001  (the form says whose word it is)
    """The part a word is about; none for engine and goal."""
    if bench.request.POST.get("of") in (Owner.ENGINE, Owner.GOAL):
        return None
    return get_object_or_404(parts_that_fit(bench.build), pk=number_of(bench.request.POST.get("part", "")))


@build_page("choose", "choose/materials.html", {"fact": KeepWord}, fold=True, target=_part_of, usual="fact")
def materials(bench: Bench) -> dict[str, Any]:
    """Advice on materials, form and treatment, with reasons; schools; common claims answered."""
    return {"page": materials_page(bench.result, bench.build, bench.system, bench.field_error)}


@build_page("choose", "choose/deal.html", fold=True)
def deal(bench: Bench) -> dict[str, Any]:
    """Parts measured one by one, dealt to the seats."""
    review = bench.result.review
    if review is None:
        return {"page": None, "target": "", "wrong": ""}
    train = review.completed.proposed.sides[bench.side]
    text, wrong, target = bench.request.GET.get("force", "").replace("\x00", "")[:40], "", None
    if text:
        try:
            target = parse(text, QuantityKind.FORCE, bench.system).value
        except QuantityError as error:
            wrong = error.told(bench.system)
    sizes = shim_sizes(bench.member.workshop)
    page = deal_page(bench.build, bench.side, train, target, sizes, bench.system) if not wrong else None
    return {"page": page, "target": text or plain(force_now(train), QuantityKind.FORCE, bench.system), "wrong": wrong}


@build_page("choose", "choose/list.html", fold=True)
def to_buy(bench: Bench) -> dict[str, Any]:
    """What to order, first what takes longest, and what was decided why."""
    beside, decisions = shelf_beside(bench.build), decisions_of(bench.build)
    return {"page": shopping_page(bench.build, decisions, wished_days(bench.build), beside, bench.system, timezone.localdate())}


@build_page("choose", "choose/family.html", _FAMILY, fold=True)
def family(bench: Bench) -> dict[str, Any]:
    """Sister engines with their part numbers, and notes of the family."""
    engine, review = bench.build.engine, bench.result.review
    limiter = review.completed.engine["limiter"].value if review else 0.0
    sisters, notes = sisters_of(bench.build), notes_of(bench.member.workshop, engine.family)
    return {
        "sisters": sister_lines(sisters, limiter, bench.system), "notes": note_lines(notes), "family": engine.family,
        "sister_form": bench.form(commands.AddSister), "twin_form": bench.form(commands.AddSisterPart), "note_form": bench.form(commands.AddNote),
    }  # fmt: skip
