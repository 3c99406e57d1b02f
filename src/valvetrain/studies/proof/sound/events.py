"""Gear changes and the place where it broke, on a heard track."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.studies.proof.sound.tracker import Track

Samples = NDArray[np.float64]
_FALL, _WITHIN = 0.10, 0.4  # a gear change: the least fall, and the longest time for it (s)
_NEAR = 0.968  # of the highest: where the end of the pull is looked for
_BEFORE = 1.6  # s before it that the hinge is fitted to
_QUIET = 10.0  # dB below the loud part of a recording
_LEAP = 0.65  # 1/s: no engine in gear gathers speed so quickly
_ROSE = 0.05  # least rise of a pull
_PITCH = 0.004  # doubt of the pitch itself, one sigma


@dataclass(frozen=True, kw_only=True)
class GearChange:
    """A change: when (s), speed before and after (rev/s), and the ratio between."""

    at: float
    before: float
    after: float

    @property
    def ratio(self) -> float:
        """After over before."""
        return self.after / self.before


@dataclass(frozen=True, kw_only=True)
class Break:
    """Where the pull ended: when (s), speed (rev/s), one sigma, the crest it reached, and first and last moment (s) of the stretch that stays there."""

    at: float
    speed: float
    doubt: float
    crest: float
    last: float


def at_work(track: Track) -> NDArray[np.bool_]:
    """Frames that are heard and loud: a closed throttle is quiet, and its speed is not what is asked for."""
    if not track.heard.any():
        return track.heard
    return np.asarray(track.heard & (track.loud > float(np.percentile(track.loud[track.heard], 90.0)) - _QUIET))


def gear_changes(track: Track) -> tuple[GearChange, ...]:
    """Falls of over a tenth within 0.4 s that are followed by a rise, heard on both sides."""
    hop = float(track.time[1] - track.time[0]) if len(track.time) > 1 else 0.02
    reach = max(2, round(_WITHIN / hop))
    log, found, frame = np.log(track.speed), [], 0
    told = at_work(track)
    while frame < len(log) - reach:
        fall = log[frame] - log[frame : frame + reach + 1]
        low = int(fall.argmax())
        if fall[low] > _FALL and told[frame] and log[frame] > log[max(0, frame - round(0.4 / hop))] + 0.004:
            # the edge: from the last crest before the fall to the first trough after it
            first = frame + int(np.argmax(log[frame : frame + low + 1]))
            end = min(len(log) - 1, first + reach)
            trough = first + int(np.argmin(log[first : end + 1]))
            after = min(len(log) - 1, trough + round(0.5 / hop))
            steady = trough + round(0.06 / hop)
            if after > trough and told[trough:after].mean() > 0.5 and log[after] > log[trough] + 0.004 and steady < len(log):
                middle = first + int(np.argmin(np.gradient(log[first : trough + 1]))) if trough > first + 1 else first
                found.append(
                    GearChange(at=float(track.time[middle]), before=float(track.speed[max(0, first - 1)]), after=float(track.speed[trough]))
                )
                frame = trough + round(0.2 / hop)
                continue
        frame += 1
    return tuple(found)


def _runs(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate(([0], mask.astype(np.int8), [0]))))
    return [(int(low), int(high)) for low, high in zip(edges[::2], edges[1::2], strict=True)]


def pulled(track: Track) -> NDArray[np.bool_]:
    """Frames of stretches that are heard without a leap and that rise: what leaps up without a pull is another engine, or an octave."""
    heard = at_work(track)
    hop = float(track.time[1] - track.time[0])
    span = max(1, round(0.2 / hop))
    log = np.log(track.speed)
    leap = np.zeros_like(heard)
    rise = (log[span:] - log[:-span]) / (span * hop)
    for frame in np.flatnonzero(rise > _LEAP):
        leap[frame : frame + span] = True
    kept = np.zeros_like(heard)
    gap = round(0.3 / hop)
    stretches: list[tuple[int, int]] = []
    for low, end in _runs(heard & ~leap):
        if stretches and low - stretches[-1][1] <= gap and not leap[stretches[-1][1] : low].any():
            stretches[-1] = (stretches[-1][0], end)
        else:
            stretches.append((low, end))
    for low, end in stretches:
        lowest = np.minimum.accumulate(log[low:end])
        if float((log[low:end] - lowest).max(initial=0.0)) > _ROSE:
            kept[low:end] = heard[low:end]
    return kept


def end_of_pull(track: Track) -> Break | None:
    """The stretch near the highest speed that is loudest, and the hinge at which the rise stops; None where nothing is heard."""
    if len(track.time) < 30:
        return None
    heard = pulled(track)
    if heard.sum() < 20:
        return None
    hop = float(track.time[1] - track.time[0])
    high = float(np.percentile(track.speed[heard], 99.0))
    near = _runs(heard & (track.speed > _NEAR * high))
    joined: list[tuple[int, int]] = []
    for low, end in near:  # a cut of a limiter must not part a stretch
        if joined and low - joined[-1][1] <= round(0.2 / hop):
            joined[-1] = (joined[-1][0], end)
        else:
            joined.append((low, end))
    if not joined:
        return None
    first, last = max(joined, key=lambda run: float((10.0 ** (track.loud[run[0] : run[1]] / 10.0)).sum()))
    begin = max(0, first - round(_BEFORE / hop))
    while begin < first and not heard[begin]:
        begin += 1
    fall = np.flatnonzero(np.diff(np.log(track.speed[begin:first])) < -0.03)  # not over a gear change
    begin += int(fall[-1]) + round(0.1 / hop) + 1 if len(fall) else 0
    begin = min(begin, max(0, first - 3))
    time, speed = track.time[begin:last], track.speed[begin:last]
    if len(time) < 12:
        crest = float(np.max(track.speed[first:last]))
        return Break(at=float(track.time[first]), speed=crest, doubt=0.02 * crest, crest=crest, last=float(track.time[last - 1]))
    best = (np.inf, 0, 0.0, 0.0)
    for hinge in range(5, len(time) - 4):
        x = time - time[hinge]
        left = np.minimum(x, 0.0)
        right = np.maximum(x, 0.0)
        base = np.column_stack([np.ones_like(x), left, left**2, right])
        found, *_ = np.linalg.lstsq(base, speed, rcond=None)
        rest = float(np.abs(base @ found - speed).mean())
        if rest < best[0]:
            best = (rest, hinge, float(found[0]), rest)
    _, hinge, value, rest = best
    crest = float(np.percentile(speed, 99.0))
    value = min(value, crest * 1.002)
    return Break(at=float(time[hinge]), speed=value, doubt=float(np.hypot(_PITCH * value, rest)), crest=crest, last=float(time[-1]))
