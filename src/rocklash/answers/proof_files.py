"""What comes as a file, turned into what is kept with a test: plain JSON, SI, thinned to what a picture needs."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import BuildFileError
from valvetrain.formats import recording, run_table
from valvetrain.studies.proof import dyno, starter
from valvetrain.studies.proof.sound.hearing import hear
from valvetrain.studies.proof.sound.tracker import Layout

_SHOWN = 900  # points of a line that is drawn


def _thin(values: NDArray[np.float64], most: int = _SHOWN, digits: int = 5) -> list[float]:
    step = max(1, len(values) // most)
    return [float(f"{value:.{digits}g}") for value in values[::step]]


def heard_in(raw: bytes, layout: Layout) -> dict[str, Any]:
    """What a recording tells. Raises BuildFileError for what is no WAV."""
    sound = recording.read(raw)
    found = hear(sound.samples, sound.rate, layout)
    if found.refused or found.track is None or found.end is None or found.odds is None:
        return {"refused": found.refused or "Nothing is heard in this recording."}
    track = found.track
    step = max(1, len(track.time) // _SHOWN)
    return {
        "refused": "", "seconds": len(sound.samples) / sound.rate, "share": round(found.share, 3), "warnings": [*sound.notes, *found.warnings],
        "end": asdict(found.end), "odds": asdict(found.odds), "changes": [asdict(each) | {"ratio": each.ratio} for each in found.changes],
        "time": _thin(track.time), "speed": _thin(track.speed), "heard": [bool(each) for each in track.heard[::step]],
    }  # fmt: skip


def starter_in(raw: bytes, angles: Sequence[float], good: Sequence[float]) -> tuple[dict[str, Any], dict[str, int], dict[str, str]]:
    """What a starter's trace tells, with the columns it was read from."""
    seen = run_table.preview(raw)
    columns = {key: place for key, place in seen.columns.items() if key in ("time", "current", "mark")}
    if not columns:
        columns = {"time": 0, "current": 1} | ({"mark": 2} if len(seen.headings) > 2 else {})
    table = run_table.read(raw, columns, seen.units, needed=("time", "current"))
    found = starter.read(table.columns["time"], table.columns["current"], angles, mark=table.columns.get("mark"), good=good)
    if found.refused:
        return {"refused": found.refused}, {}, {}
    kept = {
        "refused": "", "share": list(found.share), "error": list(found.error), "speed": found.speed, "anchored": found.anchored,
        "trend_only": found.trend_only, "imbalanced": found.imbalanced, "against_good": bool(good), "time": _thin(found.time), "current": _thin(found.current),
        "crest_at": _thin(found.crest_at, 400), "place": [int(each) for each in found.place[:400]],
    }  # fmt: skip
    return kept, dict(columns), {key: seen.units.get(key, "") for key in columns if seen.units.get(key)}


def run_in(raw: bytes, columns: Mapping[str, int], units: Mapping[str, str]) -> dict[str, Any]:
    """A run on its bins: speed (rev/s) and power (W) of every sample, thinned, with what was left out. Raises BuildFileError naming what lacks."""
    wanted = {key: place for key, place in columns.items() if key in ("time", "rpm", "power", "torque", "lambda")}
    if "rpm" not in wanted or not {"power", "torque"} & wanted.keys():
        headings = ", ".join(run_table.preview(raw).headings)
        raise BuildFileError(f"Engine speed and torque or power are needed. The columns are {headings}: say below which is which.")
    table = run_table.read(raw, wanted, units)
    speed = table.columns["rpm"]
    power = table.columns["power"] if "power" in table.columns else table.columns["torque"] * 2.0 * np.pi * speed
    keep = speed > 5.0
    if keep.sum() < 8:
        raise BuildFileError(
            "Fewer than eight rows have the engine turning. Is the right column told to be the engine speed, and its unit right?"
        )
    curve = dyno.binned(dyno.Run(name="this run", speed=speed[keep], power=power[keep]))
    return {
        "rows": table.rows, "left_out": [words for _, words in table.left_out[:8]], "left_count": len(table.left_out), "speed": _thin(curve.speed, 400, 7),
        "power": _thin(curve.power, 400, 6), "noise": _thin(curve.noise, 400, 4),
        "lambda": float(np.median(table.columns["lambda"])) if "lambda" in table.columns else None,
    }  # fmt: skip
