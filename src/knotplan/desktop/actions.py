"""Every action: its words, shortcut and tooltip, and its place in the menus."""

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu


class Spec(Struct, frozen=True):
    """One line of a menu; an empty text is a separator."""

    id: str
    text: str
    keys: str = ""
    tip: str = ""

    @property
    def name(self) -> str:
        """The text without the marks that menus need."""
        return self.text.replace("&", "").removesuffix(" …")


LINE = Spec("", "")
MENUS: dict[str, tuple[Spec, ...]] = {
    "&File": (
        Spec("new", "&New …", "Ctrl+N", "A new plan: choose a board"),
        Spec("open", "&Open …", "Ctrl+O", "Open a plan file"),
        Spec("recent", "Open &recent", "", "Plans that you opened lately"),
        Spec("demo", "The &demo plan", "", "Harbour light, mended"),
        Spec("draft", "The demo plan's first &draft", "", "Harbour light with the usual mistakes, to mend"),
        Spec("examples", "E&xample plans", "", "Other scenes, each mended and as a first draft"),
        LINE,
        Spec("save", "&Save", "Ctrl+S", "Write the plan to its file"),
        Spec("save-as", "Save &as …", "Ctrl+Shift+S", "Write the plan to another file"),
        Spec(
            "left-behind",
            "&Work left behind …",
            "",
            "What was kept when the program ended without being closed",
        ),
        LINE,
        Spec("save-one", "&Hand over this …", "Ctrl+E", "Write the shown hand-over file"),
        Spec("save-all", "Hand over a&ll …", "Ctrl+Shift+E", "Write every hand-over file into a folder"),
        LINE,
        Spec("quit", "&Quit", "Ctrl+Q", "Close the window"),
    ),
    "&Edit": (
        Spec("undo", "&Undo", "Ctrl+Z", "Take the last change back"),
        Spec("redo", "&Redo", "Ctrl+Shift+Z", "Make it again"),
        LINE,
        Spec("add", "&Add part …", "A", "Type what you have"),
        Spec("tie", "&Tie by name …", "T", "Type a pin for the selected lead, in any scheme"),
        Spec(
            "suggest",
            "&Suggest ties",
            "S",
            "For the selected lead or part, else for everything that is not tied",
        ),
        Spec(
            "suggest-anew",
            "Suggest ties ane&w",
            "Shift+S",
            "For all signals: ties that are not fixed may move",
        ),
        Spec(
            "values",
            "Find a &value …",
            "Ctrl+F",
            "Resistors, capacitors, cords, fuses, heat: each with its formula",
        ),
        Spec("mend", "Mend all that is sa&fe …", "Ctrl+Shift+M", "Remedies that change no decision of yours"),
        Spec("delete", "&Delete", "Del", "Remove the selected part, or untie the selected tie"),
        Spec("rename", "Re&name part …", "F2", "Another name for the selected part"),
        Spec("role", "Name for the &program …", "Ctrl+R", "What the program calls the selected tie"),
        LINE,
        Spec("colour", "&Cord colour", "", "Colour of the selected tie's cord"),
        Spec("bead", "Add a &bead", "", "A small component in the selected tie"),
        Spec("place", "&Place part", "", "Which side of the board the part lies on"),
        Spec(
            "fold",
            "Fold or un&fold",
            "Space",
            "A hub with everything on it; other parts' leads that are not in use",
        ),
        Spec("arrange", "Arran&ge anew", "Ctrl+L", "Every card where it lies best now"),
    ),
    "&Board": (
        Spec("move", "&Move to another board …", "Ctrl+M", "See which ties carry over before accepting"),
        Spec(
            "set-up", "&System settings", "", "What the board's system has on or off at first, and you change"
        ),
        Spec(
            "chart", "Board &chart …", "Ctrl+P", "Every pin by its names, to print and keep beside the bench"
        ),
        LINE,
        Spec("turn", "&Turn board", "R", "A quarter turn, as it lies on the bench"),
        Spec("flip", "Fl&ip board", "Shift+R", "See it from the other side"),
        LINE,
        Spec("board-new", "&Describe a board …", "Ctrl+B", "The workshop: headers, then pins in a grid"),
        Spec("board-table", "Describe one from a t&able …", "", "Begin with pins from a spreadsheet (CSV)"),
        Spec("board-lines", "Describe one from GPIO &lines …", "", "Begin with the lines of a Linux machine"),
        Spec(
            "board-copy", "Change a c&opy of this board …", "", "The workshop on a copy of the plan's board"
        ),
        Spec(
            "board-change",
            "Chan&ge this board …",
            "Ctrl+Shift+B",
            "The workshop on the plan's board, if it is your own",
        ),
        LINE,
        Spec("board-take", "Ta&ke in a board file …", "", "Add a board that somebody shared to your own"),
        Spec(
            "board-share", "Save this board as a &file …", "", "Write the plan's board to a file, to share it"
        ),
    ),
    "&Part": (
        Spec("part-new", "&Describe a part …", "Ctrl+D", "A form: its leads, what they need, what it draws"),
        Spec(
            "part-copy",
            "Change a c&opy of this part …",
            "Ctrl+Shift+D",
            "The form on a copy of the selected part",
        ),
        Spec("part-change", "Chan&ge this part …", "", "The form on the selected part, if it is your own"),
        LINE,
        Spec("part-take", "Ta&ke in a part file …", "", "Add a part that somebody shared to your own"),
        Spec(
            "part-share",
            "Save this part as a &file …",
            "",
            "Write the selected part's kind to a file, to share it",
        ),
    ),
    "&View": (
        Spec("loom", "&Loom", "Ctrl+1", "What ties to what?"),
        Spec("pins", "&Pins", "Ctrl+2", "What is each pin called, and what can it do?"),
        Spec("power", "Powe&r", "Ctrl+3", "Will it hold up? Supplies, activities, cords and batteries"),
        Spec("buses", "&Buses", "Ctrl+4", "Who answers where? Addresses, selects, pull-ups, clocks"),
        Spec(
            "timing",
            "&Timing",
            "Ctrl+5",
            "What does each pin do, and when? Pulses, steps, frames, brightness",
        ),
        Spec("hand-over", "&Hand over", "Ctrl+H", "What leaves the plan?"),
        LINE,
        Spec("lens-fit", "Lens &Fit", "F5", "Which pins can take the selected lead"),
        Spec("lens-volts", "Lens &Volts", "F6", "At which level each pin works, and whether it bears more"),
        Spec("lens-load", "Lens L&oad", "F7", "What each pin and rail carries"),
        Spec("lens-power-on", "Lens Po&wer-on", "F9", "What each pin does before a program runs"),
        Spec("lens-sharing", "Lens S&haring", "F12", "Which pins have hardware in common"),
        Spec("names", "Spoken &names", "", "What pins are called"),
        LINE,
        Spec("zoom-in", "Zoom &in", "Ctrl++", "Nearer"),
        Spec("zoom-out", "Zoom &out", "Ctrl+-", "Further"),
        Spec("zoom-fit", "&Fit the window", "Ctrl+0", "Show everything"),
        LINE,
        Spec("look", "Loo&k", "", "Light or dark"),
    ),
    "&Go": (
        Spec("find", "&Find …", "/", "A pin by any name, a part, a finding, an action"),
        Spec("pin-card", "Pin &card", "C", "Everything about the selected pin, beside it"),
        Spec("copy-card", "Copy pin c&ard", "Ctrl+Shift+C", "Everything about the selected pin, as text"),
        LINE,
        Spec("next-finding", "&Next finding", "F8", "The next finding, and what it is about"),
        Spec("to-loom", "To the &bench", "F3", "The keyboard to the loom"),
        Spec("to-inspector", "To the &inspector", "F4", "The keyboard to the inspector"),
    ),
    "&Help": (
        Spec("explain", "&Explain this", "F1", "What the thing in focus is for"),
        Spec("walk", "A five-minute &walk", "", "From an empty window to a wired plan"),
        Spec(
            "report",
            "&Report a problem …",
            "",
            "Gathers log, plan and versions in a folder of yours; nothing is sent",
        ),
        Spec("about", "&About Knot Plan", "", "Version and licence"),
    ),
}
SUBMENUS = ("recent", "examples", "colour", "bead", "place", "set-up", "names", "look")


