"""The Wire-up view: what do the hands do next, and is what they did right?"""

from collections.abc import Iterator

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.palette import Palette
from knotplan.core.meter.table import MOST_TIES, Meter, Table
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.core.wiring.entries import Entry, entries, not_done, noted
from knotplan.core.wiring.slips import Slip, Slips
from knotplan.core.wiring.state import State, state_of
from knotplan.core.wiring.steps import Step, steps_of
from knotplan.desktop import lettering
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, column_in, label, row
from knotplan.desktop.session import Session
from knotplan.desktop.view import Page
from knotplan.desktop.wire.bench_screen import BenchScreen
from knotplan.desktop.wire.marked_list import Marked, MarkedList
from knotplan.desktop.wire.meter_panel import MeterPanel
from knotplan.desktop.wire.sheet import Shown, StepSheet

STEPS, CHECKS = 262, 316
STEPS_NARROW, CHECKS_NARROW = 210, 250
ROOMY, HIGH = 1100, 560
"""width and height from which nothing is left out"""
LEAST_STEP = 0.02
"""of progress that is shown"""
STOP, BEGIN = (
    "Stops working out what a meter reads",
    "Works out what a meter reads, with each single fault too",
)


class WireView(Page):
    """Steps on the left, the chosen one large in the middle, checks and readings on the right."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Wire up")
        self.entries: tuple[Entry, ...] = ()
        self.state: State | None = None
        self._about: Plan | None = None
        """the plan, without notes of the bench, that these are about: the steps, slips and the fault table"""
        self._steps: tuple[Step, ...] = ()
        self._looks: Slips | None = None
        self._slips: dict[str, tuple[Slip, ...]] = {}
        self.bench: BenchScreen | None = None
        self.list = MarkedList(palette, "steps", "Steps")
        self.list.setToolTip("Space: done, next. Backspace: back. A click on a mark, or Delete, turns it")
        equip(self.list, session.noticed.emit)
        self.sheet = StepSheet(palette)
        self.meter = MeterPanel(session, palette)
        self.far = label("", "faint", wrap=False)
        self.progress = label("", "faint", wrap=False)
        self.progress.setToolTip("How much of what a meter reads is worked out")
        self.work = button("Stop", "stopTable", STOP, self._stop_or_begin)
        self.work.setVisible(False)
        self.table_task = BackgroundTask("fault table", self)
        self.table_task.answered.connect(self._take_table)
        self.table_task.failed.connect(lambda why: session.noticed.emit(f"The checks failed: {why}"))
        self.slip_task = BackgroundTask("slips", self)
        self.slip_task.answered.connect(self._take_slips)
        self._compose()
        self.list.chosen.connect(lambda _: self._chosen())
        for giver in (self.list, self.sheet):
            giver.done.connect(self.do_it)
            giver.back.connect(self.go_back)
        self.list.turned.connect(self.turn)
        self.meter.changed.connect(self._show)
        self.meter.looked.connect(self.look_at_tie)
        session.changed.connect(self._changed)

    def _compose(self) -> None:
        self.left = QWidget()
        left = column_in(self.left, 8)
        left.addWidget(row(label("Wire up", "head", wrap=False), self.far, stretch=1))
        left.addWidget(self.list, 1)
        whole_screen = button(
            "Whole screen", "benchScreen", "The step alone, on the whole screen (F11)", self.whole_screen
        )
        left.addWidget(row(whole_screen))
        self.right = QWidget()
        right = column_in(self.right, 6)
        right.addWidget(row(label("Checks", "head", wrap=False), self.progress, self.work, stretch=1))
        right.addWidget(self.meter, 1)
        across = QHBoxLayout(self)
        across.setContentsMargins(22, 14, 14, 10)
        across.setSpacing(14)
        across.addWidget(self.left)
        across.addWidget(self.sheet, 1)
        across.addWidget(self.right)

    def suit(self) -> None:
        wide = self.room > lettering.px(ROOMY)
        self.left.setFixedWidth(lettering.beside(STEPS if wide else STEPS_NARROW, self.room, 0.28))
        holder = self.parentWidget()
        self.sheet.roomy = (holder or self).height() >= lettering.px(HIGH)
        self.right.setFixedWidth(lettering.beside(CHECKS if wide else CHECKS_NARROW, self.room, 0.3))

    # --- following the session ----------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        self.fill()
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def _changed(self) -> None:
        if self.isVisible() or self.bench is not None:
            self.fill()
        elif _planned(self.session.plan) != self._about:  # what is under way is about the plan of before
            self.table_task.forget()
            self.slip_task.forget()
            self._about = None

    def fill(self) -> None:
        """Anew from the plan: the steps, how far they are, and where that matters the fault table."""
        c = self.session.circuit
        plan = _planned(c.plan)
        anew = plan != self._about
        if anew:
            self._about, self._steps = plan, steps_of(c)
            self._looks, self._slips = None, {}
        self.state = state_of(c)
        self.entries = entries(c, self._steps, self.state)
        now = self.list.now()
        self.list.fill([Marked(e.id, e.group, e.title, e.under, e.mark, e.do) for e in self.entries])
        if not self.list.now():
            self._choose_next(now)
        done, count = len(self.state.done), len(self.state.tasks)
        self.far.setText(f"{done} of {count} done")
        if anew:
            self.begin_table(whole=len(c.plan.ties) <= MOST_TIES)
        self.meter.refresh()

    # --- the step -----------------------------------------------------------------------------------

    def entry(self) -> Entry | None:
        """The chosen one."""
        now = self.list.now()
        return next((e for e in self.entries if e.id == now), None)

    def _chosen(self) -> None:
        entry = self.entry()
        if entry is not None and entry.step is not None and entry.step.tie and not entry.gone:
            self.session.select("tie", entry.step.tie)
        self._show()
        self._look_for_slips()

    def _show(self) -> None:
        entry = self.entry()
        ids = [e.id for e in self.entries]
        shown = Shown(
            self.session.circuit,
            entry,
            ids.index(entry.id) + 1 if entry else 0,
            len(ids),
            all(e.mark == "done" for e in self.entries),
            self._slips.get(entry.step.tie, ()) if entry and entry.step else (),
            self._barred(entry),
        )
        self.sheet.show_what(shown)
        if self.bench is not None:
            self.bench.sheet.show_what(shown)

    def _barred(self, entry: Entry | None) -> str:
        """Nothing is switched on before what a meter must read first has been read."""
        powers = entry is not None and entry.step is not None and entry.step.stage == "power"
        return self.meter.missing() if powers and entry is not None and entry.mark != "done" else ""

    def do_it(self) -> None:
        """The chosen entry is done; then the next one that is not."""
        entry = self.entry()
        if entry is None or self._barred(entry) or self.state is None:
            return
        if entry.mark != "done":
            done, undone = noted(entry, self.state)
            verb = "take away" if entry.gone else "wire"
            self.session.edit(f"{verb} {entry.title}", edits.note_wired, done, undone)
        self._choose_next(entry.id)

    def go_back(self) -> None:
        """To the step before."""
        ids = [e.id for e in self.entries]
        now = self.list.now()
        if now in ids and ids.index(now) > 0:
            self.list.choose(ids[ids.index(now) - 1])

    def turn(self, entry_id: str) -> None:
        """Done becomes not done, and the other way round."""
        entry = next((e for e in self.entries if e.id == entry_id), None)
        if entry is None or self.state is None:
            return
        self.list.choose(entry_id)
        if entry.mark == "done":
            undone = not_done(entry, self.state)
            self.session.edit(f"{entry.title} is not done", edits.note_wired, (), undone)
        elif not self._barred(entry):
            done, before = noted(entry, self.state)
            self.session.edit(f"wire {entry.title}", edits.note_wired, done, before)

    def _choose_next(self, after: str) -> None:
        """The first entry from one on, and then from the beginning, that is not done."""
        ids = [e.id for e in self.entries]
        at = ids.index(after) + 1 if after in ids else 0
        waiting = [e.id for e in (*self.entries[at:], *self.entries[:at]) if e.mark != "done"]
        if waiting:
            self.list.choose(waiting[0])
        elif ids:
            self.list.choose(ids[-1])
        self._show()

    def look_at_tie(self, tie: str) -> None:
        """The step of a tie."""
        if self.list.choose(f"cord:{tie}"):
            self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    # --- slips, beside the interface ------------------------------------------------------------------

    def _look_for_slips(self) -> None:
        entry = self.entry()
        step = entry.step if entry is not None and not entry.gone else None
        if step is None or not step.tie or step.tie in self._slips or not step.neighbours:
            return
        circuit = self.session.circuit
        looks = self._looks = self._looks or Slips(circuit, self.session.catalog)
        self.slip_task.ask(lambda: (looks, step.tie, looks.of(step.tie, step.neighbours)))

    def _take_slips(self, found: tuple[Slips, str, tuple[Slip, ...]]) -> None:
        looks, tie, slips = found
        if looks is self._looks:
            self._slips[tie] = slips
            self._show()

    # --- the fault table, beside the interface -----------------------------------------------------------

    def begin_table(self, *, whole: bool = True) -> None:
        """Works out what a meter reads between the supplies, and then with each single fault."""
        circuit = self.session.circuit
        self.meter.take(None)
        self._show_work(running=True)
        self.table_task.ask_for_all(lambda _: _tables(circuit, whole=whole))

    def _take_table(self, answer: float | Table | None) -> None:
        if answer is None:
            self._show_work(running=False)
            return
        if isinstance(answer, float):
            self.progress.setText(f"{answer:.0%}")
            return
        self.meter.take(answer)
        if answer.whole:
            self.work.setVisible(False)
            self.progress.setVisible(False)
        self._show()

    def _show_work(self, *, running: bool) -> None:
        self.progress.setVisible(True)
        self.progress.setText("0%" if running else "between supplies only" if self.meter.table else "stopped")
        self.work.setVisible(True)
        self.work.setText("Stop" if running else "Work out")
        self.work.setAccessibleName(self.work.text())
        self.work.setToolTip(STOP if running else BEGIN)

    def _stop_or_begin(self) -> None:
        if self.work.text() == "Stop":
            self.table_task.forget()
            self._show_work(running=False)
        else:
            self.begin_table()

    # --- on the whole screen ------------------------------------------------------------------------

    def whole_screen(self) -> None:
        """The step alone, on the whole screen; or back."""
        if self.bench is not None:
            self.bench.close()
            return
        self.bench = bench = BenchScreen(self.p, self.window())
        bench.sheet.done.connect(self.do_it)
        bench.sheet.back.connect(self.go_back)
        bench.closed.connect(self._left_bench)
        self._show()
        bench.begin()

    def fill_screen(self) -> bool:
        self.whole_screen()
        return True

    def _left_bench(self) -> None:
        self.bench = None
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def set_palette(self, palette: Palette) -> None:
        self.p = self.list.p = palette
        self.sheet.set_palette(palette)
        self.meter.set_palette(palette)
        self.list.viewport().update()
        self._show()


def _planned(plan: Plan) -> Plan:
    """The plan without notes of the bench."""
    return replace(plan, wired=(), readings=(), accepted=())


def _tables(circuit: Circuit, *, whole: bool) -> Iterator[float | Table | None]:
    """The table of what is read between the supplies; then shares of the work that are done, now and then,
    and at the end the whole table; or nothing, where only the first is wanted."""
    last = 0.0
    for answer in Meter(circuit).worked_out():
        if isinstance(answer, Table) or answer > last + LEAST_STEP:
            last = answer if isinstance(answer, float) else last
            yield answer
        if not whole:
            yield None
            return
