"""The Edit menu: what is done to the thing that is selected."""

from functools import partial

from PySide6.QtWidgets import QApplication, QLineEdit, QMenu

from knotplan.core.drawing.palette import CORDS
from knotplan.core.plan import edits
from knotplan.core.quantity.written import counted
from knotplan.desktop.commands import several
from knotplan.desktop.commands.command import LINE, Command, Menu, Submenu, add_entry
from knotplan.desktop.desk import Desk
from knotplan.desktop.dialogs import run
from knotplan.desktop.panels.bead_row import NEW_BEADS, new_bead
from knotplan.desktop.said import said

PLACES = {"left": "Left of the board, or above", "right": "Right of the board, or below", "": "By itself"}


def copy_said(desk: Desk) -> None:
    text = said(QApplication.focusWidget(), desk.side.inspector)
    if not text.strip():
        desk.session.noticed.emit("Nothing was copied: nothing is said here")
        return
    QApplication.clipboard().setText(text)
    desk.session.noticed.emit(f"Copied {counted(len(text.splitlines()), 'line')} of text")


def has_tie(desk: Desk) -> bool:
    return bool(desk.tie)


def has_part(desk: Desk) -> bool:
    return bool(desk.part)


def undo_text(desk: Desk) -> str:
    return f"&Undo {desk.session.undo_word}".strip()


def redo_text(desk: Desk) -> str:
    return f"&Redo {desk.session.redo_word}".strip()


def add_part(desk: Desk) -> None:
    desk.show_view("loom")
    desk.search.add_part()


def suggest(desk: Desk) -> None:
    """For what is selected, or for everything."""
    s = desk.session
    desk.show_view("loom")
    if s.selection.kind == "part":
        s.suggest([f"{s.selection.id}.{name}" for name in s.circuit.parts[s.selection.id].leads])
    elif s.selection.lead:
        s.suggest([s.selection.lead])
    else:
        s.suggest()


def history(desk: Desk) -> None:
    from knotplan.desktop.history_dialog import HistoryDialog

    run(HistoryDialog(desk.session, desk.parent))


def find_value(desk: Desk, finder: str = "", given: dict[str, float | str] | None = None) -> None:
    """The value finders by themselves; `given` are inputs to begin with."""
    from knotplan.desktop.values_dialog import ValuesDialog

    run(ValuesDialog(desk.session, desk.parent, finder, given))


def assumptions(desk: Desk) -> None:
    from knotplan.desktop.assumptions_dialog import AssumptionsDialog

    run(AssumptionsDialog(desk.session, desk.parent))


def mend(desk: Desk) -> None:
    from knotplan.desktop.mend_dialog import MendDialog

    session = desk.session
    if not session.report.checked:
        return
    dialog = MendDialog(session, desk.parent)
    if dialog.mended.remedy is None:
        dialog.deleteLater()
        session.noticed.emit("Nothing can be mended without a decision of yours.")
        return
    session.show_preview(dialog.mended.remedy)
    accepted = run(dialog)
    session.show_preview(None)
    if accepted:
        session.make(dialog.mended.remedy)


def delete(desk: Desk) -> None:
    s = desk.session
    if s.selection.parts:
        s.edit(
            f"remove {several.named(desk, s.selection.parts)}",
            edits.of_all,
            s.selection.parts,
            edits.remove_part,
        )
    elif desk.tie:
        s.edit(f"untie {s.circuit.titles.of(s.plan.tie(desk.tie).lead)}", edits.untie, desk.tie)
    elif s.selection.lead:
        s.noticed.emit("This lead has no tie. To remove the part, select its card.")


def rename(desk: Desk) -> None:
    if desk.part:
        desk.session.select("part", desk.part)
        desk.side.inspector.to_name()


def name_role(desk: Desk) -> None:
    if not desk.tie:
        return
    desk.session.select("lead", desk.session.plan.tie(desk.tie).lead)
    field = desk.side.inspector.panel.findChild(QLineEdit, "role")
    if isinstance(field, QLineEdit):
        field.setFocus()
    else:
        desk.session.noticed.emit("Only ties to signal pins have a name in the program.")


def recolour(desk: Desk, name: str) -> None:
    if desk.tie:
        desk.session.edit("recolour the cord", edits.recolour, desk.tie, name)


def add_bead(desk: Desk, kind: str) -> None:
    if desk.tie:
        bead = new_bead(desk.session, desk.session.plan.tie(desk.tie), kind)
        desk.session.edit(f"add a {kind}", edits.add_bead, desk.tie, bead)


def fold(desk: Desk) -> None:
    if desk.part:
        desk.loom.fold(desk.part)


def fill_colours(menu: QMenu, desk: Desk) -> None:
    for name in CORDS:
        add_entry(menu, name, partial(recolour, desk, name))


