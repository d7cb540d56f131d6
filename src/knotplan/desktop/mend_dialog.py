"""Everything that can be mended without a decision of the maker's, seen before it is made."""

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QListWidget, QVBoxLayout, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import counted
from knotplan.core.text.changes import changes
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import label
from knotplan.desktop.session import Session


class MendDialog(QDialog):
    """The changes, one a line."""

    def __init__(self, session: Session, parent: QWidget | None = None):
        from knotplan.core.check.automatic_fixes import mend

        super().__init__(parent)
        self.mended = mend(session.report, session.catalog)
        self.setWindowTitle("Mend all that is safe")
        self.resize(560, 420)
        down = QVBoxLayout(self)
        head = f"This settles {counted(self.mended.settled, 'finding')}."
        if left := self.mended.left:
            head += f" {counted(left, 'finding')} {'is' if left == 1 else 'are'} left to decide."
        down.addWidget(label(head, "head"))
        down.addWidget(
            label(
                "It only adds: no tie of yours moves, no part or value of yours is changed. One undo takes "
                "it all back.",
                "faint",
            )
        )
        self.list = QListWidget()
        self.list.setAccessibleName("What changes")
        self.list.setWordWrap(True)
        if self.mended.remedy is not None:
            after = Circuit(self.mended.remedy.apply(session.plan), session.catalog)
            self.list.addItems(list(changes(session.circuit, after)))
        equip(self.list)
        down.addWidget(self.list, 1)
        box = QDialogButtonBox()
        box.addButton("Mend", QDialogButtonBox.ButtonRole.AcceptRole)
        box.addButton("Leave it", QDialogButtonBox.ButtonRole.RejectRole)
        box.accepted.connect(self.accept)
        box.rejected.connect(self.reject)
        down.addWidget(box)
