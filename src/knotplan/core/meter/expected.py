"""What a meter reads: a range, and what it usually is."""

import numpy as np
from msgspec import Struct

OVER_OHM = 20e6
"""beyond this an ohmmeter shows nothing"""
OVER_V = 2.9
"""beyond this the diode range, which gives 3 V, shows nothing"""


class Expected(Struct, frozen=True):
    """What a meter reads: from `least` to `most` (ohm or volts), usually `usual`."""

    least: float
    usual: float
    most: float

    @property
    def open(self) -> bool:
        """An ohmmeter is over its range, whatever the tolerances."""
        return self.least >= OVER_OHM


UNKNOWN = Expected(-np.inf, 0.0, np.inf)
NOTHING = Expected(0.0, 0.0, 0.0)
OPEN = Expected(np.inf, np.inf, np.inf)
