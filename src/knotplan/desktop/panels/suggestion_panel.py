"""A suggestion in the inspector's place: each tie with its reason and the
next best, all or singly to be taken."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.palette import Palette
from knotplan.core.quantity.written import counted
from knotplan.desktop.panels.fields import button, column_in, label, row
from knotplan.desktop.session import Session

if TYPE_CHECKING:
    from knotplan.core.suggest.conflict import Conflict
    from knotplan.core.suggest.suggestion import Proposed

TICK_MS = 250


class SuggestionPanel(QWidget):
    """Shown while there is a suggestion, or one is being looked for."""

    @staticmethod
    def shows(session: Session, _: str) -> tuple[object, ...]:
        """All that is shown here; the panel is remade when it changes."""
        s = session.suggester
        return s.suggestion, s.searching, s.trouble, session.circuit.scheme

    def __init__(self, session: Session, palette: Palette, _: str = ""):
        super().__init__()
        self.session = session
        self.suggester = session.suggester
        layout = column_in(self, 8)
        layout.addWidget(label("Suggestion", "head"))
        self.state = label(self._state_text(), "faint")
        self.state.setObjectName("suggestionState")
        layout.addWidget(self.state)
        suggestion = self.suggester.suggestion
        if self.suggester.searching:
            self._clock = QTimer(self, interval=TICK_MS)
            self._clock.timeout.connect(lambda: self.state.setText(self._state_text()))
            self._clock.start()
        if suggestion is not None and suggestion.conflict is not None:
            layout.addWidget(_conflict(session, suggestion.conflict))
        if suggestion is not None and suggestion.ties:
            layout.addWidget(
                row(
                    button(
                        "Take all",
                        "takeAll",
                        "Make all of these ties, as one step (Enter)",
                        session.take_suggestion,
                        "main",
                    ),
                    self._stop_or_leave(),
                )
            )
            after = session.suggested_circuit()
            for tie in suggestion.ties:
                layout.addWidget(_Tie(session, tie, after))
        else:
            layout.addWidget(row(self._stop_or_leave()))
        layout.addStretch(1)

    def _stop_or_leave(self) -> QWidget:
        if self.suggester.searching:
            return button("Stop", "stopSearch", "Keep what has been found so far", self.suggester.stop)
        return button(
            "Leave it", "leaveSuggestion", "Put the suggestion away (Esc)", self.session.suggester.forget
        )

    def _state_text(self) -> str:
        s = self.suggester
        if s.trouble:
            return f"The search failed: {s.trouble}"
        suggestion = s.suggestion
        if suggestion is None:
            return f"Looking for ties … {s.seconds:.1f} s"
        if suggestion.conflict is not None:
            return "Looking closer …" if s.searching else "Not everything can be tied."
        if not suggestion.ties:
            return "Looking closer …" if s.searching else self._nothing()
        text = counted(len(suggestion.ties), "tie")
        if s.searching:
            return f"{text}, a first answer; looking for a better one … {s.seconds:.1f} s"
        return (
            f"{text}: nothing costs less."
            if suggestion.proven
            else f"{text}: a good answer, not proven to be the best."
        )

    def _nothing(self) -> str:
        if not self.session.circuit.parts:
            return "There is nothing to tie yet: add a part with A."
        return (
            "What was asked about is tied already, or need not be. Shift+S asks anew about ties that are "
            "there."
        )


def _conflict(session: Session, conflict: "Conflict") -> QWidget:
    """Why not everything can be had, and what would free it."""
    frame = QFrame()
    frame.setProperty("kind", "preview")
    down = QVBoxLayout(frame)
    down.addWidget(label(conflict.words, "strong"))
    for lead in conflict.leads:
        down.addWidget(
            button(
                session.circuit.titles.of(lead),
                f"conflict-{lead}",
                "Select this lead",
                partial(session.select, "lead", lead),
                "remedy",
            ),
            0,
            Qt.AlignmentFlag.AlignLeft,
        )
    if conflict.frees:
        down.addWidget(label("What would help", "strong"))
        for text in conflict.frees:
            down.addWidget(label(f"· {text[0].upper()}{text[1:]}.", "faint"))
    others = [x for x in session.asked_leads() if x not in conflict.leads]
    if others and conflict.leads:
        down.addWidget(
            button(
                "Suggest the others",
                "suggestOthers",
                "Leave these leads out and tie the rest",
                partial(session.suggest, others),
            )
        )
    return frame


class _Tie(QFrame):
    """One proposed tie."""

    def __init__(self, session: Session, tie: "Proposed", after: Circuit):
        super().__init__()
        down = column_in(self, 2)
        title = f"{after.titles.of(tie.lead)}  →  {after.titles.full(tie.contact)}"
        take = button(
            "✓",
            f"take-{tie.lead}",
            f"Make this tie: {title}",
            partial(session.take_suggestion, [tie.lead]),
            "quiet",
        )
        down.addWidget(row(label(title, "strong"), take, stretch=0))
        down.addWidget(label(tie.reason, "care" if tie.consequence else "faint"))
        if tie.next_contact:
            down.addWidget(
                label(
                    f"Next best: {after.titles.full(tie.next_contact)}, {_more(tie)}{tie.next_reason}.",
                    "faint",
                )
            )


def _more(tie: "Proposed") -> str:
    return f"costs {tie.next_costs:.1f} more: " if tie.next_costs >= 0.05 else "costs the same: "
