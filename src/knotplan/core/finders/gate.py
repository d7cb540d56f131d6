"""The resistors at the gate of a MOSFET: in series, and to ground."""

from knotplan.core.finders.finder import (
    SERIES_INPUT,
    TOLERANCE_INPUT,
    Asked,
    Finder,
    FinderError,
    Found,
    Input,
    at_or_below,
    chosen,
)
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

HOLDS_V = 0.3
"""what leakage may lift a gate to that nobody drives"""
MOST_PULL, PULL_RATIO = 100e3, 100.0
"""what noise does not move yet; and so many times the series resistor, so that the pull-down takes 1 % of the
gate's voltage at most"""


def _find(a: Asked) -> Found:
    high, charge, most, hertz, leak = (a.number(n) for n in ("high", "charge", "pin_a", "frequency", "leak"))
    series = a.word("series")
    exact = high / most
    if charge * hertz > most:
        raise FinderError(
            f"to charge the gate at {show(hertz, 'Hz')} takes {show(charge * hertz, 'A')} on average, and "
            f"the pin gives {show(most, 'A')}: take a gate driver"
        )

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
        "R = V_OH / I_pin;  t = 2.2·R·Q/V;  R_pull = 0.3 V / I_leak, at most 100 kΩ, then the next preferred "
        "value at or below",
        "the gate as a capacitor of C = Q/V charged through R; IEC 60063",
    )
    time = answer.chosen.results[1].value
    cautions: tuple[str, ...] = (
        (
            f"Switching takes {show(time, 's')}, {time * hertz * 200:.0f} % of a period at "
            f"{show(hertz, 'Hz')}: the transistor gets hot on the way. A gate driver switches faster.",
        )
        if time * hertz * 2 > 0.05
        else ()
    )
    pull = at_or_below(min(HOLDS_V / leak, MOST_PULL), series)
    if pull < PULL_RATIO * answer.value:
        lost = answer.value / (pull + answer.value)
        cautions += (f"With so much leakage the pull-down takes {show(lost, '%', 2)} of the gate's voltage.",)
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
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
