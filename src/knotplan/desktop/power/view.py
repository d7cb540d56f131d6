"""The Power view: will it hold up?"""

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QSplitter, QVBoxLayout, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.power.alone import Alone, usb_alone
from knotplan.core.power.battery import life
from knotplan.core.power.node import Node, contact_of, find
from knotplan.core.quantity.written import counted, show
from knotplan.desktop import lettering
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, label, row
from knotplan.desktop.power.activities_panel import ActivitiesPanel
from knotplan.desktop.power.cycle_plot import CyclePlot
from knotplan.desktop.power.detail import Detail, back_words, move
from knotplan.desktop.power.tree_model import TreeModel
from knotplan.desktop.power.tree_view import TreeView
from knotplan.desktop.session import Session
from knotplan.desktop.view import Page

WIDE, NARROW = 300, 250
"""widths of what is said about the chosen row"""


class PowerView(Page):
    """The tree and what is chosen in it, above activities and their plot."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Power")
        self.alone: Alone | None = None
        """what is shown instead of the plan: the bench on USB alone"""
        self._fresh = True
        self.model = TreeModel(session)
        self.tree = TreeView(self.model, palette)
        self.detail = Detail(session)
        self.activities = ActivitiesPanel(session)
        self.plot = CyclePlot(session, palette)
        self.head, self.summary = label("Power", "head", wrap=False), label("", "faint", wrap=False)
        self.back = label("", "care")
        self.back.setParent(self)
        self.back.hide()
        tip = "What works, and what does harm, while USB alone feeds the bench"
        self.usb = button("On USB alone", "usbAlone", tip, self.fill, "chip")
        self.usb.setCheckable(True)
        self.beside = BackgroundTask("USB alone", self)
        self.beside.answered.connect(self._answered)
        self.beside.failed.connect(lambda why: self.summary.setText(f"The engine failed: {why}"))
        self._compose()
        equip(self.tree, session.noticed.emit)
        self.tree.selectionModel().currentChanged.connect(lambda *_: self._chosen())
        self.model.moved.connect(self._moved)
        session.changed.connect(self._changed)

    def _compose(self) -> None:
        down = QVBoxLayout(self)
        down.setContentsMargins(22, 14, 16, 10)
        down.setSpacing(8)
        down.addWidget(row(self.head, self.usb, self.summary, stretch=2))
        down.addWidget(self.back)
        above = QWidget()
        across = QSplitter(Qt.Orientation.Horizontal, above)
        across.setChildrenCollapsible(False)
        across.setHandleWidth(1)
        across.addWidget(self.tree)
        across.addWidget(self.detail)
        across.setStretchFactor(0, 1)
        self.below = QSplitter(Qt.Orientation.Horizontal)
        self.below.setChildrenCollapsible(False)
        self.below.setHandleWidth(1)
        self.below.addWidget(self.activities)
        self.below.addWidget(self.plot)
        self.below.setStretchFactor(1, 1)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.setChildrenCollapsible(False)
        self.split.addWidget(across)
        self.split.addWidget(self.below)
        self.split.setSizes([362, 228])
        down.addWidget(self.split, 1)

    def suit(self) -> None:
        wide = WIDE if self.room > lettering.px(1000) else NARROW
        self.detail.setFixedWidth(lettering.beside(wide, self.room))
        self.tree.suit()
        self.activities.suit(self.room)

    # --- following the session ------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        self.fill()
        self.tree.setFocus()

    def _changed(self) -> None:
        if self.isVisible():
            self.fill()
        else:
            # what is shown and what is asked is about a plan that is no more; it is filled anew when it is
            # seen
            self.alone = None
            self.beside.forget()

    def fill(self) -> None:
        """Anew from the report; what is open and chosen stays. USB alone is analysed beside the interface."""
        s = self.session
        self.alone = None
        if self.usb.isChecked() and s.report.checked:
            self.summary.setText("checking …")
            self.beside.ask(partial(usb_alone, s.circuit, s.report.power, s.catalog))
        else:
            self.beside.forget()
            self._show(s.report.power, ())

    def _answered(self, alone: object) -> None:
        if isinstance(alone, Alone):
            self.alone = alone
            self._show(alone.roots, alone.dead)

    def _show(self, roots: tuple[Node, ...], dead: tuple[Node, ...]) -> None:
        folded, chosen = self.tree.remember()
        self.model.fill(roots, dead)
        self.tree.restore(folded, chosen, self._fresh)
        self._fresh = not self.model.rows
        self._say()
        self.activities.fill()
        self._chosen()

    def _say(self) -> None:
        s = self.session
        if not s.report.checked:
            self.summary.setText("checking …")
            return
        if self.alone is not None:
            dead = [n.title for n in self.alone.dead]
            text = f"without power: {', '.join(dead)}" if dead else "everything has power"
            self.summary.setText(text if len(text) < 90 else f"{counted(len(dead), 'load')} without power")
            backs = [back_words(s, b) for b in self.alone.backfed[:3]]
            self.back.setText(" ".join(backs))
            self.back.setVisible(bool(backs))
            return
        self.back.hide()
        average = sum(life(s.circuit, root).average_w for root in s.report.power)
        over = [n.title for root in s.report.power for n in root.walk() if (n.margin_a or 0) < 0]
        tight = f"; over its limit: {', '.join(over)}" if over else ""
        self.summary.setText(
            f"{counted(len(s.report.power), 'supply')}, {show(average, 'W')} on average{tight}"
        )

    def _chosen(self) -> None:
        node = self.tree.chosen()
        if (
            node is not None and self.alone is None
        ):  # while the view was not seen, the plan may have become another one
            node = find(self.session.report.power, node.id)
        self.detail.tell(node)
        self.plot.draw(node)

    def _moved(self, lead: str, node_id: str) -> None:
        """A load was dropped on what is to feed it."""
        c = self.session.circuit
        node = find(self.session.report.power, node_id)
        contact = contact_of(c, node) if node is not None else ""
        if contact:
            move(self.session, lead, contact)
        elif node is not None:
            self.session.noticed.emit(f"Nothing can be tied to {node.title} directly.")

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        self.tree.set_palette(palette)
        old, self.plot = self.plot, CyclePlot(self.session, palette)
        self.below.replaceWidget(1, self.plot)
        old.deleteLater()
        if self.isVisible():
            self.fill()
