"""What needs painting: the loom as PNG, the wiring sheet as PDF and as pages on the screen."""

import os
import re
from collections.abc import Callable

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import (
    QAbstractTextDocumentLayout,
    QColor,
    QImage,
    QPainter,
    QPalette,
    QTextDocument,
    QTextTable,
)
from PySide6.QtWidgets import QApplication

from knotplan.core.check.report import Report
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.drawing.shapes import Picture, text_width
from knotplan.desktop import paper_steps
from knotplan.desktop.paint import colour, fit_into, interface_font, paint
from knotplan.desktop.pdf import pdf_bytes
from knotplan.desktop.theme import load_fonts
from knotplan.exchange.exports.chart import board_chart
from knotplan.exchange.exports.export import Export, Printed
from knotplan.exchange.exports.picture import plan_picture
from knotplan.exchange.exports.sheet import SheetRow, cells, heads, html, page_html, table

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


def image_of(drawn: Picture, scale: float) -> QImage:
    """A picture as an image, so many pixels for each of its points."""
    image = QImage(round(drawn.w * scale), round(drawn.h * scale), QImage.Format.Format_ARGB32)
    image.fill(colour(drawn.ground))
    with QPainter(image) as painter:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        fit_into(painter, drawn, QRectF(image.rect()))
        paint(painter, drawn.shapes)
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


TABLE_TEXT, CELL, SPACING = 10, 12, 3
"""size of the text in tables, what a cell has beside it, and what lies between two, points"""
PAGE_ROWS = 42
"""more rows of ties than fit on a page"""
ROOM = QSizeF(PAGE.width() - 2 * EDGE, PAGE.height() - 2 * EDGE - 16)
"""of a page inside its edges and above its foot"""


class Sheet:
    """The wiring sheet as pages of `PAGE`: head and picture, then the ties, then everything else. Pages of
    ties are laid out one after another when they are asked for, each a table of its own with its head: of
    thousands of ties a few are looked at."""

    def __init__(self, report: Report):
        self.report = report
        self.head = self._document(html(report, "paper_head.html", image=""))
        self.notes = self._document(re.sub("</?t(head|body)>", "", html(report, "notes.html", image="")))
        self.notes.setPageSize(ROOM)
        self.picture = plan_picture(report)
        self._rows = table(report)
        self._heads = heads(report)
        self._widths = column_widths(self._heads, [cells(row) for row in self._rows])
        self._ties: list[QTextDocument] = []
        self._next = 0
        """the first row that is on no page yet"""

    @staticmethod
    def _document(text: str) -> QTextDocument:
        document = QTextDocument()
        document.setDocumentMargin(0)
        document.setDefaultFont(interface_font(10))
        document.setDefaultStyleSheet(STYLE)
        document.setHtml(text)
        document.setTextWidth(ROOM.width())
        return document

    def _ties_page(self, rows: list[SheetRow], first: bool) -> QTextDocument:
        head = "<h2>Ties</h2>" if first else ""
        return self._document(head + page_html(self._heads, rows, self._widths))

    @property
    def whole(self) -> bool:
        """Every page is laid out."""
        return self._next >= len(self._rows)

    def lay_out_more(self) -> None:
        """One more page of ties, with as many whole rows as fit."""
        if self.whole:
            return
        rows = self._rows[self._next : self._next + PAGE_ROWS]
        page = self._ties_page(rows, not self._ties)
        fit = max(1, _rows_that_fit(page, ROOM.height()))
        if fit < len(rows):
            page = self._ties_page(rows[:fit], not self._ties)
        self._ties.append(page)
        self._next += min(fit, len(rows))

    @property
    def pages(self) -> int:
        """How many there are; where not all are laid out, about how many."""
        ties = len(self._ties)
        if not self.whole:
            ties += -(-(len(self._rows) - self._next) * max(1, ties) // max(1, self._next))
        return 1 + ties + self.notes.pageCount()

    def all_pages(self) -> int:
        """How many there are, all of them laid out."""
        while not self.whole:
            self.lay_out_more()
        return self.pages

    def paint_page(self, painter: QPainter, number: int) -> None:
        """Paints a page (from 0) in points."""
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.fillRect(QRectF(0, 0, PAGE.width(), PAGE.height()), QColor("#ffffff"))
        inner = QRectF(QPointF(EDGE, EDGE), ROOM)
        if number == 0:
            self._draw(painter, self.head, inner, 0)
            top = min(self.head.size().height(), inner.height() * 0.45) + 8
            area = inner.adjusted(0, top, 0, 0)
            painter.save()
            fit_into(painter, self.picture, area)
            paint(painter, self.picture.shapes, keep_text=True)
            painter.restore()
        elif number <= len(self._ties):
            self._draw(painter, self._ties[number - 1], inner, 0)
        elif self.whole:
            self._draw(painter, self.notes, inner, number - 1 - len(self._ties))
        font = interface_font(8)
        painter.setFont(font)
        painter.setPen(colour(LIGHT.faint))
        foot = QRectF(EDGE, PAGE.height() - EDGE, PAGE.width() - 2 * EDGE, 14)
        of = f" of {self.pages}" if self.whole else ""
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"{self.report.circuit.plan.title} · Knot Plan")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, f"page {number + 1}{of}")

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
        with QPainter(image) as painter:
            painter.scale(scale, scale)
            self.paint_page(painter, number)
        return image


