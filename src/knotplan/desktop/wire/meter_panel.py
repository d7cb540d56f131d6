"""What a meter must read, what it did read, and what that says."""

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QLineEdit, QScrollArea, QVBoxLayout, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.meter.checks import Check, checks, meanings, standing
from knotplan.core.meter.expected import Expected
from knotplan.core.meter.points import Point, told
from knotplan.core.meter.ranking import Answer, Ranking
from knotplan.core.meter.table import Table
from knotplan.core.meter.told import ReadingError, reads, shown, stale, typed
from knotplan.core.plan import edits
from knotplan.core.plan.wired import Reading
from knotplan.core.quantity.written import counted
from knotplan.desktop.lettering import px
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, choice, clear_layout, column_in, label, line, row
from knotplan.desktop.session import Session
from knotplan.desktop.wire.marked_list import Mark, Marked, MarkedList

MOST_FAULTS, MOST_MEANINGS = 4, 5
LEAST_LIST = 110
NOTHING = ""
BETWEEN, BEFORE, ASKED = "Before power: between the supplies", "Before power", "Measured besides"


class MeterPanel(QWidget):
    """Checks in their order; below, the chosen one with a field for what the meter shows, and the answer."""

    looked = Signal(str)
    """a tie to look at again"""
    changed = Signal()
    """which checks are fine may be otherwise"""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.table: Table | None = None
        self.checks: tuple[Check, ...] = ()
        self._ranking: Ranking | None = None
        self._quiet = True
        """nothing is told of faults"""
        self._asked: tuple[Point, ...] = ()
        """points that are measured although no check needs them"""
        self.wrong_part = NOTHING
        self._parts_shown: tuple[list[tuple[str, str]], str] | None = None
        self.setAccessibleName("Checks")
        self.list = MarkedList(palette, "checks", "Checks")
        self.list.setToolTip("What to measure, in order. Type what the meter shows below")
        equip(self.list, session.noticed.emit)
        self.where, self.expects = label(""), label("", "strong")
        self.means = label("", "faint")
        self.field = QLineEdit()
        self.field.setObjectName("meterShows")
        self.field.setAccessibleName("The meter shows")
        self.field.setPlaceholderText("The meter shows: 3.3, 180, ok, no, open")
        self.field.setToolTip(
            "What the meter shows, with or without its unit; or ok, no, open. Enter takes it"
        )
        self.field.returnPressed.connect(self._typed)
        self.fault = label("", "stop")
        self.answer = QWidget()
        self.answer_in = column_in(self.answer, 6)
        self._compose()
        self.list.chosen.connect(lambda _: self._show_check())
        self.list.done.connect(partial(self.note, "ok"))
        self.list.turned.connect(self._forget)

    def _compose(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(6)
        self.list.setMinimumHeight(px(LEAST_LIST))
        whole.addWidget(self.list, 1)
        below = QScrollArea()
        below.setFrameShape(QScrollArea.Shape.NoFrame)
        below.setWidgetResizable(True)
        below.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        below.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        below.setMinimumHeight(px(LEAST_LIST))
        inside = QWidget()
        down = QVBoxLayout(inside)
        down.setContentsMargins(0, 0, 4, 0)
        down.setSpacing(6)
        for widget in (self.where, self.expects, self.field, self.fault):
            down.addWidget(widget)
        says = (
            ("As expected", "readOk", "The meter shows what is expected (Space in the list)", "ok"),
            ("Not as expected", "readNo", "The meter shows something else", "no"),
            ("Open", "readOpen", "The meter is over its range: open", "open"),
        )
        buttons = [button(text, name, tip, partial(self.note, word)) for text, name, tip, word in says]
        self.open_button = buttons[-1]
        down.addWidget(row(*buttons))
        down.addWidget(self.means)
        down.addWidget(line())
        self.parts = QWidget()
        self.parts_in = column_in(self.parts)
        down.addWidget(self.parts)
        down.addWidget(self.answer)
        down.addStretch(1)
        below.setWidget(inside)
        whole.addWidget(below, 1)

    # --- the plan ---------------------------------------------------------------------------------

    def take(self, table: Table | None) -> None:
        """The table of the plan as it is; nothing while it is being worked out. What is read between the
        supplies alone says nothing of faults."""
        self.table = table
        self.checks = checks(table) if table is not None else ()
        self._ranking = Ranking(table) if table is not None and table.whole else None
        known = table.points if table is not None else ()
        self._asked = tuple(p for p in self._asked if p in known)
        self.refresh()

    def refresh(self) -> None:
        """Anew from the plan's readings."""
        self.setEnabled(self.table is not None)
        self.list.fill(list(self._lines()))
        if not self.list.now() and self.checks:
            self.list.choose(self.checks[0].point.id)
        self._show_check()
        self._show_parts()
        self._show_answer()
        self.changed.emit()

    @property
    def readings(self) -> dict[str, Reading]:
        """What the plan has, by point."""
        return {r.point: r for r in self.session.plan.readings}

    def _points(self) -> Iterator[tuple[Point, str]]:
        """The points in the list, each with its group: those that are worth it, then what was read
        besides."""
        c = self.session.circuit
        for check in self.checks:
            point = check.point
            if point.range == "volts":
                yield point, f"{c.titles.part(point.stage)} on: volts to ground"
            else:
                yield point, BETWEEN if check.needed else BEFORE
        listed = {check.point for check in self.checks}
        for point in self.table.points if self.table else ():
            if point not in listed and (point.id in self.readings or point in self._asked):
                yield point, ASKED

    def _lines(self) -> Iterator[Marked]:
        c = self.session.circuit
        for point, group in self._points():
            reading = self.readings.get(point.id)
            expected = reads(point, self._expected(point))
            under = f"{shown(reading, point)}; {expected}" if reading else expected
            where = told(c, point)
            yield Marked(point.id, group, where, under, self.mark(point), f"{where}: {expected}")

    def _expected(self, point: Point) -> Expected:
        assert self.table is not None
        return self.table.planned[point]

    def mark(self, point: Point) -> Mark:
        """How a point stands."""
        if self.table is None:
            return "open"
        return standing(point, self._expected(point), self.readings.get(point.id))

    def missing(self) -> str:
        """Why nothing may be switched on yet; empty where all that is needed reads as it should."""
        if self.table is None:
            return "What a meter must read before power is not worked out yet."
        needed = [c.point for c in self.checks if c.needed]
        bad = [p for p in needed if self.mark(p) == "wrong"]
        if bad:
            return f"{told(self.session.circuit, bad[0])} does not read as it should: nothing is switched on."
        left = [p for p in needed if self.mark(p) != "done"]
        if left:
            return (
                f"First measure between the supplies: {counted(len(left), 'reading')} of {len(needed)} are "
                "missing (on the right)."
            )
        return ""

    # --- one check --------------------------------------------------------------------------------

    def point(self) -> Point | None:
        """The chosen one."""
        now = self.list.now()
        return next((p for p, _ in self._points() if p.id == now), None)

    def _show_check(self) -> None:
        point = self.point()
        self.fault.setVisible(False)
        if point is None or self.table is None:
            for text in (self.where, self.expects, self.means):
                text.setText("")
            self.field.clear()
            return
        self.open_button.setEnabled(point.range != "volts")
        self.where.setText(told(self.session.circuit, point))
        self.expects.setText(f"Should read {reads(point, self._expected(point))}")
        reading = self.readings.get(point.id)
        self.field.setText("" if reading is None or reading.value is None else f"{reading.value:g}")
        found = meanings(self.table, point)
        lines = [f"{reads(point, m.reads)}: {m.fault.title}" for m in found[:MOST_MEANINGS]]
        more = f"\n… and {len(found) - MOST_MEANINGS} more" if len(found) > MOST_MEANINGS else ""
        self.means.setText("Otherwise:\n" + "\n".join(lines) + more if lines else "")
        self._show_means()

    def _show_means(self) -> None:
        self.means.setVisible(self._quiet and bool(self.means.text()))

    def _typed(self) -> None:
        if self.field.text().strip():
            self.note(self.field.text())

    def note(self, text: str) -> None:
        """Takes what the meter shows at the chosen point, and goes to the next one that is open."""
        point = self.point()
        if point is None:
            return
        try:
            reading = typed(point, text, self._expected(point))
        except ReadingError as error:
            self.fault.setText(str(error)[0].upper() + str(error)[1:] + ".")
            self.fault.setVisible(True)
            return
        self.session.edit(f"note what {told(self.session.circuit, point)} reads", edits.note_reading, reading)
        if self.mark(point) == "done":
            self._to_next(point)

    def _to_next(self, point: Point) -> None:
        points = [p for p, _ in self._points()]
        at = points.index(point)
        following = next((p for p in points[at + 1 :] if self.mark(p) == "open"), None)
        if following is not None:
            self.list.choose(following.id)
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def _forget(self, point_id: str) -> None:
        if point_id in self.readings:
            self.session.edit("forget a reading", edits.drop_readings, (point_id,))

    # --- what it says -----------------------------------------------------------------------------

    def _show_parts(self) -> None:
        parts = [(NOTHING, "nothing in particular")] + [(p.id, p.name) for p in self.session.plan.parts]
        if self.wrong_part not in dict(parts):
            self.wrong_part = NOTHING
        shown = (parts, self.wrong_part)
        if shown == self._parts_shown:
            return  # who is in the list is not thrown out of it
        self._parts_shown = shown
        clear_layout(self.parts_in)
        self.parts_in.addWidget(label("What does not work?", "strong"))
        self.parts_in.addWidget(
            choice("wrongPart", "The part that does not do as it should", parts, self.wrong_part, self._blame)
        )

    def _blame(self, part: str) -> None:
        self.wrong_part = part
        self._show_answer()

    def found(self) -> Answer | None:
        """What the readings say; nothing where there are none, and nobody complains."""
        if self._ranking is None or not (self.wrong_part or self._telling()):
            return None
        return self._ranking.answer(self._telling(), [self.wrong_part] if self.wrong_part else [])

    def _telling(self) -> list[Reading]:
        """The readings that are still about this plan."""
        known = {p.id: p for p in self.table.points} if self.table else {}
        return [
            r
            for r in self.readings.values()
            if r.point in known and not stale(r, self._expected(known[r.point]))
        ]

    def _show_answer(self) -> None:
        """What the readings say. What one wrong reading would mean stands there until then."""
        clear_layout(self.answer_in)
        answer = self.found()
        planned = answer is not None and answer.as_planned and not answer.nothing_explains
        self._quiet = answer is None or (planned and not self.wrong_part)
        self._show_means()
        if answer is None:
            return
        if answer.nothing_explains:
            text = "Nothing single explains this. Measure again, or look for two faults."
            self.answer_in.addWidget(label(text, "care"))
        elif self._quiet:
            self.answer_in.addWidget(label("All of it reads as planned.", "faint"))
        else:
            self._put_faults(answer)

    def _put_faults(self, answer: Answer) -> None:
        if answer.next is not None:
            self._put_next(answer.next.point)
        for ranked in answer.ranked[:MOST_FAULTS]:
            title = "; or ".join(f.title for f in ranked.faults)
            ties = [t for f in ranked.faults for t in f.ties]
            look = button("Look", "lookAgain", f"{title}. Shows the step", partial(self._look, ties))
            look.setEnabled(bool(ties))
            look.setAccessibleName(f"Look at {title}")
            self.answer_in.addWidget(row(label(f"{ranked.share:.0%}  {title}"), look, stretch=0))
        left = len(answer.ranked) - MOST_FAULTS
        if left > 0:
            self.answer_in.addWidget(label(f"… and {counted(left, 'fault')} more that agree", "faint"))

    def _put_next(self, point: Point) -> None:
        c = self.session.circuit
        on = f" with {c.titles.part(point.stage)} on" if point.stage else ""
        text = f"Measure next: {told(c, point)}{on}"
        tip = f"Tells most of what is left apart. As planned {reads(point, self._expected(point))}"
        self.answer_in.addWidget(label(text, "strong"))
        self.answer_in.addWidget(
            row(
                label(f"as planned {reads(point, self._expected(point))}", "faint"),
                button("Type it", "measureNext", tip, partial(self.ask, point)),
            )
        )

    def ask(self, point: Point) -> None:
        """Makes a point the one whose reading is typed, whether it is listed or not."""
        if point.id not in [p.id for p, _ in self._points()]:
            self._asked = (*self._asked, point)
            self.list.fill(list(self._lines()))
        self.list.choose(point.id)
        self.field.setFocus(Qt.FocusReason.OtherFocusReason)

    def _look(self, ties: list[str]) -> None:
        if ties:
            self.looked.emit(ties[0])

    def set_palette(self, palette: Palette) -> None:
        self.p = self.list.p = palette
        self.list.viewport().update()
