"""Rules about who hangs on a bus, and how."""

from collections.abc import Iterator
from itertools import combinations

from knotplan.catalog.part.facts import I2c
from knotplan.core.buses.addresses import Place, clash, free_straps, meet, named, places
from knotplan.core.buses.apart import behind_switch, other_bus
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import elsewhere, exchanged
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.exchanged import crossed_lines
from knotplan.core.plan import edits
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step
from knotplan.core.quantity.working import Number


@rule(
    "uart-crossed",
    "Transmit on transmit",
    "stop",
    "What one side sends the other has to receive: transmit goes to receive, and receive to transmit.",
    "catalogue: leads of the part, functions of the pins",
)
def uart_crossed(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    by_part: dict[str, list[Tie]] = {}
    for tie in crossed_lines(c):
        by_part.setdefault(split(tie.lead)[0], []).append(tie)
    for ties in by_part.values():
        text = ", and ".join(
            f"{c.titles.of(t.lead)} and {c.titles.full(t.to)} both {_does(c, t)}" for t in ties
        )
        yield Observation(
            f"{text}: nothing that is sent is heard.",
            tuple(t.lead for t in ties),
            remedies=from_facts(_uncrossed, ties),
        )


def _does(c: Circuit, tie: Tie) -> str:
    return {"tx": "transmit", "rx": "receive"}.get(c.contacts.pins[tie.to].jobs("uart")[0].channel, "")


def _uncrossed(facts: Facts, ties: list[Tie]) -> tuple[Remedy, ...]:
    return exchanged(facts, ties[0].lead, ties[1].lead) if len(ties) == 2 else elsewhere(facts, ties[0])


@rule(
    "address-clash",
    "Two devices at one address",
    "stop",
    "Both answer at once, and what is read is neither.",
    "NXP UM10204 clause 3.1.10; catalogue: addresses and strap pads of the parts",
)
def address_clash(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    devices = places(c)
    for one, other in _near_pairs(devices):
        how = clash(c, one, other)
        movable = [p for p in (one, other) if p.part]
        if how == "address" and movable:
            yield Observation(
                f"{named(c, one)} and {named(c, other)} both answer at 0x{one.address:02X}.",
                tuple(p.part for p in movable),
                (Number("address", one.address, ""),),
                from_facts(_apart, movable, devices),
            )
        elif how == "all-call":
            hub, hit = (one, other) if one.all_call == other.address else (other, one)
            movable = [hit] if hit.part else [hub]
            yield Observation(
                f"{named(c, hub)} answers to the all-call 0x{hit.address:02X} as well, until the program "
                f"switches that off; {named(c, hit)} has that address.",
                tuple(p.part for p in (hub, hit) if p.part),
                (Number("address", hit.address, ""),),
                from_facts(_apart, movable, devices),
                "care",
                "All-call at a device's address",
            )


def _near_pairs(devices: list[Place]) -> Iterator[tuple[Place, Place]]:
    """Pairs that could clash at all: with an address or an all-call in common."""
    for one, other in combinations(devices, 2):
        if other.address in (one.address, one.all_call) or other.all_call == one.address:
            yield one, other


def _apart(facts: Facts, asked: list[Place], devices: list[Place]) -> Iterator[Remedy]:
    """The last of them at the next free address that its pads can give, else the one before, else on
    another bus of the board, else behind a bus switch."""
    c = facts.circuit
    for place in reversed(asked):
        straps = free_straps(c, place, devices)
        if straps:
            yield _set(c, place.part, straps.address, straps.params)
            return
    moved = [r for place in reversed(asked) for r in other_bus(c, place, devices)]
    yield from moved or [
        r for place in reversed(asked) if (r := behind_switch(c, facts.catalog, [place.part])) is not None
    ]


def _set(c: Circuit, part_id: str, address: int, params: tuple[tuple[str, str | float], ...]) -> Remedy:
    """The pads of a device, or the address that a command gives it."""
    steps = tuple(Step(edits.set_param, (part_id, pad, value)) for pad, value in params)
    facts = c.parts[part_id].facts.i2c
    if facts is not None and facts.by_command:
        return Remedy(f"Tell {c.placed[part_id].name} to be 0x{address:02X}", steps)
    pads = " and ".join(pad.upper() for pad, _ in params)
    return Remedy(f"Set {pads} of {c.placed[part_id].name}: 0x{address:02X}", steps)


@rule(
    "wakes-at-taken",
    "At power-on, two parts at one address",
    "stop",
    "A part whose address is set by command answers at its first one until then. If a second part answers "
    "there, both take the command.",
    "NXP UM10204 clause 3.1.10; catalogue: the address at power-on, the lead that keeps it off the bus",
)
def wakes_at_taken(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    devices = places(c)
    by_command = [p for p in devices if p.part and _command(c, p) is not None]
    for place in by_command:
        free = [
            o
            for o in devices
            if o is not place
            and meet(c, o.bus, place.bus)
            and not _held(c, o)
            and (o.power_on_address if o in by_command else o.address) == place.power_on_address
        ]
        if (
            free
            and not _held(c, place)
            and (free[0] not in by_command or devices.index(free[0]) < devices.index(place))
        ):
            yield Observation(
                f"At power-on {named(c, place)} answers at 0x{place.power_on_address:02X}, and "
                f"{named(c, free[0])} answers there too: the program cannot tell one from the other.",
                (place.part, *(p.part for p in free if p.part)),
                (Number("address", place.power_on_address or 0, ""),),
                from_facts(_hold, place),
            )


def _command(c: Circuit, place: Place) -> I2c | None:
    facts = c.parts[place.part].facts.i2c if place.part else None
    return facts if facts is not None and facts.by_command else None


def _held(c: Circuit, place: Place) -> bool:
    """A pin keeps it off the bus until its turn comes."""
    facts = _command(c, place)
    return (
        facts is not None and bool(facts.held_by) and c.ties.of(f"{place.part}.{facts.held_by}") is not None
    )


def _hold(facts: Facts, place: Place) -> Iterator[Remedy]:
    spec = _command(facts.circuit, place)
    lead = f"{place.part}.{spec.held_by}" if spec and spec.held_by else ""
    best = facts.best_contact(lead) if lead else None
    if best:
        c = facts.circuit
        yield Remedy(
            f"Keep {named(c, place)} off until its turn: {c.titles.of(lead)} to {c.titles.full(best)}",
            (Step(edits.tie, (lead, best)),),
        )
