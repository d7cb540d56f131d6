"""What the lines of a bus ask for: a pull-up, where those that are there do not suffice."""

from collections.abc import Iterator

from msgspec.structs import replace

from knotplan.catalog.part.needs import Bus
from knotplan.core.buses.addresses import bus_of
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.lines import Section
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.finders.bus_pull import BY_CLOCK
from knotplan.core.finders.in_plan.proposal import Proposal
from knotplan.core.plan.beads import PullUp
from knotplan.core.plan.document import Tie, split


def of_buses(c: Circuit, tie: Tie) -> Iterator[Proposal]:
    """For the first tie of a line, or the one that has a pull-up as a bead."""
    need = c.needs.of(tie.lead)
    pin = c.contacts.pin(tie.to)
    if not (isinstance(need, Bus) and need.bus == "i2c") or pin is None or pin.kind != "io" or not pin.driver:
        return
    bus = next((b for b in i2c_buses(c) if b.bus == bus_of(c, split(tie.lead)[0])), None)
    section = (
        next((s for s in bus.sections if s.role == need.role and c.nets.of(tie.to) in s.nets), None)
        if bus
        else None
    )
    rail = c.supplies.rail_contact(tie.to)
    origin = c.supplies.origin(rail) if rail else None
    if bus is None or section is None or origin is None or not section.farad:
        return
    own = any(isinstance(b, PullUp) for b in tie.beads)
    others = replace(section, pulls=tuple(p for p in section.pulls if p.tie != tie.id))
    if not own and (_suffices(others, section.most_ohm(bus.mode)) or c.ties.holders[tie.to][0] != tie):
        return
    clock = next(k for k, m in BY_CLOCK.items() if m == bus.mode)
    weak = section.weakest
    yield Proposal(
        "bus-pull",
        tie,
        f"{bus.title}, {'data' if need.role == 'sda' else 'clock'}",
        {
            "supply": (origin.volts.max, origin.title),
            "clock": (clock, "plan"),
            "capacitance": (section.farad, "devices and cords of the plan"),
            "sink": (weak.amps if weak else 0.003, f"catalogue, {weak.what}" if weak else "the standard"),
            "there": (others.ohm.typ if others.ohm else 0.0, "board and modules"),
            "series": (c.series, "plan"),
        },
        PullUp(4700.0, rail=rail),
    )


def _suffices(section: Section, most_ohm: float) -> bool:
    return section.ohm is not None and section.ohm.max <= most_ohm
