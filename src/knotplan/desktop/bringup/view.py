"""The Bring-up view: is the bench what was planned?"""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget

from knotplan.core.bringup.difference import Difference, Spot
from knotplan.core.bringup.held import Held, held
from knotplan.core.drawing.palette import Palette
from knotplan.desktop import lettering
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.bringup.difference_list import DifferenceList
from knotplan.desktop.bringup.evidence import Evidence, Kind
from knotplan.desktop.bringup.lines_page import LinesPage
from knotplan.desktop.bringup.log_page import LogPage
from knotplan.desktop.bringup.page import SourcePage
from knotplan.desktop.bringup.practice import Answers, PracticeBar, PracticeDialog, Wish, answers
from knotplan.desktop.bringup.program_page import ProgramPage
from knotplan.desktop.bringup.scan_page import ScanPage
from knotplan.desktop.bringup.waves_page import WavesPage
from knotplan.desktop.dialogs import run
from knotplan.desktop.panels.fields import Given, button, column_in, label, row
from knotplan.desktop.panels.segments import Segment, Segments
from knotplan.desktop.session import Session
from knotplan.desktop.view import Page
from knotplan.exchange.bench.kinds import kind_of

SIDE, SIDE_NARROW, ROOMY = 322, 268, 1100
SILENT = {"scan": "scan", "lines": "lines", "waves": "capture", "program": "program"}
"""what the comparison calls the pages' sources"""
PAGES: tuple[type[SourcePage], ...] = (ScanPage, LinesPage, WavesPage, ProgramPage, LogPage)


