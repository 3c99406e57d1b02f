"""What a cam grinder takes: a table of the lobe by half degrees, and its outline with the old one as a drawing (DXF)."""

import io

import ezdxf
import numpy as np
from ezdxf import units
from numpy.typing import NDArray

from valvetrain.formats.table_out import as_csv
from valvetrain.parts.cam_drive import LobeShape, Points

_LAYERS = (("NEW_LOBE", 5), ("OLD_LOBE", 8), ("BASE_CIRCLE", 3))


def write_table(shape: LobeShape, lift: NDArray[np.float64], base: float, ratio: float, notes: list[tuple[str, str]]) -> str:
    """Table as CSV with `;`: notes first, then by cam degree the follower's lift at the lobe, the valve's before clearance, and the outline's
    point in the lobe's own axes (nose up), mm. `lift` m at the valve, `base` radius m."""
    rows: list[tuple[str, ...]] = [(f"# {name}", value) for name, value in notes]
    rows.append(("# base circle radius (mm)", f"{base * 1e3:.4f}"))
    rows.append(("cam deg", "follower lift (mm)", "valve lift (mm)", "outline x (mm)", "outline y (mm)"))
    degrees = np.degrees(shape.angle)
    for angle, at, point in zip(degrees, lift, shape.outline, strict=True):
        rows.append((f"{angle:.1f}", f"{at / ratio * 1e3:.5f}", f"{at * 1e3:.5f}", f"{point.real * 1e3:.5f}", f"{point.imag * 1e3:.5f}"))
    return as_csv(rows, ";")


def write_outlines(new: Points, base: float, old: Points, old_base: float, name: str) -> str:
    """Drawing (DXF R2010, mm): the new outline, the old one, both base circles, each on its layer; points complex m, radii m."""
    drawing = ezdxf.new("R2010", units=units.MM)  # type: ignore[attr-defined]
    for layer, colour in _LAYERS:
        drawing.layers.add(layer, color=colour)
    space = drawing.modelspace()
    for layer, outline in (("NEW_LOBE", new), ("OLD_LOBE", old)):
        points = [(float(point.real) * 1e3, float(point.imag) * 1e3) for point in outline]
        space.add_lwpolyline(points, close=False, dxfattribs={"layer": layer})
    for radius in (base, old_base):
        space.add_circle((0.0, 0.0), radius * 1e3, dxfattribs={"layer": "BASE_CIRCLE"})
    label = space.add_text(name[:80], height=2.0, dxfattribs={"layer": "BASE_CIRCLE"})
    label.set_placement((-base * 1e3, -base * 1e3 - 5.0))
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue()
