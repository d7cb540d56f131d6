"""Choosing a board: those that come with the program and one's own, each as it looks."""

from pathlib import Path

from PySide6.QtCore import QFile, QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import Catalog, UnknownEntryError
from knotplan.core.drawing.palette import Palette
from knotplan.desktop import dialogs, lettering
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.paint import fit_into, paint
from knotplan.desktop.panels.fields import button, label, row
from knotplan.desktop.tips import tip_text
from knotplan.desktop.workshop.board_picture import board_picture

THUMB = QSize(150, 132)


def board_icon(board: Board, p: Palette, ratio: float = 2.0) -> QIcon:
    """A small picture of a board."""
    pixmap = QPixmap(THUMB * ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    with QPainter(pixmap) as painter:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        picture = board_picture(board, p)
        fit_into(painter, picture, QRectF(pixmap.rect()))
        paint(painter, picture.shapes)
    pixmap.setDevicePixelRatio(ratio)
    return QIcon(pixmap)


class BoardList(QListWidget):
    """Every board with its picture; what cannot be used says why."""

    def __init__(self, catalog: Catalog, p: Palette):
        super().__init__()
        self.catalog = catalog
        self.setAccessibleName("Boards")
        self.setViewMode(QListWidget.ViewMode.IconMode)
        self.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.setMovement(QListWidget.Movement.Static)
        thumb = THUMB * lettering.scale()
        self.setIconSize(thumb)
        self.setGridSize(thumb + QSize(lettering.px(34), lettering.px(90)))
        self.setWordWrap(True)
        self.setSpacing(4)
        own = set(catalog.own_board_ids())
        for board_id in catalog.board_ids():
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.UserRole, board_id)
            try:
                board = catalog.board(board_id)
            except UnknownEntryError as error:
                item.setText(f"{board_id}\ncannot be used")
                item.setToolTip(tip_text(str(error)))
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            else:
                item.setText(f"{board.title}{' (your own)' if board_id in own else ''}\n{board.summary}")
                item.setToolTip(tip_text(f"{board.title}: {board.summary}; {len(board.pins)} contacts"))
                item.setIcon(board_icon(board, p))
            self.addItem(item)
        self.setCurrentRow(0)

    def is_own(self) -> bool:
        """The highlighted board is the maker's, and its file can be taken away."""
        item = self.currentItem()
        return item is not None and str(item.data(Qt.ItemDataRole.UserRole)) in self.catalog.own_board_ids()

    def board(self) -> str:
        """The id of the highlighted board, or nothing."""
        item = self.currentItem()
        return (
            str(item.data(Qt.ItemDataRole.UserRole))
            if item and item.flags() & Qt.ItemFlag.ItemIsEnabled
            else ""
        )

    def select(self, board_id: str) -> None:
        for k in range(self.count()):
            if self.item(k).data(Qt.ItemDataRole.UserRole) == board_id:
                self.setCurrentRow(k)

    def filter(self, text: str) -> None:
        """Only the boards that a text fits."""
        for k in range(self.count()):
            item = self.item(k)
            item.setHidden(
                not all(w in f"{item.text()} {item.toolTip()}".casefold() for w in text.casefold().split())
            )
        if (now := self.currentItem()) is None or now.isHidden():
            self.setCurrentRow(next((k for k in range(self.count()) if not self.item(k).isHidden()), -1))


class BoardDialog(QDialog):
    """Which board it is to be."""

    def __init__(self, catalog: Catalog, p: Palette, question: str, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle("New plan")
        self.resize(990, 620)
        down = QVBoxLayout(self)
        down.addWidget(label(question, "head"))
        self.field = QLineEdit()
        self.field.setPlaceholderText("Type a name or what it is: linux, 5 V, radio …")
        self.field.setAccessibleName("Filter the boards")
        down.addWidget(self.field)
        self.list = BoardList(catalog, p)
        self.field.textChanged.connect(self.list.filter)
        equip(self.list, field=self.field)
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        down.addWidget(self.list, 1)
        self.describes = False
        """the maker would rather describe a board"""
        self.away = button(
            "Remove …", "removeBoard", "Take the highlighted board of your own away", self.remove
        )
        self.list.currentRowChanged.connect(lambda _: self.away.setEnabled(self.list.is_own()))
        self.away.setEnabled(False)
        down.addWidget(
            row(
                label("Yours is not among them? It takes a few minutes:", "faint", wrap=False),
                button(
                    "Describe a board …",
                    "describeBoard",
                    "The workshop: headers, then pins in a grid (Ctrl+B)",
                    self._describe,
                ),
                self.away,
            )
        )
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        box.accepted.connect(self.accept)
        box.rejected.connect(self.reject)
        down.addWidget(box)
        self.list.setFocus()

    def board(self) -> str:
        return self.list.board()

    def _describe(self) -> None:
        self.describes = True
        self.reject()

    def remove(self) -> None:
        """A board of one's own to the wastebasket; plans that carry it keep it."""
        item, catalog = self.list.currentItem(), self.list.catalog
        if item is None or not self.list.is_own():
            return
        path = catalog.path_of(str(item.data(Qt.ItemDataRole.UserRole)))
        asked = dialogs.may(
            self, f"Remove {path.stem} from your boards? Plans on it keep their copy.", "Remove it", "Keep it"
        )
        if asked and (QFile(str(path)).moveToTrash() or _deleted(path)):
            catalog.forget(path.stem)
            self.list.takeItem(self.list.row(item))


def _deleted(path: Path) -> bool:
    """Where there is no wastebasket."""
    try:
        path.unlink()
    except OSError:
        return False
    return True
