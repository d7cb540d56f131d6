"""Printing the wiring sheet: over the desktop's own dialog, or looked at first."""

from collections.abc import Callable

from PySide6.QtCore import QMarginsF, QRectF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrintPreviewDialog
from PySide6.QtWidgets import QDialog, QWidget

from knotplan.core.check.report import Report
from knotplan.desktop.dialogs import run
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


def look_before_printing(report: Report, parent: QWidget) -> None:
    """The sheet as it will lie on paper; it can be printed from there."""
    made = printer(f"{report.circuit.plan.title} – wiring sheet")
    sheet = Sheet(report)
    dialog = QPrintPreviewDialog(made, parent)
    dialog.setWindowTitle("The wiring sheet on paper")
    dialog.resize(parent.size() * 0.9)
    dialog.paintRequested.connect(lambda on: paint_pages(sheet, on))
    run(dialog)
