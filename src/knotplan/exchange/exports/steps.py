"""The steps on paper: a box to tick for each, where its hole is, and a column for what the meter reads."""

from msgspec import Struct

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.palette import CORDS
from knotplan.core.meter.checks import checks, standing
from knotplan.core.meter.points import told
from knotplan.core.meter.table import fault_table
from knotplan.core.meter.told import reads, shown
from knotplan.core.wiring.entries import CHANGED, Entry, entries
from knotplan.core.wiring.state import state_of
from knotplan.core.wiring.steps import STAGES, steps_of
from knotplan.core.wiring.words import between
from knotplan.exchange.exports.export import Export
from knotplan.exchange.exports.sheet import rendered

BOXES = {"open": " ", "done": "x", "changed": "~", "wrong": "!"}
"""what stands in a box"""


class StepRow(Struct, frozen=True):
    """A line with its box."""

    mark: str
    text: str
    under: str = ""
    ink: str = ""
    """of its cord"""
    expected: str = ""
    """what a meter reads"""
    read: str = ""
    """what it did read; nothing leaves room for it"""


class Section(Struct, frozen=True):
    """Lines under a heading."""

    title: str
    rows: tuple[StepRow, ...]

    @property
    def measured(self) -> bool:
        """Its lines have a column for readings."""
        return any(row.expected for row in self.rows)


def sections(report: Report) -> tuple[Section, ...]:
    """Everything to be done and to be measured, in order: nothing is switched on before it has been
    measured."""
    c = report.circuit
    steps: dict[str, list[StepRow]] = {}
    switched: list[Entry] = []
    for entry in entries(c, steps_of(c), state_of(c)):
        if entry.step is not None and entry.step.stage == "power" and entry.group != CHANGED:
            switched.append(entry)
        else:
            steps.setdefault(entry.group, []).append(_row(c, entry))
    measured = _measured(c)
    found = [Section(title, tuple(rows)) for title, rows in steps.items()]
    found += [Section(title, rows) for title, rows in measured.pop("", {}).items()]
    for entry in switched:
        found.append(Section(f"{STAGES['power']}: {entry.title}", (_row(c, entry),)))
        stage = entry.step.part if entry.step else ""
        found += [Section(title, rows) for title, rows in measured.get(stage, {}).items()]
    return tuple(found)


def _measured(c: Circuit) -> dict[str, dict[str, tuple[StepRow, ...]]]:
    """The readings that are worth it: by the supply that was switched on last, then by heading."""
    table = fault_table(c)
    read = {r.point: r for r in c.plan.readings}
    found: dict[str, dict[str, tuple[StepRow, ...]]] = {}
    for check in checks(table):
        point = check.point
        head = "Measure before anything is switched on"
        if point.range == "volts":
            head = f"Measure with {c.titles.part(point.stage)} on: volts to ground"
        elif check.needed:
            head = "Measure first: between the supplies, nothing switched on"
        reading = read.get(point.id)
        row = StepRow(
            standing(point, check.expected, reading),
            told(c, point),
            expected=reads(point, check.expected),
            read=shown(reading, point) if reading else "",
        )
        rows = found.setdefault(point.stage, {})
        rows[head] = (*rows.get(head, ()), row)
    return found


def _row(c: Circuit, entry: Entry) -> StepRow:
    step = entry.step
    under, ink = "", ""
    if step is not None and step.where is not None:
        beside = between(c, step.where)
        under = f"{step.where.words}, {beside}" if beside else step.where.words
    if step is not None and step.colour and entry.group != CHANGED:
        ink = CORDS.get(step.colour, "")
    return StepRow(entry.mark, entry.do, under, ink)


def text(report: Report, scheme: str = "") -> str:
    """The same as plain text."""
    lines = [f"{report.circuit.plan.title}: wire up", ""]
    for section in sections(report):
        lines.append(section.title)
        for row in section.rows:
            lines.append(f"  [{BOXES[row.mark]}] {row.text}")
            if row.under:
                lines.append(f"        {row.under}")
            if row.expected:
                lines.append(f"        should read {row.expected}; reads {row.read or '____________'}")
        lines.append("")
    return "\n".join(lines)


def html(report: Report, scheme: str = "") -> str:
    """The sheet as a page that stands alone."""
    return rendered("steps.html", report, sections=sections(report), boxes=BOXES)


EXPORT = Export(
    "steps",
    "Step sheet (HTML)",
    ".html",
    "every step with a box to tick, every check with room for its reading",
    lambda report, _: html(report).encode("utf-8"),
    text,
    "-steps",
)
