"""The board's chart before it is printed: in which names, bare or with the plan's ties."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QCheckBox, QDialog, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from knotplan.core.loom.chart import chart
from knotplan.core.loom.palette import LIGHT
from knotplan.core.loom.shapes import Picture
from knotplan.desktop.paint import colour, fit_into, paint
from knotplan.desktop.panels.fields import button, label, row, tick
from knotplan.desktop.session import Session
from knotplan.exchange.files import write_atomically


class Paper(QWidget):
    """A picture on white, as large as it goes."""

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.setMinimumSize(420, 300)
        self.setAccessibleName("The chart as it will be printed")

    def sizeHint(self) -> QSize:
        return QSize(900, 520)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
            painter.fillRect(self.rect(), colour("#ffffff"))
            if self.picture is not None:
                fit_into(painter, self.picture, QRectF(self.rect()).adjusted(6, 6, -6, -6))
                paint(painter, self.picture.shapes)


class ChartDialog(QDialog):
    """The sheet that people keep beside the bench."""

    def __init__(self, session: Session, parent: QWidget | None = None):
        super().__init__(parent)
        self.session = session
        self.circuit = c = session.circuit  # the chart stays what it was opened for, whatever becomes of the plan
        self.setWindowTitle("Board chart")
        self.resize(1100, 680)
        down = QVBoxLayout(self)
        down.addWidget(label(f"Chart of {c.board.title}", "head"))
        across = QHBoxLayout()
        across.addWidget(label("Names", "faint", wrap=False))
        self.schemes: dict[str, QCheckBox] = {}
        for scheme, spec in c.board.schemes.items():
            box = tick(spec.title, f"scheme-{scheme}", spec.note or spec.title, True, lambda _: self.refresh())
            self.schemes[scheme] = box
            across.addWidget(box)
        across.addSpacing(20)
        self.ties = tick("with what is tied", "chartTies", "The plan's ties beside the pins, or the bare board",
                         bool(c.plan.ties), lambda _: self.refresh())  # fmt: skip
        self.ties.setEnabled(bool(c.plan.ties))
        across.addWidget(self.ties)
        across.addStretch(1)
        down.addLayout(across)
        self.paper = Paper()
        down.addWidget(self.paper, 1)
        down.addWidget(row(
            *(button(f"Save as {kind.upper()} …", f"chart-{kind}", f"Write the chart as {kind.upper()}",
                     partial(self.save, kind), "main" if kind == "pdf" else "") for kind in ("pdf", "svg", "png")),
            button("Close", "closeChart", "Leave (Esc)", self.close),
        ))  # fmt: skip
        self.refresh()

    def chosen(self) -> tuple[str, ...]:
        """The schemes that are shown, the spoken one first: it stands next to the contacts."""
        c = self.circuit
        marked = [s for s, box in self.schemes.items() if box.isChecked()] or [c.scheme]
        return tuple(sorted(marked, key=lambda s: s != c.scheme))

    def refresh(self) -> None:
        self.paper.picture = chart(self.circuit, self.chosen(), self.ties.isChecked(), LIGHT)
        self.paper.update()

    def save(self, kind: str) -> None:
        board = self.circuit.board
        start = str(Path.home() / f"{board.id}-pins.{kind}")
        name, _ = QFileDialog.getSaveFileName(self, "Save the chart", start, f"{kind.upper()} (*.{kind})")
        if name:
            self.write(Path(name), kind)

    def write(self, path: Path, kind: str) -> None:
        """Writes the chart; what goes wrong is said."""
        from knotplan.desktop.paper import PNG_SCALE, image_of, picture_pdf, png_bytes
        from knotplan.exchange.chart import chart_svg

        made, title = self.paper.picture, f"{self.circuit.board.title}: pins"
        assert made is not None
        data = {
            "pdf": lambda: picture_pdf(made, title), "png": lambda: png_bytes(image_of(made, PNG_SCALE)),
            "svg": lambda: chart_svg(self.circuit, self.chosen(), self.ties.isChecked()).encode("utf-8"),
        }[kind]()  # fmt: skip
        try:
            write_atomically(path, data)
        except OSError as error:
            self.session.noticed.emit(f"{path.name} was not written: {error.strerror}")
        else:
            self.session.noticed.emit(f"Wrote {path}")
