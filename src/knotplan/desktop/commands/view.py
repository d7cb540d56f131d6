"""The View menu: the views, the lenses, spoken names, zoom, light and dark."""

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu

from knotplan.core.drawing.loom.view import Lens
from knotplan.core.plan import edits
from knotplan.desktop import lettering
from knotplan.desktop.commands.command import LINE, Command, Menu, Submenu, add_entry
from knotplan.desktop.desk import Desk
from knotplan.desktop.loom.view import ZOOM_STEP
from knotplan.desktop.tips import tip_text
from knotplan.desktop.views import VIEWS

LOOKS = {
    "system": "As on the desktop",
    "light": "Light",
    "dark": "Dark",
    "light-strong": "Light, high contrast",
    "dark-strong": "Dark, high contrast",
}
LENSES: tuple[tuple[Lens, str, str, str], ...] = (
    ("fit", "Lens &Fit", "F5", "Which pins can take the selected lead"),
    ("volts", "Lens &Volts", "F6", "At which level each pin works, and whether it bears more"),
    ("load", "Lens L&oad", "F7", "What each pin and rail carries"),
    ("power-on", "Lens Po&wer-on", "Shift+F7", "What each pin does before a program runs"),
    ("sharing", "Lens S&haring", "F12", "Which pins have hardware in common"),
)


def _show(view_id: str, desk: Desk) -> None:
    desk.show_view(view_id)


def _look_through(lens: Lens, desk: Desk) -> None:
    desk.session.look_through(lens)


def _fold_side(desk: Desk) -> None:
    desk.fold_side()


def _fold_budgets(desk: Desk) -> None:
    desk.budgets.fold(not desk.budgets.folded)


def _full_screen(desk: Desk) -> None:
    if desk.shown().fill_screen():
        return
    window = desk.parent.window()
    window.setWindowState(window.windowState() ^ Qt.WindowState.WindowFullScreen)


def _show_legend(desk: Desk) -> None:
    desk.show_view("loom")
    desk.lenses.key.toggle()


def fill_names(menu: QMenu, desk: Desk) -> None:
    circuit = desk.session.circuit
    for number, (scheme, spec) in enumerate(circuit.board.schemes.items(), 1):
        speak = partial(desk.session.edit, "speak other names", edits.speak, scheme)
        entry = add_entry(menu, spec.title, speak)
        entry.setToolTip(tip_text(spec.note))
        entry.setShortcut(f"Alt+{number}")
        entry.setCheckable(True)
        entry.setChecked(scheme == circuit.scheme)


def _one_of(menu: QMenu, choices: Mapping[str, str], now: str, choose: Callable[[str], None]) -> None:
    for choice, words in choices.items():
        entry = add_entry(menu, words, partial(choose, choice))
        entry.setCheckable(True)
        entry.setChecked(choice == now)


def fill_letters(menu: QMenu, desk: Desk) -> None:
    choices = {"system": "As on the desktop"} | {size: f"{size} pt" for size in lettering.SIZES}
    _one_of(menu, choices, desk.settings.letters, desk.set_letters)


def fill_looks(menu: QMenu, desk: Desk) -> None:
    _one_of(menu, LOOKS, desk.settings.look, desk.set_look)


MENU = Menu(
    "&View",
    (
        *(
            Command(view.id, view.text, view.keys, view.question, partial(_show, view.id))
            for view in sorted(VIEWS, key=lambda view: view.keys)
        ),
        LINE,
        *(
            Command(f"lens-{lens}", text, keys, tip, partial(_look_through, lens))
            for lens, text, keys, tip in LENSES
        ),
        Submenu("names", "Spoken &names", "What pins are called", fill_names, changes=True),
        LINE,
        Command("zoom-in", "Zoom &in", "Ctrl++", "Nearer", lambda desk: desk.loom.zoom(ZOOM_STEP)),
        Command("zoom-out", "Zoom &out", "Ctrl+-", "Further", lambda desk: desk.loom.zoom(1 / ZOOM_STEP)),
        Command("zoom-fit", "&Fit the window", "Ctrl+0", "Show everything", lambda desk: desk.loom.fit()),
        LINE,
        Command("side", "Right &side", "F9", "Fold the right side away, or show it again", _fold_side),
        Command(
            "budgets",
            "All &budgets",
            "Shift+F9",
            "Every budget in full, or the tightest three",
            _fold_budgets,
        ),
        Command("full-screen", "F&ull screen", "F11", "The whole screen, or a window again", _full_screen),
        Command("legend", "Le&gend", "Shift+L", "What the marks on the bench mean", _show_legend),
        LINE,
        Submenu("look", "Loo&k", "Light or dark, with usual or high contrast", fill_looks, changes=True),
        Submenu("letters", "Le&tters", "How large the words of the program are", fill_letters, changes=True),
    ),
)
