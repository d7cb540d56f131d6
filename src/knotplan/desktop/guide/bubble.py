"""The bubble of the guide: a sentence beside a thing, and a frame around the thing."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPoint, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from knotplan.desktop import theme
from knotplan.desktop.lettering import px
from knotplan.desktop.paint import colour
from knotplan.desktop.panels.fields import button, label, row

WIDE, GAP, EDGE = 300, 14, 8
"""width of the bubble, its distance from the thing and from the window's edge, pixels at usual letters"""


def place_beside(thing: QRect, size: QSize, window: QRect, gap: int, clear: Sequence[QRect] = ()) -> QPoint:
    """Where a box of a size lies beside a thing, inside the window: not on the thing, and on as little as
    possible of what is to be kept clear. Right of it comes first, then left, below and above."""
    around = [thing, *(other for other in clear if other.contains(thing.center()))]
    held = [QRect(_held(corner, size, window), size) for box in around for corner in _corners(box, size, gap)]
    best = min(held, key=lambda box: (_shared(box, thing), sum(_shared(box, other) for other in clear)))
    return best.topLeft()


def _corners(thing: QRect, size: QSize, gap: int) -> list[QPoint]:
    """Where a box of a size could begin beside a thing, the best places first."""
    wide, high = size.width(), size.height()
    left, right = thing.left() - gap - wide, thing.right() + gap
    above, below = thing.top() - gap - high, thing.bottom() + gap
    downwards = (thing.center().y() - high // 2, thing.top(), thing.bottom() - high)
    across = (thing.center().x() - wide // 2, thing.left(), thing.right() - wide)
    beside = [QPoint(x, y) for x in (right, left) for y in downwards]
    return beside + [QPoint(x, y) for y in (below, above) for x in across]


def _shared(a: QRect, b: QRect) -> int:
    """Pixels that two boxes have in common."""
    both = a.intersected(b)
    return both.width() * both.height() if both.isValid() else 0


def _held(corner: QPoint, size: QSize, window: QRect) -> QPoint:
    """As near as the box can be to where it is wished without leaving the window."""
    return QPoint(
        max(window.left(), min(corner.x(), window.right() - size.width() + 1)),
        max(window.top(), min(corner.y(), window.bottom() - size.height() + 1)),
    )


class Ring(QWidget):
    """A frame around the thing; what is pressed goes through it."""

    def __init__(self, window: QWidget):
        super().__init__(window)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hide()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(colour(theme.current().care), 3))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), 9, 9)


class Bubble(QFrame):
    """Over the window; the keyboard stays where it is, and Tab reaches its buttons."""

    def __init__(self, window: QWidget):
        super().__init__(window)
        self.setObjectName("guide")
        self._window = window
        self.ring = Ring(window)
        self._column = down = QVBoxLayout(self)
        down.setContentsMargins(px(14), px(11), px(14), px(10))
        down.setSpacing(px(6))
        self.count = label("", "faint")
        self.words = label("", "strong")
        self._buttons = QWidget()
        self.buttons: list[QPushButton] = []
        down.addWidget(self.count)
        down.addWidget(self.words)
        down.addWidget(self._buttons)
        self.hide()

    def say(
        self, count: str, words: str, answers: Sequence[tuple[str, str, str, Callable[[], object]]]
    ) -> None:
        """Another sentence, with its buttons: (text, name, tooltip, what it does)."""
        self.count.setText(count)
        self.count.setVisible(bool(count))
        self.words.setText(words)
        self.setAccessibleName(f"Guide: {words}")
        made: list[QPushButton] = [
            button(text, name, tip, do, "main" if k == 0 and len(answers) > 1 else "quiet")
            for k, (text, name, tip, do) in enumerate(answers)
        ]
        fresh = row(*made)
        self._column.replaceWidget(self._buttons, fresh)
        self._buttons.hide()
        self._buttons.deleteLater()
        self._buttons = fresh
        fresh.show()
        self.buttons = made
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self, words))

    def lie_beside(self, thing: QRect, clear: Sequence[QRect] = ()) -> None:
        """Moves to where the thing is now, and covers as little as possible of what is to be kept clear."""
        window = self._window
        wide = min(px(WIDE), window.width() - 2 * px(EDGE))
        size = QSize(wide, self._column.totalHeightForWidth(wide))
        room = window.rect().adjusted(px(EDGE), px(EDGE), -px(EDGE), -px(EDGE))
        self.setGeometry(QRect(place_beside(thing, size, room, px(GAP), clear), size))
        frame = thing.adjusted(-5, -5, 5, 5).intersected(window.rect())
        if self.ring.geometry() != frame:
            self.ring.setGeometry(frame)
        for widget in (self.ring, self):
            widget.show()
            widget.raise_()

    def go(self) -> None:
        """Away, with its frame."""
        self.ring.hide()
        self.hide()
