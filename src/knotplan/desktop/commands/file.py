"""The File menu: plans, examples, hand-over files."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QMenu

from knotplan.desktop.commands.command import LINE, Command, Menu, Submenu, add_entry
from knotplan.desktop.desk import Desk
from knotplan.desktop.tips import tip_text
from knotplan.examples import SCENES

if TYPE_CHECKING:
    from knotplan.desktop.hand_over.view import HandOver


def fill_recent(menu: QMenu, desk: Desk) -> None:
    for path in desk.settings.recent:
        entry = add_entry(menu, path.name, partial(desk.documents.open_path, path))
        entry.setToolTip(tip_text(str(path)))
    if menu.isEmpty():
        menu.addAction("nothing yet").setEnabled(False)


def fill_examples(menu: QMenu, desk: Desk) -> None:
    for scene, (title, about) in SCENES.items():
        show = desk.documents.show_example
        add_entry(menu, title, partial(show, scene)).setToolTip(tip_text(about))
        add_entry(menu, f"{title}, first draft", partial(show, f"{scene}-draft"))


def left_behind(desk: Desk) -> None:
    """Work of runs that ended without being closed."""
    from knotplan.desktop.commands.taking_up import offer

    if not offer(desk):
        desk.session.noticed.emit("Nothing was left behind.")


def _hand_over(desk: Desk) -> "HandOver":
    desk.show_view("hand-over")
    page: HandOver = desk.page("hand-over")
    return page


def print_sheet(desk: Desk) -> None:
    from knotplan.desktop import printing

    printing.print_sheet(desk.session.report, desk.parent, desk.session.noticed.emit)


def look_before_printing(desk: Desk) -> None:
    from knotplan.desktop import printing

    printing.look_before_printing(desk.session.report, desk.parent, desk.session.noticed.emit)


MENU = Menu(
    "&File",
    (
        Command("new", "&New …", "Ctrl+N", "A new plan: choose a board", lambda desk: desk.documents.new()),
        Command("open", "&Open …", "Ctrl+O", "Open a plan file", lambda desk: desk.documents.open()),
        Submenu("recent", "Open &recent", "Plans that you opened lately", fill_recent, changes=True),
        Command(
            "demo",
            "The &demo plan",
            "",
            "Harbour light, mended",
            lambda desk: desk.documents.show_example("harbour-light"),
        ),
        Command(
            "draft",
            "The demo plan's first &draft",
            "",
            "Harbour light with the usual mistakes, to mend",
            lambda desk: desk.documents.show_example("harbour-light-draft"),
        ),
        Submenu(
            "examples", "E&xample plans", "Other scenes, each mended and as a first draft", fill_examples
        ),
        LINE,
        Command("save", "&Save", "Ctrl+S", "Write the plan to its file", lambda desk: desk.documents.save()),
        Command(
            "save-as",
            "Save &as …",
            "Ctrl+Shift+S",
            "Write the plan to another file",
            lambda desk: desk.documents.save_as(),
        ),
        Command(
            "left-behind",
            "&Work left behind …",
            "",
            "What was kept when the program ended without being closed",
            left_behind,
        ),
        LINE,
        Command(
            "save-one",
            "&Hand over this …",
            "Ctrl+E",
            "Write the shown hand-over file",
            lambda desk: _hand_over(desk).save_one(),
        ),
        Command(
            "save-all",
            "Hand over a&ll …",
            "Ctrl+Shift+E",
            "Write every hand-over file into a folder",
            lambda desk: _hand_over(desk).save_all(),
        ),
        LINE,
        Command("print", "&Print …", "Ctrl+P", "The wiring sheet on paper", print_sheet),
        Command(
            "print-preview",
            "Print pre&view …",
            "Ctrl+Shift+P",
            "The wiring sheet as it will lie on paper",
            look_before_printing,
        ),
        LINE,
        Command("quit", "&Quit", "Ctrl+Q", "Close the window", lambda desk: desk.close()),
    ),
)
