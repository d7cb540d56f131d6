"""Which values belong to a tie of the plan: each finder with its inputs taken from
the plan, and where the value goes."""

from collections.abc import Iterator

from msgspec.structs import replace

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.readings import Points
from knotplan.core.finders.in_plan.buses import of_buses
from knotplan.core.finders.in_plan.fed import of_feeds, of_lines
from knotplan.core.finders.in_plan.measured import converter_of, of_inputs
from knotplan.core.finders.in_plan.proposal import Given, Proposal
from knotplan.core.finders.in_plan.switched import of_loads, of_switches, of_transistors
from knotplan.core.plan.document import Tie

__all__ = ["Proposal", "converter_of", "proposals"]


def proposals(circuit: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    """Every question of a tie, the most telling first, with what the plan assumes. An LED's resistor has a
    finder of its own (`knotplan.core.engine.led`)."""
    for proposal in _of_tie(circuit, points, tie):
        yield replace(proposal, given=_assumed(circuit, proposal.finder) | proposal.given)


def _assumed(circuit: Circuit, finder: str) -> Given:
    """What the plan assumes of what a finder asks for."""
    from knotplan.core.finders import BY_ID

    return {
        i.name: (circuit.assumed(i.assumes), "assumption of the plan")
        for i in BY_ID[finder].inputs
        if i.assumes
    }


def _of_tie(circuit: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    yield from of_transistors(circuit, tie)
    yield from of_loads(circuit, tie)
    yield from of_switches(circuit, points, tie)
    yield from of_inputs(circuit, points, tie)
    yield from of_lines(circuit, tie)
    yield from of_buses(circuit, tie)
    yield from of_feeds(circuit, tie)
