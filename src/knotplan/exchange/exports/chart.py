"""The chart of a board as a drawing."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.chart import chart
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.drawing.shapes import Picture
from knotplan.exchange.exports.export import Export
from knotplan.exchange.svg import svg


def board_chart(circuit: Circuit, schemes: tuple[str, ...] = (), ties: bool = True) -> Picture:
    """The chart by daylight, in the schemes asked for or all of them."""
    return chart(circuit, schemes or tuple(circuit.board.schemes), ties, LIGHT)


def chart_svg(circuit: Circuit, schemes: tuple[str, ...] = (), ties: bool = True) -> str:
    return svg(board_chart(circuit, schemes, ties), f"{circuit.board.title}: pins")


EXPORT = Export(
    "chart",
    "Board chart (SVG)",
    ".svg",
    "every pin by all its names, with what is tied",
    lambda report, _: chart_svg(report.circuit).encode("utf-8"),
    lambda report, _: board_chart(report.circuit),
    "-chart",
)
