"""The right side of a view: what the checks say of the chosen thing, then what there is to say and to set."""

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from knotplan.core.check.finding import Finding
from knotplan.core.drawing.palette import Palette
from knotplan.desktop import lettering
from knotplan.desktop.findings.stack import FindingStack
from knotplan.desktop.panels.fields import column_in, label, line, put_in
from knotplan.desktop.session import Session

WIDE, NARROW = 300, 264
ROOMY = 1100
"""width of a view from which its side is wide"""
MOST_FINDINGS = 2


class SidePane(QScrollArea):
    """Made anew for each thing that is chosen."""

    def __init__(self, session: Session, name: str, says: str):
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setObjectName(name)
        self.setAccessibleName(says)
        self.suit(3 * lettering.px(WIDE))

    def suit(self, view: int) -> None:
        """As wide as a view of a width has room for."""
        self.setFixedWidth(lettering.beside(WIDE if view > lettering.px(ROOMY) else NARROW, view))

    def tell(
        self,
        palette: Palette,
        findings: Sequence[Finding] = (),
        fill: Callable[[QVBoxLayout], None] | None = None,
    ) -> None:
        """The first few findings, then what `fill` adds."""
        widget = QWidget()
        down = column_in(widget, 7)
        down.setContentsMargins(4, 2, 10, 8)
        if findings:
            down.addWidget(FindingStack(self.session, palette, findings[:MOST_FINDINGS]))
            if len(findings) > MOST_FINDINGS:
                down.addWidget(label(f"… and {len(findings) - MOST_FINDINGS} more in the loom.", "faint"))
            down.addWidget(line())
        if fill is not None:
            fill(down)
        down.addStretch(1)
        put_in(self, widget)
