"""What comes as a file, turned into what is kept with a test: plain JSON, SI, thinned to what a picture needs."""

import hashlib
import zlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rocklash.answers import tasks
from rocklash.answers.proof import layout_of
from rocklash.answers.store import content_key
from rocklash.records.models import Build, ProofKind
from valvetrain.errors import BuildFileError, StoppedError
from valvetrain.formats import recording, run_table
from valvetrain.studies.proof import dyno, road, starter
from valvetrain.studies.proof.sound.hearing import hear
from valvetrain.studies.proof.sound.tracker import Layout

_SHOWN = 900  # points of a line that is drawn
_KIND = "proof"
AT_ONCE = 1_000_000  # bytes up to which a file is worked out while its sender waits: some 11 s of sound, 30,000 rows


def _thin(values: NDArray[np.float64], most: int = _SHOWN, digits: int = 5) -> list[float]:
    step = max(1, len(values) // most)
    return [float(f"{value:.{digits}g}") for value in values[::step]]


def heard_in(raw: bytes, layout: Layout, go_on: tasks.GoOn = lambda _: True) -> dict[str, Any]:
    """What a recording tells. Raises BuildFileError for what is no WAV or tells nothing, StoppedError where `go_on` says no."""

    def told(share: float) -> None:
        if not go_on(share):
            raise StoppedError

    sound = recording.read(raw)
    found = hear(sound.samples, sound.rate, layout, told)
    if found.refused or found.track is None or found.end is None or found.odds is None:
        raise BuildFileError(found.refused or "Nothing is heard in this recording.")
    track = found.track
    step = max(1, len(track.time) // _SHOWN)
    return {
        "seconds": len(sound.samples) / sound.rate, "share": round(found.share, 3), "warnings": [*sound.notes, *found.warnings],
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
        raise BuildFileError(found.refused)
    kept = {
        "share": list(found.share), "error": list(found.error), "speed": found.speed, "anchored": found.anchored,
        "trend_only": found.trend_only, "imbalanced": found.imbalanced, "against_good": bool(good), "time": _thin(found.time), "current": _thin(found.current),
        "crest_at": _thin(found.crest_at, 400), "place": [int(each) for each in found.place[:400]],
    }  # fmt: skip
    return kept, dict(columns), {key: seen.units.get(key, "") for key in columns if seen.units.get(key)}


@dataclass(frozen=True, kw_only=True)
class RoadSpec:
    """What turns road speed into power: the vehicle, and engine turns a metre in the gear of the pull (0 where the file tells the engine's speed)."""

    vehicle: road.Vehicle
    turns: float = 0.0


def _power_of(found: Mapping[str, NDArray[np.float64]], spec: RoadSpec | None) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Engine speed (rev/s) and power (W) of every sample: from power, from torque, or from how the vehicle gathers speed."""
    if "power" in found:
        return found["rpm"], found["power"]
    if "torque" in found:
        return found["rpm"], found["torque"] * 2.0 * np.pi * found["rpm"]
    if spec is None:
        raise BuildFileError("This file has road speed but no power: give the mass with rider, drag and the engine's speed at 100 km/h.")
    speed = found["rpm"] if "rpm" in found else found["road"] * spec.turns
    power = road.power_at_wheel(found["time"], found["road"], spec.vehicle)
    keep = power > 0.0
    return speed[keep], power[keep]


def run_in(
    raw: bytes, columns: Mapping[str, int], units: Mapping[str, str], spec: RoadSpec | None = None, go_on: tasks.GoOn = lambda _: True
) -> dict[str, Any]:  # fmt: skip
    """A run on its bins: speed (rev/s) and power (W), thinned, with what was left out. Raises BuildFileError naming what lacks."""
    wanted = {key: place for key, place in columns.items() if key in ("time", "rpm", "power", "torque", "road", "lambda")}
    by_power = "rpm" in wanted and bool({"power", "torque"} & wanted.keys())
    by_road = {"time", "road"} <= wanted.keys() and ("rpm" in wanted or bool(spec and spec.turns))
    if not by_power and not (by_road and spec):
        headings = ", ".join(run_table.preview(raw).headings)
        raise BuildFileError(
            f"Engine speed and torque or power are needed, or time and road speed with the vehicle's mass. The columns are {headings}: say below which is which."
        )
    if by_power:
        wanted.pop("road", None)
    table = run_table.read(raw, wanted, units)
    if not go_on(0.7):
        raise StoppedError
    speed, power = _power_of(table.columns, spec)
    keep = speed > 5.0
    if keep.sum() < 8:
        raise BuildFileError(
            "Fewer than eight rows have the engine turning. Is the right column chosen as the engine speed, and its unit right?"
        )
    curve = dyno.binned(dyno.Run(name="this run", speed=speed[keep], power=power[keep]))
    noise = curve.noise if by_power else np.maximum(curve.noise, road.doubt_of_run(both_ways=False) * curve.power)
    gain = 0.0
    if "time" in table.columns and "rpm" in table.columns:
        gain = float(np.median(np.gradient(table.columns["rpm"], table.columns["time"])))
    return {
        "rows": table.rows, "left_out": [words for _, words in table.left_out[:8]], "left_count": len(table.left_out), "speed": _thin(curve.speed, 400, 7),
        "power": _thin(curve.power, 400, 6), "noise": _thin(noise, 400, 4), "gain": gain, "by_road": not by_power,
        "lambda": float(np.median(table.columns["lambda"])) if "lambda" in table.columns else None,
    }  # fmt: skip


def samples_in(
    raw: bytes, columns: Mapping[str, int], units: Mapping[str, str], found: Mapping[str, Any]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:  # fmt: skip
    """Speed (rev/s) and power (W) of every sample of a kept file; its bins where the file tells no power itself."""
    wanted = {key: place for key, place in columns.items() if key in ("rpm", "power", "torque")}
    if "rpm" not in wanted or len(wanted) < 2:
        return np.array(found["speed"]), np.array(found["power"])
    return _power_of(run_table.read(raw, wanted, units).columns, None)


@dataclass(frozen=True, kw_only=True)
class Work:
    """A file to be worked out apart from the page: a recording with the engine's layout, or a run with its columns. The file is packed."""

    packed: bytes
    layout: Layout | None = None
    columns: Mapping[str, int] = field(default_factory=dict)
    units: Mapping[str, str] = field(default_factory=dict)
    spec: RoadSpec | None = None


def road_of(conditions: Mapping[str, Any]) -> RoadSpec | None:
    """The vehicle of a road pull, from how it was made; None where no mass is told."""
    mass = conditions.get("mass")
    if mass is None:
        return None
    density = road.density_of(conditions.get("ambient") or 101325.0, conditions.get("temperature") or 293.15)
    slope = (conditions.get("slope") or 0.0) / 100.0
    vehicle = road.Vehicle(mass=mass, turning=0.03 * mass, drag_area=conditions.get("drag") or 0.45, slope=slope, density=density)
    return RoadSpec(vehicle=vehicle, turns=(conditions.get("at_100") or 0.0) / (100.0 / 3.6))


def work_of(
    kind: str, conditions: Mapping[str, Any], build: Build, packed: bytes, columns: Mapping[str, int] | None = None, units: Mapping[str, str] | None = None
) -> Work:  # fmt: skip
    """What is to be worked out of a test's file."""
    if kind == ProofKind.SOUND:
        return Work(packed=packed, layout=layout_of(build, conditions["top"]))
    return Work(packed=packed, columns=columns or {}, units=units or {}, spec=road_of(conditions))


def worked_out(work: Work, raw: bytes, go_on: tasks.GoOn = lambda _: True) -> dict[str, Any]:
    """What comes of it. Raises BuildFileError naming what lacks, StoppedError where `go_on` says no."""
    if work.layout is not None:
        return heard_in(raw, work.layout, go_on)
    return run_in(raw, work.columns, work.units, work.spec, go_on)


@tasks.kind(_KIND)
def _work(work: Work, go_on: tasks.GoOn) -> dict[str, Any]:
    go_on(0.02)
    return worked_out(work, zlib.decompress(work.packed), go_on)


def key_of(work: Work) -> str:
    """A name for what comes of it."""
    return content_key(hashlib.blake2b(work.packed).hexdigest(), replace(work, packed=b""))


def asked_of(key: str, work: Callable[[], Work]) -> tasks.Asked:
    """How far it is; begun, with what `work` gives, where nobody has."""
    return tasks.peek(_KIND, key) or tasks.ask(_KIND, key, work())


def leave_out(key: str) -> None:
    """Nobody waits for it any more."""
    tasks.stop(_KIND, key)
