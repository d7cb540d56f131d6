"""Offers work that was left behind, and goes on with what is chosen."""

from typing import TYPE_CHECKING, Any

import msgspec

from knotplan.core.draft.board import BoardDraft
from knotplan.desktop.commands import board, part
from knotplan.desktop.dialogs import run
from knotplan.desktop.left_behind import LeftBehindDialog
from knotplan.exchange.recovery import Lost

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def offer(desk: "Desk") -> bool:
    """Shows what was left behind, if anything was; whether there was something."""
    recovery = desk.documents.recovery
    works = recovery.lost(desk.session.catalog) if recovery else []
    if recovery is None or not works:
        return False
    dialog = LeftBehindDialog(works, desk.parent)
    run(dialog)
    chosen, away = dialog.chosen, dialog.let_go
    for work in away:
        try:
            recovery.let_go(work)
        except OSError as error:
            desk.session.noticed.emit(f"{work.title} could not be put away: {error.strerror}")
    if chosen is not None:
        take_up(desk, chosen)
    return True


def take_up(desk: "Desk", work: Lost) -> None:
    """A plan comes into the window, a board into the workshop, a part into its form."""
    if work.kind == "plan":
        desk.documents.take_up(work)
        return
    given: dict[str, Any] = work.draft
    text = given.get("text")
    text = text if isinstance(text, str) else ""
    if work.kind == "board":
        try:
            draft = msgspec.convert(given.get("draft"), BoardDraft)
        except (msgspec.ValidationError, ValueError) as error:
            desk.session.noticed.emit(
                f"{work.title} cannot be gone on with: {error}. It stays in {work.kept}."
            )
            return
        desk.documents.take_up_draft(work, draft.title)
        board.open_workshop(desk, draft, text, given.get("replaces") is True)
    else:
        part_id = given.get("part")
        desk.documents.take_up_draft(work, work.title)
        part.go_on(desk, text, part_id if isinstance(part_id, str) else "")
