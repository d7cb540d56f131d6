"""Parts on the clipboard: their own type beside plain text, so that they go from window to window and from
plan to plan."""

from PySide6.QtCore import QMimeData
from PySide6.QtWidgets import QApplication

from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop.session import Session
from knotplan.exchange.plan_file import MOST_BYTES, PlanFileError, dumps, loads

PARTS_MIME = "application/x-knotplan-parts+json"


def copy(session: Session, parts: tuple[str, ...]) -> None:
    """Puts parts on the clipboard, with the ties among them."""
    c = session.circuit
    data = QMimeData()
    data.setData(PARTS_MIME, dumps(edits.excerpt(session.plan, parts)))
    data.setText("\n".join(f"{c.placed[p].name} – {c.parts[p].summary}" for p in parts))
    QApplication.clipboard().setMimeData(data)


def holds_parts() -> bool:
    """There are parts on the clipboard."""
    data = QApplication.clipboard().mimeData()
    return data is not None and data.hasFormat(PARTS_MIME)


def parts_there(session: Session) -> Plan | None:
    """The parts on the clipboard as a plan; nothing where there are none, or where they cannot be read, which
    is told."""
    data = QApplication.clipboard().mimeData()
    if data is None or not data.hasFormat(PARTS_MIME):
        return None
    held = bytes(data.data(PARTS_MIME).data())
    try:
        if len(held) > MOST_BYTES:
            raise ValueError("it is too large")
        return loads(held, session.catalog, "the clipboard")
    except (PlanFileError, ValueError) as error:
        session.noticed.emit(f"What is on the clipboard cannot be put in: {error}")
        return None