class Actions:
    """Made once for a window; handlers are joined by id."""

    def __init__(self, window: QMainWindow, menus: list[QMenu], handlers: dict[str, Callable[[], object]]):
        self.by_id: dict[str, QAction] = {}
        self.submenus: dict[str, QMenu] = {}
        for menu, specs in zip(menus, MENUS.values(), strict=True):
            menu.setToolTipsVisible(True)
            for spec in specs:
                self._put(window, menu, spec, handlers)

    def _put(
        self, window: QMainWindow, menu: QMenu, spec: Spec, handlers: dict[str, Callable[[], object]]
    ) -> None:
        if not spec.text:
            menu.addSeparator()
            return
        if spec.id in SUBMENUS:
            self.submenus[spec.id] = menu.addMenu(spec.text)
            self.submenus[spec.id].setToolTip(spec.tip)
            return
        action = QAction(spec.text, window)
        action.setObjectName(spec.id)
        action.setToolTip(spec.tip)
        action.setStatusTip(spec.tip)
        if spec.keys:
            action.setShortcut(QKeySequence(spec.keys))
        if spec.keys == "Space":  # elsewhere it presses what has the keyboard
            action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        action.triggered.connect(lambda _=False, do=handlers[spec.id]: do())
        menu.addAction(action)
        self.by_id[spec.id] = action

    def all(self) -> list[QAction]:
        return list(self.by_id.values())
