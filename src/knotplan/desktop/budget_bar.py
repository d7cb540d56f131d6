"""The budgets, always in sight: usual and worst case of each rail, bank and supply against its limit."""

from PySide6.QtCore import QEvent, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Shape, Text, shortened, text_width
from knotplan.core.power.budgets import Budget
from knotplan.core.quantity.written import beside, show
from knotplan.desktop.paint import colour, paint
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

HEIGHT = 78
GAP = 22.0
LEAST, MORE = 104.0, 96.0
"""width that a gauge needs to be read, and that of the word on how many there are besides"""


class BudgetBar(QWidget):
    """One gauge beside another; a longer limit mark than the bar shows how far over it is."""

    chosen = Signal(str)

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self._shown: list[str] = []
        self._was_stacked = False
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
                self.update(_reach(area))

    def _places(self) -> list[tuple[Budget, QRectF]]:
        budgets, left = fullest(self.session.report.budgets, int((self.width() - GAP) // (LEAST + GAP)))
        room = self.width() - (MORE if left else 0)
        wide = (room - GAP * (len(budgets) + 1)) / max(1, len(budgets))
        return [(b, QRectF(GAP + k * (wide + GAP), 0, wide, HEIGHT)) for k, b in enumerate(budgets)]

    def _left_out(self) -> tuple[Budget, ...]:
        """The budgets for which there is no room."""
        shown = {(b.kind, b.id) for b, _ in self._places()}
        return tuple(b for b in self.session.report.budgets if (b.kind, b.id) not in shown)

    def _stacked(self) -> bool:
        """Some gauge is too narrow for title and amount in one line, so all have them one below the other."""
        return any(_head(b) > area.width() for b, area in self._places())

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
            painter.fillRect(self.rect(), colour(self.p.card))
            painter.fillRect(0, 0, self.width(), 1, colour(self.p.edge))
            if not self.session.report.checked:
                paint(painter, [Text(GAP, 42, "checking …", 12, self.p.faint)])
            stacked = self._was_stacked = self._stacked()
            for budget, area in self._places():
                if event.rect().intersects(_reach(area)):
                    paint(painter, _gauge(budget, area, stacked, self.p))
            if left := self._left_out():
                share = max(_share(b) for b in left)
                x = self.width() - MORE + 4
                paint(
                    painter,
                    [
                        Text(x, 24, f"{len(left)} more", 13, self.p.ink, True),
                        Text(x, 44, f"up to {share * 100:.0f} %", 12, self.p.faint),
                    ],
                )

    def budget_at(self, x: float) -> Budget | None:
        return next(
            (b for b, area in self._places() if area.left() - GAP / 2 <= x <= area.right() + GAP / 2), None
        )

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            budget = self.budget_at(event.pos().x())
            over_more = event.pos().x() > self.width() - MORE and self._left_out()
            more = "\n".join(f"{b.title}: {_amount(b)}" for b in self._left_out()[:24]) if over_more else ""
            QToolTip.showText(
                event.globalPos(), tip_text(explained(budget) if budget and not more else more), self
            )
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        budget = self.budget_at(event.position().x())
        if budget and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(budget.id)


def _share(b: Budget) -> float:
    return b.worst_a / b.limit_a if b.limit_a else 0.0


def fullest(budgets: tuple[Budget, ...], most: int) -> tuple[tuple[Budget, ...], int]:
    """(those that are shown, how many are not): where there are too many, the fullest, in their order."""
    if len(budgets) <= max(most, 1):
        return budgets, 0
    kept = {(b.kind, b.id) for b in sorted(budgets, key=_share, reverse=True)[: max(1, most - 1)]}
    return tuple(b for b in budgets if (b.kind, b.id) in kept), len(budgets) - len(kept)


def explained(b: Budget) -> str:
    """How a budget adds up, item by item."""
    rows = [
        f"{i.title}: {show(i.usual_a, 'A')}, at worst {show(i.worst_a, 'A')}"
        + (f" ({i.why})" if i.why else "")
        for i in b.items
    ]
    total = f"together {show(b.usual_a, 'A')}, at worst {show(b.worst_a, 'A')} of {show(b.limit_a, 'A')}"
    apart = b.total is not None and b.total.worst_a < b.total.peaks_a * 0.999
    why = (
        [
            "not all at once: some activities exclude one another, all peaks would be "
            f"{show(b.total.peaks_a, 'A')}"
        ]
        if apart and b.total
        else []
    )
    return "\n".join([b.title, *rows, total, *why, *([b.note] if b.note else [])])


def _reach(area: QRectF) -> QRect:
    """All that a gauge may paint: the mark behind a title can stand in the gap to the next one."""
    return area.toAlignedRect().adjusted(-2, 0, 20, 0)


def _amount(b: Budget) -> str:
    return beside(b.worst_a, b.limit_a, "A")


def _head(b: Budget) -> float:
    """Width of title, mark and amount in one line."""
    return (
        text_width(b.title, 13, True)
        + text_width(_amount(b), 12, True)
        + (38 if b.worst_a > b.limit_a else 14)
    )


def _gauge(b: Budget, area: QRectF, stacked: bool, p: Palette) -> list[Shape]:
    """Title, bar and amounts; `stacked` puts the amounts under the bar, where all gauges are narrow."""
    x, w = area.left(), area.width()
    over, tight = b.worst_a > b.limit_a, b.worst_a > 0.85 * b.limit_a
    full = w / (max(b.limit_a, b.worst_a) * 1.06)
    if over:
        ink = p.stop
    elif tight:
        ink = p.care_text
    else:
        ink = p.faint
    room = w - (20 if over else 0) - (0 if stacked else text_width(_amount(b), 12, over) + 8)
    title = shortened(b.title, 13, room, True)
    top = 20 if stacked else 24
    usual = f"usually {show(b.usual_a, 'A')}" if b.usual_a >= b.limit_a / 1e4 else "usually 0"
    shapes: list[Shape] = [
        Text(x, top, title, 13, p.ink, True),
        Box(x, top + 9, w, 12, 3, p.cloth, p.edge, 1),
        Box(x, top + 9, max(1.0, b.worst_a * full), 12, 3, p.stop_soft if over else p.active_soft),
        Box(x, top + 9, max(1.0, b.usual_a * full), 12, 3, p.stop if b.usual_a > b.limit_a else p.active),
        Box(x + b.limit_a * full - 1, top + 5, 2, 20, 0, p.ink),
    ]
    if stacked:
        shapes += [
            Text(x, top + 35, shortened(f"worst {_amount(b)}", 11.5, w, over), 11.5, ink, over),
            Text(x, top + 49, shortened(usual, 11.5, w), 11.5, p.faint),
        ]
    else:
        shapes += [Text(x + w, top, _amount(b), 12, ink, over, "end"), Text(x, top + 39, usual, 12, p.faint)]
    if over:
        shapes += severity(
            x + text_width(title, 13, True) + 14, top - 4, "stop" if b.usual_a > b.limit_a else "care", p, 7
        )
    return shapes
