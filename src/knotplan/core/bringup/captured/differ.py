"""How a difference of a capture is written down."""

from collections.abc import Sequence

from knotplan.core.bringup.difference import Difference, Spot
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.remedy import Remedy
from knotplan.core.timing.lanes import Lane


class Differ:
    """Makes differences about lanes of one circuit."""

    def __init__(self, c: Circuit):
        self.c = c

    def of_lanes(
        self,
        kind: str,
        about: Sequence[Lane],
        title: str,
        message: str,
        *,
        note: bool = False,
        remedies: tuple[Remedy, ...] = (),
    ) -> Difference:
        """About some lanes; their cords are what is looked at again."""
        ties = [t.id for lane in about if (t := self.c.ties.of(lane.lead)) is not None]
        return Difference(
            kind,
            "note" if note else "differs",
            title,
            message,
            tuple(lane.lead for lane in about),
            Spot("capture"),
            remedies,
            look=tuple(dict.fromkeys(ties)),
        )
