"""The inspector: the panel for what is selected, remade when what it shows has changed."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QLineEdit, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from knotplan.catalog.part.needs import Gives
from knotplan.core.drawing.palette import Palette
from knotplan.desktop.panels.fields import QuantityField
from knotplan.desktop.panels.lead_panel import LeadPanel
from knotplan.desktop.panels.part_panel import PartPanel
from knotplan.desktop.panels.pin_panel import PinPanel
from knotplan.desktop.panels.plan_panel import PlanPanel
from knotplan.desktop.panels.several_panel import SeveralPanel
from knotplan.desktop.panels.suggestion_panel import SuggestionPanel
from knotplan.desktop.session import Session


class Inspector(QScrollArea):
    """Shows one panel; keeps the keyboard where it was when the panel is remade."""

    done = Signal()

    def __init__(self, session: Session, palette: Palette, keys: dict[str, tuple[str, str]]):
        super().__init__()
        self.session, self.p, self._keys = session, palette, keys
        self.setWidgetResizable(True)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Inspector")
        self.setObjectName("inspector")
        self._shown: object = None
        self.panel: QWidget = QWidget()
        holder = QWidget()
        self._layout = QVBoxLayout(holder)
        self._layout.setContentsMargins(16, 14, 8, 10)
        self._layout.addWidget(self.panel)
        self.setWidget(holder)
        session.changed.connect(self.refresh)
        session.looked.connect(self.refresh)
        self.refresh()

    def set_palette(self, palette: Palette) -> None:
        self.p, self._shown = palette, None
        self.refresh()

    def refresh(self) -> None:
        selection = self.session.selection
        kind = self._kind()
        state = (selection, kind, kind.shows(self.session, selection.lead or selection.id))
        if state == self._shown:
            return
        same = isinstance(self._shown, tuple) and self._shown[0] == selection
        self._shown = state
        focus = QApplication.focusWidget()
        name = focus.objectName() if same and focus is not None and self.isAncestorOf(focus) else ""
        scroll = self.verticalScrollBar().value() if same else 0
        old, self.panel = self.panel, self._make()
        self._layout.replaceWidget(old, self.panel)
        old.hide()
        old.deleteLater()
        self.verticalScrollBar().setValue(scroll)
        again = self.panel.findChild(QWidget, name) if name else None
        if isinstance(again, QWidget):
            again.setFocus()

    def _kind(
        self,
    ) -> (
        type[PlanPanel]
        | type[PartPanel]
        | type[SeveralPanel]
        | type[PinPanel]
        | type[LeadPanel]
        | type[SuggestionPanel]
    ):
        suggester = self.session.suggester
        if not self.session.selection.kind and (
            suggester.suggestion or suggester.searching or suggester.trouble
        ):
            return SuggestionPanel
        match self.session.selection.kind:
            case "part":
                return SeveralPanel if self.session.selection.others else PartPanel
            case "pin":
                return PinPanel
            case "lead" | "tie":
                lead = self.session.circuit.contacts.lead(self.session.selection.lead)
                return PinPanel if lead and isinstance(lead.needs[0], Gives) else LeadPanel
        return PlanPanel

    def _make(self) -> QWidget:
        s = self.session.selection
        panel = self._kind()(self.session, self.p, s.lead or s.id)
        if isinstance(panel, PlanPanel):
            panel.show_keys(self._keys)
        if isinstance(panel, LeadPanel):
            panel.done.connect(self.done)
        return panel

    def to_field(self, text: str = "") -> None:
        """The keyboard to the pin field, beginning with `text`."""
        if isinstance(self.panel, LeadPanel):
            self.panel.field.setFocus()
            self.panel.field.setText(text)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter and Escape in a field go back to the bench, unless the field has something to say."""
        back = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape)
        focus = QApplication.focusWidget()
        entered = (
            isinstance(focus, QLineEdit) and focus.objectName() != "pinField"
        )  # that one has its own use for Enter
        wrong = any(q.why.isVisible() for q in self.panel.findChildren(QuantityField))
        if back and not wrong and (entered or event.key() == Qt.Key.Key_Escape):
            self.done.emit()
        else:
            super().keyPressEvent(event)

    def to_offers(self) -> None:
        """The keyboard to the candidates."""
        if isinstance(self.panel, LeadPanel):
            self.panel.offers.setFocus()

    def to_first(self) -> None:
        """The keyboard to the first field of the panel."""
        if isinstance(self.panel, LeadPanel):
            self.panel.field.setFocus()
            return
        fields = [w for w in self.panel.findChildren(QWidget) if w.focusPolicy() & Qt.FocusPolicy.TabFocus]
        if fields:
            fields[0].setFocus(Qt.FocusReason.TabFocusReason)

    def to_name(self) -> None:
        """The keyboard to the part's name."""
        field = self.panel.findChild(QLineEdit, "name")
        if isinstance(field, QLineEdit):
            field.setFocus()
            field.selectAll()
