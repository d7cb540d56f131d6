"""The lenses, their legend, and the keys worth knowing."""

from collections.abc import Iterable

from PySide6.QtCore import QEvent, QObject, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.pin import AFTER_WORDS, POWER_ON_WORDS
from knotplan.core.drawing.loom.lenses import (
    BEARS_MORE_V,
    BY_VOLTS,
    TINTS,
    after_mark,
    level,
    volts_mark,
    wake_mark,
)
from knotplan.core.drawing.loom.view import Lens
from knotplan.core.drawing.marks import cross, severity, triangle
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Arc, Box, Disc, Polygon, Shape, Text
from knotplan.desktop import lettering
from knotplan.desktop.lettering import paint, px, text_width
from knotplan.desktop.panels.fields import label
from knotplan.desktop.panels.segments import Segment, Segments
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

LENSES: tuple[tuple[Lens, str, str], ...] = (
    ("fit", "Fit", "Which pins can take the selected lead, and how well (F5)"),
    ("volts", "Volts", "At which level each pin works, and whether it bears more (F6)"),
    ("load", "Load", "How much of its limit each pin and rail carries at worst (F7)"),
    ("power-on", "Power-on", "What each pin does before a program runs (Shift+F7)"),
    ("sharing", "Sharing", "Which pins have hardware in common: point at one (F12)"),
)

TEXT, LINE = 12.0, 24
"""size of the legend's words, and height of its lines"""


class LensBar(QWidget):
    """Chips for the lenses; the legend changes with them."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session = session
        self._shown: object = None
        lettering.fix(self, height=40)
        across = QHBoxLayout(self)
        across.setContentsMargins(18, 2, 12, 2)
        across.setSpacing(6)
        word = label("Lens", "faint", wrap=False)
        word.setToolTip("What the marks on the pins show")
        across.addWidget(word)
        self.choice = Segments("lens", "Lens", "What the pins on the bench show", "chip", 6)
        self.choice.fill([Segment(lens, title, f"Lens {title}", tip) for lens, title, tip in LENSES])
        self.choice.chosen.connect(session.look_through)
        across.addWidget(self.choice)
        across.addStretch(1)
        self.key = QPushButton("Legend")
        self.key.setObjectName("legendKey")
        self.key.setCheckable(True)
        self.key.setProperty("kind", "chip")
        self.key.setAccessibleName("Legend of the bench")
        self.key.setToolTip(tip_text("What the marks on the bench mean (Shift+L)"))
        across.addWidget(self.key)
        self.legend = Legend(session, palette)
        self.key.toggled.connect(self.legend.setVisible)
        self.legend.closed.connect(lambda: self.key.setChecked(False))
        session.looked.connect(self.refresh)
        session.changed.connect(self.refresh)
        self.refresh()

    def set_palette(self, palette: Palette) -> None:
        self.legend.p = palette
        self.legend.fit()

    def refresh(self) -> None:
        self.choice.choose(self.session.lens)
        shown = (self.session.lens, bool(self.session.view.answers))
        if shown != self._shown:
            self._shown = shown
            self.legend.fit()


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
    states = [(list(wake_mark(0, 0, s)), words) for s, words in POWER_ON_WORDS.items() if s in there]
    after = {board.afterwards(p) for p in board.pins.values() if p.kind == "io"} - {"power-on"}
    return states + [
        (list(after_mark(0, 0, kind)), f"in use; afterwards {AFTER_WORDS[kind]}")
        for kind in AFTER_WORDS
        if kind in after
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


NOTHING = "no pin of this board has a mark here"
LEGENDS = {"volts": _volts_legend, "power-on": _wake_legend, "sharing": _sharing_legend}


class Legend(QWidget):
    """What the shapes on the bench mean just now: a sheet over its corner, while it is asked for."""

    closed = Signal()

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Legend")
        self.hide()

    def lie_over(self, bench: QWidget) -> None:
        """The widget in whose corner it lies."""
        self.setParent(bench)
        bench.installEventFilter(self)
        self.fit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self.fit()
        return False

    def fit(self) -> None:
        """As large as its words, in its corner."""
        entries = self.entries()
        wide = max(text_width(text, TEXT) for _, text in entries) + 50
        self.resize(px(wide), px(LINE * len(entries) + 18))
        bench = self.parentWidget()
        if bench is not None:
            self.move(bench.width() - self.width() - 10, 6)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.closed.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            lettering.begin(painter)
            wide, high = self.width() / lettering.scale(), self.height() / lettering.scale()
            ground = Box(0.5, 0.5, wide - 1, high - 1, 8, self.p.card, self.p.border, 1)
            paint(painter, [ground])
            for k, (mark, text) in enumerate(self.entries()):
                painter.save()
                painter.translate(20, 9 + LINE * (k + 0.5))
                paint(painter, [*mark, Text(18, 4.2, text, TEXT, self.p.ink)])
                painter.restore()

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
            marks = LEGENDS[self.session.lens](self.session.circuit.board)
            return [([_ground(p), *mark], text) for mark, text in marks] or [([], NOTHING)]
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
            ([Disc(0, 0, 5, p.edge, p.ink, 1.4)], "lead, tied"),
            ([Disc(0, 0, 5, p.card, p.active, 2)], "lead, to be tied"),
            ([Disc(0, 0, 3.6, p.card, p.faint, 1.2)], "lead, may stay free"),
        ]
