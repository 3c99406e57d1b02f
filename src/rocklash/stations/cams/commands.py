"""Mutations of the Cams station: candidates, lobes from logs and files, facts of a part, degreeing in, the simulated wheel."""

import math
import secrets

from django.db import transaction
from django.http import QueryDict
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.results import answer_for
from rocklash.commands.base import journal, require_change
from rocklash.commands.facts import note_kept
from rocklash.commands.parts import choose_part
from rocklash.records.figure_column import stored_figure, stored_from
from rocklash.records.models import Build, CamCandidate, CamLog, CamTiming, Membership, Part, SetupRole, SetupSide, WheelRun
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from valvetrain.errors import ValveTrainError
from valvetrain.formats import lobe_file, lobe_log, plain_table
from valvetrain.formats.lobe_document import document
from valvetrain.formulas.cam_timing import equal_lift_centre
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis
from valvetrain.parts.lobe import Lobe, StatedAt, from_lobe
from valvetrain.quantities import parse
from valvetrain.studies.cams.degree_wheel import DegreeWheelFit, fit, lobe_of
from valvetrain.units import QuantityKind, UnitSystem

LARGEST = 1_000_000  # bytes; a reading every crank degree is 10,000
_LONGEST_NAME = 80
_LOW, _HIGH = 1.0e-3, 0.4  # heights at which durations are taken: 1 mm, and this share of the lift, which tells the flank's fullness


def _number(text: str) -> int:
    return int(text) if text.isdigit() else -1


def _proposed_row(build: Build, text: str) -> SetupSide:
    rows = SetupSide.objects.select_related("cam").filter(setup__build=build, setup__role=SetupRole.PROPOSED)
    return get_object_or_404(rows, pk=_number(text))


def lay_beside(member: Membership, build: Build, post: QueryDict) -> str:
    """Lay a cam beside stock and proposed as B or C, take it away again, or propose it; returns a sentence when it was not done."""
    require_change(member)
    row, letter = _proposed_row(build, post.get("row", "")), post.get("letter", "")
    if letter not in ("B", "C"):
        return "There is room for two more cams, B and C."
    if post.get("act") == "propose":
        candidate = get_object_or_404(CamCandidate, setup_side=row, letter=letter)
        with transaction.atomic():
            before = row.cam
            refused = choose_part(member, build, str(row.pk), "cam", str(candidate.cam_id), post.get("seen", ""))
            if refused:
                return refused
            candidate.cam = before  # type: ignore[assignment]  # a proposed side always has a cam
            candidate.save(update_fields=["cam"])
        return ""
    with transaction.atomic():
        if not post.get("part"):
            CamCandidate.objects.filter(setup_side=row, letter=letter).delete()
            return ""
        cam = get_object_or_404(parts_that_fit(build).filter(kind="cam"), pk=_number(post.get("part", "")))
        CamCandidate.objects.update_or_create(setup_side=row, letter=letter, defaults={"cam": cam})
        journal(member, "laid beside", f"{build.name}: {row.side}, {letter}", "", cam.name)
    return ""


def new_cam(member: Membership, build: Build, post: QueryDict) -> tuple[Part | None, str]:
    """A cam of which nothing is known yet, on the shelf and laid beside where there is room; the cam, or why there is none."""
    require_change(member)
    row, name = _proposed_row(build, post.get("row", "")), post.get("name", "").strip()
    if not 1 <= len(name) <= _LONGEST_NAME:
        return None, f"Give the new cam a name of up to {_LONGEST_NAME} letters, such as its grind and side."
    if parts_that_fit(build).filter(kind="cam", name=name).exists():
        return None, f"There is a cam called “{name}” already: choose it from the list, or give this one another name."
    with transaction.atomic():
        cam = Part.objects.create(workshop=build.workshop, kind="cam", name=name, side=row.side)
        taken = set(CamCandidate.objects.filter(setup_side=row).values_list("letter", flat=True))
        for letter in ("B", "C"):
            if letter not in taken:
                CamCandidate.objects.create(setup_side=row, cam=cam, letter=letter)
                break
        journal(member, "new cam", f"{build.name}: {row.side}", "", name)
    return cam, ""


