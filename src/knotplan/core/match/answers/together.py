"""Which leads may be on one pin: shared lines of a bus, and the common lines of a daisy chain."""

from knotplan.catalog.part.needs import Bus, Need, Output, Stream
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Tie, split


def goes_with(circuit: Circuit, lead: str, need: Need, held: Tie) -> bool:
    """A lead may be on the same pin as another tie's: on a shared line,
    or as the same step of a daisy chain."""
    other, chained = circuit.needs.of(held.lead), _in_chain(circuit, split(lead)[0], split(held.lead)[0])
    if isinstance(need, Stream):
        return need.shared and isinstance(other, Stream) and other.shared
    if isinstance(need, Bus) and isinstance(other, Bus) and {need.role, other.role} == {"mosi", "miso"}:
        return any(_both_ways(circuit, split(x)[0]) for x in (lead, held.lead))
    if not (
        isinstance(need, Bus) and isinstance(other, Bus) and (need.bus, need.role) == (other.bus, other.role)
    ):
        return isinstance(need, Output) and isinstance(other, Output) and chained
    if need.role in ("mosi", "miso"):
        return not chained
    return need.shared or (need.role == "select" and chained)


def _both_ways(circuit: Circuit, part_id: str) -> bool:
    """A part with one line for data in and out, which hangs on the controller's both."""
    spi = circuit.parts[part_id].facts.spi
    return spi is not None and spi.three_wire


def _in_chain(circuit: Circuit, one: str, other: str) -> bool:
    """Two parts stand in one daisy chain."""
    return one != other and bool(_heads(circuit, one) & _heads(circuit, other))


def _heads(circuit: Circuit, part_id: str) -> set[str]:
    """The parts that a part's daisy chain leads over, towards its head, itself among them."""
    heads = {part_id}
    while True:
        more = {
            split(tie.to)[0]
            for p in heads
            for name in circuit.parts[p].leads
            if (tie := circuit.ties.of(f"{p}.{name}"))
            and (hub := circuit.contacts.lead(tie.to))
            and hub.offers
            and hub.offers.via
            and hub.offers.kind == "io"
        }
        if more <= heads:
            return heads
        heads |= more
