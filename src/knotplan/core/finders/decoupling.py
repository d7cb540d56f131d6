"""The small capacitor beside a chip."""

from knotplan.core.finders.finder import CAPACITORS, Asked, Finder, Found, Input, chosen, series_input
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

LOSES = 0.3
"""what a ceramic capacitor loses by its voltage, its age and its tolerance together"""


def _find(a: Asked) -> Found:
    amps, time, drop, volts = (a.number(n) for n in ("current", "time", "drop", "supply"))
    cord, series = a.number("length"), a.word("series")
    exact = amps * time / drop / (1 - LOSES)

    def at(farad: float) -> tuple[tuple[Number, ...], str]:
        left = farad * (1 - LOSES)
        return (
            Number("dip of the supply", amps * time / left, "V", drop),
            Number("charge of one edge", amps * time, "C"),
            Number("rating at least", 2 * volts, "V"),
        ), ""

    cautions = (
        (
            f"{show(cord, 'm')} from the chip its cords' inductance ({show(cord * 1e-6, 'H')}) undoes it: "
            "right beside the supply pins it works.",
        )
        if cord > 0.02
        else ()
    )
    return chosen(
        "decoupling capacitor",
        "F",
        max(exact, 100e-9),
        series,
        at,
        "C = I·t / ΔV, over what is left of a ceramic's capacitance; at least 100 nF for each chip",
        "charge of a capacitor, Q = C·V; ceramics lose about 30 %; IEC 60063",
        cautions=cautions,
        rating_v=2 * volts,
    )


finder = Finder(
    "decoupling",
    "Decoupling capacitor",
    "Which capacitor beside a chip?",
    (
        Input("current", "Current of an edge", "A", 0.05, most=10, help="By which it jumps."),
        Input("time", "For how long", "s", 50e-9, most=1, help="Until the supply answers."),
        Input("drop", "Dip allowed", "V", 0.05, help="Of the supply."),
        Input("supply", "Supply", "V", 3.3, help="Its voltage."),
        Input("length", "Distance", "m", 0.005, most=10, help="From the chip's supply pins."),
        series_input("E3", CAPACITORS),
    ),
    _find,
)
