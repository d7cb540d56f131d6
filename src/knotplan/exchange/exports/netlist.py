"""The plan as a netlist: components with their pins, and which pins are joined. Its schema is published."""

import json
from collections.abc import Iterator
from typing import Literal

import msgspec
from msgspec import Struct

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.names.book import NameBook
from knotplan.core.plan.beads import (
    Bead,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullUp,
    SeriesResistor,
    Zener,
    bead_name,
)
from knotplan.core.plan.document import BOARD, Tie
from knotplan.core.text.beads import bead_words
from knotplan.exchange.exports.export import text_export
from knotplan.exchange.published import id_of, of_file

FORMAT: Literal["knotplan-netlist"] = "knotplan-netlist"
VERSION = 1
RAIL = "rail:"
"""before the name of a rail, as of no pin"""
GROUND = "GND"
"""the net of the board's ground"""


class NetPin(Struct, frozen=True):
    """A pin of a component."""

    id: str
    """its own name in the component"""
    name: str
    """what is printed there"""
    names: dict[str, str]
    """of a board's pin: its name in each scheme"""


class Component(Struct, frozen=True):
    """The board, a part, or a bead."""

    id: str
    """its own name in the netlist"""
    kind: Literal["board", "part", "bead"]
    """what it is"""
    type: str
    """the catalogue's board or part, or the kind of bead"""
    title: str
    """what it is called"""
    value: str
    """of a bead: its value with its unit; of a part what was chosen about it"""
    pins: list[NetPin]
    """its pins, those too that are on no net"""


class NetNode(Struct, frozen=True):
    """A pin that is on a net."""

    component: str
    """the component's id"""
    pin: str
    """the pin's id"""


class Net(Struct, frozen=True):
    """Pins that are joined with nothing between."""

    name: str
    """its own name in the netlist"""
    nodes: list[NetNode]
    """the pins"""


class Netlist(Struct, frozen=True):
    """What a plan joins."""

    format: Literal["knotplan-netlist"]
    """what tells a netlist from other files"""
    version: int
    """of the format"""
    plan: str
    """the plan's title"""
    components: list[Component]
    """the board, the parts, then the beads"""
    nets: list[Net]
    """every net with at least one pin"""


def schema() -> dict[str, object]:
    """The JSON Schema of a netlist."""
    return of_file("netlist", "Knot Plan netlist", Netlist)


def netlist(report: Report) -> Netlist:
    """The netlist of a plan."""
    c = report.circuit
    beads = [(tie, k, bead) for tie in c.plan.ties for k, bead in enumerate(tie.beads)]
    components = [_board(c), *(_part(c, part_id) for part_id in c.parts)]
    components += [_bead(tie, k, bead) for tie, k, bead in beads]
    joined = _Joined()
    for contact, rail in _on_board(c):
        joined.join(contact, rail)
    for tie in c.plan.ties:
        for a, b in _chain(tie):
            joined.join(a, b)
    return Netlist(FORMAT, VERSION, c.plan.title, components, list(joined.nets()))


def _board(c: Circuit) -> Component:
    book = NameBook(c.board)
    pins = [NetPin(pin, c.titles.of(f"{BOARD}.{pin}"), dict(book.all_names(pin))) for pin in c.board.pins]
    pins += [NetPin(s, socket.title, {}) for s, socket in c.board.sockets.items()]
    return Component(BOARD, "board", c.board.id, c.board.title, "", pins)


def _part(c: Circuit, part_id: str) -> Component:
    placed, part = c.placed[part_id], c.parts[part_id]
    chosen = ", ".join(f"{name} {value}" for name, value in placed.params.items())
    pins = [NetPin(name, lead.title, {}) for name, lead in part.leads.items()]
    return Component(part_id, "part", placed.part, placed.name, chosen, pins)


def _bead(tie: Tie, place: int, bead: Bead) -> Component:
    pins = [NetPin(pin, pin, {}) for pin in _ends(bead)]
    return Component(_name(tie, place), "bead", bead_name(bead), bead_words(bead), bead_words(bead), pins)


def _name(tie: Tie, place: int) -> str:
    """A bead's id: no part or board is called so, since their ids have no stroke."""
    return f"{tie.id}/{place}"