class BringUpView(Page):
    """What came in beside the plan, and on the right every difference."""

    def __init__(
        self,
        session: Session,
        palette: Palette,
        show_view: Callable[[str], None],
        page: Callable[[str], Any],
    ):
        super().__init__()
        self.session, self.p, self._show_view, self._page = session, palette, show_view, page
        self.setAccessibleName("Bring up")
        self.evidence = Evidence(self)
        self.held: Held | None = None
        self._about: tuple[int, int] | None = None
        self._segments: list[Segment] = []
        self._path = session.path
        self._report = session.report
        self.pages: dict[Kind, SourcePage] = {
            kind.kind: kind(session, palette, self.evidence) for kind in PAGES
        }
        self.stack = QStackedWidget()
        for made in self.pages.values():
            self.stack.addWidget(made)
            made.noticed.connect(session.noticed)
        self.kinds = Segments("bringupKinds", "What came in", "What to look at", "segment", 4)
        self.kinds.picked.setMinimumContentsLength(13)
        self.kinds.chosen.connect(lambda kind: self.look_at(kind))  # noqa: PLW0108
        self.practise = button(
            "Practise …",
            "practise",
            "A made-up bench of this plan with hidden faults, to learn how to find them",
            self.ask_practice,
        )
        self.bar = PracticeBar()
        self.head = label("Differences", "head", wrap=False)
        self.elsewhere = label("", "faint")
        self.list = DifferenceList(session)
        self.task = BackgroundTask("comparison", self)
        self.task.answered.connect(self._take)
        self.task.failed.connect(lambda why: session.noticed.emit(f"The comparison failed: {why}"))
        self.practice_task = BackgroundTask("practice bench", self)
        self.practice_task.answered.connect(self._take_practice)
        self.practice_task.failed.connect(
            lambda why: session.noticed.emit(f"No practice bench could be made: {why}")
        )
        self._compose()
        self.evidence.changed.connect(self._changed)
        self.list.looked.connect(self._look)
        self.list.step_wanted.connect(self._to_step)
        self.list.line_wanted.connect(self._to_line)
        self.bar.shown.connect(self.bar.show_me)
        self.bar.left.connect(self.leave_practice)
        self.bar.again.connect(self.ask_practice)
        session.replaced.connect(self._another_document)
        session.changed.connect(self._changed)
        self.look_at("scan")

    def _compose(self) -> None:
        left = Given()
        down = column_in(left, 8)
        down.addWidget(row(label("Bring up", "head", wrap=False), self.kinds, self.practise, stretch=1))
        down.addWidget(self.bar)
        down.addWidget(self.stack, 1)
        self.side = Given()
        side = column_in(self.side, 6)
        side.addWidget(self.head)
        side.addWidget(self.elsewhere)
        side.addWidget(self.list, 1)
        across = QHBoxLayout(self)
        across.setContentsMargins(22, 14, 14, 10)
        across.setSpacing(14)
        across.addWidget(left, 1)
        across.addWidget(self.side)

    def suit(self) -> None:
        wide = self.room > lettering.px(ROOMY)
        self.side.setFixedWidth(lettering.beside(SIDE if wide else SIDE_NARROW, self.room, 0.32))

    # --- which of them ------------------------------------------------------------------------------

    @property
    def kind(self) -> Kind:
        """What is looked at."""
        return self.page.kind

    @property
    def page(self) -> SourcePage:
        """The page that is looked at."""
        page: SourcePage = self.stack.currentWidget()  # type: ignore[assignment]
        return page

    def look_at(self, kind: str) -> None:
        """Another kind of what came in."""
        self.stack.setCurrentWidget(self.pages[kind])  # type: ignore[index]
        self._show()

    def take_file(self, path: Path, kind: Kind) -> None:
        """A file for one of the pages, as if it had been opened there."""
        self.look_at(kind)
        page = self.pages[kind]
        if isinstance(page, ProgramPage):
            page.take_files([path])
        else:
            page.take_file(path)  # type: ignore[attr-defined]

    def take_any(self, files: Sequence[Path]) -> None:
        """Files of any kind, each to its page; source files together, as one program."""
        kinds: dict[Path, str] = {}
        for path in files:
            try:
                kinds[path] = kind_of(path)
            except OSError as error:
                self.session.noticed.emit(f"{path.name}: {error.strerror or error}")
        sources = [p for p, kind in kinds.items() if kind == "program"]
        if sources:
            self.look_at("program")
            self.pages["program"].take_files(sources)  # type: ignore[attr-defined]
        for path, kind in kinds.items():
            if kind == "":
                self.session.noticed.emit(
                    f"{path.name} is no scan, listing, capture, source or log that can be read"
                )
            elif kind != "program":
                self.take_file(path, "scan" if kind == "bench" else kind)  # type: ignore[arg-type]

    # --- following plan and bench -----------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        self._changed()
        self.kinds.buttons.setFocus(Qt.FocusReason.OtherFocusReason)

    def _changed(self) -> None:
        self._path = self.session.path
        if self.isVisible():
            self.compare()
        else:  # what is under way may be about the plan of before
            self.task.forget()
            self._about = None

    def _another_document(self) -> None:
        """What a bench said of one plan says nothing of another; the same file read anew is the same plan."""
        if self.session.path is None or self.session.path != self._path:
            self.pages["waves"].stop_reading()  # type: ignore[attr-defined]
            self.leave_practice()

    def compare(self) -> None:
        """Holds all that has come in against the plan, beside the interface."""
        report, catalog, bench = self.session.report, self.session.catalog, self.evidence.bench()
        about = (id(report), self.evidence.version)
        if about == self._about:
            self._show()
            return
        self._about = about
        self._report = report  # kept, so that no other one gets its identity
        self.held = None  # what it says is about the plan of before
        if bench.empty:
            self.task.forget()
            self.held = None
            self._show()
            return
        self.head.setText("Comparing …")
        self.task.ask(lambda: held(report, catalog, bench))

    def _take(self, found: Held) -> None:
        self.held = found
        self._show()

    def _show(self) -> None:
        for page in self.pages.values():
            if page is self.page:
                page.show_held(self.held)
        counts = {kind: self._count(page) for kind, page in self.pages.items()}
        segments = []
        for kind, page in self.pages.items():
            count = counts[kind]
            agrees = page.has() and self.held is not None and self._is_compared(kind)
            mark = f"  {count}" if count else "  ✓" if agrees else ""
            says = f"{page.title}: {count} differ" if count else page.title
            segments.append(Segment(kind, page.title + mark, says, page.empty.split("\n")[0]))
        if segments != self._segments:
            self._segments = segments
            self.kinds.fill(segments)
        self.kinds.choose(self.kind)
        mine = self.page.differences(self.held) if self.held is not None else ()
        others = sum(n for kind, n in counts.items() if kind != self.kind)
        self.head.setText(_heading(counts[self.kind], mine))
        self.elsewhere.setText(
            f"{others} more {'differs' if others == 1 else 'differ'} in other sources" if others else ""
        )
        self.elsewhere.setVisible(bool(others))
        self.list.show_all(mine, self.p, self._nothing())

    def _count(self, page: SourcePage) -> int:
        if self.held is None or not page.has():
            return 0
        return sum(d.gravity == "differs" for d in page.differences(self.held))

    def _nothing(self) -> str:
        if not self.page.has():
            return "Nothing has come in here yet."
        if not self._is_compared(self.kind):
            return self.page.not_compared
        return "It is as planned." if self.held is not None else "Comparing …"

    def _is_compared(self, kind: Kind) -> bool:
        """A comparison is under way, or has found something to compare."""
        return kind != "log" and (self.held is None or SILENT[kind] not in self.held.silent)

    # --- go there -----------------------------------------------------------------------------------

    def _look(self, difference: Difference) -> None:
        """What a difference is about: in its source, and on the bench."""
        self.page.look_at(difference)
        if difference.look:
            self.session.select("tie", difference.look[0])
        elif difference.subjects:
            self.session.select_subject(difference.subjects[0])

    def _to_step(self, tie: str) -> None:
        self._show_view("wire")
        self._page("wire").look_at_tie(tie)

    def _to_line(self, spot: Spot) -> None:
        self.look_at("program")
        page = self.pages["program"]
        assert isinstance(page, ProgramPage)
        page.show_line(spot)
        page.text.setFocus()

    # --- practice -----------------------------------------------------------------------------------

    def ask_practice(self) -> None:
        """Asks which faults, and makes a bench with them."""
        dialog = PracticeDialog(self.session.circuit, self)
        if run(dialog):
            self.begin_practice(dialog.wish())

    def begin_practice(self, wish: Wish) -> None:
        """A bench with some faults, worked out beside the interface."""
        circuit, catalog = self.session.circuit, self.session.catalog
        self.practice_task.ask(lambda: answers(circuit, catalog, wish))

    def _take_practice(self, found: Answers) -> None:
        bench, scans, lines, traces = found
        self.evidence.practice = bench
        self.evidence.take_scans(scans, "the practice bench")
        self.evidence.take_lines(lines, "the practice bench")
        self.evidence.take_traces(traces, "the practice bench")
        self.bar.begin(bench)
        first: Kind = "scan" if scans else "lines" if lines else "waves"
        self.look_at(first)

    def leave_practice(self) -> None:
        """Forgets the practice bench, and all that it said."""
        self.practice_task.forget()
        self.evidence.practice = None
        self.bar.hide()
        self.evidence.clear_all()

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        for page in self.pages.values():
            page.set_palette(palette)
        self._show()


def _heading(count: int, mine: tuple[Difference, ...]) -> str:
    if count:
        return f"{count} {'differs' if count == 1 else 'differ'} from the plan"
    return "Worth knowing" if mine else "Differences"
