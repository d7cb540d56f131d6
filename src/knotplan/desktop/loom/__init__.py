"""The Loom view: what ties to what? The bench, its lenses, and what is told under the pointer."""

from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import View


def _icon(path: QPainterPath, x: float, y: float) -> None:
    for a, b in ((-8, 8), (0, 0), (8, -8)):
        path.moveTo(x - 13, y + a)
        path.cubicTo(x - 3, y + a, x + 3, y + b, x + 13, y + b)


VIEW = View("loom", "&Loom", "Ctrl+1", "What ties to what?", _icon)
