"""A board while it is being described: headers by rows and columns, pins as rows of plain text.

A draft is always whole: what nobody has said yet is filled in as most boards have it, so that there is a
board to look at and to check from the first moment. Nothing here is guessed silently: whatever was filled in
stands in the draft's rows and can be changed there.
"""

import re
from collections.abc import Iterator
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.check import LABEL
from knotplan.catalog.board.header import Header
from knotplan.catalog.board.pin import POWER_ON_WORDS, Pin
from knotplan.core.names.lists import expanded
from knotplan.core.plan.ids import slug

PITCH = 2.54
EDGE = 4.0
"""mm from the board's edge to the first row"""
VOLTS = re.compile(r"\+?(\d{1,2})(?:v(\d?)|[.,](\d)v)", re.IGNORECASE)
"""5V, +5V, 3V3, 3.3V, 12V"""
KIND_WORDS = {
    "signal": "io",
    "supply": "supply",
    "ground": "ground",
    "control": "control",
    "not used": "unconnected",
}
"""kinds of contacts as the grid calls them"""


class DraftPin(Struct, frozen=True):
    """One contact as rows of a grid have it: text in every cell, empty where nothing was said."""

    header: str
    row: int
    col: int
    names: dict[str, str] = {}
    kind: str = ""
    """empty: as its name tells (GND, 5V), else a signal pin"""
    functions: str = ""
    """"pwm:1.a, adc:0.3", or shorter: "pwm, sda" """
    rail: str = ""
    driver: str = ""
    power_on: str = ""
    reserved: str = ""
    strap: str = ""
    note: str = ""


FIELDS = ("kind", "functions", "rail", "driver", "power_on", "reserved", "strap", "note")
"""columns of the grid besides the names"""


class BoardDraft(Struct, frozen=True):
    """A board in the making."""

    title: str
    summary: str
    logic_v: float
    mark: str
    headers: dict[str, Header]
    schemes: dict[str, str]
    """title of each, by id"""
    pins: tuple[DraftPin, ...]
    base: dict[str, Any]
    """everything else, as a board file has it"""
    id: str = ""
    """of a board that is there already"""

    @property
    def board_id(self) -> str:
        """The id under which it is kept: its own, or one made of its title."""
        return self.id or slug(self.title, set())


def _base(volts: float) -> dict[str, Any]:
    """What most boards have: USB, a 5 V rail and, below 5 V logic, one at the logic's own voltage."""
    five = volts > 4
    rails: dict[str, Any] = {
        "5v": {"title": "5 V rail", "volts": [4.75, 5.0, 5.25], "limit_a": 0.4, "source_ohm": 0.25}
    }
    logic = "5v"
    if not five:
        logic = "3v3" if 3.2 <= volts <= 3.4 else "logic"
        spread = [round(volts * 0.97, 3), volts, round(volts * 1.03, 3)]
        rails[logic] = {
            "title": f"{volts:g} V rail",
            "volts": spread,
            "limit_a": 0.2,
            "source_ohm": 0.3,
            "fed_from": "5v",
        }
    driver = {
        "rail": logic,
        "high_ohm": [25.0, 40.0, 70.0],
        "low_ohm": [20.0, 35.0, 60.0],
        "recommended_a": 0.018 if five else 0.008,
        "absolute_a": 0.036 if five else 0.012,
        "input_low_v": round(0.3 * volts, 3),
        "input_high_v": round(0.7 * volts, 3),
        "max_v": round(volts + 0.3, 3),
        "pull_up_ohm": [20e3, 40e3, 70e3],
        "source": "filled in: 0.3 and 0.7 of the supply; see the board's manual",
    }
    return {
        "sockets": {"usb": {"title": "USB socket", "rail": "5v", "volts": [4.75, 5.0, 5.25], "limit_a": 0.5}},
        "rails": rails,
        "drivers": {"io": driver},
        "all_pins_a": 0.1,
        "all_pins_note": "filled in; see the board's manual",
    }


def blank(title: str = "My board", volts: float = 3.3) -> BoardDraft:
    """A board of two edge rows of fifteen, nothing said about its pins yet."""
    draft = BoardDraft(
        title,
        f"{volts:g} V board",
        volts,
        "marked end",
        {},
        {"printed": "Printed", "position": "Position"},
        (),
        _base(volts),
    )
    for name in ("left", "right"):
        draft = add_header(draft, name, 15, 1)
    return draft


