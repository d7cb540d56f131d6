"""The right side: the inspector above the findings."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter

from knotplan.core.drawing.palette import Palette
from knotplan.desktop.findings.panel import FindingsPanel
from knotplan.desktop.inspector import Inspector
from knotplan.desktop.session import Session

MANY, FEW = [400, 260], [570, 90]
"""heights of inspector and findings, with findings and with none"""


class SidePanel(QSplitter):
    """Made right after the first paint of the window."""

    def __init__(self, session: Session, palette: Palette, keys: dict[str, tuple[str, str]]):
        super().__init__(Qt.Orientation.Vertical)
        self.setObjectName("side")
        self.setChildrenCollapsible(False)
        self.setHandleWidth(1)
        self.inspector = Inspector(session, palette, keys)
        self.findings = FindingsPanel(session, palette)
        self.addWidget(self.inspector)
        self.addWidget(self.findings)
        self.setSizes(MANY)
        self._moved, self._few = False, False
        self.splitterMoved.connect(self._move)
        session.changed.connect(self._divide)

    def _move(self) -> None:
        self._moved = True

    def _divide(self) -> None:
        """Where there is nothing to find, the inspector has the room; once the
        maker has moved the line, it stays."""
        report = self.findings.session.report
        few = report.checked and all(f.severity == "to-do" for f in report.findings)
        if few != self._few and not self._moved:
            self._few = few
            self.setSizes(FEW if few else MANY)

    def set_palette(self, palette: Palette) -> None:
        self.inspector.set_palette(palette)
        self.findings.set_palette(palette)
