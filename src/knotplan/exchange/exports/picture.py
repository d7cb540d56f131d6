"""The loom as a drawing."""

from knotplan.core.check.report import Report
from knotplan.core.drawing.loom.picture import picture
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.drawing.loom.view import LoomView
from knotplan.core.drawing.palette import LIGHT, Palette
from knotplan.core.drawing.shapes import Picture
from knotplan.exchange.exports.export import Export
from knotplan.exchange.svg import svg


def plan_picture(report: Report, p: Palette = LIGHT) -> Picture:
    """The whole loom, nothing selected."""
    return picture(report, lay_out(report.circuit), LoomView(), p)


def picture_svg(report: Report) -> str:
    """The loom by daylight."""
    return svg(plan_picture(report), report.circuit.plan.title)


EXPORT = Export(
    "svg",
    "Picture (SVG)",
    ".svg",
    "the loom as a drawing that scales",
    lambda report, _: picture_svg(report).encode("utf-8"),
    lambda report, _: plan_picture(report),
)
