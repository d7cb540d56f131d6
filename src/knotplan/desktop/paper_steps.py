"""The step sheet as PDF: A4 upright, no row parted between two pages, boxes and lines to write on."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from knotplan.core.check.report import Report
from knotplan.core.drawing.palette import LIGHT
from knotplan.desktop.paint import colour, interface_font
from knotplan.desktop.pdf import pdf_bytes
from knotplan.exchange.exports.export import Export
from knotplan.exchange.exports.steps import Section, StepRow, sections, text

PAGE = QSizeF(595, 842)
EDGE, FOOT = 36.0, 22.0
TEXT, UNDER, HEAD, TITLE = 10, 9, 12, 20
BOX, SWATCH, GAP = 10.0, 20.0, 7.0
READS, EXPECTED = 96.0, 150.0
"""widths of the columns for what a meter reads and should read"""


class _Paper:
    """Where the next row comes on which page."""

    def __init__(self, painter: QPainter, new_page: Callable[[], bool], title: str):
        self.painter, self._new_page, self.title = painter, new_page, title
        self.y, self.page = EDGE, 1
        self._foot()

    def need(self, high: float) -> None:
        """Another page where so much does not fit on this one."""
        if self.y + high > PAGE.height() - EDGE - FOOT:
            self._new_page()
            self.page += 1
            self.y = EDGE
            self._foot()

    def _foot(self) -> None:
        area = QRectF(EDGE, PAGE.height() - EDGE, PAGE.width() - 2 * EDGE, 14)
        self.painter.setFont(interface_font(8))
        self.painter.setPen(colour(LIGHT.faint))
        self.painter.drawText(area, Qt.AlignmentFlag.AlignLeft, f"{self.title} · steps")
        self.painter.drawText(area, Qt.AlignmentFlag.AlignRight, f"page {self.page}")

    def line(self, text: str, size: int, ink: str, *, bold: bool, after: float) -> None:
        """A heading."""
        high = _high(text, size, bold, PAGE.width() - 2 * EDGE)
        self._words(text, EDGE, PAGE.width() - 2 * EDGE, self.y, size, ink, bold)
        self.y += high + after

    def _words(
        self, text: str, x: float, wide: float, y: float, size: int, ink: str, bold: bool = False
    ) -> None:
        self.painter.setFont(interface_font(size, bold))
        self.painter.setPen(colour(ink))
        area = QRectF(x, y, wide, 2000)
        self.painter.drawText(area, int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop), text)

    def row(self, row: StepRow) -> None:
        """One line with its box."""
        left = EDGE + BOX + GAP + (SWATCH + GAP if not row.expected else 0)
        wide = PAGE.width() - EDGE - left - ((EXPECTED + READS + 2 * GAP) if row.expected else 0)
        high = _high(row.text, TEXT, False, wide)
        under = _high(row.under, UNDER, False, wide) if row.under else 0.0
        told = _high(row.expected, TEXT, False, EXPECTED) if row.expected else 0.0
        whole = max(high + under, told, BOX + 2) + 5
        self.need(whole)
        self._box(row)
        self._words(row.text, left, wide, self.y, TEXT, LIGHT.ink)
        if row.under:
            self._words(row.under, left, wide, self.y + high, UNDER, LIGHT.faint)
        if row.expected:
            x = PAGE.width() - EDGE - READS
            self._words(row.expected, x - GAP - EXPECTED, EXPECTED, self.y, TEXT, LIGHT.ink)
            self.painter.setPen(QPen(QColor(LIGHT.ink), 0.7))
            self.painter.drawLine(int(x), int(self.y + 13), int(PAGE.width() - EDGE), int(self.y + 13))
        self.y += whole

    def _box(self, row: StepRow) -> None:
        self.painter.setPen(QPen(QColor(LIGHT.ink), 1))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(EDGE, self.y + 2, BOX, BOX)
        self.painter.drawRect(box)
        if row.mark == "done":
            self.painter.drawLine(box.topLeft(), box.bottomRight())
            self.painter.drawLine(box.bottomLeft(), box.topRight())
        elif row.mark == "changed":
            self.painter.drawLine(box.bottomLeft(), box.topRight())
        if row.ink:
            self.painter.setBrush(QColor(row.ink))
            self.painter.drawRect(QRectF(EDGE + BOX + GAP, self.y + 3.5, SWATCH, 7))

    def section(self, section: Section) -> None:
        """A heading with at least its first row on the same page."""
        self.need(HEAD + 40)
        self.y += 8
        self.line(section.title, HEAD, LIGHT.ink, bold=True, after=5)
        for row in section.rows:
            self.row(row)


def _high(text: str, size: int, bold: bool, wide: float) -> float:
    metrics = QFontMetricsF(interface_font(size, bold))
    return metrics.boundingRect(QRectF(0, 0, wide, 4000), int(Qt.TextFlag.TextWordWrap), text).height()


def pdf(report: Report, scheme: str = "") -> bytes:
    """The step sheet as PDF, all of it vectors and text."""
    title = report.circuit.plan.title

    def pages(painter: QPainter, new_page: Callable[[], bool]) -> None:
        paper = _Paper(painter, new_page, title)
        paper.line(title, TITLE, LIGHT.ink, bold=True, after=2)
        said = f"Steps from the plan to the bench, {report.circuit.board.title}. Tick each box."
        paper.line(said, TEXT, LIGHT.faint, bold=False, after=4)
        for section in sections(report):
            paper.section(section)

    return pdf_bytes(f"{title} – steps", pages, across=False)


EXPORT = Export("steps-pdf", "Step sheet (PDF)", ".pdf", "the same steps on paper", pdf, text, "-steps")
