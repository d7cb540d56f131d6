"""A board's pins as a table: every name, what each does, what it bears, and what it is doing already."""

from collections.abc import Iterable

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.pin import Pin
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.names.book import LABEL
from knotplan.core.names.lists import Named
from knotplan.core.plan.document import BOARD
from knotplan.core.quantity.written import show


class PinRow(Struct, frozen=True):
    """One line: what was asked for, the pin that it means (or none), and a cell for each heading."""

    asked: str
    pin: str
    cells: tuple[str, ...]
    tone: str = ""
    """"stop" for what means nothing, "care" for what means several or has a job already"""


LAST = ("Does", "At power-on", "Output current", "Voltage allowed", "State")
MEANT = {
    "Does": "What the pin can do: in and out, pulses, analogue, buses",
    "At power-on": "What the pin does before a program runs",
    "Output current": "What the pin is made to give or take as an output, and the figure never to go beyond",
    "Voltage allowed": "What may lie at the pin without harm",
    "Reads": "Below the first voltage an input reads low, above the second one high; between them anything",
    "Power-on": "What the pin does before a program runs, and while the chip is held in reset",
    "Shares": "Pins with which it has hardware in common: what one of them is set to holds for the others",
    "Job": "What the board or its system uses the pin for already, and how it is freed",
    "Label": "What is printed beside the pin",
    "State": "What is tied to it in this plan, or what has it already",
}
"""what a heading means, in a sentence"""


def meaning(board: Board, about: str) -> str:
    """What a heading of the table, or a line of a pin's card, means; of a naming scheme its note."""
    note = next((s.note for s in board.schemes.values() if s.title == about), "")
    return MEANT.get(about) or note or f"{about} of this pin"


def headings(circuit: Circuit, asked: bool) -> tuple[str, ...]:
    """The heads of the table's columns."""
    schemes = tuple(s.title for s in circuit.board.schemes.values())
    return (*(("Asked",) if asked else ()), *schemes, *LAST)


def pin_rows(circuit: Circuit, names: tuple[Named, ...] | None = None) -> list[PinRow]:
    """A line for every pin of the board, or for every meaning of every name that was asked for."""
    if names is None:
        return [_row(circuit, pin, "") for pin in circuit.board.pins]
    rows = []
    for name in names:
        if not name.pins:
            near = f"; nearest: {', '.join(name.near)}" if name.near else ""
            blank = ("",) * (len(circuit.board.schemes) + len(LAST) - 1)
            rows.append(PinRow(name.text, "", (name.text, *blank, f"no pin is called so{near}"), "stop"))
        for pin in name.pins:
            row = _row(circuit, pin, name.text)
            if len(name.pins) > 1:
                text = f"one of {len(name.pins)} meanings" + (f"; {row.cells[-1]}" if row.cells[-1] else "")
                row = PinRow(name.text, pin, (*row.cells[:-1], text), "care")
            rows.append(row)
    return rows


def names_of(pin: Pin, schemes: Iterable[str]) -> list[str]:
    """The pin's name in each scheme; what is printed there (GND, 5V)
    stands where the first of them has none."""
    names = [pin.names.get(s, "") for s in schemes]
    if "" in names:
        names[names.index("")] = pin.names.get(LABEL, "")
    return names


def _row(circuit: Circuit, pin_id: str, asked: str) -> PinRow:
    pin = circuit.board.pins[pin_id]
    contact = f"{BOARD}.{pin_id}"
    names = names_of(pin, tuple(circuit.board.schemes))
    state = [
        f"tied to {circuit.titles.of(circuit.ties.other_end(t, contact))}"
        for t in circuit.ties.at.get(contact, ())
    ]
    held = circuit.hardware.reservation(pin)
    state += [held.title] if held else []
    state += [f"{circuit.board.straps[pin.strap].level} at start"] if pin.strap else []
    if pin.kind == "io":
        driver = circuit.board.drivers[pin.driver]
        rest = (
            circuit.titles.does(contact),
            pin.power_on_words,
            show(driver.recommended_a, "A") if pin.drives else "–",
            f"{driver.min_v:g} – {driver.max_v:g} V",
        )
    elif pin.kind == "supply":
        rail = circuit.board.rails[pin.rail]
        rest = (rail.title, "", show(rail.limit_a, "A"), "")
    else:
        rest = ("ground" if pin.kind == "ground" else pin.note or pin.kind, "", "", "")
    cells = (*((asked,) if asked else ()), *names, *rest, ", ".join(state))
    return PinRow(asked, pin_id, cells, "care" if held or pin.strap else "")
