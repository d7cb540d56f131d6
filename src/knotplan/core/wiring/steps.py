"""The steps from a checked plan to a wired bench: what the hands do, in order.

What is set while the part is still in the hand; ground, bars first; signals part by part; what feeds; and
last the plug of each supply, the board's own first.
"""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from knotplan.catalog.board.pin import AFTER_WORDS, Pin
from knotplan.catalog.derived import derived
from knotplan.catalog.part.needs import Coupled, Gives, Ground, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.cords import colour_of
from knotplan.core.circuit.neighbours import neighbours
from knotplan.core.names.counting import Lies, Place, place_of
from knotplan.core.plan.beads import Bead
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.quantity.written import listed
from knotplan.core.wiring.order import Spot, Walk, apart, best_order
from knotplan.core.wiring.state import tasks_of
from knotplan.core.wiring.words import bead_task, set_by_hand

Stage = Literal["by hand", "ground", "signals", "supplies", "power"]
STAGES: dict[Stage, str] = {
    "by hand": "Set while it is still in the hand",
    "ground": "Ground",
    "signals": "Signals",
    "supplies": "Supplies",
    "power": "Switch on",
}


class Step(Struct, frozen=True):
    """One thing to do."""

    task: str
    stage: Stage
    group: str
    """under which heading it stands"""
    title: str
    """what it is about: "Lamp · anode" """
    do: str
    """the sentence"""
    part: str = ""
    """the part that it is about"""
    tie: str = ""
    lead: str = ""
    to: str = ""
    colour: str = ""
    beads: tuple[Bead, ...] = ()
    where: Place | None = None
    """of a pin of the board: how it is found"""
    neighbours: tuple[str, ...] = ()
    """the contacts that a slip by one hole hits"""
    moments: str = ""
    """what a signal pin does at power-on and after a program, or what all of them do"""


@derived
def steps_of(circuit: Circuit) -> tuple[Step, ...]:
    """The steps of a plan."""
    return tuple(_steps(circuit))


def stage_of(c: Circuit, tie: Tie) -> Stage:
    """When a cord is plugged: ground first, what feeds last."""
    lead = c.contacts.lead(tie.lead)
    need = c.needs.of(tie.lead) if lead is not None else None
    if isinstance(need, Ground) or c.nets.is_ground(tie.lead) or c.nets.is_ground(tie.to):
        return "signals" if need is not None and tie.beads else "ground"
    source = c.supplies.on_bench.get(split(tie.lead)[0])
    if source is not None and split(tie.lead)[1] == source.minus:
        return "ground"
    if isinstance(need, Supply) and not need.signal:
        return "supplies"
    if isinstance(need, Gives) or c.nets.of(tie.lead) in c.supplies.origins:
        return "supplies"
    return "supplies" if isinstance(need, Coupled) and c.supplies.origin(tie.to) is not None else "signals"


def _steps(c: Circuit) -> Iterator[Step]:
    wanted = tasks_of(c)
    for task, record in wanted.items():
        kind, _, about = task.partition(":")
        if kind == "part":
            name = c.titles.part(about)
            do = f"{name}: {set_by_hand(c, about, record.stands)}"
            yield Step(task, "by hand", STAGES["by hand"], name, do, about)
        elif kind == "board":
            spec = c.board.settings[about]
            off = spec.starts == "on"
            do = f"{c.board.title}: {spec.title} {'off' if off else 'on'}: {spec.how}"
            yield Step(task, "by hand", STAGES["by hand"], spec.title, do)
    cords = [t for t in c.plan.ties if f"cord:{t.id}" in wanted]
    by_stage: dict[Stage, list[Tie]] = {"ground": [], "signals": [], "supplies": []}
    for tie in cords:
        by_stage[stage_of(c, tie)].append(tie)
    for stage in ("ground", "signals", "supplies"):
        yield from (_cord(c, stage, tie) for tie in _in_order(c, by_stage[stage]))
    yield from (_power(c, p) for p in _supplies(c) if f"supply:{p}" in wanted)


def _supplies(c: Circuit) -> list[str]:
    """The supplies in the order in which they are switched on: the board's first."""
    return sorted(c.supplies.on_bench, key=lambda p: p not in c.supplies.feeding)


def _power(c: Circuit, part_id: str) -> Step:
    name = c.titles.part(part_id)
    to = tasks_of(c)[f"supply:{part_id}"].to
    do = f"{name}: plug it into the {c.titles.of(to)}" if to else f"{name}: switch it on"
    return Step(
        f"supply:{part_id}", "power", STAGES["power"], name, do, part_id, to=to, moments=_woken(c, part_id)
    )


