"""What the cams do, how each of them is known, and how they are timed."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from rocklash.answers.cams import cam_answer, fitted_log
from rocklash.answers.wheel import wheel_state
from rocklash.commands.facts import keep_fact
from rocklash.commands.figures import FieldError
from rocklash.desk.access import on_build
from rocklash.desk.frame import asked_side, choose_or_keep, surroundings
from rocklash.records.models import Build, Membership, Part
from rocklash.records.selectors.builds import (
    build_or_404,
    cam_or_404,
    candidates_of,
    newest_logs,
    newest_run,
    parts_that_fit,
    timings_of,
)
from rocklash.stations.cams import commands as services
from rocklash.stations.cams.exporting import EXPORTS, FORMS, export
from rocklash.stations.cams.pages.cams import cams_page
from rocklash.stations.cams.pages.lobe import lobe_page, wheel_view
from rocklash.stations.cams.pages.timing import timing_page
from valvetrain.units import UnitSystem


def _sent_to_cams(request: HttpRequest, member: Membership, build: Build) -> tuple[HttpResponse | None, str, int]:
    """Keep what was sent to the comparison; returns where to go on, or the refusal and the status."""
    post = request.POST
    if post.get("act") == "new":
        cam, refused = services.new_cam(member, build, post)
        where = reverse("lobe", args=[member.workshop.slug, build.pk, cam.pk]) if cam else ""
        return redirect(f"{where}?side={asked_side(request)}") if cam else None, refused, 422
    if "act" in post:
        refused = services.lay_beside(member, build, post)
        return None, refused, 422 if refused else 200
    return None, *choose_or_keep(request, member, build)[1:]


@on_build
def cams(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Show the cams of one side; what was sent is kept first."""
    refused, status = "", 200
    if request.method == "POST":
        gone, refused, status = _sent_to_cams(request, member, build)
        if gone:
            return gone
        build = build_or_404(member.workshop, build.pk)
    context = surroundings(member, build, "cams", fold=True)
    candidates, answer, system = candidates_of(build), context["answer"], UnitSystem(member.user.unit_system)
    found = cam_answer(answer, build, asked_side(request), candidates) if answer.review else None
    parts, logs = list(parts_that_fit(build)), newest_logs(build)
    page = cams_page(answer, build, found, parts, logs, candidates, system, request.GET.get("height", "")[:40])
    context |= {"page": page, "action": request.get_full_path(), "refused": refused, "typed": request.POST if refused else {}}
    return render(request, "cams/cams.html", context, status=status)


def _sent(request: HttpRequest, member: Membership, build: Build, number: int) -> tuple[FieldError | None, str, int]:
    """Keep what was sent to a lobe's page; returns trouble of a field, refusal, and the status."""
    post, part = request.POST, cam_or_404(build, number)
    act = post.get("act", "")
    if act in ("log", "file"):
        raw = request.FILES["file"].read(services.LARGEST + 1) if "file" in request.FILES else post.get("text", "").encode()  # type: ignore[union-attr]
        keep = services.keep_log if act == "log" else services.keep_file
        refused = keep(member, build, part, raw, post)
    elif act == "aside":
        refused = services.set_aside(member, build, part)
    elif act == "fact":
        refused = keep_fact(member, build, part if post.get("of") != "follower" else _follower(build, post.get("part", "")), post)
    else:
        return choose_or_keep(request, member, build)
    return None, refused, 422 if refused else 200


def _follower(build: Build, text: str) -> Part:
    found = parts_that_fit(build).filter(kind="follower", pk=int(text) if text.isdigit() else -1).first()
    if found is None:
        raise Http404
    return found


@on_build
def lobe(request: HttpRequest, member: Membership, build: Build, part: int) -> HttpResponse:
    """Show how one cam is known, and take in what makes it better known."""
    trouble, refused, status, typed = None, "", 200, ""
    if request.method == "POST":
        trouble, refused, status = _sent(request, member, build, part)
        typed = request.POST.get("text", "")[: services.LARGEST] if refused and request.POST.get("act") == "log" else ""
        build = build_or_404(member.workshop, build.pk)
    cam, side, system = cam_or_404(build, part), asked_side(request), UnitSystem(member.user.unit_system)
    context = surroundings(member, build, "cams", fold=True)
    log, run = newest_logs(build).get(cam.pk), newest_run(cam)
    page = lobe_page(context["answer"], build, cam, side, system, trouble, log, fitted_log(log) if log else None)
    wheel_page = wheel_view(wheel_state(run) if run else None, system)
    context |= {
        "page": page,
        "wheel": wheel_page,
        "cam": cam,
        "exports": list(EXPORTS.items()),
        "action": request.get_full_path(),
        "refused": refused,
        "typed": typed,
    }
    return render(request, "cams/lobe.html", context, status=status)


@on_build
def wheel(request: HttpRequest, member: Membership, build: Build, part: int) -> HttpResponse:
    """The simulated wheel: begin or stop a pass, and show what was read until now."""
    cam = cam_or_404(build, part)
    run = newest_run(cam)
    if request.method == "POST":
        if request.POST.get("act") == "begin":
            run = services.begin_pass(member, build, cam)
        elif run:
            services.end_pass(member, run)
    page = wheel_view(wheel_state(run) if run else None, UnitSystem(member.user.unit_system))
    return render(request, "cams/wheel.html", {"wheel": page, "member": member, "build": build, "cam": cam})


@on_build
def out(request: HttpRequest, member: Membership, build: Build, part: int, form: str) -> HttpResponse:
    """A cam as a file: csv, json, xlsx or dxf."""
    cam = cam_or_404(build, part)
    if form not in FORMS:
        raise Http404
    return export(surroundings(member, build, "cams")["answer"], build, cam, asked_side(request), form)


@on_build
def timing(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Degreeing in, tooth and slot, chain pins, phaser, clearance; what was sent is kept first."""
    trouble, refused, status, post = None, "", 200, request.POST
    if request.method == "POST":
        if post.get("act") == "degree":
            refused = services.degree_in(member, build, post)
            status = 422 if refused else 200
        else:
            trouble, refused, status = choose_or_keep(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context = surroundings(member, build, "cams", fold=True)
    page = timing_page(
        context["answer"],
        build,
        asked_side(request),
        list(parts_that_fit(build)),
        timings_of(build),
        UnitSystem(member.user.unit_system),
        trouble,
    )
    context |= {"page": page, "action": request.get_full_path(), "refused": refused, "typed": post if refused else {}}
    return render(request, "cams/timing.html", context, status=status)
