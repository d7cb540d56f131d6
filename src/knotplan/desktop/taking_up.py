"""Offers work that was left behind, and goes on with what is chosen."""

from typing import TYPE_CHECKING, Any

import msgspec

from knotplan.core.draft.board import BoardDraft
from knotplan.desktop.dialogs import run
from knotplan.desktop.left_behind import LeftBehindDialog
from knotplan.exchange.recovery import Lost

if TYPE_CHECKING:
    from knotplan.desktop.window import MainWindow


def offer(window: "MainWindow") -> bool:
    """Shows what was left behind, if anything was; whether there was something."""
    recovery = window.recovery
    works = recovery.lost(window.session.catalog) if recovery else []
    if recovery is None or not works:
        return False
    dialog = LeftBehindDialog(works, window)
    run(dialog)
    chosen, away = dialog.chosen, dialog.let_go
    for work in away:
        try:
            recovery.let_go(work)
        except OSError as error:
            window.session.noticed.emit(f"{work.title} could not be put away: {error.strerror}")
    if chosen is not None:
        take_up(window, chosen)
    return True


def take_up(window: "MainWindow", work: Lost) -> None:
    """A plan comes into the window, a board into the workshop, a part into its form."""
    if work.kind == "plan":
        window.documents.take_up(work)
        return
    given: dict[str, Any] = work.draft
    text = given.get("text")
    text = text if isinstance(text, str) else ""
    if work.kind == "board":
        try:
            draft = msgspec.convert(given.get("draft"), BoardDraft)
        except (msgspec.ValidationError, ValueError) as error:
            window.session.noticed.emit(
                f"{work.title} cannot be gone on with: {error}. It stays in {work.kept}."
            )
            return
        window.documents.take_up_draft(work, draft.title)
        window.commands.boards.workshop(draft, text, given.get("replaces") is True)
    else:
        part = given.get("part")
        window.documents.take_up_draft(work, work.title)
        window.commands.parts.go_on(text, part if isinstance(part, str) else "")
