"""The budgets, always in sight: each rail, bank and supply against its limit. Folded, the bar has the
tightest three in one line."""

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QSizePolicy, QToolTip, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Polygon, Shape, Text
from knotplan.core.power.budget import Budget
from knotplan.core.quantity.written import show
from knotplan.desktop import lettering
from knotplan.desktop.gauges import amount, explained, fullest, gauge, head_width, line_gauge, reach, share
from knotplan.desktop.lettering import paint, px
from knotplan.desktop.paint import colour
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

HEIGHT, FOLDED = 78, 36
TIGHTEST = 3
"""gauges of the folded bar"""
GAP = 22.0
LEAST, LINE_LEAST, MORE = 104.0, 190.0, 96.0
"""width that a gauge needs, in full and in one line; that of the word on how many there are else"""


class BudgetBar(QWidget):
    """One gauge beside another; a longer limit mark than the bar shows how far over it is."""

    chosen = Signal(str)
    folding = Signal(bool)
    """it has been folded, or opened"""

    def __init__(self, session: Session, palette: Palette, folded: bool = True):
        super().__init__()
        self.session, self.p = session, palette
        self.folded = folded
        self._shown: list[str] = []
        self._was_stacked = False
        self._at = 0
        """the gauge that the keys are on"""
        self._bubble = QLabel(self)
        self._bubble.setObjectName("bubble")
        self._bubble.setTextFormat(Qt.TextFormat.PlainText)
        self._bubble.hide()
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        lettering.fix(self, height=FOLDED if folded else HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Budgets")
        session.changed.connect(self._refresh)
        self._refresh()

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        self.update()

    def fold(self, folded: bool) -> None:
        """The tightest three in one line, or all of them in full."""
        if folded != self.folded:
            self.folded, self._at = folded, 0
            lettering.fix(self, height=FOLDED if folded else HEIGHT)
            self._refresh()
            self.update()
            self.folding.emit(folded)

    def _refresh(self) -> None:
        sentences = [
            f"{b.title}: {show(b.usual_a, 'A')} usually, {show(b.worst_a, 'A')} at worst of "
            f"{show(b.limit_a, 'A')}"
            for b in self.session.report.budgets
        ]
        self.setAccessibleDescription("; ".join(sentences))
        sentences = (
            sentences if len(self._places()) == len(sentences) else [str(b) for b, _ in self._places()]
        )
        before, self._shown = self._shown, sentences
        if len(sentences) != len(before) or self._stacked() != self._was_stacked:
            self.update()
            return
        for old, new, (_, area) in zip(before, sentences, self._places(), strict=True):
            if old != new:  # only the gauges that say something else
                self.update(_on_screen(area))

    def _places(self) -> list[tuple[Budget, QRectF]]:
        least = LINE_LEAST if self.folded else LEAST
        fitting = max(1, int((self._wide() - MORE - GAP) // (least + GAP)))
        most = min(TIGHTEST, fitting) + 1 if self.folded else int((self._wide() - GAP) // (LEAST + GAP))
        budgets, left = fullest(self.session.report.budgets, most)
        room = self._wide() - (MORE if left or self.folded else 0)
        wide = (room - GAP * (len(budgets) + 1)) / max(1, len(budgets))
        return [(b, QRectF(GAP + k * (wide + GAP), 0, wide, self._high())) for k, b in enumerate(budgets)]

    def _wide(self) -> float:
        """In pixels at usual letters, as all places here."""
        return self.width() / lettering.scale()

    def _high(self) -> float:
        return self.height() / lettering.scale()

    def _left_out(self) -> tuple[Budget, ...]:
        """The budgets for which there is no room."""
        shown = {(b.kind, b.id) for b, _ in self._places()}
        return tuple(b for b in self.session.report.budgets if (b.kind, b.id) not in shown)

    def _stacked(self) -> bool:
        """Some gauge is too narrow for title and amount in one line, so all have them one below the other."""
        return not self.folded and any(head_width(b) > area.width() for b, area in self._places())

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), colour(self.p.card))
            painter.fillRect(0, 0, self.width(), 1, colour(self.p.edge))
            lettering.begin(painter)
            if not self.session.report.checked:
                paint(painter, [Text(GAP, self._high() / 2 + 4, "checking …", 12, self.p.faint)])
            stacked = self._was_stacked = self._stacked()
            for k, (budget, area) in enumerate(self._places()):
                if event.rect().intersects(_on_screen(area)):
                    made = (
                        line_gauge(budget, area, self.p)
                        if self.folded
                        else gauge(budget, area, stacked, self.p)
                    )
                    paint(painter, made)
                if self.hasFocus() and k == self._at:
                    paint(painter, [_focus(area, self.p)])
            paint(painter, self._more())

    def _more(self) -> list[Shape]:
        """How many there are besides, and a wedge that opens or folds the bar."""
        left, x, y = self._left_out(), self._wide() - MORE + 4, self._high() / 2
        shapes: list[Shape] = []
        if left and self.folded:
            shapes.append(Text(x, y + 4.3, f"{len(left)} more", 12, self.p.active, True))
        elif left:
            most = max(share(b) for b in left)
            shapes += [
                Text(x, 24, f"{len(left)} more", 13, self.p.ink, True),
                Text(x, 44, f"up to {most * 100:.0f} %", 12, self.p.faint),
            ]
        at = self._wide() - 18.0
        up = ((at - 5, y + 3), (at + 5, y + 3), (at, y - 4))
        down = ((at - 5, 12.0), (at + 5, 12.0), (at, 19.0))
        return [*shapes, Polygon(up if self.folded else down, self.p.active)]

    def budget_at(self, x: float) -> Budget | None:
        return next(
            (b for b, area in self._places() if area.left() - GAP / 2 <= x <= area.right() + GAP / 2), None
        )

    def _on_wedge(self, x: float, y: float) -> bool:
        return x > self._wide() - (MORE if self.folded else 32) and (self.folded or y < 32)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), tip_text(self._tip(lettering.place(event))), self)
            return True
        return super().event(event)

    def _tip(self, at: QPointF) -> str:
        x, y = at.x(), at.y()
        budget = self.budget_at(x)
        if budget:
            return explained(budget)
        left = "\n".join(f"{b.title}: {amount(b)}" for b in self._left_out()[:24])
        if self._on_wedge(x, y):
            return (
                "All budgets in full" + (f"\n{left}" if left else "") if self.folded else "The tightest three"
            )
        return left if x > self._wide() - MORE else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        at = lettering.place(event)
        budget = self.budget_at(at.x())
        if self._on_wedge(at.x(), at.y()) and not budget:
            self.fold(not self.folded)
        elif budget:
            self.chosen.emit(budget.id)

    # --- keys -----------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        places = self._places()
        key = Qt.Key(event.key())
        if key in steps and places:
            self._at = (self._at + steps[key]) % len(places)
            self.update()
            self._tell()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at < len(places):
            self.chosen.emit(places[self._at][0].id)
        elif key == Qt.Key.Key_Space:
            self.fold(not self.folded)
        else:
            super().keyPressEvent(event)

    def said(self) -> str:
        """How the gauge adds up that the keys are on; of the folded bar, all of them."""
        places = self._places()
        if self._at < len(places) and self.hasFocus():
            return explained(places[self._at][0])
        return "\n\n".join(explained(b) for b in self.session.report.budgets)

    def _tell(self) -> None:
        """How the gauge adds up that the keys are on, in a bubble above it."""
        places = self._places()
        self._bubble.setVisible(self.hasFocus() and self._at < len(places))
        if self._bubble.isHidden():
            return
        budget, area = places[self._at]
        window = self.window()
        self._bubble.setParent(window)
        self._bubble.setText(explained(budget))
        self._bubble.adjustSize()
        corner = self.mapTo(window, QPoint(px(area.left()), 0))
        left = min(corner.x(), window.width() - self._bubble.width() - 8)
        self._bubble.move(left, corner.y() - self._bubble.height() - 6)
        self._bubble.show()
        self._bubble.raise_()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._at = min(self._at, max(0, len(self._places()) - 1))
        self.update()
        if event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason):
            self._tell()  # for the pointer there is a tip

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._bubble.hide()
        self.update()


def _on_screen(area: QRectF) -> QRect:
    """All that a gauge may paint, in the widget's own pixels."""
    by = lettering.scale()
    r = reach(area)
    return QRectF(r.x() * by, r.y() * by, r.width() * by, r.height() * by).toAlignedRect()


def _focus(area: QRectF, p: Palette) -> Box:
    return Box(area.left() - 8, 3, area.width() + 16, area.height() - 6, 5, "", p.active, 1.8)
