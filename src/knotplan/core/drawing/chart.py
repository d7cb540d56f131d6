"""A board as a chart to keep beside the bench: its contacts true to the headers,
their names in columns beside them."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.board.pin import Pin
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.cords import colour_of
from knotplan.core.drawing.loom.board_place import PIN_R
from knotplan.core.drawing.loom.board_shapes import contact_shapes
from knotplan.core.drawing.marks import triangle
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.drawing.shapes import Box, Curve, Disc, Picture, Shape, Text, moved, shortened, text_width
from knotplan.core.plan.document import BOARD
from knotplan.core.text.pin_table import names_of

ROW, GAP, SIZE = 25.0, 14.0, 12.0
MARGIN, HEAD = 30.0, 92.0
MOST_WORDS = 300.0
"""width of the longest cell"""
DOES = "does"
TIED = "tied"


class _Side(Struct, frozen=True):
    """A column of contacts with the columns of words on its outer side."""

    pins: tuple[str, ...]
    left: bool


class _Block(Struct, frozen=True):
    """What stands together: a double row, two facing edges, or one row."""

    title: str
    sides: tuple[_Side, ...]
    apart: float


def chart(circuit: Circuit, schemes: tuple[str, ...], ties: bool, p: Palette) -> Picture:
    """The chart in some of the board's schemes, the first nearest to the
    contact; with what is tied, or bare."""
    columns = [*schemes, DOES, *([TIED] if ties and circuit.plan.ties else [])]
    blocks = list(_blocks(circuit))
    shapes: list[Shape] = []
    x = MARGIN
    low = 0.0
    for block in blocks:
        wide, tall, drawn = _block(circuit, block, columns, x, MARGIN + HEAD, p)
        shapes += drawn
        x += wide + 34
        low = max(low, tall)
    board = circuit.board
    plan = f" · {circuit.plan.title}" if ties and circuit.plan.ties else ""
    title = Text(MARGIN, MARGIN + 16, f"{board.title}{plan}", 20, p.ink, True)
    under = f"{board.summary}; {circuit.board.outline.mark} at the top"
    width = max(
        x - 34 + MARGIN, text_width(title.text, 20, True) + 2 * MARGIN, text_width(under, SIZE) + 2 * MARGIN
    )
    foot = list(_legend(circuit, MARGIN, MARGIN + HEAD + low + 34, p))
    width = max([width, *(s.x + text_width(s.text, s.size) + MARGIN for s in foot if isinstance(s, Text))])
    down = max((s.y for s in foot if isinstance(s, Text)), default=0.0) + MARGIN
    return Picture(
        0, 0, width, down, "#ffffff", (title, Text(MARGIN, MARGIN + 36, under, SIZE, p.faint), *shapes, *foot)
    )


def _blocks(circuit: Circuit) -> Iterator[_Block]:
    """Single rows in pairs, as they face each other on the board, then double rows by themselves."""
    board = circuit.board
    singles: list[tuple[str, tuple[str, ...]]] = []
    doubles: list[_Block] = []
    for name, header in board.headers.items():
        ranks = header.rows if header.across else header.columns
        title = f"{header.title}, left end at the top" if header.across else header.title
        lines = [
            tuple(
                i
                for i, pin in board.pins.items()
                if pin.header == name and (pin.row if header.across else pin.col) == k
            )
            for k in range(1, ranks + 1)
        ]
        if ranks == 1:
            singles.append((title, lines[0]))
        else:
            for k in range(0, ranks, 2):
                pair = lines[k : k + 2]
                doubles.append(_Block(title, tuple(_Side(line, n == 0) for n, line in enumerate(pair)), 29.0))
    while singles:
        first, *rest = singles
        if rest:
            yield _Block(
                f"{first[0]} and {rest[0][0]}", (_Side(first[1], True), _Side(rest[0][1], False)), 96.0
            )
            singles = rest[1:]
        else:
            half = (len(first[1]) + 1) // 2 if len(first[1]) > 22 else len(first[1])
            yield _Block(first[0], (_Side(first[1][:half], False),), 0.0)
            if first[1][half:]:
                yield _Block("", (_Side(first[1][half:], False),), 0.0)
            singles = []
    yield from doubles


def _block(
    circuit: Circuit, block: _Block, columns: list[str], x: float, y: float, p: Palette
) -> tuple[float, float, list[Shape]]:
    """(width, height, shapes) of a block whose upper left corner is given."""
    wide = [_widths(circuit, side, columns) for side in block.sides]
    left = sum(w + GAP for w in wide[0]) if block.sides[0].left else 0.0
    post = x + left + PIN_R + 10
    rows = max(len(s.pins) for s in block.sides)
    shapes: list[Shape] = [
        Text(
            post + block.apart / 2 if len(block.sides) > 1 else x,
            y - 24,
            block.title,
            13,
            p.ink,
            True,
            "middle" if len(block.sides) > 1 else "start",
        ),
        Box(
            post - PIN_R - 10,
            y - 12,
            block.apart + 2 * PIN_R + 20,
            rows * ROW + 18,
            8,
            p.board,
            p.board_edge,
            1,
        ),
    ]
    for k, (side, widths) in enumerate(zip(block.sides, wide, strict=True)):
        px = post + k * block.apart
        shapes += _heads(circuit, columns, widths, side, px, y - 4, p)
        for n, pin_id in enumerate(side.pins):
            shapes += _line(circuit, pin_id, columns, widths, side.left, px, y + n * ROW + ROW / 2 + 1, p)
    right = sum(w + GAP for w in wide[-1]) if not block.sides[-1].left else 0.0
    return left + 2 * PIN_R + 20 + block.apart + right, rows * ROW, shapes


def _cell(circuit: Circuit, pin_id: str, pin: Pin, column: str) -> str:
    contact = f"{BOARD}.{pin_id}"
    if column == TIED:
        held = circuit.ties.at.get(contact, [])
        return ", ".join(t.role or circuit.titles.of(circuit.ties.other_end(t, contact)) for t in held)
    if column == DOES:
        if pin.kind == "supply":
            return circuit.board.rails[pin.rail].title
        does = circuit.titles.does(contact).removeprefix("in and out").removeprefix(", ")
        if pin.kind == "io":
            text = does
        elif pin.kind == "control":
            text = pin.note
        else:
            text = ""
        return shortened(text, SIZE, MOST_WORDS)
    raise KeyError(column)


def _words(circuit: Circuit, pin_id: str, columns: list[str]) -> list[str]:
    """The cells of a contact."""
    pin = circuit.board.pins[pin_id]
    schemes = [c for c in columns if c in circuit.board.schemes]
    return names_of(pin, schemes) + [_cell(circuit, pin_id, pin, c) for c in columns[len(schemes) :]]


def _widths(circuit: Circuit, side: _Side, columns: list[str]) -> list[float]:
    rows = [_words(circuit, pin, columns) for pin in side.pins]
    return [
        max([text_width(_head(circuit, c), 9) + 2, *(text_width(r[k], SIZE, k == 0) for r in rows)])
        for k, c in enumerate(columns)
    ]


def _head(circuit: Circuit, column: str) -> str:
    """The heading of a column, in one word."""
    spec = circuit.board.schemes.get(column)
    if spec is None:
        return {DOES: "Does", TIED: "Tied to"}[column]
    return spec.short or spec.title.split()[0]


def _heads(
    circuit: Circuit, columns: list[str], widths: list[float], side: _Side, px: float, y: float, p: Palette
) -> Iterator[Shape]:
    x = px + (-1 if side.left else 1) * (PIN_R + 10 + GAP)
    for column, width in zip(columns, widths, strict=True):
        yield Text(x, y - 8, _head(circuit, column), 9, p.faint, False, "end" if side.left else "start")
        x += (-1 if side.left else 1) * (width + GAP)


def _line(
    circuit: Circuit,
    pin_id: str,
    columns: list[str],
    widths: list[float],
    left: bool,
    px: float,
    y: float,
    p: Palette,
) -> Iterator[Shape]:
    pin = circuit.board.pins[pin_id]
    sign = -1 if left else 1
    x = px + sign * (PIN_R + 10 + GAP)
    end = x + sign * (sum(widths) + GAP * (len(widths) - 1))
    yield Curve((x, y + 9.5), ((x, y + 9.5, end, y + 9.5, end, y + 9.5),), p.edge, 0.6)
    yield from contact_shapes(circuit.board, pin, True, px, y, p)
    if ties := circuit.ties.at.get(f"{BOARD}.{pin_id}", []) if TIED in columns and pin.kind == "io" else []:
        yield Disc(px, y, PIN_R - 2.6, "", CORDS.get(colour_of(circuit, ties[0]), CORDS["grey"]), 3.6)
    for k, (word, width) in enumerate(zip(_words(circuit, pin_id, columns), widths, strict=True)):
        if columns[k] == DOES:
            ink = p.faint
        elif columns[k] == TIED:
            ink = p.active
        else:
            ink = p.ink
        yield Text(x, y + 4.3, word, SIZE, ink, k == 0, "end" if left else "start")
        x += sign * (width + GAP)


def _legend(circuit: Circuit, x: float, y: float, p: Palette) -> Iterator[Shape]:
    """What the marks mean, and what pins with a job of their own do."""
    for marks, text in (
        ((Disc(0, 0, 7, p.pin, p.board_edge), Disc(0, 0, 2.8, p.pin_hole)), "signal"),
        ((Disc(0, 0, 7, p.pin_timed, p.board_edge), Disc(0, 0, 2.8, p.pin_hole)), "pulse or analogue"),
        ((Box(-7, -7, 14, 14, 2, p.supply, "#000000"),), "supply"),
        ((triangle(0, 1, 8, p.ground, down=True),), "ground"),
        ((triangle(0, 1, 5, p.care),), "has a job already"),
    ):
        for mark in marks:
            yield moved(mark, x + 8, y)
        yield Text(x + 22, y + 4, text, 11, p.faint)
        x += text_width(text, 11) + 46
    x, y = MARGIN, y + 24
    for name, held in circuit.board.reservations.items():
        pins = [
            circuit.board.name(i, circuit.scheme)
            for i, pin in circuit.board.pins.items()
            if pin.reserved == name
        ]
        if pins:
            yield Text(x, y, f"{', '.join(pins)}: {held.title} – {held.reason}", 11, p.ink)
            y += 17
    for name, strap in circuit.board.straps.items():
        pins = [
            circuit.board.name(i, circuit.scheme)
            for i, pin in circuit.board.pins.items()
            if pin.strap == name
        ]
        if pins:
            yield Text(
                x,
                y,
                f"{', '.join(pins)}: {strap.level} at start – {strap.title}; otherwise {strap.otherwise}",
                11,
                p.ink,
            )
            y += 17
