"""Cords as they lie on the bench."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Tie


def colour_of(circuit: Circuit, tie: Tie) -> str:
    """The cord's colour: the maker's, or the lead's usual one."""
    lead = circuit.contacts.lead(tie.lead)
    return tie.cord or (lead.cord if lead else "grey")
