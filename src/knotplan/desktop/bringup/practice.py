"""The practice bench: a made-up bench of this plan with hidden faults, to learn how to look for them."""

from random import SystemRandom

from msgspec import Struct
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFrame,
    QListWidget,
    QListWidgetItem,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from knotplan.catalog.load import Catalog
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.said import BusScan, LineState
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.table import MOST_TIES
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.practice.traces import Instrument, capture
from knotplan.core.practice.troubles import Trouble, drawn, troubles
from knotplan.core.quantity.written import counted
from knotplan.desktop import lettering
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, column_in, label, row, with_margins

SECONDS = 0.5
"""of a capture"""
Answers = tuple[PracticeBench, list[BusScan], list[LineState], list[Trace]]


class Wish(Struct, frozen=True):
    """Faults by hand, or so many by chance."""

    chosen: tuple[Trouble, ...]
    count: int
    seed: int


def answers(circuit: Circuit, catalog: Catalog, wish: Wish) -> Answers:
    """A bench with these faults, and what it says to everything that can be asked."""
    chosen = wish.chosen or drawn(circuit, wish.count, wish.seed)
    bench = PracticeBench(circuit, catalog, chosen, wish.seed)
    return bench, bench.scans(), bench.lines(), capture(bench, Instrument(seconds=SECONDS))


class PracticeDialog(QDialog):
    """How many faults by chance, or which ones."""

    def __init__(self, circuit: Circuit, parent: QWidget | None = None):
        super().__init__(parent)
        self.circuit = circuit
        self.setWindowTitle("A bench to practise on")
        self.resize(640, 520)
        down = QVBoxLayout(self)
        down.addWidget(label("A bench to practise on", "head"))
        down.addWidget(
            label(
                "A made-up bench of this plan, with something wrong that you do not see. It answers "
                "scans, listings and captures as a real one would. Find what is wrong; then look.",
                "faint",
            )
        )
        self.count = with_margins(QSpinBox())
        self.count.setRange(0, 5)
        self.count.setValue(1)
        self.count.setAccessibleName("Faults by chance")
        down.addWidget(row(label("Faults by chance, hidden:", wrap=False), self.count))
        down.addWidget(label("Or choose them, to see what each looks like:", "faint"))
        self.list = QListWidget()
        self.list.setObjectName("faults")
        self.list.setAccessibleName("Faults to choose")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        large = len(circuit.plan.ties) > MOST_TIES
        for t in () if large else troubles(circuit):
            item = QListWidgetItem(t.title)
            item.setData(Qt.ItemDataRole.UserRole, t)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Unchecked)
            self.list.addItem(item)
        if large:
            self.list.addItem("This plan is so large that its faults fill no list: let chance choose.")
            self.list.setEnabled(False)
        equip(self.list)
        down.addWidget(self.list, 1)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        box.button(QDialogButtonBox.StandardButton.Ok).setText("Begin")
        box.accepted.connect(self.accept)
        box.rejected.connect(self.reject)
        down.addWidget(box)

    def wish(self) -> Wish:
        """Those that are ticked; without any, so many by chance."""
        items = [self.list.item(k) for k in range(self.list.count())]
        ticked = [x.data(Qt.ItemDataRole.UserRole) for x in items if x.checkState() == Qt.CheckState.Checked]
        chosen = tuple(t for t in ticked if t is not None)
        return Wish(chosen, self.count.value(), SystemRandom().randrange(1_000_000))


class PracticeBar(QFrame):
    """Says all the time that it is made up."""

    shown = Signal()
    left = Signal()
    again = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("practiceBar")
        down = column_in(self, 6)
        down.setContentsMargins(lettering.px(12), 7, lettering.px(12), 7)
        self.said = label("", "strong")
        self.look = button("Show me", "showMe", "Says what is wrong with the practice bench", self.shown.emit)
        self.anew = button(
            "Another one", "another", "Another practice bench, with other faults", self.again.emit
        )
        self.leave = button(
            "Leave practice",
            "leavePractice",
            "Forgets the practice bench and all that it said",
            self.left.emit,
        )
        down.addWidget(row(self.said, self.look, self.anew, self.leave, stretch=0))
        self.what = label("")
        self.what.hide()
        down.addWidget(self.what)
        self.hide()

    def begin(self, bench: PracticeBench) -> None:
        """A bench has been made."""
        self.bench = bench
        count = len(bench.troubles)
        hidden = (
            f"{counted(count, 'fault')} {'is' if count == 1 else 'are'} hidden in it"
            if count
            else "It may be that nothing is wrong with it"
        )
        self.said.setText(f"Practice bench: everything here is made up. {hidden}.")
        self.what.hide()
        self.show()

    def show_me(self) -> None:
        """What is wrong."""
        lines = [f"• {t.title}" for t in self.bench.troubles] or ["• Nothing is wrong with it."]
        self.what.setText("\n".join(lines))
        self.what.show()
