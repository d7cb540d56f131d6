"""The lenses, their legend, and the keys worth knowing."""

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from knotplan.core.loom.marks import cross, severity, triangle
from knotplan.core.loom.palette import Palette
from knotplan.core.loom.shapes import Arc, Box, Disc, Shape, Text, text_width
from knotplan.core.loom.view import Lens
from knotplan.desktop.paint import paint
from knotplan.desktop.panels.fields import label
from knotplan.desktop.session import Session

LENSES: tuple[tuple[Lens, str, str], ...] = (
    ("fit", "Fit", "Which pins can take the selected lead, and how well (F5)"),
    ("load", "Load", "How much of its limit each pin and rail carries at worst (F6)"),
)


class LensBar(QWidget):
    """Chips for the lenses; the legend changes with them."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session = session
        self._shown: object = None
        self.setFixedHeight(42)
        across = QHBoxLayout(self)
        across.setContentsMargins(18, 6, 18, 4)
        across.setSpacing(6)
        across.addWidget(label("Lens", "faint", wrap=False))
        self.group = QButtonGroup(self)
        for lens, title, tip in LENSES:
            made = QPushButton(title)
            made.setCheckable(True)
            made.setProperty("kind", "chip")
            made.setProperty("lens", lens)
            made.setAccessibleName(f"Lens {title}")
            made.setToolTip(tip)
            made.clicked.connect(lambda _=False, k=lens: session.look_through(k))
            self.group.addButton(made)
            across.addWidget(made)
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


class Legend(QWidget):
    """What the shapes on the board mean just now."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Legend")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        x, y = 8.0, self.height() / 2
        for mark, text in self.entries():
            wide = text_width(text, 11.5) + 34
            if x + wide > self.width():
                break
            painter.translate(x, y)
            paint(painter, [*mark, Text(13, 4, text, 11.5, self.p.faint)])
            painter.resetTransform()
            x += wide
        painter.end()

    def entries(self) -> list[tuple[list[Shape], str]]:
        """(mark around the origin, its meaning), in order of importance."""
        p = self.p
        if self.session.lens == "load":
            ring = Disc(0, 0, 6, "", p.edge, 3)
            return [([ring, Arc(0, 0, 6, 0.4, p.good, 3)], "share of the limit, at worst"),
                    ([ring, Arc(0, 0, 6, 0.85, p.care, 3)], "above 75 %"),
                    (list(severity(0, 0, "stop", p, 7)), "over it")]  # fmt: skip
        if self.session.view.answers:
            return [([Disc(0, 0, 4, p.board), Disc(0, 0, 7, "", "#e0a92c", 2)], "best"),
                    ([Disc(0, 0, 6, "", p.good, 2)], "good"),
                    ([Disc(0, 0, 6, "", p.care, 2, True)], "possible, with a consequence"),
                    (list(cross(0, 0, 4, p.faint)), "cannot")]  # fmt: skip
        return [([Disc(0, 0, 6, p.pin, p.board_edge), Disc(0, 0, 2.4, p.pin_hole)], "signal"),
                ([Disc(0, 0, 6, p.pin_timed, p.board_edge), Disc(0, 0, 2.4, p.pin_hole)], "pulse or analogue"),
                ([Box(-6, -6, 12, 12, 2, p.supply, "#000000")], "supply"),
                ([triangle(0, 1, 7, p.ground, down=True)], "ground"),
                ([triangle(0, 1, 5, p.care)], "has a job already")]  # fmt: skip
