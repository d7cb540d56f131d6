"""What needs painting: the loom as PNG, the wiring sheet as PDF and as pages on the screen."""

import os
import re

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF, QSizeF, Qt
from PySide6.QtGui import (
    QAbstractTextDocumentLayout,
    QColor,
    QImage,
    QPageLayout,
    QPageSize,
    QPainter,
    QPalette,
    QPdfWriter,
    QTextDocument,
)
from PySide6.QtWidgets import QApplication

from knotplan.core.loom.bench import lay_out
from knotplan.core.loom.chart import chart
from knotplan.core.loom.palette import LIGHT, Palette
from knotplan.core.loom.picture import picture
from knotplan.core.loom.shapes import Picture
from knotplan.core.loom.view import LoomView
from knotplan.core.report import Report
from knotplan.desktop.paint import colour, fit_into, interface_font, paint
from knotplan.desktop.theme import load_fonts
from knotplan.exchange.exports import Export
from knotplan.exchange.sheet import html

PAGE = QSizeF(842, 595)
"""A4 across, in points"""
EDGE = 34.0
PNG_SCALE = 2.0


def offscreen() -> None:
    """A Qt application for painting alone, where none runs yet (the command line)."""
    if QApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        offscreen.application = QApplication([])  # type: ignore[attr-defined]
        load_fonts()


def plan_picture(report: Report, p: Palette = LIGHT) -> Picture:
    """The whole loom, nothing selected."""
    return picture(report, lay_out(report.circuit), LoomView(), p)


def image_of(made: Picture, scale: float) -> QImage:
    """A picture as an image, so many pixels for each of its points."""
    image = QImage(round(made.w * scale), round(made.h * scale), QImage.Format.Format_ARGB32)
    image.fill(colour(made.ground))
    painter = QPainter(image)
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
    fit_into(painter, made, QRectF(image.rect()))
    paint(painter, made.shapes)
    painter.end()
    return image


def png(report: Report, scheme: str = "") -> bytes:
    """The loom as PNG at twice its size."""
    return png_bytes(image_of(plan_picture(report), PNG_SCALE))


