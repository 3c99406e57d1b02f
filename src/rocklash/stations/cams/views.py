"""What the cams do, how each of them is known, and how they are timed."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from rocklash.answers.cams import cam_answer, fitted_log
from rocklash.answers.instruments import newest_state
from rocklash.answers.rows import changes_of, side_rows
from rocklash.answers.stale import stale_notes
from rocklash.commands.base import number_of
from rocklash.commands.facts import KeepWord
from rocklash.commands.parts import KeepClaim
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.instruments import instrument_round
from rocklash.desk.page import build_page
from rocklash.desk.sharing import sharing_of
from rocklash.records.models import Build, Membership, Part, SetupRole
from rocklash.records.selectors.builds import cam_or_404, candidates_of, newest_logs, parts_that_fit, parts_to_choose, timings_of
from rocklash.stations.cams import commands
from rocklash.stations.cams.exporting import EXPORTS, FORMS, export, export_regrind
from rocklash.stations.cams.forms import LayRegrindForm, RegrindForm
from rocklash.stations.cams.pages.cams import cams_page
from rocklash.stations.cams.pages.lobe import lobe_page, wheel_view
from rocklash.stations.cams.pages.regrind import regrind_page, usual_words
from rocklash.stations.cams.pages.timing import timing_page
from valvetrain.parts.stale import Subject
from valvetrain.studies.regrind.from_build import Regrind

_CAMS = {"beside": commands.LayBeside, "propose": commands.Propose, "new": commands.NewCam}
_LOBE = {"log": commands.KeepLog, "file": commands.KeepFile, "aside": commands.SetAside, "fact": KeepWord, "claim": KeepClaim}


def _to_new_cam(bench: Bench) -> HttpResponse | None:
    """To the page of a cam that was just begun."""
    if not isinstance(bench.command, commands.NewCam | commands.LayRegrind) or not isinstance(bench.made, Part):
        return None
    where = reverse("lobe", args=[bench.member.workshop.slug, bench.build.pk, bench.made.pk])
    return redirect(f"{where}?side={bench.side}")


@build_page("cams", "cams/cams.html", _CAMS, fold=True, after=_to_new_cam)
def cams(bench: Bench) -> dict[str, Any]:
    """The cams of one side, side by side."""
    build, result, candidates = bench.build, bench.result, candidates_of(bench.build)
    found = cam_answer(result, build, bench.side, candidates) if result.review else None
    parts, logs = parts_to_choose(build), newest_logs(build)
    height = bench.request.GET.get("height", "")[:40]
    return {"page": cams_page(result, build, found, parts, logs, candidates, bench.system, height)}


def _of_lobe(bench: Bench, act: str, place: dict[str, Any]) -> Part:
    """The cam of the page; a word may be its follower's."""
    if act == "fact" and bench.request.POST.get("of") == "follower":
        found = parts_that_fit(bench.build).filter(kind="follower", pk=number_of(bench.request.POST.get("part", ""))).first()
        if found is None:
            raise Http404
        return found
    return cam_or_404(bench.build, place["part"])


@build_page("cams", "cams/lobe.html", _LOBE, fold=True, target=_of_lobe)
def lobe(bench: Bench, part: int) -> dict[str, Any]:
    """How one cam is known, and what makes it better known."""
    cam = cam_or_404(bench.build, part)
    log = newest_logs(bench.build).get(cam.pk)
    fitted = fitted_log(log) if log else None
    page = lobe_page(bench.result, bench.build, cam, bench.side, bench.system, bench.field_error, log, fitted)
    wheel_page = wheel_view(newest_state(cam), bench.system)
    forms = {"log_form": bench.form(commands.KeepLog), "file_form": bench.form(commands.KeepFile, side=bench.side.value)}
    return {
        "page": page,
        "wheel": wheel_page,
        "cam": cam,
        "exports": list(EXPORTS.items()),
        "shared": sharing_of(bench.build, [cam])[cam.pk],
        **forms,
    }


@on_build
def wheel(request: HttpRequest, member: Membership, build: Build, part: int) -> HttpResponse:
    """The simulated wheel: begin or stop a pass, and show what was read until now."""
    cam, bench = cam_or_404(build, part), Bench(request, member, build)
    page = wheel_view(instrument_round(request, bench, cam), bench.system)
    return render(request, "cams/wheel.html", {"wheel": page, "member": member, "build": build, "cam": cam})


@on_build
def out(request: HttpRequest, member: Membership, build: Build, part: int, form: str) -> HttpResponse:
    """A cam as a file: csv, json, xlsx or dxf."""
    if form not in FORMS:
        raise Http404
    bench = Bench(request, member, build)
    return export(bench.result, build, cam_or_404(build, part), bench.side, form)


@build_page("cams", "cams/timing.html", {"degree": commands.DegreeIn}, fold=True)
def timing(bench: Bench) -> dict[str, Any]:
    """Degreeing in, tooth and slot, chain pins, phaser, clearance."""
    build, parts = bench.build, list(parts_that_fit(bench.build))
    timings = timings_of(build)
    page = timing_page(bench.result, build, bench.side, parts, timings, bench.system, bench.field_error)
    own = [("Degreed in", each.at) for each in timings if each.setup_side.side == bench.side.value][:1]
    stale = stale_notes(changes_of(build), own, bench.side.value, Subject.TIMING)
    return {"page": page, "stale": stale, "form": bench.form(commands.DegreeIn)}


def _asked(bench: Bench) -> RegrindForm:
    """What the address asks of a regrind; nothing where it asks nothing."""
    asked = {name: bench.request.GET.get(name, "").replace("\x00", "")[:60] for name in RegrindForm.base_fields}
    return RegrindForm(asked if any(asked.values()) else None, system=bench.system)


def _ground(bench: Bench, act: str, place: dict[str, Any]) -> Regrind | None:  # noqa: ARG001  (the address says which)
    """The lobe that the address asks for."""
    return regrind_page(bench.result, bench.side, _asked(bench), bench.system)[1]


@build_page("cams", "cams/regrind.html", {"lay": commands.LayRegrind}, fold=True, target=_ground, after=_to_new_cam)
def regrind(bench: Bench) -> dict[str, Any]:
    """The largest lobe that can be ground from the present one, and what holds it."""
    form = _asked(bench)
    page, _ = regrind_page(bench.result, bench.side, form, bench.system)
    row = side_rows(bench.build)[SetupRole.PROPOSED, bench.side.value]
    for name, words in usual_words(bench.result, bench.side, bench.system).items():
        form.fields[name].widget.attrs["placeholder"] = words
    asked = bench.request.GET.urlencode()
    return {"page": page, "form": form, "lay": LayRegrindForm(system=bench.system), "row": row.pk, "asked": asked}


@on_build
def regrind_out(request: HttpRequest, member: Membership, build: Build, form: str) -> HttpResponse:
    """The ground lobe as a file for the grinder."""
    if form not in ("csv", "dxf"):
        raise Http404
    bench = Bench(request, member, build)
    page, found = regrind_page(bench.result, bench.side, _asked(bench), bench.system)
    if found is None:
        return HttpResponse(f"No lobe, no file: {page.trouble}", status=409, content_type="text/plain; charset=utf-8")
    return export_regrind(found, build, form)
