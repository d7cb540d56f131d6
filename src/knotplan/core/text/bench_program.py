"""The order in which a bench is brought up by a program: inputs are read, then each output is switched by
itself, harmless ones first."""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from knotplan.catalog.part.needs import Input, Output, Pulse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.switches import switched_by
from knotplan.core.plan.document import BOARD, Tie, split

ON_S = 0.5
"""how long an output is on, unless what it switches bears less"""
SHARE = 0.5
"""of the time for which a load may be on at all"""
SERVO_S = 0.8
"""how long pulses are given to a servo"""
REST_S = 0.3
"""between two switchings, unless a relay wants more"""
Way = Literal["switch", "servo"]


class Trial(Struct, frozen=True):
    """One output, switched by itself."""

    tie: Tie
    name: str
    """what it is called at the bench"""
    where: str
    way: Way
    active_low: bool
    on_s: float
    rest_s: float
    pulse_s: float = 0.0
    """of a servo: its middle"""
    period_s: float = 0.0
    wakes: bool = False
    """something starts that a person notices"""


class Watched(Struct, frozen=True):
    """One input, which is read."""

    tie: Tie
    name: str
    where: str
    pull: str


def trials(c: Circuit) -> list[Trial]:
    """All outputs on pins of the board, each once: what wakes no load first, then by what it moves."""
    found: dict[str, Trial] = {}
    for contact, _, tie in c.ties.on_pins():
        need = c.needs.of(tie.lead)
        if split(contact)[0] == BOARD and isinstance(need, Output | Pulse):
            found.setdefault(contact, _trial(c, tie, contact, need))
    return sorted(found.values(), key=lambda t: (t.wakes, t.way == "servo"))


def _trial(c: Circuit, tie: Tie, contact: str, need: Output | Pulse) -> Trial:
    part_id = split(tie.lead)[0]
    facts = c.parts[part_id].facts
    loads = _loads(c, tie)
    limits = [c.parts[load].facts.most_on_s * SHARE for load in loads if c.parts[load].facts.most_on_s]
    relays = [
        r.least_interval_s for load in {part_id, *loads} if (r := c.parts[load].facts.relay) is not None
    ]
    name, where = c.titles.of(tie.lead), c.titles.full(contact)
    rest, wakes = max([REST_S, *relays]), need.wakes_load or bool(limits)
    if facts.servo is not None and isinstance(need, Pulse):
        middle = (facts.servo.least_s + facts.servo.most_s) / 2
        return Trial(tie, name, where, "servo", False, SERVO_S, rest, middle, 1 / need.frequency_hz, True)
    return Trial(tie, name, where, "switch", need.active == "low", min([ON_S, *limits]), rest, wakes=wakes)


def _loads(c: Circuit, tie: Tie) -> list[str]:
    """Everything that the pin of a tie switches."""
    return [load for load in c.parts if any(t.id == tie.id for t in switched_by(c, load))]


def watched(c: Circuit) -> Iterator[Watched]:
    """All inputs on pins of the board, each once."""
    seen = set()
    for contact, _, tie in c.ties.on_pins():
        if split(contact)[0] == BOARD and isinstance(c.needs.of(tie.lead), Input) and contact not in seen:
            seen.add(contact)
            yield Watched(tie, c.titles.of(tie.lead), c.titles.full(contact), tie.pull)
