"""The board as it is being described, drawn as the bench will draw it."""

from PySide6.QtCore import QPointF, QRectF, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from knotplan.catalog.board.board import Board
from knotplan.core.drawing.loom.board_place import PIN_R, board_place
from knotplan.core.drawing.loom.board_shapes import Lying, board_shapes
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Disc, Picture
from knotplan.core.plan.document import BOARD
from knotplan.desktop.paint import colour, fit_into, paint

ROOM = 22.0


def board_picture(board: Board, p: Palette) -> Picture:
    """A bare board, all its rails alive."""
    lying = Lying(board.spoken, 0, False)
    x, y, w, h = board_place(board, *lying).box
    shapes = board_shapes(board, lying, tuple(board.rails), next(iter(board.sockets)), p)
    return Picture(x - ROOM, y - ROOM, w + 2 * ROOM, h + 2 * ROOM, p.cloth, shapes)


class BoardPicture(QWidget):
    """Fits the board into its place; a click on a contact says which."""

    pin_clicked = Signal(int)
    """number of the contact, from 0"""

    def __init__(self, p: Palette):
        super().__init__()
        self.p = p
        self.board: Board | None = None
        self.marked = -1
        self.setMinimumSize(150, 200)
        self.setAccessibleName("Picture of the board")

    def show_board(self, board: Board | None, marked: int) -> None:
        self.board, self.marked = board, marked
        self.update()

    def _picture(self) -> Picture | None:
        return (
            board_picture(self.board, self.p)
            if self.board and self.board.pins and self.board.sockets
            else None
        )

    def _spot(self, number: int) -> tuple[float, float] | None:
        assert self.board is not None
        names = list(self.board.pins)
        if not 0 <= number < len(names):
            return None
        spot = board_place(self.board, self.board.spoken, 0, False).pins[f"{BOARD}.{names[number]}"]
        return spot.x, spot.y

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
            painter.fillRect(self.rect(), colour(self.p.cloth))
            picture = self._picture()
            if picture is not None:
                fit_into(painter, picture, QRectF(self.rect()))
                paint(painter, picture.shapes)
                if spot := self._spot(self.marked):
                    paint(
                        painter,
                        [
                            Disc(*spot, PIN_R + 4, "", "#ffffff", 3),
                            Disc(*spot, PIN_R + 7, "", "#ffcf5a", 2.4),
                        ],
                    )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        picture = self._picture()
        if picture is None or self.board is None:
            return
        scale = min(self.width() / picture.w, self.height() / picture.h)
        left = (self.width() - picture.w * scale) / 2
        top = (self.height() - picture.h * scale) / 2
        at = QPointF(
            (event.position().x() - left) / scale + picture.x,
            (event.position().y() - top) / scale + picture.y,
        )
        far = [
            ((s[0] - at.x()) ** 2 + (s[1] - at.y()) ** 2, k)
            for k in range(len(self.board.pins))
            if (s := self._spot(k))
        ]
        if far and min(far)[0] < 20**2:
            self.pin_clicked.emit(min(far)[1])