def fill_beads(menu: QMenu, desk: Desk) -> None:
    for kind in NEW_BEADS:
        add_entry(menu, kind.capitalize(), partial(add_bead, desk, kind))


def fill_places(menu: QMenu, desk: Desk) -> None:
    for side, text in PLACES.items():
        add_entry(menu, text, partial(several.place, desk, side))


MENU = Menu(
    "&Edit",
    (
        Command(
            "undo",
            "&Undo",
            "Ctrl+Z",
            "Take the last change back",
            lambda desk: desk.session.undo(),
            lambda desk: desk.session.can_undo,
            undo_text,
        ),
        Command(
            "redo",
            "&Redo",
            "Ctrl+Shift+Z",
            "Make it again",
            lambda desk: desk.session.redo(),
            lambda desk: desk.session.can_redo,
            redo_text,
        ),
        LINE,
        Command("add", "&Add part …", "A", "Type what you have", add_part, also="Ins"),
        Command(
            "tie",
            "&Tie by name …",
            "Ctrl+T",
            "Type a pin for the selected lead, in any scheme",
            lambda desk: desk.side.inspector.to_field(),
            lambda desk: bool(desk.session.selection.lead),
        ),
        Command(
            "suggest",
            "&Suggest ties",
            "S",
            "For the selected lead or part, else for everything that is not tied",
            suggest,
        ),
        Command(
            "suggest-anew",
            "Suggest ties ane&w",
            "Shift+S",
            "For all signals: ties that are not fixed may move",
            lambda desk: desk.session.suggest(anew=True),
        ),
        Command(
            "values",
            "Find a &value …",
            "Ctrl+F",
            "Resistors, capacitors, cords, fuses, heat: each with its formula",
            find_value,
        ),
        Command(
            "assumptions",
            "Ass&umptions …",
            "Ctrl+Shift+A",
            "Air, margins, forced gain: what is taken for granted in this plan, and why",
            assumptions,
        ),
        Command(
            "mend",
            "Mend all that is sa&fe …",
            "Ctrl+Shift+M",
            "Remedies that change no decision of yours",
            mend,
            lambda desk: bool(desk.session.report.findings),
        ),
        Command(
            "delete",
            "&Delete",
            "Del",
            "Remove the selected part, or untie the selected tie",
            delete,
            lambda desk: bool(desk.session.selection.kind),
        ),
        LINE,
        Command(
            "history",
            "&History …",
            "Ctrl+Alt+Z",
            "Every step by its name, to go back or forward to",
            history,
        ),
        LINE,
        Command(
            "cut",
            "Cu&t",
            "Ctrl+X",
            "The selected parts to the clipboard, and off the bench",
            several.cut,
            has_part,
        ),
        Command(
            "copy", "&Copy", "Ctrl+C", "The selected parts, with the ties among them", several.copy, has_part
        ),
        Command(
            "copy-said",
            "Copy as te&xt",
            "Ctrl+Alt+C",
            "What is said where the keyboard is: a finding, a budget, a table's lines, a whole panel",
            copy_said,
        ),
        Command(
            "paste", "&Paste", "Ctrl+V", "Parts from the clipboard, also from another plan", several.paste
        ),
        Command(
            "duplicate",
            "D&uplicate",
            "Ctrl+D",
            "The selected parts once more, with the ties among them",
            several.duplicate,
            has_part,
        ),
        Command("select-all", "Select a&ll parts", "Ctrl+A", "Every part on the bench", several.select_all),
        LINE,
        Command("rename", "Re&name part …", "F2", "Another name for the selected part", rename, has_part),
        Command(
            "role",
            "Name for the &program …",
            "Ctrl+R",
            "What the program calls the selected tie",
            name_role,
            has_tie,
        ),
        LINE,
        Submenu("colour", "&Cord colour", "Colour of the selected tie's cord", fill_colours, enabled=has_tie),
        Submenu("bead", "Add a &bead", "A small component in the selected tie", fill_beads, enabled=has_tie),
        Submenu(
            "place", "&Place part", "Which side of the board the part lies on", fill_places, enabled=has_part
        ),
        Command(
            "line-up",
            "Line up the parts",
            "Ctrl+Shift+L",
            "The selected parts one after another, where the first of them stands",
            several.line_up,
            lambda desk: len(desk.parts) > 1,
        ),
        Command(
            "let-go",
            "Let go of the parts",
            "Ctrl+Alt+L",
            "The selected parts back to where they lie best",
            several.let_go,
            several.is_put,
        ),
        Command(
            "fold",
            "Fold or un&fold",
            "Space",
            "A hub with everything on it; other parts' leads that are not in use",
            fold,
            has_part,
        ),
        Command(
            "arrange",
            "Arran&ge anew",
            "Ctrl+L",
            "Every card where it lies best now",
            lambda desk: desk.session.arrange_anew(),
        ),
    ),
)
