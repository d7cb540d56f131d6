"""One lane for each output of a plan: what it does, and when, as a wave."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.memory.question import question
from knotplan.core.timing.lanes.frames import frames
from knotplan.core.timing.lanes.lane import Lane
from knotplan.core.timing.lanes.measured import measured
from knotplan.core.timing.lanes.pulsed import pulsed
from knotplan.core.timing.lanes.scans import scans
from knotplan.core.timing.lanes.spi import transfers
from knotplan.core.timing.lanes.steppers import steppers
from knotplan.core.timing.lanes.switched import switched
from knotplan.core.timing.lanes.uarts import uarts

__all__ = ["Lane", "lanes"]

KINDS = (pulsed, steppers, switched, frames, transfers, uarts, scans, measured)


@question
def lanes(c: Circuit) -> tuple[Lane, ...]:
    """Every output that is tied, in the order of the parts."""
    by_kind: dict[str, list[Lane]] = {}
    for of_kind in KINDS:
        for lane in of_kind(c):
            by_kind.setdefault(lane.part, []).append(lane)
    return tuple(lane for part in c.parts for lane in by_kind.get(part, ()))
