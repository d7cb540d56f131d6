"""Rules about who hangs on a bus, and how."""

from collections.abc import Iterator
from functools import partial
from itertools import combinations

from knotplan.catalog.needs import Bus
from knotplan.core import edits
from knotplan.core.addresses import Place, clash, free_straps, places
from knotplan.core.circuit import Circuit
from knotplan.core.edits import Remedy, Step
from knotplan.core.fit import candidates
from knotplan.core.plan import Tie, split
from knotplan.core.rules.pairs import crossed_lines
from knotplan.core.rules.remedies import elsewhere, exchanged
from knotplan.core.rules.rule import Draft, Facts, rule
from knotplan.core.units import buses_at
from knotplan.core.working import Number


@rule("uart-crossed", "Transmit on transmit", "stop",
      "What one side sends the other has to receive: transmit goes to receive, and receive to transmit.",
      "catalogue: leads of the part, functions of the pins")  # fmt: skip
def uart_crossed(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    by_part: dict[str, list[Tie]] = {}
    for tie in crossed_lines(c):
        by_part.setdefault(split(tie.lead)[0], []).append(tie)
    for ties in by_part.values():
        said = " and ".join(f"{c.title(t.lead)} on {c.full_title(t.to)} ({_does(c, t)})" for t in ties)
        yield Draft(f"{said}: both ends {'speak or both listen' if len(ties) > 1 else 'do the same'}.",
                    tuple(t.lead for t in ties), remedies=partial(_uncrossed, facts, ties))  # fmt: skip


def _does(c: Circuit, tie: Tie) -> str:
    return {"tx": "transmits", "rx": "receives"}.get(c.pins[tie.to].jobs("uart")[0].channel, "")


def _uncrossed(facts: Facts, ties: list[Tie]) -> tuple[Remedy, ...]:
    return exchanged(facts, ties[0].lead, ties[1].lead) if len(ties) == 2 else elsewhere(facts, ties[0])


@rule("address-clash", "Two devices at one address", "stop",
      "Both answer at once, and what is read is neither.",
      "NXP UM10204 clause 3.1.10; catalogue: addresses and strap pads of the parts")  # fmt: skip
def address_clash(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    found = places(c)
    for one, other in combinations(found, 2):
        how = clash(c, one, other)
        if how == "address":
            yield Draft(f"{c.placed[one.part].name} and {c.placed[other.part].name} both answer at 0x{one.address:02X}.",
                        (one.part, other.part), (Number("address", one.address, ""),),
                        partial(_apart, facts, [one, other], found))  # fmt: skip
        elif how == "all-call":
            hub, hit = (one, other) if one.all_call == other.address else (other, one)
            yield Draft(f"{c.placed[hub.part].name} answers to the all-call 0x{hit.address:02X} as well, until the program "
                        f"switches that off; {c.placed[hit.part].name} has that address.", (hub.part, hit.part),
                        (Number("address", hit.address, ""),), partial(_apart, facts, [hit], found), "care",
                        "All-call at a device's address")  # fmt: skip


def _apart(facts: Facts, asked: list[Place], found: list[Place]) -> Iterator[Remedy]:
    """The last of them at the next free address that its pads can give, else the one before, else on another bus."""
    c = facts.circuit
    for place in reversed(asked):
        straps = free_straps(c, place, found)
        if straps:
            steps = tuple(Step(edits.set_param, (place.part, pad, value)) for pad, value in straps.params)
            pads = " and ".join(pad.upper() for pad, _ in straps.params)
            yield Remedy(f"Set {pads} of {c.placed[place.part].name}: 0x{straps.address:02X}", steps)
            return
    yield from (r for place in reversed(asked) for r in _other_bus(c, place, found))


def _other_bus(c: Circuit, place: Place, found: list[Place]) -> Iterator[Remedy]:
    """Its two leads on another bus of the board, where its address is free."""
    taken = {p.bus for p in found if p.address == place.address}
    needs = {f"{place.part}.{name}": n for name, lead in c.parts[place.part].leads.items() for n in lead.needs
             if isinstance(n, Bus) and n.bus == "i2c"}  # fmt: skip
    if len(needs) != 2:
        return
    (one, need), (other, need_2) = needs.items()
    able = candidates(c, other)
    for first in candidates(c, one):
        for bus in buses_at(c, need, first.contact):
            second = next((f.contact for f in able if bus in buses_at(c, need_2, f.contact)), "")
            if second and bus not in taken:
                steps = (Step(edits.tie, (one, first.contact)), Step(edits.tie, (other, second)))
                where = f"{c.full_title(first.contact)} and {c.full_title(second)}"
                yield Remedy(f"Move {c.placed[place.part].name} to {where}", steps)
                return
