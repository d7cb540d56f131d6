"""The list to buy from, as CSV (RFC 4180)."""

import csv
import io
from collections import Counter

from knotplan.core.loom.cords import colour_of
from knotplan.core.plan import SeriesResistor
from knotplan.core.quantity import code, show
from knotplan.core.report import Report
from knotplan.core.series import bands

FORMULA = ("=", "+", "-", "@", "\t", "\r")


def tame(text: str) -> str:
    """A cell that no spreadsheet takes for a formula.

    >>> tame("=1+1"), tame("5 V brick")
    ("'=1+1", '5 V brick')
    """
    return f"'{text}" if text.startswith(FORMULA) else text


def rows(report: Report) -> list[tuple[int, str, str]]:
    """(count, what, which) of everything to buy."""
    c = report.circuit
    things: Counter[tuple[str, str]] = Counter()
    users: dict[tuple[str, str], list[str]] = {}

    def put(what: str, detail: str, user: str) -> None:
        things[what, detail] += 1
        users.setdefault((what, detail), []).append(user)

    put(c.board.title, c.board.summary, "")
    for part_id, part in c.parts.items():
        values = "; ".join(f"{p.title.lower()} {v if isinstance(v, str) else show(v, p.unit)}"
                           for (n, p), v in zip(part.params.items(), _values(report, part_id), strict=True)
                           if n not in ("dimmed", "wish", "colour"))  # fmt: skip
        put(part.summary[0].upper() + part.summary[1:], values, c.placed[part_id].name)
    for tie in c.plan.ties:
        for bead in tie.beads:
            rating = f", {show(bead.rating_w, 'W')}" if isinstance(bead, SeriesResistor) else ""
            mark = f"{code(bead.ohm)}, {bead.tolerance:.0%}{rating}, bands {' '.join(bands(bead.ohm, bead.tolerance))}"
            put(f"Resistor {show(bead.ohm, 'Ω')}", mark, c.signal_name(tie))
        if tie.to.startswith("board.") and tie.to.partition(".")[2] not in c.board.sockets:
            put("Jumper cord", colour_of(c, tie), "")
    return [(n, what, detail + (f" ({', '.join(u for u in users[what, detail] if u)})" if any(users[what, detail]) else ""))
            for (what, detail), n in things.items()]  # fmt: skip


def _values(report: Report, part_id: str) -> list[str | float]:
    placed = report.circuit.placed[part_id]
    return [placed.params.get(n, p.default) for n, p in report.circuit.parts[part_id].params.items()]


def parts_csv(report: Report) -> str:
    """The parts list as CSV with a heading."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["count", "part", "details"])
    for count, what, detail in rows(report):
        writer.writerow([count, tame(what), tame(detail)])
    return out.getvalue()
