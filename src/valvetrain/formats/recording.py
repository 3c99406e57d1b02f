"""A sound recording as WAV: one channel of samples, full scale 1."""

import io
import warnings
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.io import wavfile

from valvetrain.errors import BuildFileError

MOST_BYTES = 60_000_000
_FULL = {"uint8": (128.0, 128.0), "int16": (0.0, 32768.0), "int32": (0.0, 2147483648.0)}


@dataclass(frozen=True, kw_only=True)
class Recording:
    """Samples of one channel, their number a second, and what was done to get them."""

    samples: NDArray[np.float64]
    rate: int
    notes: tuple[str, ...] = ()


def _louder(data: NDArray[Any]) -> int:
    """Which channel varies most, by some ten thousand samples spread over all of it: it is taken before anything is written out as numbers."""
    some = np.nan_to_num(np.asarray(data[:: max(1, len(data) // 10_000)], dtype=float), nan=0.0, posinf=0.0, neginf=0.0)
    return int(some.std(axis=0).argmax())


def read(raw: bytes) -> Recording:
    """A WAV file. Of two channels the louder is taken, and that is noted. Raises BuildFileError saying what it is instead."""
    if len(raw) > MOST_BYTES:
        raise BuildFileError(f"The recording has {len(raw) / 1e6:.0f} MB; {MOST_BYTES // 1_000_000} MB are the most. Cut out the pull.")
    if raw[:4] not in (b"RIFF", b"RIFX", b"RF64"):
        kind = "an MP3" if raw[:3] == b"ID3" or raw[:2] in (b"\xff\xfb", b"\xff\xf3") else "an MPEG-4 recording" if raw[4:8] == b"ftyp" else "an Ogg file" if raw[:4] == b"OggS" else "a FLAC file" if raw[:4] == b"fLaC" else "no WAV recording"  # fmt: skip
        raise BuildFileError(f"This is {kind}. Save the recording as WAV (PCM), without compression.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            rate, data = wavfile.read(io.BytesIO(raw))
    except Exception as error:  # the library raises many kinds for a broken file
        raise BuildFileError("This WAV file is broken or compressed in a way that cannot be read. Save it as WAV (PCM, 16 bit).") from error
    if not rate or data.size == 0:
        raise BuildFileError("This WAV file holds no sound.")
    notes: tuple[str, ...] = ()
    if data.ndim == 2:
        pick = _louder(data)
        if data.shape[1] > 1:
            notes = (f"{data.shape[1]} channels: the louder one, number {pick + 1}, is heard.",)
        data = data[:, pick]
    if data.dtype.name in _FULL:
        zero, full = _FULL[data.dtype.name]
        sound = (np.asarray(data, dtype=float) - zero) / full
    elif data.dtype.kind == "f":
        sound = np.nan_to_num(np.asarray(data, dtype=float), nan=0.0, posinf=1.0, neginf=-1.0)
    else:
        raise BuildFileError(f"This WAV file holds samples of a kind that is not read ({data.dtype.name}). Save it as PCM, 16 bit.")
    return Recording(samples=sound, rate=int(rate), notes=notes)


def write(samples: NDArray[np.float64], rate: int) -> bytes:
    """Samples (full scale 1) as a WAV file of 16 bits."""
    out = io.BytesIO()
    wavfile.write(out, rate, np.round(np.clip(samples, -1.0, 1.0) * 32767.0).astype(np.int16))
    return out.getvalue()
