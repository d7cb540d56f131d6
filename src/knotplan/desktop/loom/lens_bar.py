"""The lenses, their legend, and the keys worth knowing."""

from collections.abc import Iterable

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.pin import POWER_ON_WORDS
from knotplan.core.drawing.loom.lenses import BEARS_MORE_V, BY_VOLTS, TINTS, level, volts_mark, wake_mark
from knotplan.core.drawing.loom.view import Lens
from knotplan.core.drawing.marks import cross, severity, triangle
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Arc, Box, Disc, Polygon, Shape, Text, text_width
from knotplan.desktop.paint import paint
from knotplan.desktop.panels.fields import label
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

LENSES: tuple[tuple[Lens, str, str], ...] = (
    ("fit", "Fit", "Which pins can take the selected lead, and how well (F5)"),
    ("volts", "Volts", "At which level each pin works, and whether it bears more (F6)"),
    ("load", "Load", "How much of its limit each pin and rail carries at worst (F7)"),
    ("power-on", "Power-on", "What each pin does before a program runs (F9)"),
    ("sharing", "Sharing", "Which pins have hardware in common: point at one (F12)"),
)

TEXT = 11.0
"""size of the legend's words"""


class LensBar(QWidget):
    """Chips for the lenses; the legend changes with them."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session = session
        self._shown: object = None
        self.setFixedHeight(48)
        across = QHBoxLayout(self)
        across.setContentsMargins(18, 2, 18, 2)
        across.setSpacing(6)
        across.addWidget(label("Lens", "faint", wrap=False))
        self.group = QButtonGroup(self)
        for lens, title, tip in LENSES:
            button = QPushButton(title)
            button.setCheckable(True)
            button.setProperty("kind", "chip")
            button.setProperty("lens", lens)
            button.setAccessibleName(f"Lens {title}")
            button.setToolTip(tip_text(tip))
            button.clicked.connect(lambda _=False, k=lens: session.look_through(k))
            self.group.addButton(button)
            across.addWidget(button)
        across.addSpacing(14)
        self.legend = Legend(session, palette)
        across.addWidget(self.legend, 1)
        session.looked.connect(self.refresh)
        session.changed.connect(self.refresh)
        self.refresh()

    def set_palette(self, palette: Palette) -> None:
        self.legend.p = palette
        self.legend.update()

    def refresh(self) -> None:
        for made in self.group.buttons():
            made.setChecked(made.property("lens") == self.session.lens)
        shown = (self.session.lens, bool(self.session.view.answers))
        if shown != self._shown:
            self._shown = shown
            self.legend.update()


def _ground(p: Palette) -> Disc:
    """A bit of board behind a mark that is made for it."""
    return Disc(0, 0, 10, p.board)


def _small(shapes: Iterable[Shape]) -> list[Shape]:
    """Marks made for pins, at the size of a legend."""
    return [s._replace(r=s.r * 0.6) if isinstance(s, Disc) else s for s in shapes]


def _volts_legend(board: Board) -> list[tuple[list[Shape], str]]:
    """The levels that the board's pins work at."""
    drivers = [board.drivers[p.driver] for p in board.pins.values() if p.kind == "io"]
    rails = [board.rails[p.rail] for p in board.pins.values() if p.rail in board.rails]
    there = {level(r.volts.typ) for r in [*rails, *(board.rails[d.rail] for d in drivers)]}
    signs = [
        (_small(volts_mark(0, 0, volts, False)), words)
        for volts, (_, ink, words) in zip((1.8, 3.3, 5.0), BY_VOLTS, strict=True)
        if (ink, words) in there
    ]
    corners = [
        Polygon(((s * 7, t * 7), (s * 2, t * 7), (s * 7, t * 2)), "#f0806c") for s in (-1, 1) for t in (-1, 1)
    ]
    more = any(d.max_v > board.rails[d.rail].volts.max + BEARS_MORE_V for d in drivers)
    return [*signs, (list(corners), "bears more than its supply")] if more else signs


