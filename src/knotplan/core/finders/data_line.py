"""The resistor in a data line: it takes the ringing off, and keeps a first pixel whole."""

from knotplan.core.finders.finder import SERIES_INPUT, TOLERANCE_INPUT, Asked, Finder, Found, Input, chosen
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

METRE_S = 5e-9
"""a signal needs about 5 ns for a metre of cord (two thirds of the speed of light)"""
CLAMP_V, CLAMP_A = 0.6, 0.01
"""what an input's clamp drops, and what it bears while its part has no supply"""


def _find(a: Asked) -> Found:
    z, inner, high, farad, bit = (
        a.number(n) for n in ("impedance", "source_ohm", "high", "capacitance", "shortest")
    )
    length, series = a.number("length"), a.word("series")
    exact = max(z - inner, 1.0)

    def at(ohm: float) -> tuple[tuple[Number, ...], str]:
        total = ohm + inner
        edge = 2.2 * total * farad
        clamp = max(0.0, high - CLAMP_V) / total
        if clamp > CLAMP_A:
            fault = f"the input's clamp would get {show(clamp, 'A')} while its part has no supply"
        elif edge > bit / 2:
            fault = f"edges of {show(edge, 's')} are too slow for {show(bit, 's')}"
        else:
            fault = ""
        return (
            Number("reflected at the source", (total - z) / (total + z), "%"),
            Number("edge, 10 to 90 %", edge, "s", bit / 2),
            Number("clamp current without supply", clamp, "A", CLAMP_A),
        ), fault

    there_and_back = 2 * length * METRE_S
    long = there_and_back > bit / 4
    cautions = (
        (
            f"{show(length, 'm')} of cord are {show(there_and_back, 's')} there and back, against "
            f"{show(bit, 's')} of the shortest time: drive it by a buffer, with ground beside the data.",
        )
        if long
        else ()
    )
    return chosen(
        "data resistor",
        "Ω",
        exact,
        series,
        at,
        "R = Z0 − R_out, then upwards until the clamp's current is borne;  edge = 2.2·(R + R_out)·C;  "
        "reflected = (R_total − Z0) / (R_total + Z0)",
        "series termination of a transmission line; IEC 60063",
        cautions=cautions,
    )


finder = Finder(
    "data",
    "Data resistor",
    "Which resistor in a data line, at its driver?",
    (
        Input(
            "impedance", "Cord's impedance", "Ω", 120.0, help="About 120 Ω for two cords beside each other."
        ),
        Input("source_ohm", "Driver's resistance", "Ω", 50.0, above=False, help="Of the pin that drives it."),
        Input("high", "Driver when high", "V", 3.3, help="Its high level."),
        Input("capacitance", "Capacitance", "F", 30e-12, most=1e-6, help="Of the input and the cord."),
        Input("shortest", "Shortest time", "s", 0.3e-6, most=1, help="That the protocol tells apart."),
        Input("length", "Cord's length", "m", 0.5, most=100, help="From the pin to the first input."),
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
