"""What a spring tester showed of one spring."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class SpringReadings:
    """Readings of one spring: `height` m and `load` N of equal shape, in the order of the log."""

    name: str
    height: NDArray[np.float64]
    load: NDArray[np.float64]
