"""The current-set resistor of a driver for a grid of lights."""

from knotplan.core.finders.finder import SERIES_INPUT, TOLERANCE_INPUT, Asked, Finder, Found, Input, chosen
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def _find(a: Asked) -> Found:
    wish, most, volts, gain, least = (
        a.number(n) for n in ("current", "most", "set_v", "mirror", "least_ohm")
    )
    lights, series, rows = a.number("lights"), a.word("series"), a.number("rows")
    body = a.tolerance
    exact = max(volts * gain / wish, least)

    def at(ohm: float) -> tuple[tuple[Number, ...], str]:
        peak, top = volts * gain / ohm, volts * gain / (ohm * (1 - body))
        if ohm < least * (1 - 1e-9):
            fault = f"below the {show(least, 'Ω')} that the driver allows"
        elif top > most:
            fault = f"up to {show(top, 'A')}, the lights bear {show(most, 'A')}"
        else:
            fault = ""
        return (
            Number("current of a light while on", peak, "A", most),
            Number("most", top, "A", most),
            Number("average over the scan", peak / rows, "A"),
            Number("all of a row on", peak * lights, "A"),
        ), fault

    cautions = (
        (f"{show(wish, 'A')} would need less than the {show(least, 'Ω')} that the driver allows.",)
        if volts * gain / wish < least
        else ()
    )
    return chosen(
        "current-set resistor",
        "Ω",
        exact,
        series,
        at,
        "I_light = gain · V_set / R, then the next preferred value at or above; on average 1/rows of that",
        "current mirror of the driver, by the catalogue; IEC 60063",
        cautions=cautions,
    )


finder = Finder(
    "set-current",
    "Current-set resistor",
    "Which resistor sets the current of a light grid's driver?",
    (
        Input("current", "Wished current", "A", 0.02, most=1, help="Of one light while it is on."),
        Input("most", "Light's limit", "A", 0.04, most=1, help="Peak current that the lights bear."),
        Input("set_v", "Voltage at the set pin", "V", 3.8, help="By the driver's data sheet."),
        Input("mirror", "Gain of the mirror", "", 100.0, help="Light current over set current."),
        Input("least_ohm", "Least resistor", "Ω", 9500.0, help="That the driver allows."),
        Input(
            "lights",
            "Lights in a row",
            "",
            8.0,
            1,
            64,
            above=False,
            whole=True,
            help="That can be on at once.",
        ),
        Input(
            "rows",
            "Rows",
            "",
            8.0,
            1,
            64,
            above=False,
            whole=True,
            help="That are scanned one after another.",
        ),
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
