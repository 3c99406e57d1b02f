"""A photograph made anew: only the picture is kept, upright, of a sane size, and nothing of what the camera wrote beside it."""

import io
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from valvetrain.errors import QuantityError

_FORMATS = ("JPEG", "PNG", "WEBP")
_MOST_PIXELS, _LONGEST, _QUALITY = 60_000_000, 1600, 84


@dataclass(frozen=True)
class Picture:
    """A picture as JPEG, with its size in pixels."""

    data: bytes
    width: int
    height: int


def _sane(width: int, height: int) -> None:
    if width * height > _MOST_PIXELS:
        raise QuantityError(f"This picture has {width} x {height} pixels: make it smaller than 60 million.")


def made_anew(raw: bytes) -> Picture:
    """The picture in a file that was sent. Raises QuantityError with a sentence for anything that is none."""
    try:
        with Image.open(io.BytesIO(raw), formats=_FORMATS) as sent:
            _sane(sent.width, sent.height)
            upright = ImageOps.exif_transpose(sent).convert("RGB")
    except QuantityError:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise QuantityError("This is no photograph that can be read: send a JPEG, PNG or WebP picture.") from error
    upright.thumbnail((_LONGEST, _LONGEST))
    clean = Image.new("RGB", upright.size)
    clean.paste(upright)
    out = io.BytesIO()
    clean.save(out, "JPEG", quality=_QUALITY, optimize=True)
    return Picture(out.getvalue(), clean.width, clean.height)
