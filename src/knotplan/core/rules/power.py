"""Rules about what feeds what."""

from collections.abc import Iterator
from functools import partial

import numpy as np

from knotplan.catalog.needs import Supply
from knotplan.catalog.parts import Load
from knotplan.core import edits
from knotplan.core.circuit import Origin
from knotplan.core.edits import Remedy, Step
from knotplan.core.plan import BOARD
from knotplan.core.quantity import show
from knotplan.core.rules.remedies import own_supply
from knotplan.core.rules.rule import Draft, Facts, rule
from knotplan.core.solve.network import Samples, Topology
from knotplan.core.solve.newton import solve
from knotplan.core.working import Number


def sagged(origin: Origin, amps: float) -> float:
    """The least voltage of a supply behind its own resistance, while a load draws `amps`."""
    one = np.ones((1, 1))
    none = np.zeros((0, 1))
    topology = Topology(1, 1, ((-1, 0),), (), (0,))
    values = Samples(one * origin.volts.min, one / origin.source_ohm, none, none, one * amps)
    return float(solve(topology, values).volts[0, 0])


@rule("jerky-load-on-board", "Motor or servo on a board rail", "care",
      "A motor draws its stall current at every start; on the board's own rail that pulls the voltage down, "
      "and the board resets in the middle of its work.",
      "catalogue: stall current of the load, source resistance of the rail")  # fmt: skip
def jerky_load_on_board(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for part_id, part in c.parts.items():
        for e in part.elements.values():
            lead = f"{part_id}.{e.a}"
            if not isinstance(e, Load) or c.plan.tie_of(lead) is None:
                continue
            need, origin = c.need(lead), c.origin(lead)
            if not (isinstance(need, Supply) and need.jerks and origin and origin.id in c.board.rails):
                continue
            rail = c.board.rails[origin.id]
            volts = sagged(origin, e.worst_a)
            grave = rail.holds_v is not None and volts < rail.holds_v
            tail = f"; the board resets below {show(rail.holds_v, 'V')}" if rail.holds_v else ""
            yield Draft(f"{c.placed[part_id].name} draws {show(e.worst_a, 'A')} when it starts or stalls and takes the "
                        f"{origin.title} down to {show(volts, 'V')} at the least{tail}.", (lead,),
                        (Number("stall current", e.worst_a, "A"), Number("rail at the least", volts, "V", rail.holds_v)),
                        partial(own_supply, facts, lead), "stop" if grave else None)  # fmt: skip


@rule("board-unfed", "Nothing feeds the board", "note",
      "Without a supply in the plan the budgets count with the limit of the socket itself.",
      "catalogue: sockets of the board")  # fmt: skip
def board_unfed(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    if c.feeds or not c.parts:
        return
    socket = c.board.sockets[c.socket]
    yield Draft(f"Counted as if {socket.title} gave {show(socket.limit_a, 'A')}.", (f"{BOARD}.{c.socket}",),
                (Number("assumed limit", socket.limit_a, "A"),), partial(_usb, facts))  # fmt: skip


def _usb(facts: Facts) -> tuple[Remedy, ...]:
    brick = edits.slug("USB brick", set(facts.circuit.placed))
    return (Remedy("Add a USB brick", (
        Step(edits.add_part, ("usb-brick", "USB brick")),
        Step(edits.tie, (f"{brick}.plug", f"{BOARD}.usb")),
    )),)  # fmt: skip
