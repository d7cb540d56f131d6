"""How much work has been done, counted where it is done: so that a search can end,
and ends at the same place each time.

A clock would do, too, but what is found would then depend on the machine.
"""


class Effort:
    """A counter; one unit is roughly half a millisecond on a machine of 2026."""

    def __init__(self) -> None:
        self.units = 0.0

    def spend(self, units: float) -> None:
        """Counts work; who searches looks at how much was spent, and ends."""
        self.units += units


EFFORT = Effort()