def _where(post: QueryDict) -> StatedAt:
    told = post.get("at", "")
    return StatedAt(told) if told in set(StatedAt) else StatedAt.VALVE


def keep_log(member: Membership, build: Build, part: Part, raw: bytes, post: QueryDict) -> str:
    """Fit a log and keep it with its cam; returns a sentence when it was not kept, else an empty text. Nothing is kept by halves."""
    require_change(member)
    if len(raw) > LARGEST:
        return "The log is larger than a megabyte. One reading a crank degree is plenty. Nothing was kept."
    system, crank = UnitSystem(member.user.unit_system), post.get("angles") != "cam"
    try:
        tilt = parse(post.get("tilt", ""), QuantityKind.ANGLE, system).value if post.get("tilt", "").strip() else 0.0
        if not 0.0 <= tilt <= math.radians(30.0):
            return f"An indicator {math.degrees(tilt):.0f}° off the valve's axis measures something else: bring it below 30°. Nothing was kept."
        text = plain_table.decode(raw)
        log = lobe_log.read(text, crank=crank, system=system)
        found = fit(log.angle, log.lift * math.cos(tilt))
        lobe, mirrored = lobe_of(found, _where(post))
        figures = _figures(found, member.user.username)
        if post.get("zero") == "tdc" and crank:
            figures["lobe_centre"] = _centre(abs(2.0 * found.nose), member.user.username)
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    with transaction.atomic():
        locked = Part.objects.select_for_update().get(pk=part.pk)
        kept = {key: figure for key, figure in locked.figures.items() if key[-2:] not in ("_2", "_3", "_4")}
        _keep_lobe(locked, lobe, kept | figures)
        peak, band = found.peak_acceleration
        CamLog.objects.create(
            part=locked, by=member.user, text=text, crank=crank, readings=len(log.angle), dropped=len(found.dropped), noise=found.noise,
            acceleration=peak, acceleration_spread=band, coarse=found.coarse, mirrored=mirrored, tilt=tilt, system=system.value,
        )  # fmt: skip
        journal(member, "degree wheel", f"{build.name}: {locked}", "", f"{len(log.angle)} readings, {len(found.dropped)} left out")
        return note_kept(member, build)


def _keep_lobe(part: Part, lobe: Lobe | None, figures: dict[str, dict[str, object]]) -> None:
    part.lobe = document(lobe, part.name).model_dump(mode="json") if lobe else None
    part.figures = figures
    part.save(update_fields=["lobe", "figures"])


def keep_file(member: Membership, build: Build, part: Part, raw: bytes, post: QueryDict) -> str:
    """Take a cam from a lift table, a lobe file or a build file; returns a sentence when it was not kept."""
    require_change(member)
    if len(raw) > LARGEST:
        return "The file is larger than a megabyte: a lift table of a row a degree is 10,000 characters. Nothing was kept."
    told_side = post.get("side", "")
    side = Side(told_side) if told_side in set(Side) else Side.INTAKE
    system = UnitSystem(member.user.unit_system)
    try:
        lobe, told = lobe_file.read(raw, side=side, crank=post.get("angles") == "crank", system=system, at=_where(post))
        curve = from_lobe(lobe) if lobe else None
        if curve:
            FIGURES[Owner.CAM, "lift"].check(curve.full, system)
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    with transaction.atomic():
        locked = Part.objects.select_for_update().get(pk=part.pk)
        if told:
            locked.facts = dict(told.facts)
            locked.save(update_fields=["facts"])
        _keep_lobe(locked, lobe, stored_from(told.figures) if told else locked.figures)
        journal(member, "cam from file", f"{build.name}: {locked}", "", "build file" if told else "lift table")
        return note_kept(member, build)


