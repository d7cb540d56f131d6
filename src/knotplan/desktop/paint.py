"""Painting plain shapes with Qt: on the screen, in a PNG, in a PDF."""

from collections.abc import Iterable
from functools import cache, lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontMetricsF,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QStaticText,
    QTransform,
)

from knotplan.core.drawing.shapes import Arc, Box, Curve, Disc, Picture, Polygon, Shape, Text

FAMILY = "Inter"
TENFOLD = 10
"""Text is laid out at ten times its size, and scaled down by the painter: fractions of pixels stay true."""


@cache
def colour(text: str) -> QColor:
    """A colour from "#rrggbb" or "#rrggbbaa"."""
    shade = QColor(text[:7])
    if len(text) == 9:
        shade.setAlpha(int(text[7:], 16))
    return shade


@cache
def metrics(size: float, bold: bool, family: str = FAMILY) -> QFontMetricsF:
    """Of text at ten times a size in pixels."""
    return QFontMetricsF(_big(size, bold, family))


def interface_font(pixels: int, bold: bool = False, family: str = FAMILY) -> QFont:
    """Our font, its letters never exchanged for others by their neighbours:
    such text cannot be copied from a PDF."""
    font = QFont(family)
    font.setPixelSize(max(1, pixels))
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    font.setFeature(QFont.Tag("calt"), 0)
    return font


@cache
def _big(size: float, bold: bool, family: str) -> QFont:
    """A font in whole pixels at ten times the size."""
    font = interface_font(round(size * TENFOLD), bold, family)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return font


@cache
def _pen(stroke: str, width: float, dash: bool, round_cap: bool) -> QPen:
    if not stroke:
        return QPen(Qt.PenStyle.NoPen)
    pen = QPen(colour(stroke), width)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap if round_cap else Qt.PenCapStyle.FlatCap)
    if dash:
        pen.setDashPattern([4 / width, 3 / width])
    return pen


@cache
def _brush(fill: str) -> QBrush:
    return QBrush(colour(fill)) if fill else QBrush(Qt.BrushStyle.NoBrush)


def path(curve: Curve) -> QPainterPath:
    """A curve as Qt's path."""
    outline = QPainterPath(QPointF(*curve.start))
    for a, b, c, d, e, f in curve.pieces:
        outline.cubicTo(a, b, c, d, e, f)
    return outline


def paint(painter: QPainter, shapes: Iterable[Shape], keep_text: bool = False, family: str = FAMILY) -> None:
    """Paints shapes in their order; with `keep_text`, text stays text in a file."""
    for s in shapes:
        match s:
            case Text():
                _text(painter, s, keep_text, family)
            case Curve():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(_pen(s.stroke, s.width, s.dash, True))
                painter.drawPath(path(s))
            case Disc():
                painter.setPen(_pen(s.stroke, s.width, s.dash, False))
                painter.setBrush(_brush(s.fill))
                painter.drawEllipse(QPointF(s.x, s.y), s.r, s.r)
            case Box():
                painter.setPen(_pen(s.stroke, s.width, False, False))
                painter.setBrush(_brush(s.fill))
                painter.drawRoundedRect(QRectF(s.x, s.y, s.w, s.h), s.radius, s.radius)
            case Polygon():
                painter.setPen(_pen(s.stroke, s.width, False, False))
                painter.setBrush(_brush(s.fill))
                painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in s.points]))
            case Arc():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(_pen(s.stroke, s.width, False, False))
                box = QRectF(s.x - s.r, s.y - s.r, 2 * s.r, 2 * s.r)
                painter.drawArc(box, 90 * 16, round(-360 * 16 * s.share))


@lru_cache(4096)
def _laid_out(text: str, size: float, bold: bool, family: str) -> QStaticText:
    """A text with its glyphs placed, which is half the work of painting it."""
    words = QStaticText(text)
    words.setTextFormat(Qt.TextFormat.PlainText)
    words.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
    words.prepare(QTransform(), _big(size, bold, family))
    return words


def _text(painter: QPainter, s: Text, keep_text: bool, family: str) -> None:
    """Text at its true size, whatever the scale, so that exports and screens agree."""
    painter.save()
    painter.translate(s.x, s.y)
    if s.angle:
        painter.rotate(s.angle)
    painter.scale(1 / TENFOLD, 1 / TENFOLD)
    painter.setFont(_big(s.size, s.bold, family))
    painter.setPen(colour(s.fill))
    measured, back = metrics(s.size, s.bold, family), 0.0
    if s.anchor != "start":
        wide = measured.horizontalAdvance(s.text)
        back = wide if s.anchor == "end" else wide / 2
    if keep_text:
        painter.drawText(QPointF(-back, 0), s.text)
    else:
        painter.drawStaticText(QPointF(-back, -measured.ascent()), _laid_out(s.text, s.size, s.bold, family))
    painter.restore()


def fit_into(painter: QPainter, picture: Picture, area: QRectF) -> None:
    """Maps a picture into an area, as large as it goes and centred."""
    scale = min(area.width() / picture.w, area.height() / picture.h)
    painter.translate(area.center())
    painter.scale(scale, scale)
    painter.translate(-(picture.x + picture.w / 2), -(picture.y + picture.h / 2))
