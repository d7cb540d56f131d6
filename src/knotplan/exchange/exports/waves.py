"""The waves of a plan on their way out: as a dump and as a drawing."""

from knotplan.core.check.report import Report
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.drawing.shapes import Picture
from knotplan.core.drawing.timing import waves_picture
from knotplan.core.timing.lanes import lanes
from knotplan.core.timing.span import usual_span
from knotplan.exchange.exports.export import Export
from knotplan.exchange.svg import svg
from knotplan.exchange.vcd import dump

MOST_PICTURED = 40
PICTURED_S = 0.05
EMPTY = b"$comment No pin gives anything out yet. $end\n$timescale 1 ns $end\n$enddefinitions $end\n"


def whole_dump(report: Report) -> bytes:
    """Every lane, for two periods of the slowest, or as long as the file stays small."""
    all_lanes = lanes(report.circuit)
    return dump(all_lanes, 0.0, usual_span(all_lanes), report.circuit.plan.title) if all_lanes else EMPTY


def whole_picture(report: Report) -> Picture:
    """The first lanes of a plan."""
    first_lanes = lanes(report.circuit)[:MOST_PICTURED]
    return waves_picture(
        first_lanes, 0.0, min(PICTURED_S, usual_span(first_lanes)), report.circuit.plan.title, LIGHT
    )


def whole_svg(report: Report) -> str:
    return svg(whole_picture(report), report.circuit.plan.title)


DUMP_EXPORT = Export(
    "waves",
    "Waves (VCD)",
    ".vcd",
    "what each output does, as a value change dump",
    lambda report, _: whole_dump(report),
    lambda report, _: whole_dump(report).decode("utf-8"),
    "-waves",
)
PICTURE_EXPORT = Export(
    "waves-svg",
    "Waves (SVG)",
    ".svg",
    "the same as a drawing",
    lambda report, _: whole_svg(report).encode("utf-8"),
    lambda report, _: whole_picture(report),
    "-waves",
)
