"""The program's source beside the plan: which pin each line means, and what differs."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QTextCharFormat, QTextCursor, QTextFormat
from PySide6.QtWidgets import (
    QFileDialog,
    QSplitter,
    QTextEdit,
    QTreeWidget,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.bringup.difference import Difference, Spot
from knotplan.core.bringup.held import Held
from knotplan.core.bringup.program.compare import Meant
from knotplan.core.bringup.program.propose import proposed, spoken
from knotplan.core.drawing.palette import Palette
from knotplan.core.quantity.written import counted, listed
from knotplan.desktop import lettering
from knotplan.desktop.bringup.dialect_dialog import ask_dialect
from knotplan.desktop.bringup.evidence import Evidence
from knotplan.desktop.bringup.numbered import NumberedText
from knotplan.desktop.bringup.page import SourcePage
from knotplan.desktop.lists.equip import Line, equip
from knotplan.desktop.paint import colour
from knotplan.desktop.panels.fields import button, choice, label, row
from knotplan.desktop.session import Session
from knotplan.exchange.source import languages

SPOT = Qt.ItemDataRole.UserRole
TONES = {"differs": "stop_soft", "note": "care_soft"}


class ProgramPage(SourcePage):
    """Uses of pins on the left, in the plan's words; the source on the right."""

    kind = "program"
    title = "Program"
    not_compared = (
        "No pin, address or rate of this program is known. Propose a dialect, which says what its calls mean."
    )
    empty = (
        "Open the files of your program, or its whole folder: C, C++, Python, Devicetree. They are read, "
        "never run.\n\n"
        "Pins are followed from constants, lists and structures to the calls that use them. Calls of the "
        "operating system's own interfaces are known. For a library of your own, let a dialect be proposed "
        "from the source: it says which call means what."
    )

    def __init__(self, session: Session, palette: Palette, evidence: Evidence):
        self.uses = QTreeWidget()
        self.text = NumberedText(palette)
        self.file = choice("sourceFile", "Which file to look at", (), "", lambda _: self._show_file())
        self.scheme = choice(
            "programScheme",
            "How the program counts pins, where its calls do not say",
            (),
            "",
            evidence.count_by,
        )
        self.speaks = label("", "faint")
        self.propose = button(
            "Propose a dialect …",
            "propose",
            "Looks for calls that set pins of the plan, and writes down what they may mean",
            self.propose_dialect,
        )
        self.marks: dict[str, list[Difference]] = {}
        self.shown_file = ""
        super().__init__(session, palette, evidence)
        self.held: Held | None = None

    def ways_in(self) -> Sequence[QWidget]:
        return (
            button("Open files …", "openSource", "Source files of one program", self.open, "main"),
            button("Open folder …", "openFolder", "All source in a folder", self.open_folder),
            self.propose,
        )

    def compose(self, down: QVBoxLayout) -> None:
        self.uses.setObjectName("uses")
        self.uses.setAccessibleName("What the program does with pins, in the plan's words")
        self.uses.setHeaderLabels(["In the plan", "In the program", "Line"])
        self.uses.setRootIsDecorated(False)
        self.uses.setColumnWidth(0, lettering.px(168))
        self.uses.setColumnWidth(1, lettering.px(132))
        equip(self.uses, self.noticed.emit)
        self.uses.currentItemChanged.connect(lambda now, _: self._chosen(now))
        across = QSplitter()
        across.setChildrenCollapsible(False)
        across.addWidget(self.uses)
        across.addWidget(self.text)
        across.setStretchFactor(1, 1)
        across.setSizes([lettering.px(356), lettering.px(470)])
        down.addWidget(row(label("Numbers are", "faint", wrap=False), self.scheme, self.file))
        down.addWidget(across, 1)
        down.addWidget(self.speaks)

    # --- in -----------------------------------------------------------------------------------------

    def open(self) -> None:
        pattern = "Source (" + " ".join(f"*{s}" for s in languages.READERS) + ");;All files (*)"
        paths = self.paths("The program's source", pattern)
        if paths:
            self.take_files(paths)

    def open_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "The program's folder")
        if name:
            self.take_files([Path(name)])

    def take_files(self, paths: Sequence[Path]) -> None:
        """Reads files and folders; names are those below the folder that they share."""
        files = self.read(paths[0].name, lambda: languages.texts(paths))
        if files is None:
            return
        base = paths[0] if paths[0].is_dir() else paths[0].parent
        named = [(_below(Path(name), base), text) for name, text in files]
        self.shown_file = ""
        self.evidence.take_files(named, paths[0].name if len(paths) == 1 else counted(len(paths), "file"))

    def propose_dialect(self) -> None:
        """A dialect from the calls that nobody knows, to be read and corrected."""
        program = self.held.program if self.held is not None else None
        if program is None:
            return
        spoken_in = sorted({s.language for s in self.evidence.sources})
        dialect = proposed(self.session.circuit, program.told, spoken_in, self.evidence.scheme)
        if dialect is None:
            self.noticed.emit(
                "No call was found whose arguments are pins of this plan. A dialect can be written by "
                "hand: see F1"
            )
            return
        taken = ask_dialect(dialect, self)
        if taken is not None:
            self.evidence.take_dialect(taken)

    # --- beside the plan --------------------------------------------------------------------------------

    def differences(self, held: Held) -> tuple[Difference, ...]:
        return held.program.differences if held.program is not None else ()

    def fill(self, held: Held | None) -> None:
        self.held = held
        program = held.program if held is not None else None
        if program is None:
            return
        self.marks = {}
        for d in program.differences:
            if d.spot is not None and d.spot.line:
                self.marks.setdefault(d.spot.source, []).append(d)
        board = self.session.circuit.board
        self.scheme.clear()
        for key, scheme in board.schemes.items():
            self.scheme.addItem(f"{scheme.title.lower()}", key)
        now = self.evidence.scheme or self.session.circuit.scheme
        self.scheme.setCurrentIndex(max(0, self.scheme.findData(now)))
        names = [name for name, _ in self.evidence.files]
        self.file.clear()
        for name in names:
            count = sum(d.gravity == "differs" for d in self.marks.get(name, ()))
            self.file.addItem(name + (f"  ({count})" if count else ""), name)
        self.file.setVisible(len(names) > 1)
        if self.shown_file not in names:
            self.shown_file = next((n for n in names if n in self.marks), names[0] if names else "")
        self._fill_uses(program.meant)
        known = spoken(program.told, self.evidence.dialects)
        count = len(program.told.uses)
        self.speaks.setText(
            f"Speaks {listed([d.title for d in known]) or 'no known dialect'}; {counted(count, 'use')} "
            "of pins, buses and times"
            + ("" if program.told.whole else ". It is so large that only a part was followed")
        )
        self.show_line(Spot(self.shown_file), move=False)

    def _fill_uses(self, meant: Sequence[Meant]) -> None:
        t = self.session.circuit.titles
        self.uses.blockSignals(True)
        self.uses.clear()
        seen = set()
        for m in meant:
            name = t.of(m.tie.lead) if m.tie is not None else "nothing planned"
            called = next(iter(m.value.names), "")
            told = f"{called} = {m.value.value}" if called and not m.value.symbol else str(m.value.value)
            at = m.value.at
            where = f"{at.source}:{at.line}" if len(self.evidence.files) > 1 else str(at.line or "")
            key = (name, told, where)
            if key in seen:
                continue
            seen.add(key)
            item = Line([name, told, where])
            wrong = m.tie is None or (m.contact != m.tie.to)
            if wrong:
                item.setForeground(0, colour(self.p.stop))
                item.setForeground(1, colour(self.p.stop))
            item.setData(0, SPOT, m.value.at)
            pin = t.full(m.contact) if m.contact else "no pin of this board"
            item.setToolTip(1, f"{told}: {pin}")
            item.setToolTip(0, f"{name}: planned on {t.full(m.tie.to)}" if m.tie is not None else name)
            self.uses.addTopLevelItem(item)
        self.uses.blockSignals(False)

    def _chosen(self, item: object) -> None:
        if isinstance(item, Line):
            self.show_line(item.data(0, SPOT))

    def _show_file(self) -> None:
        self.show_line(Spot(str(self.file.currentData() or "")))

    def look_at(self, difference: Difference) -> None:
        if difference.spot is not None and difference.spot.line:
            self.show_line(difference.spot)

    def show_line(self, spot: Spot, *, move: bool = True) -> None:
        """A file, at a line."""
        files = dict(self.evidence.files)
        if spot.source not in files:
            return
        text = files[spot.source]
        if self.text.toPlainText() != text or self.shown_file != spot.source:
            self.text.setPlainText(text)
            self.text.setAccessibleName(f"Source of {spot.source}")
        self.shown_file = spot.source
        self.file.setCurrentIndex(max(0, self.file.findData(spot.source)))
        self._mark()
        if spot.line and move:
            block = self.text.document().findBlockByLineNumber(spot.line - 1)
            cursor = QTextCursor(block)
            cursor.movePosition(
                QTextCursor.MoveOperation.Right, QTextCursor.MoveMode.MoveAnchor, max(0, spot.column - 1)
            )
            self.text.setTextCursor(cursor)
            self.text.centerCursor()
            self.text.setAccessibleDescription(f"line {spot.line}: {block.text().strip()}")

    def _mark(self) -> None:
        """Lines with differences have a coloured ground."""
        found = []
        for d in sorted(self.marks.get(self.shown_file, ()), key=lambda d: d.gravity == "differs"):
            if d.spot is None:
                continue
            mark = QTextEdit.ExtraSelection()
            style = QTextCharFormat()
            style.setBackground(colour(getattr(self.p, TONES[d.gravity])))
            style.setProperty(QTextFormat.Property.FullWidthSelection, True)
            mark.format = style
            mark.cursor = QTextCursor(self.text.document().findBlockByLineNumber(d.spot.line - 1))
            found.append(mark)
        self.text.setExtraSelections(found)
        self.text.wrong = {
            d.spot.line for d in self.marks.get(self.shown_file, ()) if d.spot and d.gravity == "differs"
        }

    def set_palette(self, palette: Palette) -> None:
        super().set_palette(palette)
        self.text.p = palette
        self.text.margin.update()
        if self.has():
            self.fill(self.held)


def _below(path: Path, base: Path) -> str:
    return str(path.relative_to(base)) if path.is_relative_to(base) else str(path)
