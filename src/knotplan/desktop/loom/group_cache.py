"""Groups of shapes kept as images, so that an edit paints only what it changed."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from knotplan.core.drawing.extent import Rect, extent, meet
from knotplan.core.drawing.loom.changes import reach
from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.shapes import Shape
from knotplan.desktop.paint import paint

MOST_GROUPS = 400
"""with more groups than this, images would take more memory than they are worth"""
MOST_PIXELS = 4_000_000
"""a group larger than this on the screen is painted directly, whatever the zoom"""
BESIDE = 4.0
"""what reaches so near to a place, in pixels, is painted there too: images lie on whole pixels, and edges are
smooth"""


class GroupCache:
    """Images of groups, by their shapes, at one scale; those that are no longer shown are dropped."""

    def __init__(self) -> None:
        self._kept: dict[tuple[object, ...], tuple[tuple[Shape, ...], QPixmap]] = {}
        self._many = False
        """more groups are in sight than images are worth"""

    def paint(self, painter: QPainter, groups: list[Group], where: list[Rect] | None = None) -> None:
        """Paints groups in order, those seen before from their images; `where`: only what reaches into some
        boxes on the bench."""
        transform = painter.transform()
        ratio, scale = painter.device().devicePixelRatio(), transform.m11()
        window = QRectF(0, 0, painter.device().width() / ratio, painter.device().height() / ratio)
        there = None if where is None else [_grown(box, BESIDE / scale) for box in where]
        near = groups if there is None else [g for g in groups if _meets(reach(g), there)]
        seen = [(g, area) for g in near if (area := transform.mapRect(QRectF(*reach(g)))).intersects(window)]
        if where is None:
            self._many = len(seen) > MOST_GROUPS
        used = set()
        for group, area in seen:
            if not group.keep or self._many or area.width() * area.height() * ratio**2 > MOST_PIXELS:
                painter.translate(*group.at)
                paint(painter, group.shapes if there is None or group.keep else _of(group, there))
                painter.translate(-group.at[0], -group.at[1])
            else:
                used.add(self._from_image(painter, group, area, scale, ratio))
        shown = {id(group.shapes) for group in groups}
        self._kept = {
            key: image
            for key, image in self._kept.items()
            if key in used or (where is not None and key[0] in shown)
        }

    def _from_image(
        self, painter: QPainter, group: Group, area: QRectF, scale: float, ratio: float
    ) -> tuple[object, ...]:
        """Paints a group's image; gives the key under which it is kept."""
        # images are placed on whole pixels, so that text stays sharp and equal
        left, top = round(area.left() * ratio), round(area.top() * ratio)
        shift = (0.0, 0.0) if group.snap else (area.left() - left / ratio, area.top() - top / ratio)
        # the same shapes are the same object, and kept alive here
        key = (id(group.shapes), scale, ratio, round(shift[0], 2), round(shift[1], 2))
        if key not in self._kept:
            self._kept[key] = (group.shapes, _painted(group, area, scale, ratio, shift))
        painter.save()
        painter.resetTransform()
        painter.drawPixmap(QPointF(left / ratio, top / ratio), self._kept[key][1])
        painter.restore()
        return key


def _meets(box: Rect, where: list[Rect]) -> bool:
    return any(meet(box, other) for other in where)


def _of(group: Group, where: list[Rect]) -> list[Shape]:
    """What of a group reaches into some boxes."""
    dx, dy = group.at
    here = [(x - dx, y - dy, w, h) for x, y, w, h in where]
    return [shape for shape in group.shapes if _meets(extent(shape), here)]


def _grown(box: Rect, by: float) -> Rect:
    return box[0] - by, box[1] - by, box[2] + 2 * by, box[3] + 2 * by


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
