"""What has come in from the bench, while a plan is open. It is not kept in the plan's file: it is as old as
the moment at which it was read."""

from collections.abc import Sequence
from typing import Literal

from PySide6.QtCore import QObject, Signal

from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.held import Bench
from knotplan.core.bringup.program.code import Source
from knotplan.core.bringup.program.dialect import Dialect
from knotplan.core.bringup.said import BusScan, LineState
from knotplan.core.practice.bench import PracticeBench
from knotplan.exchange.bench.serial_text import Column
from knotplan.exchange.source import dialect_file, languages

Kind = Literal["scan", "lines", "waves", "program", "log"]
KINDS: tuple[Kind, ...] = ("scan", "lines", "waves", "program", "log")


class Evidence(QObject):
    """One of each kind; a newer one takes the place of an older one."""

    changed = Signal()
    version = 0
    """another one with every change"""

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.scans: tuple[BusScan, ...] = ()
        self.lines: tuple[LineState, ...] = ()
        self.traces: tuple[Trace, ...] = ()
        self.channels: dict[int, str] = {}
        """what the maker says of channels: {number: lane, or empty}"""
        self.files: tuple[tuple[str, str], ...] = ()
        """source: (name, text)"""
        self.sources: tuple[Source, ...] = ()
        self.own_dialects: tuple[Dialect, ...] = ()
        """taken for this program, before the shipped ones and those of the own folder"""
        self.scheme = ""
        self.columns: tuple[Column, ...] = ()
        self.origin: dict[Kind, str] = {}
        """where each came from: a file's name, "pasted", "this machine" """
        self.practice: PracticeBench | None = None
        """everything is made up by it"""
        self._shipped: tuple[Dialect, ...] = ()

    def _tell(self) -> None:
        self.version += 1
        self.changed.emit()

    def _came(self, kind: Kind, origin: str) -> None:
        self.origin[kind] = origin
        self._tell()

    def take_scans(self, scans: Sequence[BusScan], origin: str) -> None:
        self.scans = tuple(scans)
        self._came("scan", origin)

    def take_lines(self, lines: Sequence[LineState], origin: str) -> None:
        self.lines = tuple(lines)
        self._came("lines", origin)

    def take_traces(self, traces: Sequence[Trace], origin: str) -> None:
        """Channels, from the beginning of the capture on."""
        start = min((t.start_s for t in traces), default=0.0)
        self.traces = tuple(t.shifted(-start) for t in traces) if start else tuple(traces)
        self.channels = {}
        self._came("waves", origin)

    def take_files(self, files: Sequence[tuple[str, str]], origin: str) -> None:
        self.files = tuple(files)
        self.sources = tuple(languages.trees(files))
        self.own_dialects = ()
        self._came("program", origin)

    def take_columns(self, columns: Sequence[Column], origin: str) -> None:
        self.columns = tuple(columns)
        self._came("log", origin)

    def take_dialect(self, dialect: Dialect) -> None:
        self.own_dialects = (dialect, *self.own_dialects)
        self._shipped = ()
        self._tell()

    def count_by(self, scheme: str) -> None:
        """How the program counts pins, where its dialect does not say."""
        self.scheme = scheme
        self._tell()

    def say_channels(self, channels: dict[int, str]) -> None:
        """Which lane the maker says that channels are."""
        self.channels |= channels
        self._tell()

    def clear(self, kind: Kind) -> None:
        """As if nothing of a kind had come in."""
        match kind:
            case "scan":
                self.scans = ()
            case "lines":
                self.lines = ()
            case "waves":
                self.traces, self.channels = (), {}
            case "program":
                self.files, self.sources, self.own_dialects = (), (), ()
            case "log":
                self.columns = ()
        self.origin.pop(kind, None)
        self._tell()

    def clear_all(self) -> None:
        for kind in KINDS:
            self.blockSignals(kind != KINDS[-1])
            self.clear(kind)

    @property
    def dialects(self) -> tuple[Dialect, ...]:
        if not self._shipped:
            self._shipped = dialect_file.everything()
        return (*self.own_dialects, *self._shipped)

    def bench(self) -> Bench:
        """All of it, to be held against a plan."""
        return Bench(
            self.scans,
            self.lines,
            self.traces,
            tuple(self.channels.items()),
            self.sources,
            self.dialects if self.sources else (),
            self.scheme,
        )
