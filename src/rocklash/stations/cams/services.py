"""Mutations of the Cams station: a degree-wheel log becomes measured figures of a cam."""

import math

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.bridge.results import answer_for
from rocklash.bridge.stored import stored_figure
from rocklash.records.models import Build, CamLog, Membership, Part, SetupRole, SetupSide
from rocklash.records.mutations import journal, require_change
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from valvetrain.errors import ValveTrainError
from valvetrain.formats import lobe_log
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import System
from valvetrain.studies.degree_wheel import DegreeWheelFit, fit

_LARGEST = 1_000_000  # bytes; a reading every crank degree is 10,000
_LOW, _HIGH = 1.0e-3, 0.4  # heights at which durations are taken: 1 mm, and this share of the lift, which tells the flank's fullness


def keep_log(member: Membership, build: Build, row_number: str, raw: bytes, *, crank: bool) -> str:
    """Fit a log and keep it with its cam; returns a sentence when it was not kept, else an empty text.

    The indicator is taken to stand on the retainer with no clearance. Nothing is kept by halves.
    """
    require_change(member)
    rows = SetupSide.objects.select_related("cam").filter(setup__build=build, setup__role=SetupRole.PROPOSED)
    row = get_object_or_404(rows, pk=int(row_number) if row_number.isdigit() else -1)
    cam = get_object_or_404(parts_that_fit(build), pk=row.cam_id)
    if len(raw) > _LARGEST:
        return "The file is larger than a megabyte. One reading a crank degree is plenty."
    try:
        text = lobe_log.decode(raw)
        log = lobe_log.read(text, crank=crank, system=System(member.user.unit_system))
        found = fit(log.angle, log.lift)
        figures = _figures(found, member.user.username)
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    with transaction.atomic():
        locked = Part.objects.select_for_update().get(pk=cam.pk)
        locked.figures = {key: figure for key, figure in locked.figures.items() if not key.endswith("_2")} | figures
        locked.save(update_fields=["figures"])
        peak, band = found.peak_acceleration
        CamLog.objects.create(
            part=locked, by=member.user, text=text, crank=crank, readings=len(log.angle), dropped=len(found.dropped), noise=found.noise,
            acceleration=peak, acceleration_spread=band, coarse=found.coarse,
        )  # fmt: skip
        journal(member, "degree wheel", f"{build.name}: {locked}", "", f"{len(log.angle)} readings, {len(found.dropped)} left out")
        Build.objects.filter(pk=build.pk).update(kept_at=timezone.now())
        trouble = answer_for(build_or_404(member.workshop, build.pk)).trouble
        if trouble:
            transaction.set_rollback(True)
            return f"{trouble} Nothing was kept."
    return ""


def _figures(found: DegreeWheelFit, by: str) -> dict[str, dict[str, object]]:
    """Measured figures of the cam: lift, and durations at two heights. Raises ValveTrainError when the log does not reach them."""
    high = found.peak_lift * _HIGH
    values = {
        "lift": found.peak_lift,
        "height_1": _LOW,
        "duration_1": 2.0 * found.duration_at(_LOW),
        "height_2": high,
        "duration_2": 2.0 * found.duration_at(high),
    }
    for key, value in values.items():
        FIGURES[Owner.CAM, key].check(value)
    now = timezone.now().isoformat(timespec="seconds")
    stored = {key: stored_figure(Owner.CAM, key, value, Basis.MEASURED, "", "", by, now) for key, value in values.items()}
    # what the fit itself is sure of, k = 2: noise at the peak and a quarter of a cam degree on each flank
    stored["lift"]["spread"] = 2.0 * found.noise + float(found.lift_spread.max())
    stored["duration_1"]["spread"] = stored["duration_2"]["spread"] = math.radians(0.5)
    return stored