def _woken(c: Circuit, part_id: str) -> str:
    """What comes on with the board's supply: its pins, before any program."""
    if part_id not in c.supplies.feeding:
        return ""
    held = {x: c.contacts.pins[x] for x in c.ties.holders if split(x)[0] == BOARD}
    states = {
        w: [x for x, pin in held.items() if pin.power_on_states[-1] == w] for w in ("high", "low", "toggling")
    }
    said = [f"{listed([c.titles.of(x) for x in found])} {w}" for w, found in states.items() if found]
    driven = f"; {', '.join(said)}" if said else ""
    return f"No program runs yet: pins in use are inputs, pulled or floating{driven}."


def _cord(c: Circuit, stage: Stage, tie: Tie) -> Step:
    colour, part = colour_of(c, tie), split(tie.lead)[0]
    beads = [bead_task(c, b) for b in tie.beads]
    owner, name = split(tie.to)
    pin = c.board.pins.get(name) if owner == BOARD else None
    where = place_of(c.board, name, Lies(c.plan.turned, c.plan.flipped)) if pin else None
    length = f"{tie.length_m * 100:g} cm of " if tie.length_m else ""
    do = f"{c.titles.of(tie.lead)}: " + ", ".join(
        [f"{length}{colour} cord", *beads, f"to {_named(c, tie.to)}"]
    )
    group = c.titles.part(part) if stage == "signals" else STAGES[stage]
    return Step(
        f"cord:{tie.id}",
        stage,
        group,
        c.titles.of(tie.lead),
        do,
        part,
        tie.id,
        tie.lead,
        tie.to,
        colour,
        tie.beads,
        where,
        neighbours(c, tie.to),
        _moments(c, pin) if pin is not None and pin.kind == "io" else "",
    )


def _moments(c: Circuit, pin: Pin) -> str:
    """What a pin does while no program runs."""
    after = AFTER_WORDS[c.board.afterwards(pin)]
    return f"At power-on {pin.power_on_words}; after a program has ended or crashed it {after}."


def _named(c: Circuit, contact: str) -> str:
    """A pin by its place and its spoken name: "position 7, chip line L22"; other contacts by their titles."""
    owner, name = split(contact)
    pin = c.board.pins.get(name) if owner == BOARD else None
    if pin is None:
        return c.titles.of(contact)
    spoken = c.board.name(name, c.scheme)
    place = pin.names.get("position", "")
    if c.scheme == "position" or not place:
        return spoken
    scheme = c.board.schemes[c.scheme].title
    said = f"{scheme[0].lower()}{scheme[1:]} {spoken}" if pin.kind == "io" else spoken
    return f"position {place}, {said}"


# --- in which order ---------------------------------------------------------------------------------


def _in_order(c: Circuit, ties: list[Tie]) -> list[Tie]:
    """Part by part along the header, hubs and bars before what hangs on them."""
    by_part: dict[str, list[Tie]] = {}
    for tie in ties:
        by_part.setdefault(split(tie.lead)[0], []).append(tie)
    names = list(by_part)
    number = {name: k for k, name in enumerate(names)}
    walks = []
    for name, own in by_part.items():
        own.sort(key=lambda t: _spot(c, t.to))
        own[:] = _walked(c, own)
        hubs = {split(t.to)[0] for t in own} - {BOARD, name}
        after = tuple(number[h] for h in hubs if h in number)
        walks.append(Walk(tuple(_spot(c, t.to) for t in own), tuple(colour_of(c, t) for t in own), after))
    order: list[Tie] = []
    for k, back in best_order(walks):
        own = by_part[names[k]]
        order += own[::-1] if back else own
    return order


def _walked(c: Circuit, ties: list[Tie]) -> list[Tie]:
    """The cords of one part, each next one the nearest."""
    left, walked = list(ties), list[Tie]()
    while left:
        here = _spot(c, walked[-1].to) if walked else None
        near = min(left, key=lambda t: apart(here, _spot(c, t.to))) if here else left[0]
        left.remove(near)
        walked.append(near)
    return walked


def _spot(c: Circuit, contact: str) -> Spot:
    """Where a contact is, in pitches of its header; on a part by the order of its leads."""
    owner, name = split(contact)
    if owner != BOARD:
        part = c.parts[owner]
        return owner, 0.0, float(list(part.leads).index(name)) if name in part.leads else 0.0
    pin = c.board.pins.get(name)
    if pin is None:
        return "socket", 0.0, 0.0
    x, y = c.board.spot(name)
    return BOARD, round(x / 2.54, 3), round(y / 2.54, 3)
