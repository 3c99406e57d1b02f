"""A surfaced head or another gasket in plain words."""

import math

from valvetrain.studies.train.head_change import HeadChange
from valvetrain.units import LENGTH, amount


def head_words(change: HeadChange) -> list[str]:
    """What follows, told together; amounts in SI until they are told."""
    ratio, spread = change.ratio, change.ratio.spread
    way = "nearer" if change.nearer >= 0.0 else "further away"
    squish = amount(abs(change.squish), LENGTH) + ("" if change.squish else ", where its band lies in the face")
    said = [
        f"Compression ratio {change.ratio_before.value:.2f} becomes {ratio.value:.2f} ±{spread:.2f}.",
        f"Every valve comes {amount(abs(change.nearer), LENGTH)} {way} to the piston along the bore; the squish {squish}.",
    ]
    if change.retard:
        late = math.degrees(change.retard)
        guess = ", by a usual cam chain: type its pitch and the sprocket's teeth" if change.guessed else ""
        said.append(
            f"The chain leaves the cams {abs(late):.1f}° of crank {'late' if late > 0 else 'early'}{guess}. A cam that was degreed in stands where it was "
            "measured: degree it again."
        )
    return said
