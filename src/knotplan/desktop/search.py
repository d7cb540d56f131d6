"""One field for pins, parts, findings and actions; what is typed is matched as people say it."""

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import QEvent, QObject, QPoint, Qt, Signal
from PySide6.QtGui import QAction, QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit, QWidget

from knotplan.catalog.search import Found, found, nothing_found
from knotplan.core.names.book import squeezed
from knotplan.core.plan.document import BOARD
from knotplan.desktop import own_parts
from knotplan.desktop.session import Session

if TYPE_CHECKING:
    from knotplan.desktop.search_popup import SearchPopup

MOST, MOST_PARTS = 12, 60
"""entries that are shown; parts that are, while one is added"""


class Entry(Struct, frozen=True):
    """Something that can be found, and what happens then."""

    kind: str
    text: str
    words: str
    do: Callable[[], object]
    part: Found | None = None
    """the part that it adds"""


def part_entries(
    session: Session, typed: str, add: Callable[[Found], object], also_add: bool = True
) -> Iterator[Entry]:
    """The parts of the catalogue that a text means, each in its usual kinds, the likeliest first."""
    words = typed.casefold().split()
    wanted = " ".join(words[1:]) if also_add and words[:1] == ["add"] else typed
    for one in found(session.catalog.offers(), wanted):
        many = f"{one.count} × " if one.count > 1 else ""
        yield Entry("add", f"Add {many}{one.offer.text}", one.offer.said, partial(add, one), one)


class SearchField(QLineEdit):
    """The field, and the list below it."""

    left = Signal()
    pin_wanted = Signal(str)
    """a contact of the board that was found"""

    def __init__(self, session: Session, window: QWidget):
        super().__init__(window)
        self.session = session
        self.actions_found: list[QAction] = []
        """the window's actions, once they are made"""
        self._adding = False
        self.setObjectName("search")
        self.setAccessibleName("Find a pin, a part, a finding or an action")
        self.setPlaceholderText("Find a pin by any name, a part, a finding   ( / )")
        self.setToolTip("Find anything ( / ); to add a part press A and say what it is")
        self.setClearButtonEnabled(True)
        self._popup: SearchPopup | None = None
        self.textEdited.connect(self._search)
        window.installEventFilter(self)

    @property
    def popup(self) -> "SearchPopup":
        """The list of what was found; made when something is searched for."""
        if self._popup is None:
            from knotplan.desktop.search_popup import SearchPopup

            self._popup = SearchPopup(self.session, self.window())
            self._popup.chosen.connect(self._take)
        return self._popup

    # --- what there is --------------------------------------------------------------------------

    def add_part(self) -> None:
        """Begins adding a part."""
        self._adding = True
        self.setFocus()
        self.clear()
        self._search("")

    def _entries(self, text: str) -> Iterator[Entry]:
        c = self.session.circuit
        for placed in c.plan.parts:
            yield Entry(
                "part",
                f"{placed.name} – {c.parts[placed.id].summary}",
                placed.name,
                partial(self.session.select, "part", placed.id),
            )
        for f in self.session.report.findings:
            yield Entry(
                f.severity,
                f"{f.title}: {f.message}",
                f"{f.title} {f.message}",
                partial(self.session.select_subject, f.subjects[0]),
            )
        for action in self.actions_found:
            if action.isEnabled() and action.text():
                title = action.text().replace("&", "")
                keys = action.shortcut().toString()
                yield Entry("do", title + (f"   ({keys})" if keys else ""), title, action.trigger)

    def _pins(self, text: str) -> Iterator[Entry]:
        c = self.session.circuit
        for match in c.titles.book.find(text):
            scheme = c.board.schemes[match.scheme].title if match.scheme in c.board.schemes else "Label"
            contact = f"{BOARD}.{match.pin}"
            yield Entry(
                "pin",
                f"{c.titles.full(contact)} – {scheme.lower()} {c.board.pins[match.pin].names[match.scheme]}",
                "",
                partial(self.pin_wanted.emit, contact),
            )
        begun = squeezed(text)
        meant = {m.pin for m in c.titles.book.find(text)}
        for pin_id, pin in c.board.pins.items() if len(begun) > 1 else ():
            name = next((n for n in pin.names.values() if squeezed(n).startswith(begun)), "")
            if name and pin_id not in meant and pin.kind == "io":
                contact = f"{BOARD}.{pin_id}"
                yield Entry(
                    "pin", f"{c.titles.full(contact)} – {name}", "", partial(self.pin_wanted.emit, contact)
                )

    def _search(self, text: str) -> None:
        wanted = text.casefold().split()
        parts = list(part_entries(self.session, text, self._add)) if wanted or self._adding else []
        if self._adding:
            self._show(parts[:MOST_PARTS], text)
            return
        scored: list[tuple[int, int, Entry]] = []
        for entry in self._entries(text) if wanted else ():
            words = entry.words.casefold()
            if all(w in words for w in wanted):
                first = sum(any(t.startswith(w) for t in words.split()) for w in wanted)
                scored.append((-first, len(scored), entry))
        others = [e for _, _, e in sorted(scored, key=lambda s: s[:2])]
        pins = list(self._pins(text)) if wanted else []
        # of each kind the best come first; many parts do not hide what is already on the bench
        few = parts[: max(3, MOST - len(pins) - len(others))]
        self._show([*pins, *few, *others][:MOST], text)

    def _show(self, entries: list[Entry], text: str) -> None:
        nothing = self._nothing(text) if not entries else ""
        wide = max(self.width(), 420)
        place = self.mapTo(self.window(), QPoint(self.width() - wide, self.height() + 4))
        self.popup.show_entries(entries, nothing, place, wide)

    def _nothing(self, text: str) -> str:
        """Why there is nothing to show."""
        if self._adding:
            return nothing_found(self.session.catalog.offers(), text)
        near = ", ".join(self.session.circuit.titles.book.near(text, 3))
        return f"Nothing is called “{text}”." + (f" Nearest pins: {near}." if near else "")

    # --- taking something -----------------------------------------------------------------------

    def _add(self, what: Found) -> None:
        offer = what.offer
        added = own_parts.add(self.session, offer.part, offer.name, offer.params, what.count)
        if added:
            leads = self.session.circuit.parts[added[0]].leads
            self.session.select("lead", f"{added[0]}.{next(iter(leads))}")

    def _take(self, entry: Entry | None = None) -> None:
        entry = entry or self.popup.current()
        if entry is not None:
            self.leave()
            entry.do()

    def leave(self) -> None:
        """Closes the list and gives the keyboard back."""
        self._adding = False
        self.clear()
        self.popup.hide()
        self.left.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self.leave()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.popup.isVisible():
            self.popup.step(1 if key == Qt.Key.Key_Down else -1)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if self._popup is not None:
            self._popup.hide()
        self._adding = False

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize and self._popup is not None:
            self._popup.hide()
        return False
