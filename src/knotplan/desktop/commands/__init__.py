"""What can be done: a file for each menu, each action one record."""

from knotplan.desktop.commands import board, edit, file, go, help, part, view
from knotplan.desktop.commands.command import Command, Menu

MENUS: tuple[Menu, ...] = (
    file.MENU,
    edit.MENU,
    board.MENU,
    part.MENU,
    view.MENU,
    go.MENU,
    help.MENU,
)
COMMANDS: dict[str, Command] = {command.id: command for menu in MENUS for command in menu.commands}
CONTEXT = {
    "part": ("suggest", "fold", "rename", "delete"),
    "lead": ("tie", "suggest", "role", "delete"),
    "tie": ("tie", "role", "delete"),
    "pin": ("pin-card", "copy-card", "delete"),
    "": ("add", "suggest", "arrange", "turn", "flip", "zoom-fit"),
}
"""what the menu under the pointer offers, by what is selected"""
