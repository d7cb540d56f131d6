"""The resistors at the gate of a MOSFET: in series, and to ground."""

from knotplan.core.finders.finder import SERIES_INPUT, Asked, Finder, Found, Input, chosen
from knotplan.core.quantity.series import above, at_or_above
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

HOLDS_V = 0.3
"""what leakage may lift a gate to that nobody drives"""
PULL_RATIO = 100.0
"""so many times the series resistor: the pull-down takes 1 % of the gate's voltage at most"""


def _find(a: Asked) -> Found:
    high, charge, most, hertz, leak = (a.number(n) for n in ("high", "charge", "pin_a", "frequency", "leak"))
    series = a.word("series")
    exact = high / most

    def at(ohm: float) -> tuple[tuple[Number, ...], str]:
        peak, time = high / ohm, ohm * charge / high * 2.2
        fault = (
            f"the rush of {show(peak, 'A')} is more than the pin's {show(most, 'A')}"
            if peak > most * (1 + 1e-9)
            else ""
        )
        return (
            Number("rush of the pin", peak, "A", most),
            Number("time to switch", time, "s"),
            Number("share of the period", time * hertz * 2, "%"),
            Number("average current of the pin", charge * hertz, "A", most),
        ), fault

    answer = chosen(
        "gate resistor",
        "Ω",
        exact,
        series,
        at,
        "R = V_OH / I_pin;  t = 2.2·R·Q/V;  R_pull = V / I_leak, at least 100·R",
        "the gate as a capacitor of C = Q/V charged through R; IEC 60063",
    )
    time = answer.chosen.results[1].value
    cautions = (
        (
            f"Switching takes {show(time, 's')}, {time * hertz * 200:.0f} % of a period at "
            f"{show(hertz, 'Hz')}: the transistor gets hot on the way. A gate driver switches faster.",
        )
        if time * hertz * 2 > 0.05
        else ()
    )
    pull = min(at_or_above(PULL_RATIO * answer.value, series), 1e6)
    while above(pull, series) <= min(HOLDS_V / leak, 100e3):
        pull = above(pull, series)
    return Found(
        answer.what,
        answer.unit,
        answer.exact,
        answer.chosen,
        answer.formula,
        answer.source,
        answer.lower,
        answer.higher,
        (("pull-down at the gate", pull, "Ω"),),
        cautions,
        series,
    )


finder = Finder(
    "gate",
    "Gate resistor",
    "Which resistors at the gate of a MOSFET?",
    (
        Input("high", "Pin when high", "V", 3.3, help="Its high level."),
        Input(
            "charge",
            "Gate charge",
            "C",
            10e-9,
            most=1e-5,
            help="Total gate charge at that voltage, e.g. 10n.",
        ),
        Input("pin_a", "Pin's limit", "A", 0.012, help="Recommended current of the pin."),
        Input(
            "frequency",
            "Switching frequency",
            "Hz",
            1000.0,
            0,
            1e7,
            above=False,
            help="How often it switches.",
        ),
        Input("leak", "Leakage", "A", 1e-6, help="Of the pin, while it is an input."),
        SERIES_INPUT,
    ),
    _find,
)
