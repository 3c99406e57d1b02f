"""Rows of values that a page's script reads beside a drawing, packed for the way."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def packed(values: Sequence[float] | NDArray[np.float64], decimals: int) -> str:
    """What one whole number stands for (10 to the `decimals`), then how the slope bends from value to value, in whole numbers with spaces between.

    A smooth curve bends little, so that nearly every entry is one figure: a third of the bytes of the values themselves, and a page is sent
    with every change. Summing twice gives back each value rounded to `decimals`; `js/cams.js` does.
    """
    whole = np.round(np.asarray(values, dtype=np.float64) * 10.0**decimals).astype(np.int64)
    return " ".join(map(str, [10**decimals, *np.diff(whole, n=2, prepend=[0, 0]).tolist()]))
