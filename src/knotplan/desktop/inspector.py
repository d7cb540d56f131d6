"""The inspector: the panel for what is selected, remade when what it shows has changed."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QLineEdit, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from knotplan.core.loom.palette import Palette
from knotplan.desktop.panels.lead_panel import LeadPanel
from knotplan.desktop.panels.part_panel import PartPanel
from knotplan.desktop.panels.pin_panel import PinPanel
from knotplan.desktop.panels.plan_panel import PlanPanel
from knotplan.desktop.session import Session


class Inspector(QScrollArea):
    """Shows one panel; keeps the keyboard where it was when the panel is remade."""

    done = Signal()

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Inspector")
        self._shown: object = None
        self.panel: QWidget = QWidget()
        session.changed.connect(self.refresh)
        session.looked.connect(self.refresh)
        self.refresh()

    def set_palette(self, palette: Palette) -> None:
        self.p, self._shown = palette, None
        self.refresh()

    def refresh(self) -> None:
        state = (self.session.selection, self.session.report)
        if state == self._shown:
            return
        same = self._shown is not None and isinstance(self._shown, tuple) and self._shown[0] == state[0]
        self._shown = state
        focus = self.focusWidget()
        name = focus.objectName() if same and focus and self.isAncestorOf(focus) and focus.hasFocus() else ""
        scroll = self.verticalScrollBar().value() if same else 0
        holder = QWidget()
        layout = QVBoxLayout(holder)
        layout.setContentsMargins(16, 14, 14, 10)
        self.panel = self._make()
        layout.addWidget(self.panel)
        old = self.takeWidget()
        if old:
            old.deleteLater()
        self.setWidget(holder)
        self.verticalScrollBar().setValue(scroll)
        again = holder.findChild(QWidget, name) if name else None
        if isinstance(again, QWidget):
            again.setFocus()

    def _make(self) -> QWidget:
        s = self.session.selection
        match s.kind:
            case "part":
                return PartPanel(self.session, self.p, s.id)
            case "pin":
                return PinPanel(self.session, self.p, s.id)
            case "lead" | "tie":
                panel = LeadPanel(self.session, self.p, s.lead)
                panel.done.connect(self.done)
                return panel
        return PlanPanel(self.session, self.p)

    def to_field(self, text: str = "") -> None:
        """The keyboard to the pin field, beginning with `text`."""
        if isinstance(self.panel, LeadPanel):
            self.panel.field.setFocus()
            self.panel.field.setText(text)

    def to_offers(self) -> None:
        """The keyboard to the candidates."""
        if isinstance(self.panel, LeadPanel):
            self.panel.offers.setFocus()

    def to_name(self) -> None:
        """The keyboard to the part's name."""
        field = self.panel.findChild(QLineEdit, "name")
        if isinstance(field, QLineEdit):
            field.setFocus()
            field.selectAll()
