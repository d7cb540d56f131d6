"""The Timing view: what does each pin do, and when?"""

from pathlib import Path

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QWidget

from knotplan.core.drawing.palette import LIGHT, Palette
from knotplan.core.drawing.timing import waves_picture
from knotplan.core.quantity.written import show
from knotplan.core.text.timing_findings import findings_about, worst
from knotplan.core.timing.lanes import Lane, lanes
from knotplan.core.timing.span import usual_span
from knotplan.desktop import lettering
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, column_in, label, row
from knotplan.desktop.panels.segments import Segment, Segments
from knotplan.desktop.panels.side_pane import ROOMY, SidePane
from knotplan.desktop.session import Session
from knotplan.desktop.timing.lane_list import LaneList
from knotplan.desktop.timing.lanes_plot import AXIS, LanesPlot
from knotplan.desktop.timing.part_panel import PartTiming
from knotplan.desktop.view import Page
from knotplan.exchange.files import write_atomically

NAMES, NAMES_NARROW = 228, 170
ALL = "All"
SPANS = ((10.0, "10 s"), (1.0, "1 s"), (0.05, "50 ms"), (1e-3, "1 ms"), (20e-6, "20 µs"))
FIRST_S = 0.05
"""what is looked at first, where anything happens in it"""
MOST_PICTURED = 40


