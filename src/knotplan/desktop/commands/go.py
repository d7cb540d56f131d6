"""The Go menu: to pins, findings and places."""

from PySide6.QtCore import Qt

from knotplan.desktop.commands.bring_up import open_files, practise
from knotplan.desktop.commands.command import LINE, Command, Menu
from knotplan.desktop.desk import Desk
from knotplan.desktop.panels.pin_panel import copy_card


def on_board(desk: Desk) -> bool:
    """A pin of the board is selected. Otherwise the letters of these
    actions can begin a pin's name while a lead is selected."""
    selection = desk.session.selection
    return selection.kind == "pin" and selection.id in desk.session.bench.pins


def confirm(desk: Desk) -> None:
    """Enter on the bench: the candidates of a lead, all of a
    suggestion, the inspector of anything else."""
    suggestion = desk.session.suggester.suggestion
    if not desk.session.selection.kind and suggestion is not None and suggestion.ties:
        desk.session.take_suggestion()
    elif desk.session.selection.lead:
        desk.side.inspector.to_offers()
    else:
        desk.side.inspector.to_first()


def _to_loom(desk: Desk) -> None:
    desk.show_view("loom")
    desk.loom.setFocus(Qt.FocusReason.ShortcutFocusReason)


MENU = Menu(
    "&Go",
    (
        Command(
            "find",
            "&Find …",
            "/",
            "A pin by any name, a part, a finding, an action",
            lambda desk: desk.search.setFocus(),
        ),
        Command(
            "pin-card",
            "Pin &card",
            "C",
            "Everything about the selected pin, beside it",
            lambda desk: desk.loom.keep_card(),
            on_board,
        ),
        Command(
            "copy-card",
            "Copy pin c&ard",
            "Ctrl+Shift+C",
            "Everything about the selected pin, as text",
            lambda desk: copy_card(desk.session, desk.session.selection.id),
            on_board,
        ),
        LINE,
        Command(
            "open-bench",
            "Open what the &bench says …",
            "",
            "A bus scan, a listing of GPIO lines, a capture, source, a serial log: each is taken for "
            "what it is",
            open_files,
        ),
        Command(
            "practise",
            "P&ractise on a made-up bench …",
            "",
            "A bench of this plan with hidden faults",
            practise,
        ),
        LINE,
        Command(
            "next-finding",
            "&Next finding",
            "F8",
            "The next finding, and what it is about",
            lambda desk: desk.side.findings.to_next(),
        ),
        Command("to-loom", "To the &bench", "F3", "The keyboard to the loom", _to_loom),
        Command(
            "to-inspector",
            "To the &inspector",
            "F4",
            "The keyboard to the inspector",
            lambda desk: desk.side.inspector.to_first(),
        ),
    ),
)