def png_bytes(image: QImage) -> bytes:
    """An image as PNG."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]  # the stubs say bytes, the toolkit wants str
    return bytes(data.data())


class Sheet:
    """The wiring sheet as pages of `PAGE`."""

    def __init__(self, report: Report):
        self.report = report
        self.head = self._document(html(report, "paper_head.html", image=""), PAGE.width() - 2 * EDGE)
        # the toolkit repeats a table's head over whatever follows where the table ends with its page, and it leaves
        # headings alone at a page's end: so the ties, and what follows them, are documents of their own
        self.parts = [self._paged(re.sub("</?t(head|body)>", "", html(report, part, image="")))
                      for part in ("ties.html", "notes.html")]  # fmt: skip
        self.picture = plan_picture(report)

    @staticmethod
    def _document(text: str, width: float) -> QTextDocument:
        document = QTextDocument()
        document.setDocumentMargin(0)
        document.setDefaultFont(interface_font(10))
        document.setDefaultStyleSheet(STYLE)
        document.setHtml(text)
        document.setTextWidth(width)
        return document

    def _paged(self, text: str) -> QTextDocument:
        document = self._document(text, PAGE.width() - 2 * EDGE)
        document.setPageSize(QSizeF(PAGE.width() - 2 * EDGE, PAGE.height() - 2 * EDGE - 16))
        return document

    @property
    def pages(self) -> int:
        return 1 + sum(part.pageCount() for part in self.parts)

    def _part_page(self, number: int) -> tuple[QTextDocument, int]:
        """The document of a page after the first, and the page within it."""
        for part in self.parts:
            if number < part.pageCount():
                return part, number
            number -= part.pageCount()
        raise IndexError(number)

    def paint_page(self, painter: QPainter, number: int) -> None:
        """Paints a page (from 0) in points."""
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.fillRect(QRectF(0, 0, PAGE.width(), PAGE.height()), QColor("#ffffff"))
        inner = QRectF(EDGE, EDGE, PAGE.width() - 2 * EDGE, PAGE.height() - 2 * EDGE - 16)
        if number == 0:
            self._draw(painter, self.head, inner, 0)
            top = min(self.head.size().height(), inner.height() * 0.45) + 8
            area = inner.adjusted(0, top, 0, 0)
            painter.save()
            fit_into(painter, self.picture, area)
            paint(painter, self.picture.shapes, keep_text=True)
            painter.restore()
        else:
            document, page = self._part_page(number - 1)
            self._draw(painter, document, inner, page)
        font = interface_font(8)
        painter.setFont(font)
        painter.setPen(colour(LIGHT.faint))
        foot = QRectF(EDGE, PAGE.height() - EDGE, PAGE.width() - 2 * EDGE, 14)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"{self.report.circuit.plan.title} · Knot Plan")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, f"page {number + 1} of {self.pages}")

    @staticmethod
    def _draw(painter: QPainter, document: QTextDocument, area: QRectF, page: int) -> None:
        painter.save()
        painter.setClipRect(area)
        painter.translate(area.left(), area.top() - page * area.height())
        context = QAbstractTextDocumentLayout.PaintContext()
        context.palette.setColor(QPalette.ColorRole.Text, QColor(LIGHT.ink))  # also when the window is dark
        document.documentLayout().draw(painter, context)
        painter.restore()

    def page_image(self, number: int, scale: float) -> QImage:
        """A page as an image."""
        image = QImage(round(PAGE.width() * scale), round(PAGE.height() * scale), QImage.Format.Format_RGB32)
        painter = QPainter(image)
        painter.scale(scale, scale)
        self.paint_page(painter, number)
        painter.end()
        return image


STYLE = f"""
h1 {{ font-size: 20px; font-weight: 600; margin: 0; }}
h2 {{ font-size: 13px; font-weight: 600; margin-top: 10px; margin-bottom: 4px; }}
p {{ margin: 2px 0; color: {LIGHT.faint}; }}
b {{ font-weight: 600; }}
td, th {{ padding: 2px 9px 2px 0; }}
th {{ color: {LIGHT.faint}; text-align: left; font-weight: 400; }}
.stop {{ color: {LIGHT.stop}; font-weight: 600; }}
.care {{ color: {LIGHT.care_text}; font-weight: 600; }}
.note {{ color: {LIGHT.active}; font-weight: 600; }}
"""


def pdf(report: Report, scheme: str = "") -> bytes:
    """The wiring sheet as PDF, A4 across, all of it vectors and text."""
    sheet = Sheet(report)
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(f"{report.circuit.plan.title} – wiring sheet")
    writer.setCreator("Knot Plan")
    writer.setPageLayout(QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Landscape,
                                     QMarginsF(0, 0, 0, 0)))  # fmt: skip
    writer.setResolution(288)
    painter = QPainter(writer)
    for number in range(sheet.pages):
        if number:
            writer.newPage()
        painter.save()
        painter.scale(4, 4)
        sheet.paint_page(painter, number)
        painter.restore()
    painter.end()
    buffer.close()
    return bytes(data.data())


def picture_pdf(made: Picture, title: str) -> bytes:
    """A picture as PDF on one page of A4, across or upright as it fits better; all of it vectors and text."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setCreator("Knot Plan")
    across = made.w > made.h
    writer.setPageLayout(QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Landscape if across
                                     else QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))  # fmt: skip
    writer.setResolution(288)
    painter = QPainter(writer)
    painter.scale(4, 4)
    w, h = (PAGE.width(), PAGE.height()) if across else (PAGE.height(), PAGE.width())
    fit_into(painter, made, QRectF(10, 10, w - 20, h - 20))
    paint(painter, made.shapes, keep_text=True)
    painter.end()
    buffer.close()
    return bytes(data.data())


def chart_pdf(report: Report, scheme: str = "") -> bytes:
    """The board's chart on one page, with what is tied."""
    c = report.circuit
    return picture_pdf(chart(c, tuple(c.board.schemes), True, LIGHT), f"{c.board.title}: pins")


PAINTED_EXPORTS: tuple[Export, ...] = (
    Export("pdf", "Wiring sheet (PDF)", ".pdf", "the same sheet on paper", pdf, text=False),
    Export("chart-pdf", "Board chart (PDF)", ".pdf", "the same chart on paper", chart_pdf, text=False, tail="-chart"),
    Export("png", "Picture (PNG)", ".png", "the loom as an image", png, text=False),
)
