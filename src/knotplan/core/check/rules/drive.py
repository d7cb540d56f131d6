"""What drives what: every pin that sets a level, with the input that it works on."""

from msgspec import Struct

from knotplan.catalog.part.elements import Opto
from knotplan.catalog.part.needs import Bus, Output, Pulse, Stream
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import held_for
from knotplan.core.engine.readings import Reading
from knotplan.core.memory.question import each
from knotplan.core.plan.document import Tie, split


class Drive(Struct, frozen=True):
    """A pin that drives a module's input."""

    tie: Tie
    pin: str
    need: Output | Pulse | Stream | Bus
    part: str
    opto: str = ""
    element: Opto | None = None

    def state(self, on: bool) -> str:
        """The state of the pin that has the load on or off."""
        active = self.need.active if isinstance(self.need, Output | Pulse) else "high"
        return "high" if (active == "high") == on else "low"


@each(held_for(Output, Pulse, Stream, Bus))
def drives(c: Circuit, tie_id: str) -> tuple[Drive, ...]:
    """A tie by which a pin drives an input that switches something."""
    tie = c.ties.held[tie_id]
    need, (part_id, lead) = c.needs.of(tie.lead), split(tie.lead)
    if not c.needs.drives(tie.lead) or not isinstance(need, Output | Pulse | Stream | Bus):
        return ()
    optos = (
        (n, e) for n, e in c.parts[part_id].elements.items() if isinstance(e, Opto) and lead in (e.a, e.b)
    )
    return (Drive(tie, tie.to, need, part_id, *next(optos, ("", None))),)


def in_state(readings: list[Reading], pin: str, state: str) -> list[Reading]:
    """Those of a pin's readings in which it is in a state."""
    return [r for r in readings if r.case.moment == "running" and r.case.pin(pin) == state]
