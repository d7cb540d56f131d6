"""Rules about leads in each other's places, and things turned round: one cause, said once."""

from collections.abc import Iterator

from msgspec.structs import replace

from knotplan.core.check.asked import from_facts, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import exchanged, supply_of
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, ties
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.exchanged import exchanged_leads, exchanged_outputs
from knotplan.core.plan import edits
from knotplan.core.plan.beads import LevelShifter
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import remedy
from knotplan.core.quantity.working import Number

LEVEL_V = 0.5
"""supplies that lie closer together than this are one level"""


@rule(
    "leads-exchanged",
    "Leads exchanged",
    "stop",
    "Two cords of a part are in each other's places: neither end gets what it needs, and what was meant "
    "for one can destroy the other.",
    "catalogue: needs of the leads, functions of the contacts",
    each=of_circuit(exchanged_leads),
)
def leads_exchanged(facts: Facts, pair: tuple[str, str]) -> Iterator[Observation]:
    c = facts.circuit
    text = " and ".join(f"{c.titles.of(lead)} on {_where(c, lead)}" for lead in pair)
    yield Observation(
        f"{text} are exchanged: each would be right on the other's.",
        pair,
        remedies=from_facts(exchanged, *pair),
    )


@rule(
    "output-for-input",
    "Output where an input belongs",
    "stop",
    "What comes out at one end of a part goes in at another: a chain's data, a transistor's current. The "
    "wrong way round nothing arrives, or the load is always on.",
    "catalogue: what each lead of the part is for",
    each=of_circuit(exchanged_outputs),
)
def output_for_input(facts: Facts, pair: tuple[str, str]) -> Iterator[Observation]:
    c = facts.circuit
    output, lead = pair
    yield Observation(
        f"{c.titles.of(output)} is tied to {_where(c, output)}, which belongs to {c.titles.own(lead)}: "
        f"{c.titles.own(output)} is there for other parts.",
        pair,
        remedies=given(
            remedy(f"Exchange {c.titles.own(output)} and {c.titles.own(lead)}", edits.turn_round, *pair)
        ),
    )


def _where(c: Circuit, lead: str) -> str:
    tie = c.ties.of(lead)
    return c.titles.full(tie.to) if tie is not None else "nothing"


@rule(
    "shifter-turned",
    "Level shifter the wrong way round",
    "stop",
    "Each side of a level shifter works with its own supply: exchanged, it drives the lower side with the "
    "higher voltage, and the higher side gets too little.",
    "catalogue: supplies of the part and of the pin",
    each=ties,
)
def shifter_turned(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    for at, bead in enumerate(tie.beads):
        if not isinstance(bead, LevelShifter) or not _turned(c, tie, bead):
            continue
        part, pin = c.supplies.origin(bead.lead_rail), c.supplies.origin(bead.pin_rail)
        assert part is not None and pin is not None
        right = replace(bead, lead_rail=bead.pin_rail, pin_rail=bead.lead_rail)
        yield Observation(
            f"The level shifter in {c.titles.of(tie.lead)} has {part.title} on the side of "
            f"{c.placed[split(tie.lead)[0]].name} and {pin.title} on the side of {c.titles.full(tie.to)}: "
            "these are exchanged.",
            (tie.lead, tie.to),
            (
                Number("at the part's side", part.volts.typ, "V"),
                Number("at the pin's side", pin.volts.typ, "V"),
            ),
            given(remedy("Turn the level shifter round", edits.change_bead, tie.id, at, right)),
        )


def _turned(c: Circuit, tie: Tie, bead: LevelShifter) -> bool:
    """Each side's supply is that of the other end."""
    pin, part = (
        c.supplies.rail_volts(tie.to) if c.hardware.driver_at(tie.to) else None,
        supply_of(c, split(tie.lead)[0]),
    )
    own = c.supplies.origin(part) if part else None
    sides = [c.supplies.origin(rail) for rail in (bead.lead_rail, bead.pin_rail)]
    if pin is None or own is None or sides[0] is None or sides[1] is None:
        return False
    near, far = sides[0].volts.typ, sides[1].volts.typ
    return (
        abs(pin.typ - own.volts.typ) > LEVEL_V
        and abs(near - pin.typ) < LEVEL_V
        and abs(far - own.volts.typ) < LEVEL_V
    )
