"""The right side: the inspector above the findings."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter

from knotplan.core.loom.palette import Palette
from knotplan.desktop.findings_panel import FindingsPanel
from knotplan.desktop.inspector import Inspector
from knotplan.desktop.session import Session


class SidePanel(QSplitter):
    """Made right after the first paint of the window."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__(Qt.Orientation.Vertical)
        self.setObjectName("side")
        self.setChildrenCollapsible(False)
        self.setHandleWidth(1)
        self.inspector = Inspector(session, palette)
        self.findings = FindingsPanel(session, palette)
        self.addWidget(self.inspector)
        self.addWidget(self.findings)
        self.setSizes([400, 260])

    def set_palette(self, palette: Palette) -> None:
        self.inspector.set_palette(palette)
        self.findings.set_palette(palette)
