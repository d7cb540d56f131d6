"""What says whether a load is on."""

from collections.abc import Iterator

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Tie, split


def switched_by(c: Circuit, load: str) -> Iterator[Tie]:
    """The ties of the pins that say whether a load is on: its own, or those of the hub that switches it."""
    for lead in c.parts[load].leads:
        for tie in c.ties.at.get(f"{load}.{lead}", ()):
            hub = c.contacts.lead(tie.to)
            driven_by = hub.offers.driven_by if hub is not None and hub.offers is not None else ""
            switch = c.ties.of(f"{split(tie.to)[0]}.{driven_by}") if driven_by else tie
            if switch is not None:
                yield switch
