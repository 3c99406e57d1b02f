"""Lobes in and out: lift table as CSV, lobe as JSON, workbook (XLSX), and the outline as a drawing (DXF)."""

import io
import json
import math

import ezdxf
import numpy as np
from ezdxf import units
from numpy.typing import NDArray
from openpyxl import Workbook
from openpyxl.chart import Reference, ScatterChart, Series
from pydantic import ValidationError

from valvetrain.errors import BuildFileError
from valvetrain.formats import build_file, lobe_log, plain_table
from valvetrain.formats.lobe_document import LobeDocument, document
from valvetrain.formats.table_out import as_csv, fill
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.lift_curve import LiftCurve, through
from valvetrain.parts.lobe import Lobe, Origin, StatedAt
from valvetrain.parts.record import PartRecord
from valvetrain.units import UnitSystem

_READ = 361
_SMOOTH = 1e-6  # m; a table whose neighbours scatter more than this was not printed from a smooth lobe. Source: judgement


def from_table(angle: NDArray[np.float64], lift: NDArray[np.float64], at: StatedAt) -> Lobe:
    """A lobe from an exact lift table (cam rad, m), both flanks, or one from the nose down, which is then mirrored.

    Raises ValveTrainError when the angles do not increase or the table scatters as readings do.
    """
    if len(lift) >= 8 and int(np.argmax(lift)) == 0:
        angle, lift = np.concatenate([2.0 * angle[0] - angle[:0:-1], angle]), np.concatenate([lift[:0:-1], lift])
    curve = through(angle, lift, _READ)
    # third differences of even rows: of a smooth lobe small, of readings as large as their scatter
    rough = float(np.median(np.abs(np.diff(np.interp(np.linspace(angle[0], angle[-1], len(angle)), angle, lift), 3))))
    if rough > 40.0 * _SMOOTH and len(lift) > 60:
        raise BuildFileError(
            f"The table scatters by about {rough * 1e6:.0f} µm from row to row: these are readings, not a table. Give them as a degree-wheel log."
        )
    curve = curve.centred()
    return Lobe(
        tuple(np.round(curve.angle, 12).tolist()), tuple(np.round(curve.lift, 12).tolist()), at, Origin.TABLE, 0.01e-3,
        math.radians(0.3), 0.05,
    )  # fmt: skip


def read(raw: bytes, *, side: Side, crank: bool, system: UnitSystem, at: StatedAt) -> tuple[Lobe | None, PartRecord | None]:
    """A cam from a file: a lift table as CSV, a lobe file, or a build file, from which the proposed cam of `side` is taken.

    Returns the lobe, and the whole part where a build file told it. Raises BuildFileError naming the place of the trouble.
    """
    text = plain_table.decode(raw)
    if not text.lstrip().startswith("{"):
        table = lobe_log.read(text, crank=crank, system=system)
        return from_table(table.angle, table.lift, at), None
    try:
        found = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        raise BuildFileError(f"This is not JSON: {error}.") from error
    if isinstance(found, dict) and found.get("format") == build_file.FORMAT:
        part = build_file.read(text).proposed[side].parts.get(Owner.CAM)
        if part is None or not (part.figures or part.lobe):
            raise BuildFileError(f"The build file has nothing on a proposed {side} cam.")
        return part.lobe, part
    try:
        given = LobeDocument.model_validate(found)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise BuildFileError(f"{'.'.join(str(step) for step in first['loc']) or 'the file'}: {first['msg']}.") from error
    if len(given.angles_deg) != len(given.lifts_mm):
        raise BuildFileError(f"lifts_mm has {len(given.lifts_mm)} numbers and angles_deg {len(given.angles_deg)}: one lift for each angle.")
    lobe = given.lobe()
    through(np.array(lobe.angles), np.array(lobe.lifts), _READ)
    return lobe, None


def write_json(lobe: Lobe, name: str) -> str:
    """Text of the lobe file."""
    return document(lobe, name).model_dump_json(indent=1) + "\n"


def lobe_from_curve(curve: LiftCurve, spread: float, duration_spread: float, share: float) -> Lobe:
    """A lobe at the valve from any lift curve, for writing."""
    fine = np.linspace(float(curve.angle[0]), float(curve.angle[-1]), _READ)
    lifts = np.interp(fine, curve.angle, curve.lift)
    return Lobe(tuple(fine.tolist()), tuple(lifts.tolist()), StatedAt.VALVE, Origin.TABLE, spread, duration_spread, share)


def _rows(curve: LiftCurve) -> list[tuple[float, float, float, float, float]]:
    """Cam degrees, lift mm, mm/deg, mm/deg^2, mm/deg^3 at whole degrees."""
    low, high = math.ceil(math.degrees(curve.angle[0])), math.floor(math.degrees(curve.angle[-1]))
    degrees = np.arange(low, high + 1)
    at = np.radians(degrees)
    parts = [np.interp(at, curve.angle, part) for part in (curve.lift, curve.velocity, curve.acceleration, curve.jerk)]
    scaled = [part * 1e3 * math.radians(1.0) ** order for order, part in enumerate(parts)]
    return list(zip(degrees.astype(float).tolist(), *(part.tolist() for part in scaled), strict=True))


def write_csv(curve: LiftCurve) -> str:
    """Lift table: degrees of the cam from the lobe centre, lift at the valve in mm before clearance."""
    return as_csv([("cam deg", "lift (mm)"), *((f"{row[0]:.0f}", f"{row[1]:.5f}") for row in _rows(curve))], ";")


def write_workbook(curve: LiftCurve, name: str) -> bytes:
    """Workbook with lift and its derivatives a degree, and a chart of the lift."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None  # a new workbook has one sheet
    sheet.title = "Lobe"
    rows = _rows(curve)
    heading = ("cam degrees from lobe centre", f"lift at the valve, mm: {name}"[:120], "mm/deg", "mm/deg²", "mm/deg³")
    fill(sheet, [heading, *([round(value, 7) for value in row] for row in rows)])
    chart = ScatterChart()
    chart.title, chart.style = "Lift at the valve, mm", 13
    angles = Reference(sheet, min_col=1, min_row=2, max_row=len(rows) + 1)
    lifts = Reference(sheet, min_col=2, min_row=2, max_row=len(rows) + 1)
    chart.series.append(Series(lifts, angles, title="lift"))
    sheet.add_chart(chart, "G2")
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def write_drawing(outline: NDArray[np.complex128], base: float, name: str) -> str:
    """Drawing (DXF R2010, mm) of the closed lobe outline, its base circle and its centre; `outline` complex m, `base` radius m."""
    drawing = ezdxf.new("R2010", units=units.MM)  # type: ignore[attr-defined]
    drawing.layers.add("LOBE", color=5)
    drawing.layers.add("BASE_CIRCLE", color=8)
    space = drawing.modelspace()
    space.add_lwpolyline(
        [(float(point.real) * 1e3, float(point.imag) * 1e3) for point in outline], close=True, dxfattribs={"layer": "LOBE"}
    )
    space.add_circle((0.0, 0.0), base * 1e3, dxfattribs={"layer": "BASE_CIRCLE"})
    space.add_point((0.0, 0.0), dxfattribs={"layer": "BASE_CIRCLE"})
    label = space.add_text(name[:80], height=2.0, dxfattribs={"layer": "BASE_CIRCLE"})
    label.set_placement((-base * 1e3, -base * 1e3 - 5.0))
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue()
