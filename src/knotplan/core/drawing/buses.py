"""SPI controllers, UARTs and single lines as pictures: who shares which line."""

from collections.abc import Sequence

from knotplan.core.buses.single import SingleLine
from knotplan.core.buses.spi import Controller, Device, Select
from knotplan.core.buses.uart import Link
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.cords import colour_of
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.drawing.shapes import Box, Curve, Disc, Picture, Shape, Text, shortened
from knotplan.core.plan.document import BOARD, split

WIDE, HEAD_W, CARD_W, CARD_H = 600.0, 150.0, 146.0, 84.0
ROLE_WORDS = {"sclk": "clock", "mosi": "data out", "miso": "data in"}
LINE_GAP, CHAIN = 30.0, 26.0


def _cord(
    x1: float, y1: float, x2: float, y2: float, stroke: str, width: float = 2.6, dash: bool = False
) -> Curve:
    return Curve((x1, y1), ((x1, y1, x2, y2, x2, y2),), stroke, width, dash)


def _bend(x1: float, y1: float, x2: float, y2: float, stroke: str, width: float = 2.6) -> Curve:
    """From one side to the other, leaving and arriving level."""
    mid = (x1 + x2) / 2
    return Curve((x1, y1), ((mid, y1, mid, y2, x2, y2),), stroke, width)


def _ink(c: Circuit, part: str, contact: str, p: Palette) -> str:
    """The colour of the cord between a part and a contact."""
    ties = (t for name in c.parts[part].leads for t in c.ties.at.get(f"{part}.{name}", ()))
    tie = next((t for t in ties if contact in (t.to, t.lead)), None)
    return CORDS.get(colour_of(c, tie), p.faint) if tie else p.faint


def _card(x: float, y: float, w: float, h: float, title: str, under: str, p: Palette) -> list[Shape]:
    return [
        Box(x, y, w, h, 9, p.card, p.edge),
        Text(x + 13, y + 23, shortened(title, 13.5, w - 24, True), 13.5, p.ink, True),
        Text(x + 13, y + 41, shortened(under, 11.5, w - 24), 11.5, p.faint),
    ]


def spi_picture(c: Circuit, k: Controller, p: Palette) -> Picture:
    """The controller on the left, its shared lines across, below them a row for
    each select with its devices in order."""
    roles = [r for r in ROLE_WORDS if k.lines.get(r)]
    top = 24.0
    tall = max(CARD_H, top + LINE_GAP * len(roles) + 16)
    longest = max((len(s.devices) for s in k.selects), default=1)
    wide = max(WIDE, HEAD_W + 76 + longest * (CARD_W + CHAIN) - CHAIN + (96 if longest > 1 else 20))
    shapes: list[Shape] = []
    y = top + LINE_GAP * len(roles) + 34
    rows = []
    for select in k.selects:
        rows.append(y)
        shapes += _select_row(c, k, select, y, p)
        y += CARD_H + 22
    shapes = [*_lines(c, k, roles, top, wide, p), *shapes]
    shapes += _card(
        16,
        12,
        HEAD_W,
        max(tall, y - 30),
        shortened(k.title, 13.5, HEAD_W - 24, True),
        "made by the program" if k.software else "controller",
        p,
    )
    for at, role in enumerate(roles):
        name = " ".join(c.titles.of(pin) for pin in k.lines[role])
        shapes += _terminal(16 + HEAD_W, top + 16 + LINE_GAP * at + 22, f"{ROLE_WORDS[role]}", name, p)
    for down, select in zip(rows, k.selects, strict=True):
        title = c.titles.of(select.contact) if select.contact else "none"
        shapes += _terminal(16 + HEAD_W, down + CARD_H / 2, "select", title, p)
    return Picture(0, 0, wide, y + 4, p.cloth, tuple(shapes))


def _terminal(x: float, y: float, role: str, name: str, p: Palette) -> list[Shape]:
    return [
        Disc(x, y, 5, p.pin, p.board, 1.6),
        Text(x - 12, y - 3, role, 11, p.faint, anchor="end"),
        Text(x - 12, y + 11, shortened(name, 12, HEAD_W - 30, True), 12, p.ink, True, "end"),
    ]


def _lines(
    c: Circuit, k: Controller, roles: Sequence[str], top: float, wide: float, p: Palette
) -> list[Shape]:
    """The shared lines, each in the colour of the first cord on it."""
    shapes: list[Shape] = []
    for at, role in enumerate(roles):
        y = top + 16 + LINE_GAP * at + 22
        first = next((d for d in k.devices if d.ties.get(role) in k.lines[role]), None)
        ink = _ink(c, first.part, first.ties[role], p) if first else p.faint
        shapes += [
            _cord(16 + HEAD_W, y, wide - 20, y, p.cord_edge, 4.4),
            _cord(16 + HEAD_W, y, wide - 20, y, ink, 3),
        ]
    return shapes


