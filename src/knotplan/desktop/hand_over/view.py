"""The hand-over view: every file that leaves the plan, seen before it is written."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QStackedWidget,
    QVBoxLayout,
)

from knotplan.core.check.report import Report
from knotplan.core.plan.ids import slug
from knotplan.core.quantity.written import counted
from knotplan.desktop import dialogs, lettering, outside
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.hand_over.pages import PagesView
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, choice, clear_layout, label, row
from knotplan.desktop.session import Session
from knotplan.desktop.settings import handed_over_file
from knotplan.desktop.tips import tip_text
from knotplan.desktop.view import Page
from knotplan.exchange.exports import EXPORTS
from knotplan.exchange.exports.export import CannotExportError, Export, Later, Preview, Printed, file_name
from knotplan.exchange.files import write_atomically
from knotplan.exchange.on_disk import Written

ROLE = Qt.ItemDataRole.UserRole
NO_FILE = "There is no such file of this plan: "
TAB = 4
"""letters that a tabulator takes"""
MOST_SHOWN = 200_000
"""letters of a file that are shown"""


def all_exports() -> tuple[Export, ...]:
    """Every kind, the maker's own templates last."""
    from knotplan.desktop.paper import PAINTED_EXPORTS
    from knotplan.exchange.exports.own_template import own_exports

    return EXPORTS + PAINTED_EXPORTS + own_exports()


