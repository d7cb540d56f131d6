"""The bench as it was painted last. After an edit, only the places that differ are painted again."""

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QPainter, QPixmap, QRegion

from knotplan.core.drawing.extent import Rect
from knotplan.core.drawing.loom.changes import changes
from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.palette import Palette
from knotplan.desktop.loom.group_cache import GroupCache
from knotplan.desktop.paint import colour

EDGE = 2
"""pixels painted round what differs, for smoothed edges"""


class Aim(NamedTuple):
    """How a bench is looked at: another aim is another picture."""

    size: QSize
    """in pixels of the screen"""
    ratio: float
    scale: float
    offset: QPointF
    palette: Palette


class Layer:
    """A picture and what it was painted from."""

    def __init__(self) -> None:
        self._images = GroupCache()
        self._painted: tuple[Aim, list[Group], QPixmap] | None = None
        self.whole = False
        """everything was painted the last time"""

    def picture(self, aim: Aim, groups: list[Group]) -> QPixmap:
        """The bench, painted as far as it differs from the last time."""
        where: list[Rect] | None = None
        if self._painted is not None and self._painted[0] == aim:
            where = changes(self._painted[1], groups)
        if where is None:
            picture = QPixmap(aim.size)
            picture.setDevicePixelRatio(aim.ratio)
            picture.fill(colour(aim.palette.cloth))
        else:
            assert self._painted is not None
            picture = self._painted[2]
        if where is None or where:
            with QPainter(picture) as painter:
                painter.setRenderHints(
                    QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing
                )
                if where is not None:
                    painter.setClipRegion(_region(where, aim))
                    painter.fillRect(0, 0, aim.size.width(), aim.size.height(), colour(aim.palette.cloth))
                painter.translate(aim.offset)
                painter.scale(aim.scale, aim.scale)
                self._images.paint(painter, groups, where)
        self._painted, self.whole = (aim, groups, picture), where is None
        return picture


def _region(where: list[Rect], aim: Aim) -> QRegion:
    """Boxes on the bench, in pixels of the widget."""
    region = QRegion()
    for x, y, w, h in where:
        area = QRectF(x * aim.scale, y * aim.scale, w * aim.scale, h * aim.scale).translated(aim.offset)
        region += QRegion(area.toAlignedRect().adjusted(-EDGE, -EDGE, EDGE, EDGE))
    return region
