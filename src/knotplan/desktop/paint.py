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


@cache
def colour(text: str) -> QColor:
    """A colour from "#rrggbb" or "#rrggbbaa"."""
    shade = QColor(text[:7])
    if len(text) == 9:
        shade.setAlpha(int(text[7:], 16))
    return shade


@cache
def _metrics(size: float, bold: bool) -> QFontMetricsF:
    return QFontMetricsF(_big(size, bold))


def interface_font(pixels: int, bold: bool = False) -> QFont:
    """Our font, its letters never exchanged for others by their neighbours:
    such text cannot be copied from a PDF."""
    font = QFont(FAMILY)
    font.setPixelSize(max(1, pixels))
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    font.setFeature(QFont.Tag("calt"), 0)
    return font


@cache
def _big(size: float, bold: bool) -> QFont:
    """Fonts in whole pixels at ten times the size, scaled down by the painter: fractions stay true."""
    font = interface_font(round(size * 10), bold)
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


def paint(painter: QPainter, shapes: Iterable[Shape], keep_text: bool = False) -> None:
    """Paints shapes in their order; with `keep_text`, text stays text in a file."""
    for s in shapes:
        match s:
            case Text():
                _text(painter, s, keep_text)
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
def _laid_out(text: str, size: float, bold: bool) -> QStaticText:
    """A text with its glyphs placed, which is half the work of painting it."""
    words = QStaticText(text)
    words.setTextFormat(Qt.TextFormat.PlainText)
    words.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
    words.prepare(QTransform(), _big(size, bold))
    return words


def _text(painter: QPainter, s: Text, keep_text: bool) -> None:
    """Text at its true size, whatever the scale, so that exports and screens agree."""
    painter.save()
    painter.translate(s.x, s.y)
    if s.angle:
        painter.rotate(s.angle)
    painter.scale(0.1, 0.1)
    painter.setFont(_big(s.size, s.bold))
    painter.setPen(colour(s.fill))
    metrics, back = _metrics(s.size, s.bold), 0.0
    if s.anchor != "start":
        wide = metrics.horizontalAdvance(s.text)
        back = wide if s.anchor == "end" else wide / 2
    if keep_text:
        painter.drawText(QPointF(-back, 0), s.text)
    else:
        painter.drawStaticText(QPointF(-back, -metrics.ascent()), _laid_out(s.text, s.size, s.bold))
    painter.restore()


def fit_into(painter: QPainter, picture: Picture, area: QRectF) -> None:
    """Maps a picture into an area, as large as it goes and centred."""
    scale = min(area.width() / picture.w, area.height() / picture.h)
    painter.translate(area.center())
    painter.scale(scale, scale)
    painter.translate(-(picture.x + picture.w / 2), -(picture.y + picture.h / 2))
