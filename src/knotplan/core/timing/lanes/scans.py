"""What hardware does by itself: the scan of a light grid."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import show
from knotplan.core.timing import grid
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.wave import pulses


def scans(c: Circuit) -> Lanes:
    """The rows of a light grid, each shown in its turn."""
    for sign in grid.signs(c):
        for part_id, g in zip(sign.parts, sign.grids, strict=True):
            slot = grid.row_s(g)
            for k in range(g.rows):
                wave = pulses(g.rows * slot, slot, k * slot)
                lead = next(iter(c.parts[part_id].leads))
                yield made(
                    c,
                    f"{part_id}.{lead}",
                    "",
                    "row",
                    f"shown for {show(slot, 's')}, {g.scan_hz:g} times a second",
                    wave,
                    f"row {k + 1}",
                )
