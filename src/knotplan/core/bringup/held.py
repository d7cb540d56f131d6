"""Everything that a bench and a program have said so far, held against one plan."""

from collections.abc import Mapping, Sequence
from typing import Literal

from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.core.bringup import lines as gpio
from knotplan.core.bringup import scan
from knotplan.core.bringup.captured import compare as captures
from knotplan.core.bringup.captured.talk import scans_of
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.program import compare as programs
from knotplan.core.bringup.program.code import Source
from knotplan.core.bringup.program.dialect import Dialect
from knotplan.core.bringup.said import BusScan, LineState
from knotplan.core.check.report import Report


class Bench(Struct, frozen=True):
    """What has come in; nothing where nobody asked."""

    scans: tuple[BusScan, ...] = ()
    lines: tuple[LineState, ...] = ()
    traces: tuple[Trace, ...] = ()
    channels: tuple[tuple[int, str], ...] = ()
    """what the maker says of channels: (number, id of a lane, or empty for none)"""
    sources: tuple[Source, ...] = ()
    dialects: tuple[Dialect, ...] = ()
    scheme: str = ""
    """in which the program counts pins where its dialect does not say"""

    @property
    def empty(self) -> bool:
        """Nothing has come in yet."""
        return not self.kinds

    @property
    def kinds(self) -> int:
        """How many kinds of things have come in."""
        return sum(map(bool, (self.scans, self.lines, self.traces, self.sources)))


Kind = Literal["scan", "lines", "capture", "program"]


class Held(Struct, frozen=True):
    """The same beside the plan."""

    buses: tuple[scan.ScannedBus, ...]
    of_buses: tuple[Difference, ...]
    """of these, and of scans that are of no planned bus"""
    lines: gpio.SeenLines | None
    captured: captures.Captured | None
    program: programs.Compared | None
    differences: tuple[Difference, ...]
    """all of them, by what they came from"""

    silent: tuple[Kind, ...] = ()
    """what has come in, and of which nothing could be held against the plan"""

    @property
    def agrees(self) -> bool:
        """Nothing is otherwise than planned."""
        return all(d.gravity == "note" for d in self.differences)


def held(report: Report, catalog: Catalog, bench: Bench) -> Held:
    """Compares all that has come in. Buses that were captured count as scanned."""
    c = report.circuit
    buses, loose = scan.compared(c, bench.scans, catalog)
    of_buses = [d for b in buses for d in b.differences] + loose
    lines = gpio.compared(c, bench.lines, report.points if report.checked else None) if bench.lines else None
    chosen: Mapping[int, str] = dict(bench.channels)
    captured = captures.compared(c, bench.traces, chosen) if bench.traces else None
    if captured is not None:
        talked, more = scan.compared(c, scans_of(c, bench.traces), catalog)
        buses += talked
        of_buses += [d for b in talked for d in b.differences] + more
    program = programs.compared(c, bench.sources, bench.dialects, bench.scheme) if bench.sources else None
    found = list(of_buses)
    for part in (lines, captured, program):
        found += part.differences if part is not None else ()
    says: dict[Kind, bool] = {}
    if bench.scans:
        says["scan"] = bool(of_buses) or any(bus.bus.devices for bus in buses)
    if lines is not None:
        says["lines"] = lines.says_anything
    if captured is not None:
        says["capture"] = captured.says_anything or bool(buses)
    if program is not None:
        says["program"] = program.says_anything
    silent = tuple(kind for kind, anything in says.items() if not anything)
    return Held(tuple(buses), tuple(_once(of_buses)), lines, captured, program, tuple(_once(found)), silent)


def _once(differences: Sequence[Difference]) -> list[Difference]:
    return list({(d.kind, d.title, d.spot): d for d in differences}.values())
