"""A recording of a pull, heard as a whole: speed over time, changes, the end with its doubt, how it gave up, or why nothing is told."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from valvetrain.errors import OutOfRangeError
from valvetrain.studies.proof.sound.events import Break, GearChange, end_of_pull, gear_changes, pulled
from valvetrain.studies.proof.sound.giving_up import Features, Odds, features, odds
from valvetrain.studies.proof.sound.tracker import Layout, Track, follow

Samples = NDArray[np.float64]
SHORTEST, LONGEST, LEAST_RATE = 3.0, 180.0, 12_000
_SILENT = 1e-4  # of full scale, root mean square
_CLIPPED = 0.002  # part of the samples that stand at the loudest value
_HUMP = 8.0  # dB by which a passing is louder than a second and a half before and after
_CREST, _SHORT = 4.0, 1.6  # dB below the loudest moment, and how long (s) a passing stays within it


@dataclass(frozen=True, kw_only=True)
class Heard:
    """What a recording tells. `warnings` are what lessens it; `refused` says why no speed is told, and is empty where one is."""

    track: Track | None = None
    changes: tuple[GearChange, ...] = ()
    end: Break | None = None
    found: Features | None = None
    odds: Odds | None = None
    share: float = 0.0
    warnings: tuple[str, ...] = ()
    refused: str = ""


def passing_by(track: Track) -> bool:
    """Whether the loudness rises to one short hump and falls on both sides, as of a machine that passes the microphone.

    On a machine a pull stays loud for as long as the throttle is open. A slow pass far off (under 15 m/s at 20 m) is not known apart.
    """
    hop = float(track.time[1] - track.time[0])
    loud = uniform_filter1d(track.loud, max(1, round(0.3 / hop)))
    top = int(loud.argmax())
    away = track.time - track.time[top]
    sides = [loud[(away > low) & (away < high)] for low, high in ((-3.0, -1.5), (1.5, 3.0))]
    if any(len(side) < 10 or float(side.max()) > loud[top] - _HUMP for side in sides):
        return False
    return float((loud > loud[top] - _CREST).sum()) * hop < _SHORT


def _faults(sound: Samples, rate: int) -> tuple[str, tuple[str, ...]]:
    """What refuses a recording at once, and what lessens it."""
    seconds = len(sound) / rate
    if rate < LEAST_RATE:
        return (
            f"The recording has {rate:,} samples a second; {LEAST_RATE:,} are needed to hear an engine's lines. Record at 44,100 or 48,000.",
            (),
        )
    if seconds < SHORTEST:
        return (
            f"The recording lasts {seconds:.1f} s. A pull of at least {SHORTEST:.0f} s is needed: one gear, from the middle to where it gives up.",
            (),
        )
    if seconds > LONGEST:
        return f"The recording lasts {seconds:.0f} s; {LONGEST:.0f} s are the most. Cut out the pull.", ()
    if float(np.sqrt(np.mean(sound**2))) < _SILENT:
        return "The recording is silent. Was the microphone allowed, and was it the right one?", ()
    top = float(np.abs(sound).max())
    warnings = []
    if float((np.abs(sound) > 0.999 * top).mean()) > _CLIPPED:
        warnings.append(
            "The recording is clipped: too loud for the microphone. Speed is hardly hurt, how it gave up is. Put a hand's breadth more between, or cloth over it."
        )
    return "", tuple(warnings)


def hear(sound: Samples, rate: int, layout: Layout, told: Callable[[float], None] = lambda _: None) -> Heard:
    """Everything a mono recording tells (`rate` samples a second, full scale 1).

    Raises OutOfRangeError for samples that are no numbers. A recording that tells nothing is `refused` with a sentence.
    """
    if not np.isfinite(sound).all():
        raise OutOfRangeError("The recording holds samples that are no numbers.")
    refused, warnings = _faults(sound, rate)
    if refused:
        return Heard(refused=refused, warnings=warnings)
    track = follow(sound, rate, layout, told)
    share = float(track.heard.mean())
    if passing_by(track):
        return Heard(
            track=track, share=share, warnings=warnings,
            refused="This sounds like a machine that passes by: its pitch is bent by its own speed. Put the phone on the machine, or ride beside it.",
        )  # fmt: skip
    end = end_of_pull(track)
    if end is None:
        return Heard(
            track=track, share=share, warnings=warnings,
            refused="No pull is heard: no stretch in which the firing rises steadily. Check cylinders and firing angles, and that the engine is louder than wind and neighbours.",
        )  # fmt: skip
    changes = tuple(each for each in gear_changes(track) if each.at < end.at)
    found = features(sound, rate, track, end)
    there = (track.time >= end.at) & (track.time <= end.last)
    score = float(np.median(track.score[there])) if there.any() else 0.0
    if float(pulled(track).mean()) < 0.15:
        warnings += ("Only a small part of it is a pull that is heard.",)
    return Heard(track=track, changes=changes, end=end, found=found, odds=odds(found, score), share=share, warnings=warnings)