def _wake_legend(board: Board) -> list[tuple[list[Shape], str]]:
    """The states that the board's pins have at power-on."""
    there = {p.power_on_states[-1] for p in board.pins.values() if p.kind == "io"}
    return [
        (list(wake_mark(0, 0, state)), words) for state, words in POWER_ON_WORDS.items() if state in there
    ]


def _sharing_legend(board: Board) -> list[tuple[list[Shape], str]]:
    def letter(fill: str, ink: str) -> list[Shape]:
        return [Disc(0, 0, 8, fill, TINTS[0], 2), Text(0, 4, "a", 11, ink, True, "middle")]

    kin: list[Shape] = [Disc(0, 0, 5, "", "#ffcf5a", 2), Disc(0, 0, 8, "", "#ffcf5a", 1, True)]
    return [
        (letter("#1b2434", TINTS[0]), "same letter: one timer or converter"),
        (letter(TINTS[0], "#14202e"), "in use"),
        (kin, "shares with the pin you point at"),
    ]


def _wide(text: str) -> float:
    return text_width(text, TEXT) + 32


LEGENDS = {"volts": _volts_legend, "power-on": _wake_legend, "sharing": _sharing_legend}


class Legend(QWidget):
    """What the shapes on the board mean just now."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Legend")

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
            rows = self._rows()
            for k, row in enumerate(rows):
                x, y = 8.0, self.height() / 2 + (22 * k - 11 * (len(rows) - 1))
                for mark, text in row:
                    painter.save()
                    painter.translate(x, y)
                    paint(painter, [*mark, Text(14, 4, text, TEXT, self.p.faint)])
                    painter.restore()
                    x += _wide(text)

    def _rows(self) -> list[list[tuple[list[Shape], str]]]:
        """The entries on one row, or where that is too narrow on two; what
        then still has no room is left out."""
        rows: list[list[tuple[list[Shape], str]]] = [[]]
        x = 8.0
        for entry in self.entries():
            if x + _wide(entry[1]) > self.width() and rows[-1]:
                if len(rows) == 2:
                    break
                rows.append([])
                x = 8.0
            rows[-1].append(entry)
            x += _wide(entry[1])
        return rows

    def entries(self) -> list[tuple[list[Shape], str]]:
        """(mark around the origin, its meaning), in order of importance."""
        p = self.p
        if self.session.lens == "load":
            ring = Disc(0, 0, 6, "", p.edge, 3)
            return [
                ([ring, Arc(0, 0, 6, 0.4, p.good, 3)], "share of the limit, at worst"),
                ([ring, Arc(0, 0, 6, 0.85, p.care, 3)], "above 75 %"),
                (list(severity(0, 0, "stop", p, 7)), "over it"),
            ]
        if self.session.lens in LEGENDS:
            return [
                ([_ground(p), *mark], text)
                for mark, text in LEGENDS[self.session.lens](self.session.circuit.board)
            ]
        if self.session.view.answers:
            return [
                ([Disc(0, 0, 4, p.board), Disc(0, 0, 7, "", "#e0a92c", 2)], "best"),
                ([Disc(0, 0, 6, "", p.good, 2)], "good"),
                ([Disc(0, 0, 6, "", p.care, 2, True)], "possible, with a consequence"),
                (list(cross(0, 0, 4, p.faint)), "cannot"),
            ]
        return [
            ([Disc(0, 0, 6, p.pin, p.board_edge), Disc(0, 0, 2.4, p.pin_hole)], "signal"),
            ([Disc(0, 0, 6, p.pin_timed, p.board_edge), Disc(0, 0, 2.4, p.pin_hole)], "pulse or analogue"),
            ([Box(-6, -6, 12, 12, 2, p.supply, "#000000")], "supply"),
            ([triangle(0, 1, 7, p.ground, down=True)], "ground"),
            ([triangle(0, 1, 5, p.care)], "has a job already"),
        ]
