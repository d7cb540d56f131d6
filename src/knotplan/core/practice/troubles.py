"""What can be wrong on a practice bench: everything that a meter may find, and what only a program, a scan or
a listing shows.
"""

from collections.abc import Iterator
from itertools import pairwise
from random import Random
from typing import Literal

from msgspec import Struct

from knotplan.catalog.board.pin import KERNEL
from knotplan.catalog.part.needs import Input, Output
from knotplan.core.bringup.otherwise import Numbers
from knotplan.core.buses.addresses import bus_of, can_be, places, soldering
from knotplan.core.buses.i2c import title_of
from knotplan.core.buses.numbers import called
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter import faults as wiring
from knotplan.core.meter.network import AS_PLANNED, Change
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.timing.lanes import lanes

Does = Literal["", "pin", "inverted", "exchanged", "twice", "half", "order", "period", "silent"]
"""what a program does otherwise: works another pin, with on and off exchanged, two outputs exchanged, steps
or edges twice or half as often, coils in another order, with another period, nothing at all"""

TRIES = 20
"""draws for each trouble, until nothing fits any more"""


class Trouble(Struct, frozen=True):
    """One thing that is wrong."""

    id: str
    kind: str
    title: str
    """what it is, for who has looked long enough"""
    parts: tuple[str, ...] = ()
    ties: tuple[str, ...] = ()
    change: Change = AS_PLANNED
    """on the bench, in its cords, beads and supplies"""
    params: tuple[tuple[str, str, str | float], ...] = ()
    """(part, parameter, value) of what stands otherwise"""
    bus_off: str = ""
    """a bus of the board that is switched off, by its id"""
    taken: str = ""
    """a pin that a driver of the system has"""
    bias: str = ""
    """a pin whose pull is otherwise than planned"""
    does: Does = ""
    leads: tuple[str, ...] = ()
    """of lanes: what the program does otherwise is about these"""
    to: str = ""
    """the contact that the program works instead"""


def troubles(c: Circuit) -> tuple[Trouble, ...]:
    """Every single trouble of a plan."""
    makers = (_wired, _straps, _buses_off, _lines, _program)
    found: dict[str, Trouble] = {}
    for make in makers:
        for trouble in make(c):
            found.setdefault(trouble.id, trouble)
    return tuple(found.values())


def drawn(c: Circuit, count: int, seed: int) -> tuple[Trouble, ...]:
    """So many of them by chance, no two about the same tie; kinds that have many do not come oftener for
    that."""
    rng = Random(seed)
    by_kind: dict[str, list[Trouble]] = {}
    for t in troubles(c):
        by_kind.setdefault(t.kind, []).append(t)
    found: list[Trouble] = []
    for _ in range(count * TRIES):
        if len(found) == count or not by_kind:
            break
        one = rng.choice(by_kind[rng.choice(sorted(by_kind))])
        if not any(set(one.ties) & set(t.ties) or one.id == t.id for t in found):
            found.append(one)
    return tuple(found)


def _wired(c: Circuit) -> Iterator[Trouble]:
    counts: dict[str, int] = {}
    for fault in wiring.faults(c):
        about = fault.ties[0] if fault.ties else fault.supplies[0]
        key = f"{fault.kind.replace(' ', '-')}:{about}"
        counts[key] = counts.get(key, 0) + 1
        tail = f":{counts[key]}" if counts[key] > 1 else ""
        yield Trouble(key + tail, fault.kind, fault.title, fault.parts, fault.ties, fault.change)


def _straps(c: Circuit) -> Iterator[Trouble]:
    """A device whose pads stand otherwise, at an address where nobody else is."""
    taken = {p.address for p in places(c)}
    for place in places(c):
        facts = c.parts[place.part].facts.i2c if place.part else None
        if facts is None or facts.by_command:
            continue
        for strap in can_be(c, place.part):
            if strap.params and strap.address not in taken:
                name = c.titles.part(place.part)
                stands = soldering(c, place.part, dict(strap.params))
                params = tuple((place.part, param, value) for param, value in strap.params)
                title = f"{name}: its pads stand so: {stands}"
                yield Trouble(f"strap:{place.part}", "strap otherwise", title, (place.part,), params=params)
                break


def _buses_off(c: Circuit) -> Iterator[Trouble]:
    for bus in dict.fromkeys(bus for p in c.parts if (bus := bus_of(c, p)) is not None and bus.unit.on_board):
        if called(c, bus.unit).device:
            parts = tuple(p for p in c.parts if bus_of(c, p) == bus)
            title = f"{title_of(c, bus)}: switched off in the board's system"
            yield Trouble(f"bus-off:{bus}", "bus off", title, parts, bus_off=str(bus))


