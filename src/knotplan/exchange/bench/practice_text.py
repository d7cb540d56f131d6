"""What a practice bench answers, in the forms of the usual tools; each says that it is made up."""

import io
from collections.abc import Iterator, Sequence

from vcd import VCDWriter

from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.said import BusScan, LineState
from knotplan.core.buses.addresses import FREE
from knotplan.exchange.vcd import identifier

MADE_UP = "# practice bench of Knot Plan: made up, no real board\n"
HEAD = "     0  1  2  3  4  5  6  7  8  9  a  b  c  d  e  f\n"


def scans(found: Sequence[BusScan]) -> str:
    """Grids, each below the command that would have printed it."""
    return MADE_UP + "".join(_grid(s) for s in found)


def _grid(scan: BusScan) -> str:
    command = f"$ i2cdetect -y {scan.bus}\n"
    if scan.trouble:
        return f"{command}Error: Could not open file `/dev/i2c-{scan.bus}': No such file or directory\n"
    marks = {"silent": "--", "driver": "UU", "not tried": "  "}
    rows = []
    for row in range(8):
        cells = [
            marks.get(scan.answer(a), f"{a:02x}") if a in FREE else "  "
            for a in range(row * 16, row * 16 + 16)
        ]
        rows.append(f"{row}0: {' '.join(cells)}\n")
    return command + HEAD + "".join(rows)


def lines(found: Sequence[LineState]) -> str:
    """A listing of the second generation."""
    return MADE_UP + "".join(_lines(found))


def _lines(found: Sequence[LineState]) -> Iterator[str]:
    for chip in dict.fromkeys(x.chip for x in found):
        mine = [x for x in found if x.chip == chip]
        yield f"{chip} - {len(mine)} lines:\n"
        for x in mine:
            name = f'"{x.name}"' if x.name else "unnamed"
            said = [x.direction, "active-low" if x.active_low else "", f"drive={x.drive}" if x.drive else ""]
            said += [f"bias={x.bias}" if x.bias else "", f'consumer="{x.used_by}"' if x.used_by else ""]
            yield f"\tline {x.offset:3}:\t{name:16}\t{' '.join(filter(None, said))}\n"


def dump(traces: Sequence[Trace]) -> str:
    """A value change dump in the instrument's own ticks."""
    out = io.StringIO()
    tick = min((t.tick_s for t in traces if t.tick_s), default=1e-6)
    scale = {1e-9: "1 ns", 1e-8: "10 ns", 1e-7: "100 ns", 1e-6: "1 us"}.get(tick, "1 ns")
    unit = tick if tick in (1e-9, 1e-8, 1e-7, 1e-6) else 1e-9
    taken: set[str] = set()
    with VCDWriter(
        out, timescale=scale, date="", comment="practice bench of Knot Plan: made up, no real board"
    ) as w:
        wires = [
            w.register_var("bench", identifier(t.name, taken), "wire", size=1, init=t.rest) for t in traces
        ]
        edges = [
            (round(at / unit), k, level)
            for k, t in enumerate(traces)
            for at, level in zip(t.times.tolist(), t.levels.tolist(), strict=True)
        ]
        for at, k, level in sorted(edges):
            w.change(wires[k], at, level)
        w.close(round(max((t.end_s for t in traces), default=0.0) / unit))
    return out.getvalue()