def _ends(bead: Bead) -> tuple[str, ...]:
    match bead:
        case SeriesResistor() | Fuse():
            return ("lead", "pin")
        case Diode():
            return ("anode", "cathode")
        case Clamp() | Zener():
            return ("anode", "cathode")
        case LevelShifter():
            return ("lead", "pin", "lead-supply", "pin-supply", "ground")
    return ("tie", "rail")


def _chain(tie: Tie) -> Iterator[tuple[str, str]]:
    """Pairs that a tie joins, from its lead on: what sits in it stands between two stretches of the cord,
    what leads to a rail hangs on one."""
    here = tie.lead
    for place, bead in enumerate(tie.beads):
        name = _name(tie, place)
        match bead:
            case SeriesResistor() | Fuse():
                yield here, f"{name}.lead"
                here = f"{name}.pin"
            case Diode(towards=towards):
                first, then = ("cathode", "anode") if towards == "lead" else ("anode", "cathode")
                yield here, f"{name}.{first}"
                here = f"{name}.{then}"
            case LevelShifter(lead_rail=lead_rail, pin_rail=pin_rail):
                yield here, f"{name}.lead"
                yield f"{name}.ground", GROUND
                yield from ((f"{name}.lead-supply", rail) for rail in (lead_rail,) if rail)
                yield from ((f"{name}.pin-supply", rail) for rail in (pin_rail,) if rail)
                here = f"{name}.pin"
            case PullUp(rail=rail):
                yield here, f"{name}.tie"
                yield from ((f"{name}.rail", at) for at in (rail,) if at)
            case Clamp(rail=rail):
                yield here, f"{name}.anode"
                yield from ((f"{name}.cathode", at) for at in (rail,) if at)
            case Zener():
                yield here, f"{name}.cathode"
                yield f"{name}.anode", GROUND
            case _:
                yield here, f"{name}.tie"
                yield f"{name}.rail", GROUND
    yield here, tie.to


def _on_board(c: Circuit) -> Iterator[tuple[str, str]]:
    """(pin, its rail or ground) of the board: those of one rail are joined on the board itself."""
    for pin_id, pin in c.board.pins.items():
        if pin.kind == "ground":
            yield f"{BOARD}.{pin_id}", GROUND
        elif pin.kind == "supply":
            yield f"{BOARD}.{pin_id}", f"{RAIL}{pin.rail}"


class _Joined:
    """What is joined to what, by sets that find one another."""

    def __init__(self) -> None:
        self._up: dict[str, str] = {}

    def _root(self, at: str) -> str:
        while self._up.setdefault(at, at) != at:
            at = self._up[at]
        return at

    def join(self, a: str, b: str) -> None:
        """Joins two; ground, else a rail, stays on top and becomes the name of the net."""
        one, other = sorted((self._root(a), self._root(b)), key=_rank)
        if one != other:
            self._up[one] = other

    def nets(self) -> Iterator[Net]:
        """Every net with more than the board's own pins on it, in the order of its first pin."""
        members: dict[str, list[str]] = {}
        for at in self._up:
            members.setdefault(self._root(at), []).append(at)
        for root, ats in members.items():
            nodes = [NetNode(*_split(at)) for at in ats if at != GROUND and not at.startswith(RAIL)]
            if nodes:
                yield Net(root.removeprefix(RAIL), nodes)


def _rank(at: str) -> int:
    return 2 if at == GROUND else 1 if at.startswith(RAIL) else 0


def _split(at: str) -> tuple[str, str]:
    """(component, pin): a bead's name has its tie's, which may have points of its own."""
    owner, _, pin = at.rpartition(".") if "/" in at else at.partition(".")
    return owner, pin


def text(report: Report, scheme: str = "") -> str:
    """The netlist as JSON, one thing a line."""
    tree = {"$schema": id_of("netlist"), **msgspec.to_builtins(netlist(report))}
    return json.dumps(tree, indent=1, ensure_ascii=False) + "\n"


EXPORT = text_export(
    "netlist",
    "Netlist (JSON)",
    ".json",
    "components, pins, what is joined",
    text,
    "-netlist",
)