class TimingView(Page):
    """Lanes by name, their waves beside them, and what there is to say and set on the right."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Timing")
        self.all: tuple[Lane, ...] = ()
        self._fresh = True
        self.list = LaneList(palette)
        self.plot = LanesPlot(palette)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Lanes with …")
        self.filter.setAccessibleName("Only lanes with")
        self.filter.setToolTip("Shows only lanes with these letters in their name, pin or description")
        self.filter.setClearButtonEnabled(True)
        self.read = label("")
        self.read.setObjectName("cursors")
        self.side = SidePane(session, "timingSide", "About the chosen lane")
        self.empty = label(
            "No pin gives anything out yet. Tie a servo, a light, a relay, a stepper or a chain of pixels; "
            "its lane appears here.",
            "faint",
        )
        self._compose()
        equip(self.list, session.noticed.emit, self.filter)
        self.list.chosen.connect(self._chosen)
        self.list.verticalScrollBar().valueChanged.connect(self.plot.scroll_to)
        self.plot.moved.connect(self._say)
        self.filter.textChanged.connect(lambda _: self._filtered())
        session.changed.connect(self._changed)

    def _compose(self) -> None:
        spans = Segments("spans", "Stretch of time", "How much time to look at", "chip", 6)
        said = [Segment(words, words, f"Look at {words}", f"Look at {words}") for _, words in SPANS]
        spans.fill([Segment(ALL, ALL, "Look at all", "Two periods of the slowest lane"), *said])
        spans.chosen.connect(self._look_at)
        self.spans = spans
        self.dump = button(
            "Save dump …", "saveDump", "What is in sight, as a value change dump (VCD)", self.save_dump
        )
        self.picture = button(
            "Save picture …", "savePicture", "What is in sight, as a drawing (SVG)", self.save_picture
        )
        self.names = QWidget()
        names = column_in(self.names)
        names.addWidget(self.list, 1)
        foot = QWidget()
        lettering.fix(foot, height=AXIS)
        names.addWidget(foot)
        self.across = across = QHBoxLayout()
        across.setSpacing(0)
        across.addWidget(self.names)
        across.addWidget(self.plot, 1)
        middle = QWidget()
        down = column_in(middle, 8)
        down.addWidget(row(label("Timing", "head", wrap=False), self.filter, spans, stretch=1))
        down.addWidget(self.empty)
        down.addLayout(across, 1)
        down.addWidget(row(self.read, self.dump, self.picture, stretch=0))
        whole_layout = QHBoxLayout(self)
        whole_layout.setContentsMargins(22, 14, 14, 10)
        whole_layout.setSpacing(14)
        whole_layout.addWidget(middle, 1)
        whole_layout.addWidget(self.side)

    def suit(self) -> None:
        self.side.suit(self.room)
        wide = self.room > lettering.px(ROOMY)
        self.names.setFixedWidth(lettering.beside(NAMES if wide else NAMES_NARROW, self.room))

    # --- following the session ------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        self.fill()
        self.list.setFocus()

    def _changed(self) -> None:
        if self.isVisible():
            self.fill()

    def fill(self) -> None:
        """Anew from the plan; the stretch that is looked at stays."""
        self.all = lanes(self.session.circuit)
        self.empty.setVisible(not self.all)
        self._filtered()
        if self._fresh and self.all:
            self._fresh = False
            quick = any(1e-3 <= lane.wave.period_s <= 0.1 for lane in self.all)
            self.plot.look_at(0.0, FIRST_S if quick else usual_span(self.all))

    def _filtered(self) -> None:
        text = self.filter.text().strip().casefold()
        self.shown = [x for x in self.all if text in f"{x.title} {x.where} {x.about}".casefold()]
        self.list.fill(self.shown, worst(self.session.report))
        self.plot.show_lanes(self.shown, self.list.lane())
        for out in (self.dump, self.picture):
            out.setEnabled(bool(self.shown))
        self._say()

    def _chosen(self, lane: Lane | None) -> None:
        self.plot.show_lanes(self.plot.lanes, lane)
        if lane is None or not self.session.report.checked:
            self.side.tell(self.p)
            return
        findings = findings_about(self.session.report, lane.part)
        self.side.tell(self.p, findings, lambda down: down.addWidget(PartTiming(self.session, self.p, lane)))

    # --- stretches and cursors ----------------------------------------------------------------------

    def _look_at(self, words: str) -> None:
        self.spans.choose("")  # it is a jump, not a state
        if words == ALL:
            self.look_at_all()
        else:
            self.look(next(span for span, said in SPANS if said == words))

    def look(self, span_s: float) -> None:
        """So much time, from cursor A on where it is set, else from where it was."""
        start = self.plot.at[0] if self.plot.at[0] is not None else self.plot.start_s
        start = max(0.0, start - span_s * 0.05) if self.plot.at[0] is not None else start
        self.plot.look_at(start, start + span_s)

    def look_at_all(self) -> None:
        self.plot.look_at(0.0, usual_span(self.shown or self.all))

    def _say(self) -> None:
        """Cursors and their difference, in the line below."""
        a, b = self.plot.at
        cursors = [f"{name} {show(at, 's', 6)}" for name, at in (("A", a), ("B", b)) if at is not None]
        if a is not None and b is not None and a != b:
            cursors.append(f"apart {show(abs(b - a), 's', 5)}, {show(1 / abs(b - a), 'Hz', 4)}")
        lane = self.list.lane()
        if lane is not None and a is not None:
            cursors.append(f"{lane.title} is {'high' if lane.wave.level(a) else 'low'} at A")
        hint = "Click for cursor A, Shift+click for B; Page Down goes to the next edge"
        self.read.setText("   ".join(cursors) or hint)

    # --- out ----------------------------------------------------------------------------------------

    def _path(self, what: str, suffix: str) -> Path | None:
        base = (
            self.session.path.with_suffix("").with_suffix(suffix)
            if self.session.path
            else Path.home() / f"waves{suffix}"
        )
        name, _ = QFileDialog.getSaveFileName(self, f"Save the {what}", str(base), f"{what} (*{suffix})")
        return Path(name) if name else None

    def save_dump(self) -> None:
        path = self._path("dump", ".vcd")
        if path is not None:
            self.write_dump(path)

    def write_dump(self, path: Path) -> None:
        """What is in sight as a value change dump."""
        from knotplan.exchange.vcd import DumpError, dump

        try:
            write_atomically(
                path, dump(self.shown, self.plot.start_s, self.plot.end_s, self.session.plan.title)
            )
        except (OSError, DumpError) as error:
            self.session.noticed.emit(f"{path.name} was not written: {error}")
            return
        self.session.noticed.emit(f"Wrote {path}")

    def save_picture(self) -> None:
        path = self._path("picture", ".svg")
        if path is not None:
            self.write_picture(path)

    def write_picture(self, path: Path) -> None:
        """What is in sight as a drawing: the first lanes, from the chosen one on where there are many."""
        from knotplan.exchange.svg import svg

        at = max(0, self.list.currentIndex().row()) if len(self.shown) > MOST_PICTURED else 0
        chosen, title = self.shown[at : at + MOST_PICTURED], self.session.plan.title
        picture = waves_picture(chosen, self.plot.start_s, self.plot.end_s, title, LIGHT)
        try:
            write_atomically(path, svg(picture, title).encode("utf-8"))
        except OSError as error:
            self.session.noticed.emit(f"{path.name} was not written: {error}")
            return
        self.session.noticed.emit(f"Wrote {path}")

    def set_palette(self, palette: Palette) -> None:
        self.p = self.list.p = palette
        old = self.plot
        self.plot = LanesPlot(palette)
        self.plot.at, self.plot.offset = old.at, old.offset
        self.across.replaceWidget(old, self.plot)
        old.deleteLater()
        self.list.verticalScrollBar().valueChanged.connect(self.plot.scroll_to)
        self.plot.moved.connect(self._say)
        self.plot.start_s, self.plot.end_s = old.start_s, old.end_s
        if self.isVisible():
            self.fill()
