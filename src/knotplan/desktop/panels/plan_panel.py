"""The plan as a whole, while nothing is selected: what is there, and what to do next."""

from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from knotplan.core.loom.palette import Palette
from knotplan.desktop.panels.fields import button, label, row
from knotplan.desktop.session import Session


class PlanPanel(QWidget):
    """Board, parts, and the next step."""

    @staticmethod
    def shows(session: Session, _: str) -> tuple[object, ...]:
        """All that is shown here; the panel is remade when it changes."""
        c, r = session.circuit, session.report
        return c.plan.title, len(c.parts), len(c.plan.ties), c.board.id, _untied(session), r.checked, bool(r.findings)

    def __init__(self, session: Session, palette: Palette, _: str = ""):
        super().__init__()
        c = session.circuit
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(7)
        layout.addWidget(label(c.plan.title, "head"))
        layout.addWidget(label(f"{len(c.parts)} parts and {len(c.plan.ties)} ties on {c.board.title}.", "faint"))
        untied = _untied(session)
        if untied:
            layout.addWidget(label(f"{len(untied)} leads still want a tie:", "strong"))
            for lead in untied[:6]:
                layout.addWidget(row(button(c.title(lead), f"go-{lead}", "Select this lead",
                                            partial(session.select, "lead", lead), "remedy")))  # fmt: skip
        elif not c.parts:
            layout.addWidget(label("Press A and type what you have. Then pull a cord from a lead to a pin, or select "
                                   "a lead and press Enter for the best pin."))  # fmt: skip
        elif session.report.checked and not session.report.findings:
            layout.addWidget(label("Everything is tied and nothing is found. Hand it over.", "strong"))
        else:
            layout.addWidget(label("Select a lead and every pin answers how well it fits.", "faint"))
        layout.addStretch(1)


def _untied(session: Session) -> tuple[str, ...]:
    """The leads that still want a tie."""
    return tuple(lead for f in session.report.findings if f.rule == "lead-untied" for lead in f.subjects)
