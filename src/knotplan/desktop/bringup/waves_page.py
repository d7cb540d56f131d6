"""Captured waveforms against the plan's lanes."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QAbstractListModel, QModelIndex, Qt, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QListView, QVBoxLayout, QWidget
from shiboken6 import isValid

from knotplan.core.bringup.captured.compare import Matched
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.held import Held
from knotplan.core.drawing.palette import Palette
from knotplan.core.quantity.written import counted, show
from knotplan.core.timing.lanes import lanes
from knotplan.desktop import lettering
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.bringup.capture_plot import CapturePlot
from knotplan.desktop.bringup.evidence import Evidence
from knotplan.desktop.bringup.page import SourcePage
from knotplan.desktop.bringup.table_dialog import ask_how
from knotplan.desktop.dialogs import ErrorDialog, run
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, choice, column_in, label, row
from knotplan.desktop.panels.two_lines import Index, TwoLineRow, TwoLines
from knotplan.desktop.session import Session
from knotplan.desktop.timing.lanes_plot import AXIS
from knotplan.desktop.tips import tip_text
from knotplan.exchange.bench import vcd_read, wave_csv, waves
from knotplan.exchange.bench.progress import Stopped
from knotplan.exchange.problems import FileProblemsError

NAMES = 214
LOOK_MS = 80
FIRST_EDGES = 60
"""of the busiest channel, in sight at first"""
WHY = {"maker": "", "name": "by its name", "behaviour": "guessed from what it does", "": ""}
ROW = Qt.ItemDataRole.UserRole


class ChannelModel(QAbstractListModel):
    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Matched] = []

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (the toolkit's own default)
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        m = self.rows[index.row()]
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.AccessibleTextRole:
                return f"{m.trace.name}: {under(m)}"
            case Qt.ItemDataRole.ToolTipRole:
                return tip_text(f"{m.trace.name}: {under(m)}; {counted(m.trace.count, 'edge')}")
        return m if role == ROW else None


def under(m: Matched) -> str:
    """What a channel is taken for, and why."""
    if m.lane is None:
        return "no lane of the plan"
    why = WHY[m.pair.why]
    if m.lane.title == m.trace.name:
        return m.lane.where or "as named"
    return m.lane.title + (f", {why}" if why else "")


def _row(index: Index) -> TwoLineRow:
    m: Matched = index.data(ROW)
    grave = any(d.gravity == "differs" for d in m.differences)
    return TwoLineRow(m.trace.name, under(m), faint=m.lane is None, worst="stop" if grave else None)


class ChannelList(QListView):
    """Its rows stand beside the waves."""

    chosen = Signal(int)

    def __init__(self, palette: Callable[[], object]):
        super().__init__()
        self.model_ = ChannelModel()
        self.setModel(self.model_)
        self.setItemDelegate(TwoLines(self, palette, _row))  # type: ignore[arg-type]
        self.setObjectName("channels")
        self.setAccessibleName("Channels")
        self.setUniformItemSizes(True)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.selectionModel().currentChanged.connect(lambda now, _: self.chosen.emit(now.row()))

    def fill(self, rows: list[Matched]) -> None:
        now, place = max(0, self.currentIndex().row()), self.verticalScrollBar().value()
        self.model_.beginResetModel()
        self.model_.rows = rows
        self.model_.endResetModel()
        if rows:
            self.setCurrentIndex(self.model_.index(min(now, len(rows) - 1), 0))
        self.verticalScrollBar().setValue(place)


class WavesPage(SourcePage):
    """Channels by name, and their waves over the plan's."""

    kind = "waves"
    title = "Waveforms"
    not_compared = "No channel is taken for a lane of the plan. Say below the waves which is which."
    empty = (
        "Open a capture of your logic analyser or oscilloscope: a value change dump (VCD), or a table (CSV) "
        "with a column for the time and one for each channel.\n\n"
        "Channels that are called like a lane are taken for it; others by what they do. You have the "
        "last word."
    )

    def __init__(self, session: Session, palette: Palette, evidence: Evidence):
        self.list = ChannelList(lambda: self.p)
        self.plot = CapturePlot(palette)
        self.lane = choice("lane", "Which lane of the plan this channel is", (), "", self._is)
        self.lane.setMinimumContentsLength(20)
        self.right = button(
            "All are right", "confirm", "Takes every channel for what the list says", self.confirm
        )
        self.read_at = label("", "faint")
        self.progress = label("", "faint", wrap=False)
        self.progress.setToolTip("How much of the capture is read")
        self.stop = button("Stop", "stopReading", "Stops reading; what was there stays", self.stop_reading)
        self._share = 0.0
        self._token: object = None
        super().__init__(session, palette, evidence)
        self.task = BackgroundTask("capture", self)
        self.task.answered.connect(self._came)
        self.task.failed.connect(self._failed)
        self.look = QTimer(self)
        self.look.setInterval(LOOK_MS)
        self.look.timeout.connect(self._show_share)
        self._show_progress(on=False)
        self._traces: tuple[Trace, ...] = ()

    def ways_in(self) -> Sequence[QWidget]:
        return (
            button("Open …", "openCapture", "A value change dump, or a table (CSV)", self.open, "main"),
            self.progress,
            self.stop,
        )

    def compose(self, down: QVBoxLayout) -> None:
        names = QWidget()
        lettering.fix(names, width=NAMES)
        left = column_in(names)
        left.addWidget(self.list, 1)
        foot = QWidget()
        lettering.fix(foot, height=AXIS)
        left.addWidget(foot)
        self.across = QHBoxLayout()
        self.across.setSpacing(0)
        self.across.addWidget(names)
        self.across.addWidget(self.plot, 1)
        down.addLayout(self.across, 1)
        self.is_ = label("", wrap=False)
        down.addWidget(
            row(
                self.is_,
                self.lane,
                self.right,
                button("All of it", "seeAll", "The whole capture", self.see_all),
                button("A few periods", "seeFew", "The first edges of the chosen channel", self.see_few),
            )
        )
        down.addWidget(self.read_at)
        equip(self.list, self.noticed.emit)
        self.list.chosen.connect(self._chosen)
        self.list.verticalScrollBar().valueChanged.connect(self.plot.scroll_to)
        self.plot.moved.connect(self._say)

    # --- in -----------------------------------------------------------------------------------------

    def open(self) -> None:
        for path in self.paths("A capture", "Captures (*.vcd *.csv *.txt *.tsv);;All files (*)")[:1]:
            self.take_file(path)

    def take_file(self, path: Path, *, ask: bool = True) -> None:
        """Reads a capture beside the interface; of a table it asks first what its columns are."""
        how = None
        try:
            if not waves.is_dump(path):
                how = ask_how(path, self) if ask else wave_csv.understood(wave_csv.beginning(path), path.name)
                if how is None:
                    return
        except (FileProblemsError, OSError) as error:
            run(ErrorDialog(path.name, error, self))
            return
        self._share, self._token = 0.0, object()
        token = self._token
        self._show_progress(on=True)
        self.task.ask(lambda: self._load(path, how, token))

    def _load(self, path: Path, how: wave_csv.Understood | None, token: object) -> object:
        """On the thread: the channels, or what is wrong."""

        def reading(share: float) -> bool:
            self._share = share
            return self._token is token and isValid(self)  # else another one is read, or the window is gone

        try:
            if how is not None:
                return path, wave_csv.load(path, how, reading)
            return path, vcd_read.load(path, reading)
        except Stopped:
            return path, None
        except (FileProblemsError, OSError) as error:
            return path, error

    def stop_reading(self) -> None:
        self._token = None

    def _came(self, answer: tuple[Path, object]) -> None:
        path, found = answer
        self._show_progress(on=False)
        if isinstance(found, FileProblemsError | OSError):
            run(ErrorDialog(path.name, found, self))
        elif found is None:
            self.noticed.emit(f"{path.name} was not read to its end; what was there is as it was")
        else:
            self.evidence.take_traces(found, path.name)  # type: ignore[arg-type]

    def _failed(self, why: str) -> None:
        self._show_progress(on=False)
        self.noticed.emit(f"The capture could not be read: {why}")

    def _show_share(self) -> None:
        self.progress.setText(f"{self._share:.0%} read")

    def _show_progress(self, *, on: bool) -> None:
        self._show_share()
        self.progress.setVisible(on)
        self.stop.setVisible(on)
        (self.look.start if on else self.look.stop)()

    # --- beside the plan --------------------------------------------------------------------------------

    def differences(self, held: Held) -> tuple[Difference, ...]:
        return held.captured.differences if held.captured is not None else ()

    def fill(self, held: Held | None) -> None:
        if held is None or held.captured is None:
            return
        rows = list(held.captured.channels)
        fresh = self._traces is not self.evidence.traces
        self._traces = self.evidence.traces
        self.list.fill(rows)
        self.lane.clear()
        self.lane.addItem("no lane", "")
        for lane in lanes(self.session.circuit):
            self.lane.addItem(f"{lane.title} ({lane.where})" if lane.where else lane.title, lane.id)
        guessed = sum(m.pair.why == "behaviour" for m in rows)
        self.right.setEnabled(bool(guessed))
        self._show_chosen()
        if fresh:
            self.see_few()

    def _chosen(self, _: int) -> None:
        self._show_chosen()

    def _now(self) -> Matched | None:
        rows, k = self.list.model_.rows, self.list.currentIndex().row()
        return rows[k] if 0 <= k < len(rows) else None

    def _show_chosen(self) -> None:
        m = self._now()
        self.plot.show_channels(self.list.model_.rows, self.list.currentIndex().row())
        if m is not None:
            self.is_.setText(f"Channel {m.trace.name} is")
            self.lane.setCurrentIndex(max(0, self.lane.findData(m.lane.id if m.lane else "")))
        self._say()

    def _is(self, lane: str) -> None:
        """The maker says which lane the chosen channel is; a channel that had it is none then."""
        k = self.list.currentIndex().row()
        others = {j: "" for j, m in enumerate(self.list.model_.rows) if j != k and m.pair.lane == lane != ""}
        self.evidence.say_channels({**others, k: lane})

    def confirm(self) -> None:
        """All channels are what the list says."""
        self.evidence.say_channels({m.pair.channel: m.pair.lane for m in self.list.model_.rows})

    def look_at(self, difference: Difference) -> None:
        for k, m in enumerate(self.list.model_.rows):
            if m.lane is not None and m.lane.lead in difference.subjects:
                self.list.setCurrentIndex(self.list.model_.index(k, 0))
                return

    # --- stretches --------------------------------------------------------------------------------------

    def see_all(self) -> None:
        self.plot.look_at(0.0, max((t.end_s for t in self.evidence.traces), default=1.0) or 1.0)

    def see_few(self) -> None:
        """The first edges of the chosen channel, or of the busiest one."""
        m = self._now()
        traces = self.evidence.traces
        trace = m.trace if m is not None and m.trace.count else max(traces, key=lambda t: t.count)
        if trace.count < 2:
            self.see_all()
            return
        first, last = float(trace.times[0]), float(trace.times[min(FIRST_EDGES, trace.count) - 1])
        room = (last - first) * 0.05
        self.plot.look_at(max(0.0, first - room), last + room)

    def _say(self) -> None:
        a, b = self.plot.at
        said = [f"{name} {show(at, 's', 6)}" for name, at in (("A", a), ("B", b)) if at is not None]
        if a is not None and b is not None and a != b:
            said.append(f"apart {show(abs(b - a), 's', 5)}, {show(1 / abs(b - a), 'Hz', 4)}")
        self.read_at.setText(
            "   ".join(said)
            or "Thick: captured. Thin: planned. The wheel zooms, a click puts cursor A, Shift+click B"
        )

    def set_palette(self, palette: Palette) -> None:
        super().set_palette(palette)
        old, self.plot = self.plot, CapturePlot(palette)
        self.plot.at, self.plot.start_s, self.plot.end_s = old.at, old.start_s, old.end_s
        self.across.replaceWidget(old, self.plot)
        old.deleteLater()
        self.list.verticalScrollBar().valueChanged.connect(self.plot.scroll_to)
        self.plot.moved.connect(self._say)
        if self.has():
            self._show_chosen()
