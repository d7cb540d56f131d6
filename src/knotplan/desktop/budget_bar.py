"""The budgets, always in sight: usual and worst case of each rail, bank and supply against its limit."""

from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from knotplan.core.budgets import Budget
from knotplan.core.loom.marks import severity
from knotplan.core.loom.palette import Palette
from knotplan.core.loom.shapes import Box, Shape, Text, shortened, text_width
from knotplan.core.quantity import show
from knotplan.desktop.paint import colour, paint
from knotplan.desktop.session import Session

HEIGHT = 78
GAP = 22.0


class BudgetBar(QWidget):
    """One gauge beside another; a longer limit mark than the bar shows how far over it is."""

    chosen = Signal(str)

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self._shown: object = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Budgets")
        session.changed.connect(self._refresh)
        self._refresh()

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        self.update()

    def _refresh(self) -> None:
        said = [f"{b.title}: {show(b.usual_a, 'A')} usually, {show(b.worst_a, 'A')} at worst of {show(b.limit_a, 'A')}"
                for b in self.session.report.budgets]  # fmt: skip
        self.setAccessibleDescription("; ".join(said))
        shown = (self.session.report.checked, said)
        if shown != self._shown:
            self._shown = shown
            self.update()

    def _places(self) -> list[tuple[Budget, QRectF]]:
        budgets = self.session.report.budgets
        wide = (self.width() - GAP * (len(budgets) + 1)) / max(1, len(budgets))
        return [(b, QRectF(GAP + k * (wide + GAP), 0, wide, HEIGHT)) for k, b in enumerate(budgets)]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.fillRect(self.rect(), colour(self.p.card))
        painter.fillRect(0, 0, self.width(), 1, colour(self.p.edge))
        if not self.session.report.checked:
            paint(painter, [Text(GAP, 42, "checking …", 12, self.p.faint)])
        for budget, area in self._places():
            paint(painter, _gauge(budget, area, self.p))
        painter.end()

    def budget_at(self, x: float) -> Budget | None:
        return next((b for b, area in self._places() if area.left() - GAP / 2 <= x <= area.right() + GAP / 2), None)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            budget = self.budget_at(event.pos().x())
            QToolTip.showText(event.globalPos(), explained(budget) if budget else "", self)
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        budget = self.budget_at(event.position().x())
        if budget and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(budget.id)


def explained(b: Budget) -> str:
    """How a budget adds up, item by item."""
    rows = [f"{i.title}: {show(i.usual_a, 'A')}, at worst {show(i.worst_a, 'A')}" + (f" ({i.why})" if i.why else "")
            for i in b.items]  # fmt: skip
    total = f"together {show(b.usual_a, 'A')}, at worst {show(b.worst_a, 'A')} of {show(b.limit_a, 'A')}"
    return "\n".join([b.title, *rows, total, *([b.note] if b.note else [])])


def _gauge(b: Budget, area: QRectF, p: Palette) -> list[Shape]:
    x, w = area.left(), area.width()
    over, tight = b.worst_a > b.limit_a, b.worst_a > 0.85 * b.limit_a
    top = max(b.limit_a, b.worst_a) * 1.06
    full = w / top
    ink = p.stop if over else p.care_text if tight else p.faint
    amount = f"{show(b.worst_a, 'A')} of {show(b.limit_a, 'A')}"
    narrow = text_width(amount, 11.5, over) + text_width(b.title, 12.5, True) + 24 > w
    room = w - (0 if narrow else text_width(amount, 11.5, over) + 8)
    shapes: list[Shape] = [
        Text(x, 24, shortened(b.title, 12.5, room - (16 if over else 0), True), 12.5, p.ink, True),
        Text(x, 64, amount, 11, ink, over) if narrow else Text(x + w, 24, amount, 11.5, ink, over, "end"),
        Box(x, 34, w, 12, 3, p.cloth, p.edge, 1),
        Box(x, 34, max(1.0, b.worst_a * full), 12, 3, p.stop_soft if over else p.active_soft),
        Box(x, 34, max(1.0, b.usual_a * full), 12, 3, p.stop if b.usual_a > b.limit_a else p.active),
        Box(x + b.limit_a * full - 1, 30, 2, 20, 0, p.ink),
    ]
    if not narrow:
        shapes.append(Text(x, 64, shortened(f"usually {show(b.usual_a, 'A')}", 11, w), 11, p.faint))
    if over:
        width = min(text_width(b.title, 12.5, True), room - 14)
        shapes += severity(x + width + 14, 20, "stop" if b.usual_a > b.limit_a else "care", p, 7)
    return shapes
