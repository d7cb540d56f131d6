"""Printing the wiring sheet: over the desktop's own dialog, or looked at first."""

from collections.abc import Callable

from PySide6.QtCore import QMarginsF, QRectF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrintPreviewWidget
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from knotplan.core.check.report import Report
from knotplan.desktop.dialogs import run
from knotplan.desktop.panels.fields import button, row
from knotplan.desktop.paper import PAGE, Sheet


def printer(title: str) -> QPrinter:
    """Set to the sheet's own page: A4 across, to its edges."""
    made = QPrinter(QPrinter.PrinterMode.HighResolution)
    made.setDocName(title)
    made.setCreator("Knot Plan")
    made.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Landscape, QMarginsF(0, 0, 0, 0)
        )
    )
    made.setFullPage(True)
    return made


def paint_pages(sheet: Sheet, on: QPrinter) -> int:
    """The chosen pages of a sheet, as large as the paper allows; how many they are."""
    pages = sheet.all_pages()
    first = max(1, on.fromPage()) if on.fromPage() else 1
    last = min(on.toPage(), pages) if on.toPage() else pages
    with QPainter(on) as painter:
        paper = QRectF(on.pageLayout().fullRectPixels(on.resolution()))
        scale = min(paper.width() / PAGE.width(), paper.height() / PAGE.height())
        for number in range(first - 1, last):
            if number >= first:
                on.newPage()
            painter.save()
            painter.scale(scale, scale)
            sheet.paint_page(painter, number)
            painter.restore()
    return max(0, last - first + 1)


def print_sheet(report: Report, parent: QWidget, told: Callable[[str], object]) -> None:
    """Asks for a printer and pages, then prints the wiring sheet."""
    made = printer(f"{report.circuit.plan.title} – wiring sheet")
    dialog = QPrintDialog(made, parent)
    dialog.setWindowTitle("Print the wiring sheet")
    dialog.setOption(QPrintDialog.PrintDialogOption.PrintPageRange)
    if run(dialog) == QDialog.DialogCode.Accepted:
        pages = paint_pages(Sheet(report), made)
        told(f"Printed {pages} page{'s' if pages != 1 else ''}")


class Preview(QDialog):
    """The sheet as it will lie on paper."""

    def __init__(self, report: Report, parent: QWidget, told: Callable[[str], object]):
        super().__init__(parent)
        self.setWindowTitle("The wiring sheet on paper")
        self.resize(parent.size() * 0.9)
        self._sheet = Sheet(report)
        # the widget paints on it, and does not keep it alive
        self._printer = printer(f"{report.circuit.plan.title} – wiring sheet")
        self.pages = QPrintPreviewWidget(self._printer, self)
        self.pages.setAccessibleName("Pages of the wiring sheet")
        self.pages.paintRequested.connect(lambda on: paint_pages(self._sheet, on))
        self.pages.setZoomMode(QPrintPreviewWidget.ZoomMode.FitToWidth)
        print_it = button(
            "Print …", "print", "Choose a printer", lambda: print_sheet(report, self, told), "main"
        )
        down = QVBoxLayout(self)
        down.addWidget(self.pages, 1)
        down.addWidget(
            row(
                button("Whole page", "whole", "One page in sight", self.pages.fitInView),
                button("Page width", "width", "As wide as the window", self.pages.fitToWidth),
                button("Nearer", "nearer", "Larger", self.pages.zoomIn),
                button("Further", "further", "Smaller", self.pages.zoomOut),
                print_it,
                button("Close", "close", "Back to the plan", self.reject),
            )
        )


def look_before_printing(report: Report, parent: QWidget, told: Callable[[str], object]) -> None:
    """Shows the sheet as it will lie on paper; it can be printed from there."""
    run(Preview(report, parent, told))