def _lines(c: Circuit) -> Iterator[Trouble]:
    """Where the board's system lists its lines: a driver has one, or a pull stands otherwise."""
    if KERNEL not in c.board.schemes:
        return
    for contact, pin, tie in c.ties.on_pins():
        if split(contact)[0] != BOARD or KERNEL not in pin.names:
            continue
        need, name = c.needs.of(tie.lead), c.titles.full(contact)
        parts = (split(tie.lead)[0],)
        if isinstance(need, Output | Input):
            title = (
                f"{name}: a driver of the system has it, as an "
                f"{'output' if isinstance(need, Input) else 'input'}"
            )
            yield Trouble(f"taken:{contact}", "line taken", title, parts, (tie.id,), taken=contact)
        if tie.pull in ("up", "down"):
            title = f"{name}: the program did not switch its pull-{tie.pull} on"
            yield Trouble(f"bias:{contact}", "pull left off", title, parts, (tie.id,), bias=contact)


# --- what the program does otherwise ------------------------------------------------------------------


def worked(c: Circuit) -> dict[str, Tie]:
    """Leads that the program works on pins of the board, with their ties: those that have a lane."""
    leads = {lane.lead for lane in lanes(c) if lane.kind != "measured"}
    found: dict[str, Tie] = {}
    for contact, _, tie in c.ties.on_pins():
        if split(contact)[0] == BOARD and tie.lead in leads:
            found.setdefault(tie.lead, tie)
    return found


def _program(c: Circuit) -> Iterator[Trouble]:
    numbers, mine = Numbers(c.board), worked(c)
    for lead, tie in mine.items():
        name, part = c.titles.of(lead), (split(lead)[0],)
        for kind, words, to in _other_pins(c, numbers, tie):
            title = f"{name}: the program works {c.titles.full(to)}, {words}"
            yield Trouble(f"{kind}:{lead}", kind, title, part, (tie.id,), does="pin", leads=(lead,), to=to)
        if isinstance(c.needs.of(lead), Output):
            title = f"{name}: on and off are exchanged in the program"
            yield Trouble(
                f"inverted:{lead}", "inverted", title, part, (tie.id,), does="inverted", leads=(lead,)
            )
    yield from _kinds(c, mine)


def _other_pins(c: Circuit, numbers: Numbers, tie: Tie) -> Iterator[tuple[str, str, str]]:
    """(kind, words, contact) of a pin that is worked because its number was meant by another scheme, or is
    off by one."""
    pin_id, scheme = split(tie.to)[1], c.scheme
    number = numbers.number(scheme, pin_id)
    if number is None:
        return
    for other in c.board.schemes:
        meant = numbers.pin(other, number) if other != scheme else ""
        if meant and meant != pin_id and c.board.pins[meant].kind == "io":
            words = f"which has its number {number} by {c.board.schemes[other].title.lower()}"
            yield "other scheme", words, f"{BOARD}.{meant}"
            break
    for near in (number - 1, number + 1):
        meant = numbers.pin(scheme, near)
        if meant and c.board.pins[meant].kind == "io":
            yield "off by one", f"number {near} instead of {number}", f"{BOARD}.{meant}"
            return


def _kinds(c: Circuit, mine: dict[str, Tie]) -> Iterator[Trouble]:
    """What goes wrong with several outputs of one part, or with its time."""
    by_part: dict[tuple[str, str], list[str]] = {}
    for lane in lanes(c):
        if lane.lead in mine:
            by_part.setdefault((lane.part, lane.kind), []).append(lane.lead)
    for (part, kind), leads in by_part.items():
        name, ties = c.titles.part(part), tuple(mine[x].id for x in leads)
        if kind == "coil" and len(leads) == 4:
            title = f"{name}: coils in another order in the program"
            yield Trouble(
                f"order:{part}", "coil order", title, (part,), ties, does="order", leads=tuple(leads)
            )
        if kind in ("coil", "step"):
            rates: tuple[Does, ...] = ("twice", "half")
            for does in rates:
                title = f"{name}: {does} as many steps a second"
                yield Trouble(
                    f"{does}:{part}", f"steps {does}", title, (part,), ties, does=does, leads=tuple(leads)
                )
        if kind in ("servo", "pulses"):
            title = f"{name}: another period in the program"
            yield Trouble(f"period:{part}", "period", title, (part,), ties, does="period", leads=tuple(leads))
        for one, two in pairwise(leads) if kind in ("level", "relay", "coil", "pulses", "servo") else ():
            own = f"{c.titles.own(one)} and {c.titles.own(two)}"
            title = f"{name}: {own} exchanged in the program"
            pair = (mine[one].id, mine[two].id)
            yield Trouble(
                f"exchanged:{one}",
                "outputs exchanged",
                title,
                (part,),
                pair,
                does="exchanged",
                leads=(one, two),
            )
        if kind in ("pixels", "spi", "uart"):
            title = f"{name}: the program sends nothing"
            yield Trouble(
                f"silent:{part}:{kind}", "silent", title, (part,), ties, does="silent", leads=tuple(leads)
            )
