"""The hand-over view: every file that leaves the plan, seen before it is written."""

from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QImage, QPainter, QPixmap, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.edits import slug
from knotplan.core.quantity import counted
from knotplan.desktop.panels.fields import button, choice, label, row
from knotplan.desktop.session import Session
from knotplan.exchange.constants import SchemeError
from knotplan.exchange.exports import TEXTS, Export, file_name
from knotplan.exchange.files import write_atomically
from knotplan.exchange.waves import whole_picture


def all_exports() -> tuple[Export, ...]:
    from knotplan.desktop.paper import PAINTED_EXPORTS

    return TEXTS + PAINTED_EXPORTS


class HandOver(QWidget):
    """A list of kinds on the left, the chosen one as it will be on the right."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.scheme = ""
        self.setAccessibleName("Hand over")
        across = QHBoxLayout(self)
        across.setContentsMargins(22, 18, 22, 18)
        across.setSpacing(18)
        left = QVBoxLayout()
        left.setSpacing(10)
        left.addWidget(label("Hand over", "head"))
        self.state = label("", "faint")
        left.addWidget(self.state)
        self.kinds = QListWidget()
        self.kinds.setObjectName("kinds")
        self.kinds.setAccessibleName("Kinds of file")
        self.kinds.setFixedWidth(270)
        self.kinds.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.kinds.currentRowChanged.connect(lambda _: self._show())
        left.addWidget(self.kinds, 1)
        self.scheme_row = QVBoxLayout()
        left.addLayout(self.scheme_row)
        left.addWidget(row(
            button("Save this …", "saveThis", "Write the shown file (Ctrl+E)", self.save_one, "main"),
            button("Save all …", "saveAll", "Write every file into a folder", self.save_all),
        ))  # fmt: skip
        across.addLayout(left)
        across.addWidget(self._preview(), 1)
        for export in all_exports():
            item = QListWidgetItem(f"{export.title}\n{export.what}")
            item.setData(Qt.ItemDataRole.UserRole, export)
            item.setToolTip(export.what)
            self.kinds.addItem(item)
        self.kinds.setSpacing(2)
        self.kinds.setWordWrap(True)
        self.kinds.setCurrentRow(0)
        self._fitting = QTimer(self)
        self._fitting.setSingleShot(True)
        self._fitting.setInterval(60)
        self._fitting.timeout.connect(self._show)
        session.changed.connect(self.refresh)

    def _preview(self) -> QStackedWidget:
        """Where the chosen file is seen: as text, or as it will look."""
        self.stack = QStackedWidget()
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("The file as text")
        self.text.setStyleSheet("font-family: 'DejaVu Sans Mono', monospace; font-size: 12px;")
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.image = QLabel()
        self.image.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignHCenter)
        self.image.setAccessibleName("The file as it will look")
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.image)
        self.area = area
        self.stack.addWidget(self.text)
        self.stack.addWidget(area)
        return self.stack

    def refresh(self) -> None:
        if self.isVisible():
            self._show()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fitting.start()  # once the resizing rests

    def showEvent(self, event: QShowEvent) -> None:
        QTimer.singleShot(0, self._show)

    def export(self) -> Export:
        found: Export = self.kinds.currentItem().data(Qt.ItemDataRole.UserRole)
        return found

    def _pick_scheme(self, scheme: str) -> None:
        self.scheme = scheme
        self._show()

    def _show(self) -> None:
        report = self.session.report
        if not report.checked or not self.isVisible():
            return
        while self.scheme_row.count():
            item = self.scheme_row.takeAt(0)
            if item and (old := item.widget()):
                old.deleteLater()
        export = self.export()
        if export.id in ("c", "python"):
            schemes = [(k, f"numbers by {s.title.lower()}") for k, s in report.circuit.board.schemes.items()]
            self.scheme_row.addWidget(choice("numberScheme", "Which names the program uses", schemes,
                                             self.scheme or report.circuit.scheme, self._pick_scheme))  # fmt: skip
        stops = report.count("stop")
        self.state.setText(f"{counted(stops, 'finding')} at stop: mend before power." if stops else
                           "Nothing at stop." + (f" {report.count('care')} to take care of." if report.count("care") else ""))
        try:
            if export.text:
                self.text.setPlainText(export.make(report, self._scheme()).decode("utf-8"))
                self.stack.setCurrentWidget(self.text)
            else:
                self.image.setPixmap(self._picture(export))
                self.stack.setCurrentWidget(self.area)
        except SchemeError as error:
            self.text.setPlainText(f"This scheme cannot be used: {error}.")
            self.stack.setCurrentWidget(self.text)

    def _scheme(self) -> str:
        return self.scheme if self.scheme in self.session.circuit.board.schemes else ""

    def _picture(self, export: Export) -> QPixmap:
        from knotplan.core.loom.chart import chart
        from knotplan.core.loom.palette import LIGHT
        from knotplan.desktop.paper import PAGE, Sheet, image_of, plan_picture

        ratio = self.devicePixelRatioF()
        room = max(400.0, self.stack.width() - 30)
        if export.id == "waves-svg":
            picture = whole_picture(self.session.report)
            pixmap = QPixmap.fromImage(image_of(picture, room / picture.w * ratio))
        elif export.id in ("svg", "png", "chart", "chart-pdf"):
            c = self.session.circuit
            picture = (chart(c, tuple(c.board.schemes), True, LIGHT) if export.id.startswith("chart")
                       else plan_picture(self.session.report))  # fmt: skip
            pixmap = QPixmap.fromImage(image_of(picture, room / picture.w * ratio))
        else:
            sheet = Sheet(self.session.report)
            scale = room / PAGE.width() * ratio
            pixmap = _stacked([sheet.page_image(n, scale) for n in range(sheet.pages)])
        pixmap.setDevicePixelRatio(ratio)
        return pixmap

    def _name(self, export: Export) -> str:
        return file_name(slug(self.session.plan.title, set()), export)

    # --- writing --------------------------------------------------------------------------------

    def save_one(self) -> None:
        export = self.export()
        start = str((self.session.path.parent if self.session.path else Path.home()) / self._name(export))
        name, _ = QFileDialog.getSaveFileName(self, f"Save {export.title}", start, f"{export.title} (*{export.suffix})")
        if name:
            self.write(export, Path(name))

    def save_all(self) -> None:
        start = str(self.session.path.parent if self.session.path else Path.home())
        folder = QFileDialog.getExistingDirectory(self, "Folder for all hand-over files", start)
        if folder:
            for export in all_exports():
                if not self.write(export, Path(folder) / self._name(export)):
                    return

    def write(self, export: Export, path: Path) -> bool:
        """Writes one file; what goes wrong is said, and nothing half is left."""
        try:
            write_atomically(path, export.make(self.session.report, self._scheme()))
        except (OSError, SchemeError) as error:
            self.session.noticed.emit(f"{path.name} was not written: {error}")
            return False
        self.session.noticed.emit(f"Wrote {path}")
        return True


def _stacked(pages: list[QImage]) -> QPixmap:
    """Pages one below another."""

    gap = 14
    tall = sum(p.height() + gap for p in pages)
    made = QPixmap(pages[0].width(), tall)
    made.fill(Qt.GlobalColor.transparent)
    painter = QPainter(made)
    top = 0
    for page in pages:
        painter.drawImage(0, top, page)
        painter.drawRect(0, top, page.width() - 1, page.height() - 1)
        top += page.height() + gap
    painter.end()
    return made
