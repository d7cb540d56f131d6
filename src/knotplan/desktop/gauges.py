"""A budget as a gauge: usual and worst case against the limit, in full or in one line."""

from PySide6.QtCore import QRect, QRectF

from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Shape, Text
from knotplan.core.power.budget import Budget
from knotplan.core.quantity.written import beside, show
from knotplan.desktop.lettering import shortened, text_width

LEAST_BAR = 40.0
"""the least width of the bar of a gauge in one line"""


def share(b: Budget) -> float:
    """The worst case as a share of the limit."""
    return b.worst_a / b.limit_a if b.limit_a else 0.0


def fullest(budgets: tuple[Budget, ...], most: int) -> tuple[tuple[Budget, ...], int]:
    """(those that are shown, how many are not): where there are too many, the fullest, in their order."""
    if len(budgets) <= max(most, 1):
        return budgets, 0
    kept = {(b.kind, b.id) for b in sorted(budgets, key=share, reverse=True)[: max(1, most - 1)]}
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


def reach(area: QRectF) -> QRect:
    """All that a gauge may paint: the mark behind a title can stand in the gap to the next one."""
    return area.toAlignedRect().adjusted(-2, 0, 20, 0)


def amount(b: Budget) -> str:
    return beside(b.worst_a, b.limit_a, "A")


def head_width(b: Budget) -> float:
    """Width of title, mark and amount in one line."""
    return (
        text_width(b.title, 13, True)
        + text_width(amount(b), 12, True)
        + (38 if b.worst_a > b.limit_a else 14)
    )


def gauge(b: Budget, area: QRectF, stacked: bool, p: Palette) -> list[Shape]:
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
    room = w - (20 if over else 0) - (0 if stacked else text_width(amount(b), 12, over) + 8)
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
            Text(x, top + 35, shortened(f"worst {amount(b)}", 11.5, w, over), 11.5, ink, over),
            Text(x, top + 49, shortened(usual, 11.5, w), 11.5, p.faint),
        ]
    else:
        shapes += [Text(x + w, top, amount(b), 12, ink, over, "end"), Text(x, top + 39, usual, 12, p.faint)]
    if over:
        shapes += severity(
            x + text_width(title, 13, True) + 14, top - 4, "stop" if b.usual_a > b.limit_a else "care", p, 7
        )
    return shapes


def line_gauge(b: Budget, area: QRectF, p: Palette) -> list[Shape]:
    """Title, bar and worst case in one line; the title is shortened before the bar goes."""
    over = b.worst_a > b.limit_a
    said = amount(b)
    wide = text_width(said, 12, over) + 8
    mark = 18.0 if over else 0.0
    title = shortened(b.title, 12.5, area.width() - wide - mark - LEAST_BAR - 10, True)
    x, y = area.left(), area.center().y()
    bar = x + text_width(title, 12.5, True) + 10 + mark
    w = max(LEAST_BAR, area.right() - wide - bar)
    full = w / (max(b.limit_a, b.worst_a) * 1.06)
    ink = p.stop if over else p.care_text if b.worst_a > 0.85 * b.limit_a else p.faint
    shapes: list[Shape] = [
        Text(x, y + 4.5, title, 12.5, p.ink, True),
        Box(bar, y - 5, w, 10, 3, p.cloth, p.edge, 1),
        Box(bar, y - 5, max(1.0, b.worst_a * full), 10, 3, p.stop_soft if over else p.active_soft),
        Box(bar, y - 5, max(1.0, b.usual_a * full), 10, 3, p.stop if b.usual_a > b.limit_a else p.active),
        Box(bar + b.limit_a * full - 1, y - 8, 2, 16, 0, p.ink),
        Text(area.right(), y + 4.3, said, 12, ink, over, "end"),
    ]
    if over:
        shapes += severity(bar - 14, y, "stop" if b.usual_a > b.limit_a else "care", p, 7)
    return shapes