class HandOver(Page):
    """A list of kinds on the left, the chosen one as it will be on the right."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.scheme = ""
        self.written = Written(handed_over_file())
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
        lettering.fix(self.kinds, width=270)
        self.kinds.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        equip(self.kinds, session.noticed.emit)
        self.kinds.currentRowChanged.connect(lambda _: self._show())
        left.addWidget(self.kinds, 1)
        self.scheme_row = QVBoxLayout()
        left.addLayout(self.scheme_row)
        left.addWidget(
            row(
                button("Save this …", "saveThis", "Write the shown file (Ctrl+E)", self.save_one, "main"),
                button("Save all …", "saveAll", "Write every file into a folder", self.save_all),
            )
        )
        across.addLayout(left)
        across.addWidget(self._preview(), 1)
        self.kinds.setSpacing(2)
        self.kinds.setWordWrap(True)
        self._list_kinds()
        self.beside = BackgroundTask("preview", self)
        self.beside.answered.connect(self._show_text)
        session.changed.connect(self.refresh)

    def _list_kinds(self) -> None:
        """Every kind; the chosen one stays. A template that the maker has put into the folder since is
        there."""
        chosen = self.export().id if self.kinds.count() else ""
        exports = all_exports()
        if [x.id for x in exports] == [self.kinds.item(k).data(ROLE).id for k in range(self.kinds.count())]:
            return
        self.kinds.blockSignals(True)
        self.kinds.clear()
        for export in exports:
            item = QListWidgetItem(f"{export.title}\n{export.what}")
            item.setData(ROLE, export)
            item.setToolTip(tip_text(export.what))
            self.kinds.addItem(item)
        self.kinds.setCurrentRow(next((k for k, x in enumerate(exports) if x.id == chosen), 0))
        self.kinds.blockSignals(False)

    def _preview(self) -> QStackedWidget:
        """Where the chosen file is seen: as text, or as it will look."""
        self.stack = QStackedWidget()
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("The file as text")
        self.text.setStyleSheet("font-family: 'DejaVu Sans Mono', monospace; font-size: 12px;")
        self.text.setTabStopDistance(TAB * self.text.fontMetrics().horizontalAdvance(" "))
        self.pages = PagesView()
        self.stack.addWidget(self.text)
        self.stack.addWidget(self.pages)
        return self.stack

    def refresh(self) -> None:
        if self.isVisible():
            self._show()

    def showEvent(self, event: QShowEvent) -> None:
        self._list_kinds()
        QTimer.singleShot(0, self._show)
        self.kinds.setFocus()

    def export(self) -> Export:
        export: Export = self.kinds.currentItem().data(ROLE)
        return export

    def _pick_scheme(self, scheme: str) -> None:
        self.scheme = scheme
        self._show()

    def _show(self) -> None:
        report = self.session.report
        if not report.checked or not self.isVisible():
            return
        clear_layout(self.scheme_row)
        export = self.export()
        if export.takes_scheme:
            schemes = [(k, f"numbers by {s.title.lower()}") for k, s in report.circuit.board.schemes.items()]
            self.scheme_row.addWidget(
                choice(
                    "numberScheme",
                    "Which names the program uses",
                    schemes,
                    self.scheme or report.circuit.scheme,
                    self._pick_scheme,
                )
            )
        self.state.setText(_state(report))
        self.beside.forget()  # whatever was asked for another kind
        try:
            self._show_preview(export.preview(report, self._scheme()))
        except CannotExportError as error:
            self._show_text(_no_file(error))

    def _scheme(self) -> str:
        return self.scheme if self.scheme in self.session.circuit.board.schemes else ""

    def _show_preview(self, preview: Preview) -> None:
        """The chosen file as it is read, as it looks, or as it is printed."""
        from knotplan.desktop.hand_over.pages import PicturePages, SheetPages
        from knotplan.desktop.paper import Sheet

        if isinstance(preview, str):
            self._show_text(preview)
            return
        if isinstance(preview, Later):
            self.beside.ask(partial(_said, preview))
            return
        if isinstance(preview, Printed):
            self.pages.show_pages(SheetPages(partial(Sheet, preview.report)))
        else:
            self.pages.show_pages(PicturePages(preview))
        self.stack.setCurrentWidget(self.pages)

    def _show_text(self, text: str) -> None:
        """A file as it is; a sentence about one that there is not, so that all of it can be read."""
        wrap, as_it_is = QPlainTextEdit.LineWrapMode.WidgetWidth, QPlainTextEdit.LineWrapMode.NoWrap
        self.text.setLineWrapMode(wrap if text.startswith(NO_FILE) else as_it_is)
        self.text.setPlainText(_beginning(text))
        self.stack.setCurrentWidget(self.text)

    def _name(self, export: Export) -> str:
        return file_name(slug(self.session.plan.title, set()), export)

    # --- writing --------------------------------------------------------------------------------

    def save_one(self) -> None:
        export = self.export()
        start = str((self.session.path.parent if self.session.path else Path.home()) / self._name(export))
        name, _ = QFileDialog.getSaveFileName(
            self, f"Save {export.title}", start, f"{export.title} (*{export.suffix})"
        )
        if not name:
            return
        path = Path(name)
        if not path.suffix:  # the dialog has asked about the name that was typed, not about this one
            path = path.with_name(path.name + export.suffix)
            if path.exists() and not outside.may_replace(path, self):
                return
        if self._may_write([path]):
            self.write(export, path)

    def save_all(self) -> None:
        """Every file into a folder; of those that are there already the maker is asked once."""
        start = str(self.session.path.parent if self.session.path else Path.home())
        folder = QFileDialog.getExistingDirectory(self, "Folder for all hand-over files", start)
        if not folder:
            return
        files = {export: Path(folder) / self._name(export) for export in all_exports()}
        there = [path for path in files.values() if path.exists()]
        edited = [path for path in there if not self.written.is_ours(path)]
        ours = [path for path in there if path not in edited]
        anew = f"{counted(len(ours), 'file')} that Knot Plan wrote will be written anew."
        if ours and not edited and not dialogs.may(self, anew, "Write them", "Leave them"):
            return
        if edited and not self._may_write(there):
            return
        left = []
        for export, path in files.items():
            try:
                self._write(export, path)
            except CannotExportError:  # a board without a system has no overlay
                left.append(export.title)
            except OSError as error:
                self._not_written(path, error.strerror or str(error))
                return
        without = f"; this plan has no {', no '.join(left)}" if left else ""
        self.session.noticed.emit(f"Wrote {counted(len(files) - len(left), 'file')} into {folder}{without}")

    def _may_write(self, paths: list[Path]) -> bool:
        """Asks about files that are there and that somebody else has written, or edited since."""
        edited = [path.name for path in paths if path.exists() and not self.written.is_ours(path)]
        if not edited:
            return True
        names = ", ".join(edited[:6]) + (f" and {len(edited) - 6} more" if len(edited) > 6 else "")
        return dialogs.may(
            self,
            f"Edited since Knot Plan wrote it, or written by another program: {names}. What is in it now "
            "would be lost.",
            "Write over it",
            "Leave it",
        )

    def write(self, export: Export, path: Path) -> bool:
        """Writes one file; what goes wrong is said, and nothing half is left."""
        try:
            self._write(export, path)
        except OSError as error:
            return self._not_written(path, error.strerror or str(error))
        except CannotExportError as error:
            return self._not_written(path, str(error))
        self.session.noticed.emit(f"Wrote {path}")
        return True

    def _write(self, export: Export, path: Path) -> None:
        """Raises OSError or CannotExportError."""
        data = export.make(self.session.report, self._scheme())
        write_atomically(path, data)
        self.written.note(path, data)

    def _not_written(self, path: Path, why: str) -> bool:
        self.session.noticed.emit(f"{path.name} was not written: {why}")
        return False


def _said(preview: Later) -> str:
    """The text of a preview, or why there is none."""
    try:
        return preview.text()
    except CannotExportError as error:
        return _no_file(error)


def _no_file(error: CannotExportError) -> str:
    return f"{NO_FILE}{error}."


def _state(report: Report) -> str:
    """Whether the plan is fit to be handed over."""
    stops, cares, left = (report.count(s) for s in ("stop", "care", "to-do"))
    if stops or left:
        words = [f"{counted(stops, 'finding')} at stop"] if stops else []
        words += [f"{left} still to do"] if left else []
        return f"{' and '.join(words)}: {'mend' if stops else 'finish'} before power."
    return f"Nothing at stop. {cares} to take care of." if cares else "Nothing at stop."


def _beginning(text: str) -> str:
    """As much of a text as anybody looks through; the file has all of it."""
    if len(text) <= MOST_SHOWN:
        return text
    shown = text[:MOST_SHOWN].rpartition("\n")[0]
    return (
        f"{shown}\n\n… {counted(text.count(chr(10)) - shown.count(chr(10)), 'line')} more: the file has them "
        "all."
    )
