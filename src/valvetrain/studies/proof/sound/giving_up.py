"""How it gave up: clean (limiter), ragged (misfire) or with clatter (valves), as odds with "cannot tell" among them.

The odds are a logistic of five features, fitted on sound of the simulated engine only: its loudest conditions are right as often as
they say; a second engine, a fairing or a phone's own filter can fake each. They are evidence, never a verdict.
"""

import math
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfiltfilt

from valvetrain.studies.proof.sound.events import Break
from valvetrain.studies.proof.sound.tracker import Track

Samples = NDArray[np.float64]
KINDS: Final = ("limiter", "ragged", "clatter")
_ENVELOPE = 200  # samples a second of the loudness that is looked at
_LEAST, _BEFORE = 0.35, 1.5  # s
_SLOW, _QUICK = 3.5, 25.0  # Hz between which a limiter cuts
# rows: limiter, ragged, clatter; columns: 1, periodic, deeper, level of the high band, its doubt, soft approach. Fitted on synthetic sound.
_WEIGHTS: Final = np.array(
    [
        [-0.312, 4.053, 1.166, -0.137, -0.13, -3.016],
        [0.19, -1.879, 1.144, -0.59, 0.659, 2.17],
        [0.122, -2.174, -2.31, 0.727, -0.529, 0.846],
    ]
)
_CREEPING, _USUAL = (
    0.025,
    0.045,
)  # 1/s by which speed grows before the end: the odds hold from the second, say nothing of these two below the first
_DIM, _CLEAR = 0.3, 2.0  # comb scores: nothing can be told at the first, the odds are taken as they are from the second


@dataclass(frozen=True, kw_only=True)
class Features:
    """What is measured at the end of a pull: share of the loudness's swing in one tone, how much deeper the swing than before (log),
    rise of the high band (dB), swing of that band (dB), softness of the approach (0 abrupt, 1 soft), and the pace at which speed grew before
    it (1/s), which is no evidence but says whether the odds were ever tried on such a pull."""

    periodic: float
    deeper: float
    higher: float
    uneven: float
    soft: float
    pace: float

    def row(self) -> Samples:
        """With a one before."""
        return np.array([1.0, self.periodic, self.deeper, self.higher, self.uneven, self.soft])


@dataclass(frozen=True, kw_only=True)
class Odds:
    """Odds of each way, adding up to one with what cannot be told."""

    limiter: float
    ragged: float
    clatter: float
    cannot_tell: float


def _envelope(samples: Samples, rate: int) -> Samples:
    """Loudness below 2 kHz, 200 a second, as log."""
    sos = butter(2, [60.0, 2000.0], btype="bandpass", fs=rate, output="sos")
    power = sosfiltfilt(sos, samples) ** 2
    step = rate // _ENVELOPE
    blocks = power[: len(power) // step * step].reshape(-1, step).mean(axis=1)
    return np.asarray(0.5 * np.log(blocks + 1e-10))


def _swing(part: Samples) -> tuple[float, float]:
    """Depth (std of the log) in the band in which limiters cut, and the share of it that one tone with its double holds."""
    part = part - np.polyval(np.polyfit(np.arange(len(part)), part, 2), np.arange(len(part)))
    spectrum = np.abs(np.fft.rfft(part * np.hanning(len(part)), 1024)) ** 2
    tone = np.fft.rfftfreq(1024, 1.0 / _ENVELOPE)
    band = (tone >= _SLOW) & (tone <= _QUICK)
    whole = float(spectrum[tone >= _SLOW].sum()) + 1e-12
    crest = tone[band][int(spectrum[band].argmax())]
    near = np.zeros_like(band)
    wide = 2.0 * _ENVELOPE / len(part)
    for times in (1, 2, 3):
        near |= np.abs(tone - times * crest) <= wide
    return math.sqrt(float(np.mean(part**2)) + 1e-12), float(spectrum[near & (tone >= _SLOW)].sum()) / whole


def features(samples: Samples, rate: int, track: Track, end: Break) -> Features | None:
    """Features at the end of a pull; None where it did not stay there long enough to hear how."""
    if end.last - end.at < _LEAST:
        return None
    loud = _envelope(samples, rate)
    first, last = end.at + 0.05, min(end.last, end.at + 2.0)
    before = loud[max(0, round((end.at - _BEFORE) * _ENVELOPE)) : round((end.at - 0.1) * _ENVELOPE)]
    during = loud[round(first * _ENVELOPE) : round(last * _ENVELOPE)]
    if len(before) < 40 or len(during) < 40:
        return None
    depth, periodic = _swing(during)
    depth_before, _ = _swing(before)
    at = track.time
    there, earlier = (at > first) & (at < last), (at > end.at - _BEFORE) & (at < end.at - 0.5)
    if not earlier.any() or not there.any():
        return None
    higher = float(np.median(track.high[there]) - np.median(track.high[earlier]))
    uneven = float(np.std(track.high[there]))
    log = np.log(track.speed)
    span = (at > end.at - 0.35) & (at < end.at)
    long = (at > end.at - 1.2) & (at < end.at - 0.35)
    late = float(np.polyfit(at[span], log[span], 1)[0]) if span.sum() > 4 else 0.0
    early = float(np.polyfit(at[long], log[long], 1)[0]) if long.sum() > 4 else 0.0
    soft = float(np.clip(1.0 - late / early, 0.0, 1.0)) if early > 0.005 else 0.5
    return Features(periodic=periodic, deeper=math.log(depth / depth_before), higher=higher, uneven=uneven, soft=soft, pace=early)


def odds(found: Features | None, score: float) -> Odds:
    """Odds of the features; `score` is the comb's at the end: where it is low the odds are flattened and more is left to "cannot tell"."""
    if found is None:
        return Odds(limiter=0.0, ragged=0.0, clatter=0.0, cannot_tell=1.0)
    logit = _WEIGHTS @ found.row()
    share = np.exp(logit - logit.max())
    share /= share.sum()
    clear = float(np.clip((score - _DIM) / (_CLEAR - _DIM), 0.0, 1.0))
    told = 0.05 + 0.95 * (1.0 - clear)
    # a beat is a beat at any pace; ragged and clatter were told apart on pulls that gather speed as those on a road do, and are mixed up on slower ones
    pace = found.pace if found.pace > 0.0 else _USUAL  # a last gear shorter than what is looked at
    slow = 1.0 - float(np.clip((pace - _CREEPING) / (_USUAL - _CREEPING), 0.0, 1.0))
    told = max(told, slow * (1.0 - float(share[0])))
    limiter, ragged, clatter = (float(each) * (1.0 - told) for each in share)
    return Odds(limiter=limiter, ragged=ragged, clatter=clatter, cannot_tell=told)
