"""A cam, or a lobe for the grinder, as a file in an open form."""

import math

from django.http import HttpResponse
from django.utils.text import slugify

from rocklash.answers.cams import cam_alone
from rocklash.answers.results import BuildResult
from rocklash.records.models import Build, Part
from valvetrain.errors import ValveTrainError
from valvetrain.formats import grinder_file, lobe_file
from valvetrain.parts.cam_drive import lobe_from_valve
from valvetrain.parts.engine import Side
from valvetrain.studies.cams.lobe_fit import outline_of
from valvetrain.studies.regrind.from_build import Regrind
from valvetrain.wording.regrind import LAW

FORMS = {
    "csv": "text/csv; charset=utf-8",
    "json": "application/json",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "dxf": "image/vnd.dxf",
}

EXPORTS = {"csv": "Lift table, CSV", "json": "Lobe, JSON", "xlsx": "Workbook, XLSX", "dxf": "Outline, DXF"}


def export(answer: BuildResult, build: Build, cam: Part, side: Side, form: str) -> HttpResponse:
    """The file, or 409 with a sentence when the cam's figures cannot give one."""
    try:
        train = cam_alone(answer, build, cam, side)
        curve = train.curve
        content: str | bytes
        if form == "csv":
            content = lobe_file.write_csv(curve)
        elif form == "xlsx":
            content = lobe_file.write_workbook(curve, cam.name)
        elif form == "dxf":
            content = lobe_file.write_drawing(outline_of(train)[1], train.cam.base, cam.name)
        else:
            share = train.duration.spread / 2.0 + math.radians(0.1)
            content = lobe_file.write_json(lobe_file.lobe_from_curve(curve, train.lift.spread, share, train.shape.spread), cam.name)
    except ValveTrainError as error:
        return HttpResponse(f"This cam gives no file: {error}", status=409, content_type="text/plain; charset=utf-8")
    answered = HttpResponse(content, content_type=FORMS[form])
    answered["Content-Disposition"] = f'attachment; filename="{slugify(cam.name) or "cam"}.{form}"'
    return answered


def export_regrind(found: Regrind, build: Build, form: str) -> HttpResponse:
    """The ground lobe as the grinder's table (csv) or as outlines (dxf)."""
    drive = found.case.drive
    new = lobe_from_valve(drive, found.base, found.curve)
    name = f"{build.name}, {found.side} regrind"
    if form == "csv":
        notes = [("proposal, for a grinder to check", name), ("law", LAW), ("full lift at the valve (mm)", f"{found.curve.full * 1e3:.4f}")]
        content = grinder_file.write_table(new, found.curve.lift, found.base, drive.ratio, notes)
    else:
        old = lobe_from_valve(drive, found.case.old_base, found.old)
        content = grinder_file.write_outlines(new.outline, found.base, old.outline, found.case.old_base, name)
    answered = HttpResponse(content, content_type=FORMS[form])
    answered["Content-Disposition"] = f'attachment; filename="{slugify(name)}.{form}"'
    return answered