def _rows_that_fit(document: QTextDocument, high: float) -> int:
    """How many rows of a document's one table, its head not counted, lie whole within a height."""
    layout = document.documentLayout()
    table = next((f for f in document.rootFrame().childFrames() if isinstance(f, QTextTable)), None)
    if table is None:
        return 0
    ends = [
        max(
            layout.blockBoundingRect(table.cellAt(r, c).lastCursorPosition().block()).bottom()
            for c in range(table.columns())
        )
        for r in range(table.rows())
    ]
    return sum(end + 4 <= high for end in ends) - 1


def column_widths(headings: list[str], rows: list[list[str]]) -> list[int]:
    """Widths of columns in points, the same on every page: each holds its longest word, and what is left
    goes to those whose longest text needs it."""
    least, wanted = [], []
    for k, head in enumerate(headings):
        texts = {head, *(row[k] for row in rows)}
        least.append(
            max(text_width(word, TABLE_TEXT, True) for t in texts for word in t.split() or [""]) + CELL
        )
        wanted.append(max(text_width(t, TABLE_TEXT, True) for t in texts) + CELL)
    room = ROOM.width() - SPACING * len(headings)
    if sum(least) > room:  # words have to break somewhere
        return [int(w * room / sum(least)) for w in least]
    more = sum(wanted) - sum(least)
    share = min(1.0, (room - sum(least)) / more) if more else 0.0
    return [int(a + (b - a) * share) for a, b in zip(least, wanted, strict=True)]


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
    """The wiring sheet as PDF, A4 across."""
    sheet = Sheet(report)

    def pages(painter: QPainter, new_page: Callable[[], bool]) -> None:
        for number in range(sheet.all_pages()):
            if number:
                new_page()
            sheet.paint_page(painter, number)

    return pdf_bytes(f"{report.circuit.plan.title} – wiring sheet", pages, across=True, fine=FINE)


FINE = 4
"""dots of a point"""


def picture_pdf(drawn: Picture, title: str) -> bytes:
    """A picture as PDF on one page of A4, across or upright as it fits better."""
    across = drawn.w > drawn.h
    w, h = (PAGE.width(), PAGE.height()) if across else (PAGE.height(), PAGE.width())

    def page(painter: QPainter, _: Callable[[], bool]) -> None:
        fit_into(painter, drawn, QRectF(10, 10, w - 20, h - 20))
        paint(painter, drawn.shapes, keep_text=True)

    return pdf_bytes(title, page, across=across, fine=FINE)


def chart_pdf(report: Report, scheme: str = "") -> bytes:
    """The board's chart on one page, with what is tied."""
    return picture_pdf(board_chart(report.circuit), f"{report.circuit.board.title}: pins")


PAINTED_EXPORTS: tuple[Export, ...] = (
    Export(
        "pdf",
        "Wiring sheet (PDF)",
        ".pdf",
        "the same sheet on paper",
        pdf,
        lambda report, _: Printed(report),
    ),
    paper_steps.EXPORT,
    Export(
        "chart-pdf",
        "Board chart (PDF)",
        ".pdf",
        "the same chart on paper",
        chart_pdf,
        lambda report, _: board_chart(report.circuit),
        "-chart",
    ),
    Export(
        "png",
        "Picture (PNG)",
        ".png",
        "the loom as an image",
        png,
        lambda report, _: plan_picture(report),
    ),
)
