"""Groups of shapes kept as images, so that an edit paints only what it changed."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from knotplan.core.loom.picture import Group
from knotplan.desktop.paint import paint

FEW = 4
"""groups with no more shapes than this are painted at once"""
MOST_PIXELS = 4_000_000
"""a group larger than this on the screen is painted directly, whatever the zoom"""


class GroupCache:
    """Images of groups, by their shapes, at one scale; those that are no longer shown are dropped."""

    def __init__(self) -> None:
        self._kept: dict[tuple[object, ...], QPixmap] = {}

    def paint(self, painter: QPainter, groups: list[Group]) -> None:
        """Paints groups in order, those seen before from their images."""
        kept: dict[tuple[object, ...], QPixmap] = {}
        transform = painter.transform()
        ratio = painter.device().devicePixelRatio()
        scale = transform.m11()
        for group in groups:
            area = transform.mapRect(QRectF(group.x, group.y, group.w, group.h))
            if not group.keep or len(group.shapes) <= FEW or area.width() * area.height() * ratio**2 > MOST_PIXELS:
                paint(painter, group.shapes)
                continue
            # images are placed on whole pixels, so that text stays sharp and equal
            left, top = round(area.left() * ratio), round(area.top() * ratio)
            shift = round(area.left() * ratio - left, 2), round(area.top() * ratio - top, 2)
            key = (group.shapes, scale, ratio, shift)
            image = self._kept.get(key) or _painted(group, area, scale, ratio, (left, top))
            kept[key] = image
            painter.save()
            painter.resetTransform()
            painter.drawPixmap(QPointF(left / ratio, top / ratio), image)
            painter.restore()
        self._kept = kept


def _painted(group: Group, area: QRectF, scale: float, ratio: float, at: tuple[int, int]) -> QPixmap:
    image = QPixmap(round(area.width() * ratio) + 2, round(area.height() * ratio) + 2)
    image.setDevicePixelRatio(ratio)
    image.fill("#00000000")
    painter = QPainter(image)
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
    painter.translate(area.left() - at[0] / ratio, area.top() - at[1] / ratio)
    painter.scale(scale, scale)
    painter.translate(-group.x, -group.y)
    paint(painter, group.shapes)
    painter.end()
    return image
