"""A simulated set of feelers and a micrometer on an engine with hidden clearances: what a practised hand would read."""

import hashlib
from dataclasses import dataclass

import numpy as np

_BLADES = 0.02e-3  # m between the blades of the set
_LABEL_STEP = 0.05e-3  # m between the sizes printed on shims


@dataclass(frozen=True)
class FeelerReading:
    """What was read at one valve, m: the blade that goes, the one that does not, the shim by micrometer, and its label."""

    goes: float
    stops: float
    shim: float
    label: float


def _source(seed: int, valve: str) -> np.random.Generator:
    digest = hashlib.blake2b(f"{seed}:{valve}".encode(), digest_size=8).digest()
    return np.random.default_rng(int.from_bytes(digest, "big"))


def read_valve(seed: int, valve: str, least: float, most: float, shim: float = 2.6e-3) -> FeelerReading:
    """The first round at one valve: hidden clearance about the limits, hidden shim about `shim`; the same for the same seed and valve."""
    source = _source(seed, valve)
    middle, width = (least + most) / 2.0, most - least
    truth = max(middle + source.normal(0.0, 0.7) * width, 0.03e-3)
    size = shim + round(source.normal(0.0, 2.0)) * _LABEL_STEP
    worn = size - abs(source.normal(0.0, 0.006e-3))
    blade = np.floor(truth / _BLADES) * _BLADES
    return FeelerReading(float(blade), float(blade + _BLADES), float(np.round(worn, 6)), float(np.round(size, 6)))


def read_again(seed: int, valve: str, before: FeelerReading, fitted: float, ratio: float = 1.0) -> FeelerReading:
    """The round after the change: the hidden clearance moved by the shim that went in (m), and a little by seating."""
    source = _source(seed + 1, valve)
    hidden = before.goes + 0.5 * _BLADES + (before.shim - fitted) / ratio + source.normal(0.0, 0.002e-3)
    blade = np.floor(max(hidden, 0.0) / _BLADES) * _BLADES
    return FeelerReading(float(blade), float(blade + _BLADES), fitted, fitted)
