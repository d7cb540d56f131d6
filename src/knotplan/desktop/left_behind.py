"""Work that an earlier run left behind: all of it in one list, taken up, let go, or left for later."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.quantity.written import counted
from knotplan.desktop.dialogs import left_of
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import label
from knotplan.exchange.recovery import Lost

KINDS = {"plan": "Plan", "board": "Board being described", "part": "Part being described"}


class LeftBehindDialog(QDialog):
    """`chosen` is what is taken up, `let_go` what nobody wants; what is neither stays for later."""

    def __init__(self, works: list[Lost], parent: QWidget | None = None):
        super().__init__(parent)
        self.works, self.let_go = list(works), list[Lost]()
        self.chosen: Lost | None = None
        self.setWindowTitle("Work left behind")
        self.setMinimumSize(660, 400)
        down = QVBoxLayout(self)
        down.addWidget(label("Knot Plan ended without being closed, and this was kept", "head"))
        self.list = QListWidget()
        self.list.setAccessibleName("Work left behind")
        equip(self.list)
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.list.itemActivated.connect(lambda _: self.take())
        down.addWidget(self.list, 1)
        self.about = QPlainTextEdit()
        self.about.setReadOnly(True)
        self.about.setTabChangesFocus(True)
        self.about.setAccessibleName("About the chosen one")
        down.addWidget(self.about, 1)
        box = QDialogButtonBox()
        self.take_button = box.addButton("Take it up", QDialogButtonBox.ButtonRole.AcceptRole)
        self.away_button = box.addButton("Let it go", QDialogButtonBox.ButtonRole.DestructiveRole)
        self.later_button = box.addButton("Later", QDialogButtonBox.ButtonRole.RejectRole)
        self.later_button.setToolTip("It stays here: File, Work left behind")
        self.away_button.setToolTip("It is put away, and deleted after a month")
        self.take_button.setDefault(True)
        self.take_button.clicked.connect(self.take)
        self.away_button.clicked.connect(self._away)
        self.later_button.clicked.connect(self.reject)
        down.addWidget(box)
        self._fill()

    def _fill(self) -> None:
        self.list.clear()
        for work in self.works:
            item = QListWidgetItem(f"{KINDS[work.kind]}: {work.title}, as of {work.when:%H:%M on %d %B %Y}")
            item.setData(Qt.ItemDataRole.UserRole, work)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self._show()

    def _now(self) -> Lost | None:
        item = self.list.currentItem()
        return item.data(Qt.ItemDataRole.UserRole) if item else None

    def _show(self) -> None:
        work = self._now()
        whole = work is not None and (work.plan is not None or work.draft is not None)
        self.take_button.setEnabled(work is not None and (whole or work.rest is not None))
        self.take_button.setText(
            "Take it up" if whole or work is None or work.rest is None else "Take it up without these"
        )
        self.away_button.setEnabled(work is not None)
        self.about.setPlainText(described(work) if work else "")

    def take(self) -> None:
        if self.take_button.isEnabled():
            self.chosen = self._now()
            self.accept()

    def _away(self) -> None:
        work = self._now()
        if work is not None:
            self.let_go.append(work)
            self.works.remove(work)
            self._fill()
            if not self.works:
                self.reject()


def described(work: Lost) -> str:
    """What was lost, so that its maker knows it again."""
    lines = [f"from {work.origin}"] if work.origin else []
    if work.plan is not None:
        lines.insert(0, f"{counted(len(work.plan.parts), 'part')}, {counted(len(work.plan.ties), 'tie')}")
    if work.wrong:
        lines.append("It cannot be opened as it is:")
        lines += [f"– {place}: {why}" if place else f"– {why}" for place, why in work.wrong[:40]]
        lines.append(left_of(work.rest) if work.rest else f"It stays where it is: {work.kept}")
    return "\n".join(lines)
