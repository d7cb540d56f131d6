"""The chart of a board as SVG."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.chart import chart
from knotplan.core.drawing.palette import LIGHT
from knotplan.exchange.svg import svg


def chart_svg(circuit: Circuit, schemes: tuple[str, ...] = (), ties: bool = True) -> str:
    """The chart by daylight, in the schemes asked for or all of them."""
    return svg(
        chart(circuit, schemes or tuple(circuit.board.schemes), ties, LIGHT), f"{circuit.board.title}: pins"
    )