def set_aside(member: Membership, build: Build, part: Part) -> str:
    """Go back from points to the card; the logs stay. Returns a sentence when that cannot be."""
    require_change(member)
    with transaction.atomic():
        locked = Part.objects.select_for_update().get(pk=part.pk)
        _keep_lobe(locked, None, locked.figures)
        journal(member, "points set aside", f"{build.name}: {locked}", "points", "card")
        return note_kept(member, build)


def _centre(value: float, by: str) -> dict[str, object]:
    FIGURES[Owner.CAM, "lobe_centre"].check(value)
    return stored_figure(Owner.CAM, "lobe_centre", value, Basis.MEASURED, "", "", by, timezone.now().isoformat(timespec="seconds"))


def _figures(found: DegreeWheelFit, by: str) -> dict[str, dict[str, object]]:
    """Measured figures of the cam: lift, and durations at two heights where the log reaches them on both flanks."""
    high = found.peak_lift * _HIGH
    values = {"lift": found.peak_lift}
    for number, height in ((1, _LOW), (2, high)):
        try:
            values |= {f"height_{number}": height, f"duration_{number}": 2.0 * found.duration_at(height)}
        except ValveTrainError:
            continue  # a log of one flank has no duration of its own
    for key, value in values.items():
        FIGURES[Owner.CAM, key].check(value)
    now = timezone.now().isoformat(timespec="seconds")
    stored = {key: stored_figure(Owner.CAM, key, value, Basis.MEASURED, "", "", by, now) for key, value in values.items()}
    # what the fit itself is sure of, k = 2: noise at the peak and a quarter of a cam degree on each flank
    stored["lift"]["spread"] = 2.0 * found.noise + float(found.lift_spread.max())
    for key in stored.keys() & {"duration_1", "duration_2"}:
        stored[key]["spread"] = math.radians(0.5)
    return stored


def degree_in(member: Membership, build: Build, post: QueryDict) -> str:
    """Record two wheel readings at one lift; returns a sentence when they cannot be. `adopt` makes the centre the cam's."""
    require_change(member)
    row = _proposed_row(build, post.get("row", ""))
    system = UnitSystem(member.user.unit_system)
    try:
        first, second = (parse(post.get(name, ""), QuantityKind.ANGLE, system).value for name in ("first", "second"))
        centre = equal_lift_centre(first, second)
        told = centre if row.side == Side.INTAKE else -centre
        FIGURES[Owner.CAM, "lobe_centre"].check(told, system)
    except ValveTrainError as error:
        return f"{error} Nothing was recorded."
    answer = answer_for(build_or_404(member.workshop, build.pk))
    if answer.review is None:
        return f"{answer.contradiction} Nothing was recorded."
    wanted = answer.review.completed.proposed.sides[Side(row.side)].lobe_centre.value
    with transaction.atomic():
        CamTiming.objects.create(setup_side=row, by=member.user, first=first, second=second, centre=told, wanted=wanted)
        Build.objects.filter(pk=build.pk).update(updated_at=timezone.now())
        journal(member, "degreed in", f"{build.name}: {row.side}", f"{math.degrees(wanted):.1f}°", f"{math.degrees(told):.1f}°")
    return ""


def begin_pass(member: Membership, build: Build, part: Part) -> WheelRun:
    """Start a pass of the simulated degree wheel; a pass under way is ended first."""
    require_change(member)
    with transaction.atomic():
        WheelRun.objects.filter(part=part, ended_at=None).update(ended_at=timezone.now())
        run = WheelRun.objects.create(part=part, by=member.user, seed=secrets.randbelow(1_000_000))
        journal(member, "simulated wheel", f"{build.name}: {part}", "", "pass begun")
    return run


def end_pass(member: Membership, run: WheelRun) -> None:
    """Stop a pass; what was read until now stays."""
    require_change(member)
    if run.ended_at is None:
        run.ended_at = timezone.now()
        run.save(update_fields=["ended_at"])
