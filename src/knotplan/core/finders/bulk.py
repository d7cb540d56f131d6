"""The large capacitor beside motors and pixels."""

from knotplan.core.finders.finder import (
    CAPACITORS,
    Asked,
    Finder,
    FinderError,
    Found,
    Input,
    chosen,
    series_input,
)
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

LOSES = 0.2
"""the customary tolerance of electrolytic capacitors, downwards"""
RATINGS = (6.3, 10.0, 16.0, 25.0, 35.0, 50.0, 63.0, 100.0)
"""volts that they are sold for (R5 and R10 values, ISO 3)"""


def _find(a: Asked) -> Found:
    amps, time, drop, volts, ohm = (a.number(n) for n in ("current", "time", "drop", "supply", "esr"))
    at_once = amps * ohm
    if at_once >= drop:
        raise FinderError(
            f"the capacitor's own {show(ohm, 'Ω')} drop {show(at_once, 'V')} at once, more than "
            f"{show(drop, 'V')}: two of half the value side by side have half of that"
        )
    exact = amps * time / (drop - at_once) / (1 - LOSES)
    rating = next((r for r in RATINGS if r >= 1.5 * volts), RATINGS[-1])

    def at(farad: float) -> tuple[tuple[Number, ...], str]:
        dip = at_once + amps * time / (farad * (1 - LOSES))
        return (
            Number("dip of the supply", dip, "V", drop),
            Number("of it by its own resistance", at_once, "V"),
            Number("energy in it", farad * volts**2 / 2, "J"),
            Number("rating at least", rating, "V"),
        ), ""

    return chosen(
        "bulk capacitor",
        "F",
        exact,
        a.word("series"),
        at,
        "C = I·t / (ΔV − I·R_ESR), over what its tolerance leaves; rated for one and a half times the supply",
        "charge of a capacitor, Q = C·V; tolerance of −20 %; IEC 60063; ratings by ISO 3",
        rating_v=rating,
    )


finder = Finder(
    "bulk",
    "Bulk capacitor",
    "Which capacitor carries a supply over the start of a motor or the flash of a chain?",
    (
        Input("current", "Current step", "A", help="By which the load jumps."),
        Input("time", "For how long", "s", 100e-6, most=10, help="Until supply and cords follow."),
        Input("drop", "Dip allowed", "V", 0.3, help="Of the supply."),
        Input("supply", "Supply", "V", 5.0, help="Its voltage."),
        Input("esr", "Its own resistance", "Ω", 0.05, above=False, help="Of the capacitor (ESR)."),
        series_input("E3", CAPACITORS),
    ),
    _find,
)