def from_board(board: Board, title: str = "") -> BoardDraft:
    """A board taken up again; with a title of its own it is another one."""
    tree = msgspec.to_builtins(board)
    kept = ("id", "title", "summary", "logic_v", "headers", "schemes", "pins")
    words = {kind: word for word, kind in KIND_WORDS.items()}
    pins = tuple(
        DraftPin(
            p.header,
            p.row,
            p.col,
            dict(p.names),
            words[p.kind],
            _functions_text(p),
            p.rail,
            p.driver if p.kind == "io" else "",
            POWER_ON_WORDS[p.power_on] if p.kind == "io" else "",
            p.reserved,
            p.strap,
            p.note,
        )
        for p in board.pins.values()
    )
    base = {k: v for k, v in tree.items() if k not in kept}
    base["_pins"], base["_schemes"] = tree["pins"], tree["schemes"]
    return BoardDraft(
        title or board.title,
        board.summary,
        board.logic_v,
        board.outline.mark,
        dict(board.headers),
        {k: s.title for k, s in board.schemes.items()},
        pins,
        base,
        "" if title else board.id,
    )


def set_volts(draft: BoardDraft, volts: float) -> BoardDraft:
    """Another logic voltage, and with it the rails, thresholds and limits that
    go with it; for a board begun here."""
    if "_pins" in draft.base or volts == draft.logic_v:
        return draft
    text = f"{volts:g} V board" if draft.summary == f"{draft.logic_v:g} V board" else draft.summary
    return replace(draft, logic_v=volts, summary=text, base=_base(volts))


def _functions_text(pin: Pin) -> str:
    """What the cell says; "only" keeps a pin that can neither be driven nor read
    as a level from being taken for one."""
    text = ", ".join(pin.functions)
    return text if pin.reads or pin.kind != "io" else f"only {text}".strip()


# --- changing ---------------------------------------------------------------------------------


def add_header(draft: BoardDraft, title: str, rows: int, columns: int, pitch_mm: float = PITCH) -> BoardDraft:
    """One more header, beside those that are there, its contacts still without names."""
    name = slug(title, {*draft.headers})
    header = Header(title, rows, columns, 0, 0, pitch_mm, pitch_mm)
    pins = tuple(
        DraftPin(name, r, c, {"position": _position(draft, name, n)} if "position" in draft.schemes else {})
        for n, (r, c) in enumerate(((r, c) for r in range(1, rows + 1) for c in range(1, columns + 1)), 1)
    )
    return _arranged(replace(draft, headers={**draft.headers, name: header}, pins=(*draft.pins, *pins)))


def _position(draft: BoardDraft, header: str, number: int) -> str:
    """ "3" on a board with one header, "L3" on one with several."""
    if not draft.headers and header == "main":
        return str(number)
    letter = header[0].upper()
    alike = [h for h in draft.headers if h[0].upper() == letter and h != header]
    return f"{letter}{len(alike) + 1}.{number}" if alike else f"{letter}{number}"


def resize_header(draft: BoardDraft, name: str, rows: int, columns: int, pitch_mm: float) -> BoardDraft:
    """A header of another size; contacts that stay keep what was said about them."""
    old = draft.headers[name]
    there = {(p.row, p.col): p for p in draft.pins if p.header == name}
    places = [(r, c) for r in range(1, rows + 1) for c in range(1, columns + 1)]
    grid = [
        there.get(rc)
        or DraftPin(name, *rc, {"position": _position(draft, name, n)} if "position" in draft.schemes else {})
        for n, rc in enumerate(places, 1)
    ]
    pins: list[DraftPin] = []
    for header in draft.headers:
        pins += grid if header == name else [p for p in draft.pins if p.header == header]
    header_now = replace(old, rows=rows, columns=columns, pitch_mm=pitch_mm, column_gap_mm=pitch_mm)
    return _arranged(replace(draft, headers={**draft.headers, name: header_now}, pins=tuple(pins)))


def remove_header(draft: BoardDraft, name: str) -> BoardDraft:
    """A header taken away, with its pins."""
    headers = {k: h for k, h in draft.headers.items() if k != name}
    return _arranged(replace(draft, headers=headers, pins=tuple(p for p in draft.pins if p.header != name)))


def _arranged(draft: BoardDraft) -> BoardDraft:
    """Single rows along the two edges, double rows side by side, all beginning at the marked end."""
    if "_pins" in draft.base:
        return _beside(draft)
    apart, x, made = 17.8, EDGE, {}
    for name, h in draft.headers.items():
        made[name] = replace(h, x_mm=round(x, 2), y_mm=EDGE + 3)
        x += (h.columns - 1) * h.column_gap_mm + (apart if h.columns == 1 else 12.7)
    return replace(draft, headers=made)