def _select_row(c: Circuit, k: Controller, select: Select, y: float, p: Palette) -> list[Shape]:
    """One select: its devices from left to right as the data go through them."""
    x0 = 16 + HEAD_W
    shapes: list[Shape] = []
    first = select.devices[0]
    ink = _ink(c, first.part, first.ties.get("select", ""), p)
    level = y + CARD_H / 2
    shapes += [_cord(x0, level, x0 + 60, level, p.cord_edge, 4), _cord(x0, level, x0 + 60, level, ink)]
    x = x0 + 60
    for at, d in enumerate(select.devices):
        facts = c.parts[d.part].facts.spi
        assert facts is not None
        modes = " or ".join(map(str, facts.modes))
        shapes += _card(x, y, CARD_W, CARD_H, c.placed[d.part].name, f"mode {modes}, {facts.bits} bits", p)
        shapes.append(Text(x + 13, y + 58, _taps(d), 11, p.faint))
        shapes += _stubs(c, k, d, x, y, p)
        if len(select.devices) > 1:
            order = f"{at + 1} of {len(select.devices)} in the chain"
        elif facts.latches:
            order = "only takes over, any level will do"
        else:
            order = select.idle
        loose = select.idle in ("floats at power-on", "selected at power-on") and not facts.latches
        shapes.append(
            Text(x + 13, y + 74, shortened(order, 11, CARD_W - 20), 11, p.care_text if loose else p.faint)
        )
        if at + 1 < len(select.devices):
            shapes += [
                _cord(x + CARD_W, level, x + CARD_W + CHAIN, level, p.cord_edge, 4),
                _cord(x + CARD_W, level, x + CARD_W + CHAIN, level, p.active),
            ]
        x += CARD_W + CHAIN
    if len(select.devices) > 1:
        shapes.append(Text(x - CHAIN + 10, level + 4, f"{select.bits} bits at once", 11.5, p.ink))
    return shapes


def _stubs(c: Circuit, k: Controller, d: Device, x: float, y: float, p: Palette) -> list[Shape]:
    """Short ends in the colours of the shared lines that a device is on."""
    shapes: list[Shape] = []
    for role in ROLE_WORDS:
        if d.ties.get(role) in k.lines.get(role, ()):
            at = x + CARD_W - 16 - 14 * list(ROLE_WORDS).index(role)
            ink = _ink(c, d.part, d.ties[role], p)
            shapes += [_cord(at, y, at, y - 12, p.cord_edge, 4.4), _cord(at, y, at, y - 12, ink, 3)]
    return shapes


def _taps(d: Device) -> str:
    """Which of the shared lines a device is on."""
    roles = [ROLE_WORDS[r] for r in ROLE_WORDS if split(d.ties.get(r, ""))[0] == BOARD]
    return "on " + ", ".join(roles) if roles else "on the chain before"


def uart_picture(c: Circuit, link: Link, p: Palette) -> Picture:
    """Both ends with their lines crossing; lines that do not cross in vermilion."""
    left, right, y = 16.0, WIDE - 16 - 200, 30.0
    count = max(2, len(link.lines))
    tall = 66 + count * 40.0
    shapes: list[Shape] = [
        *_card(left, y, 200, tall, c.board.title, link.title, p),
        *_card(right, y, 200, tall, c.placed[link.part].name, f"{link.frame}, {link.baud:g} baud", p),
    ]
    order = sorted(link.lines, key=lambda x: x.sends)
    for k, line in enumerate(order):
        y1 = y + 76 + 40 * k
        y2 = y + 76 + 40 * (len(order) - 1 - k if len(order) > 1 else k)
        ink = p.stop if not line.crossed else _ink(c, link.part, line.contact, p)
        shapes += [
            _bend(left + 200, y1, right, y2, p.cord_edge, 4.4),
            _bend(left + 200, y1, right, y2, ink, 3),
        ]
        does = c.titles.does(line.contact)
        role = "receives" if line.sends == line.crossed else "sends"
        shapes += [
            Disc(left + 200, y1, 5, p.pin, p.board, 1.6),
            Disc(right, y2, 5, p.pin, p.board, 1.6),
            Text(left + 188, y1 + 4, f"{c.titles.of(line.contact)} {role}", 12, p.ink, True, "end"),
            Text(
                right + 12,
                y2 + 4,
                f"{c.titles.of(line.lead).split(' · ')[-1]} {'sends' if line.sends else 'receives'}",
                12,
                p.ink,
                True,
            ),
        ]
        if not does:
            shapes.append(Text(left + 188, y1 + 18, "no UART here", 10.5, p.faint, anchor="end"))
    return Picture(0, 0, WIDE, y + tall + 24, p.cloth, tuple(shapes))


def line_picture(c: Circuit, line: SingleLine, p: Palette) -> Picture:
    """The pin, the line with its pull-up, and the parts that hang on it."""
    y, x = 96.0, 16 + HEAD_W
    step = max(CARD_W + 24, (WIDE - x - 60) / max(1, len(line.parts)))
    wide = max(WIDE, x + 90 + step * len(line.parts))
    shapes: list[Shape] = [
        _cord(x, y, wide - 20, y, p.cord_edge, 4.4),
        _cord(x, y, wide - 20, y, _ink(c, line.parts[0], line.contact, p), 3),
    ]
    shapes += [
        *_card(16, 40, HEAD_W, 86, c.titles.of(line.contact), line.protocol.replace("-", " "), p),
        Disc(x, y, 5, p.pin, p.board, 1.6),
    ]
    if line.ohm and line.volts:
        shapes += [
            _cord(x + 44, 30, x + 44, y, p.cord_edge, 2),
            Box(x + 37, 44, 14, 34, 3, p.card, p.ink, 1.4),
            Text(x + 60, 44, f"{line.ohm.typ / 1e3:.3g} kΩ to {line.volts.typ:.3g} V", 12, p.ink),
        ]
    else:
        shapes.append(Text(x + 44, 60, "nothing pulls it up", 12, p.stop, True))
    for k, part in enumerate(line.parts):
        at = x + 90 + step * k
        shapes += [
            _cord(at + 20, y, at + 20, y + 34, p.cord_edge, 2),
            *_card(
                at,
                y + 34,
                CARD_W,
                62,
                c.placed[part].name,
                "fed by the line" if part in line.parasitic else "with a supply of its own",
                p,
            ),
        ]
    return Picture(0, 0, wide, y + 120, p.cloth, tuple(shapes))
