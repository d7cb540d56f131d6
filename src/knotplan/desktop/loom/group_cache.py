"""Groups of shapes kept as images, so that an edit paints only what it changed."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.shapes import Shape
from knotplan.desktop.paint import paint

MOST_GROUPS = 400
"""with more groups than this, images would take more memory than they are worth"""
MOST_PIXELS = 4_000_000
"""a group larger than this on the screen is painted directly, whatever the zoom"""


class GroupCache:
    """Images of groups, by their shapes, at one scale; those that are no longer shown are dropped."""

    def __init__(self) -> None:
        self._kept: dict[tuple[object, ...], tuple[tuple[Shape, ...], QPixmap]] = {}

    def paint(self, painter: QPainter, groups: list[Group]) -> None:
        """Paints groups in order, those seen before from their images."""
        kept: dict[tuple[object, ...], tuple[tuple[Shape, ...], QPixmap]] = {}
        transform = painter.transform()
        ratio = painter.device().devicePixelRatio()
        scale = transform.m11()
        window = QRectF(0, 0, painter.device().width() / ratio, painter.device().height() / ratio)
        areas = [transform.mapRect(QRectF(g.x, g.y, g.w, g.h).translated(*g.at)) for g in groups]
        seen = [(g, area) for g, area in zip(groups, areas, strict=True) if area.intersects(window)]
        for group, area in seen:
            if (
                not group.keep
                or len(seen) > MOST_GROUPS
                or area.width() * area.height() * ratio**2 > MOST_PIXELS
            ):
                painter.translate(*group.at)
                paint(painter, group.shapes)
                painter.translate(-group.at[0], -group.at[1])
                continue
            # images are placed on whole pixels, so that text stays sharp and equal
            left, top = round(area.left() * ratio), round(area.top() * ratio)
            shift = (0.0, 0.0) if group.snap else (area.left() - left / ratio, area.top() - top / ratio)
            # the same shapes are the same object, and kept alive here
            key = (id(group.shapes), scale, ratio, round(shift[0], 2), round(shift[1], 2))
            _, image = kept[key] = self._kept.get(key) or (
                group.shapes,
                _painted(group, area, scale, ratio, shift),
            )
            painter.save()
            painter.resetTransform()
            painter.drawPixmap(QPointF(left / ratio, top / ratio), image)
            painter.restore()
        self._kept = kept


def _painted(group: Group, area: QRectF, scale: float, ratio: float, shift: tuple[float, float]) -> QPixmap:
    image = QPixmap(round(area.width() * ratio) + 2, round(area.height() * ratio) + 2)
    image.setDevicePixelRatio(ratio)
    image.fill("#00000000")
    with QPainter(image) as painter:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.translate(*shift)
        painter.scale(scale, scale)
        painter.translate(-group.x, -group.y)
        paint(painter, group.shapes)
    return image