def _beside(draft: BoardDraft) -> BoardDraft:
    """A board that is there already lies as its file says; what is new stands to the right of everything."""
    right = outline(draft)["width_mm"]
    headers = {
        n: replace(h, x_mm=right, y_mm=EDGE + 3) if (h.x_mm, h.y_mm) == (0, 0) else h
        for n, h in draft.headers.items()
    }
    return replace(draft, headers=headers)


def outline(draft: BoardDraft) -> dict[str, Any]:
    """The edge round all headers, or that of the board that was taken up."""
    right = max((h.x_mm + (h.columns - 1) * h.column_gap_mm for h in draft.headers.values()), default=10.0)
    bottom = max((h.y_mm + (h.rows - 1) * h.pitch_mm for h in draft.headers.values()), default=10.0)
    there = draft.base.get("outline")
    if there:  # larger only where a header has grown beyond it
        return {
            "width_mm": max(there["width_mm"], round(right + 1.2, 2)),
            "height_mm": max(there["height_mm"], round(bottom + 1.2, 2)),
            "mark": draft.mark,
        }
    return {"width_mm": round(right + EDGE, 2), "height_mm": round(bottom + EDGE + 1, 2), "mark": draft.mark}


def add_scheme(draft: BoardDraft, title: str) -> BoardDraft:
    """One more way of naming the pins."""
    return replace(draft, schemes={**draft.schemes, slug(title, {*draft.schemes, LABEL}): title})


def set_cell(draft: BoardDraft, at: int, column: str, text: str) -> BoardDraft:
    """What one cell of the grid says; `column` is a scheme or one of FIELDS."""
    pin = draft.pins[at]
    text = text.strip()
    if column in FIELDS:
        changed = replace(pin, **{column: text})
    else:
        changed = replace(pin, names={k: t for k, t in {**pin.names, column: text}.items() if t})
        if column != "position" and (volts := volts_of(text)) is not None:
            draft = add_rail(draft, volts)
    return replace(draft, pins=(*draft.pins[:at], changed, *draft.pins[at + 1 :]))


def volts_of(label: str) -> float | None:
    """The voltage that a supply pin's label says, if it says one.

    >>> volts_of("3V3"), volts_of("+5V"), volts_of("3.3V"), volts_of("12v"), volts_of("VIN"), volts_of("D3")
    (3.3, 5.0, 3.3, 12.0, None, None)
    """
    match = VOLTS.fullmatch(label.strip())
    return float(f"{match[1]}.{match[2] or match[3] or 0}") if match else None


def rail_id(volts: float) -> str:
    """What the rail of a voltage is called.

    >>> rail_id(3.3), rail_id(12.0)
    ('3v3', '12v')
    """
    return f"{volts:.1f}".replace(".", "v").removesuffix("0")


def with_rails(draft: BoardDraft) -> BoardDraft:
    """The draft with a rail for every voltage that a label says."""
    for text in (t for pin in draft.pins for s, t in pin.names.items() if s != "position"):
        if (volts := volts_of(text)) is not None:
            draft = add_rail(draft, volts)
    return draft


def add_rail(draft: BoardDraft, volts: float) -> BoardDraft:
    """A rail for a supply pin that the board had none for; how much it gives is
    to be read up in the board's manual."""
    rails = draft.base["rails"]
    if volts <= 0 or rail_id(volts) in rails:
        return draft
    spread = [round(volts * 0.97, 3), volts, round(volts * 1.03, 3)]
    rail = {
        "title": f"{volts:g} V rail",
        "volts": spread,
        "limit_a": 0.05,
        "source_ohm": 0.5,
        "fed_from": next(iter(rails)),
        "note": "filled in; see the board's manual",
    }
    return replace(draft, base={**draft.base, "rails": {**rails, rail_id(volts): rail}})


def paste(draft: BoardDraft, at: int, columns: list[str], text: str) -> BoardDraft:
    """A block of cells as spreadsheets copy it, laid over the grid from a row on; a range in the first
    cell of a single column is written out downwards. What would go beyond the grid is left out."""
    lines = text.rstrip("\n").split("\n")
    block = [line.rstrip("\r").split("\t") for line in lines]
    if all(len(cells) == 1 for cells in block):
        block = [[name] for cells in block for name in expanded(cells[0].strip())]
    for down, cells in enumerate(block):
        for column, cell in zip(columns, cells, strict=False):
            if at + down < len(draft.pins):
                draft = set_cell(draft, at + down, column, cell)
    return draft


def columns(draft: BoardDraft) -> Iterator[tuple[str, str]]:
    """(column, heading) of the grid: the schemes, then everything else."""
    yield from draft.schemes.items()
    yield LABEL, "Label"
    for field in FIELDS:
        yield field, field.replace("_", "-").capitalize()
