"""Captured talk on an I2C bus, as a scan: who acknowledged answers, who did not is silent."""

from collections.abc import Iterator, Sequence

from knotplan.core.bringup.captured.decoders import i2c
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.program.named import words_of
from knotplan.core.bringup.said import Answer, BusScan
from knotplan.core.bringup.scan import on_board
from knotplan.core.circuit.circuit import Circuit

DATA, CLOCK = "sda", "scl"


def scans_of(c: Circuit, traces: Sequence[Trace]) -> list[BusScan]:
    """A scan for each pair of data and clock among the channels, known by their names. A number in the name
    is the bus's; without one it is left open."""
    return [_scan(data, clock, number) for data, clock, number in _pairs(c, traces)]


def _pairs(c: Circuit, traces: Sequence[Trace]) -> Iterator[tuple[Trace, Trace, int | None]]:
    known = on_board(c)
    clocks = {_number(t): t for t in traces if CLOCK in words_of(t.name)}
    for trace in traces:
        if DATA in words_of(trace.name) and (clock := clocks.get(_number(trace))) is not None:
            number = _number(trace)
            yield trace, clock, number if number in known else None


def _number(trace: Trace) -> int | None:
    digits = [w for w in words_of(trace.name) if w.isdigit()]
    return int(digits[0]) if len(digits) == 1 else None


def _scan(data: Trace, clock: Trace, number: int | None) -> BusScan:
    cells: dict[int, Answer] = {}
    for talk in i2c(data, clock):
        if cells.get(talk.address) != "answers":
            cells[talk.address] = "answers" if talk.acknowledged else "silent"
    return BusScan(number, cells, f"{data.name} and {clock.name}")
