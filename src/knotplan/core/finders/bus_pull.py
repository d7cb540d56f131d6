"""The pull-up of an I2C line: fast enough for the mode, weak enough for the
drivers, beside those that are there."""

import math

from knotplan.core.buses.lines import FARAD_PER_M, LOW_V, MODES, RISES, low_level
from knotplan.core.finders.finder import (
    SERIES_INPUT,
    TOLERANCE_INPUT,
    Asked,
    Finder,
    FinderError,
    Found,
    Input,
    Trial,
)
from knotplan.core.quantity.series import above, at_or_above, below
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

BY_CLOCK = {"100 kHz": MODES[0], "400 kHz": MODES[1], "1 MHz": MODES[2]}


def _find(a: Asked) -> Found:
    supply, farad, sink, there, per_m = (
        a.number(n) for n in ("supply", "capacitance", "sink", "there", "per_metre")
    )
    mode, series = BY_CLOCK[a.word("clock")], a.word("series")
    low = low_level(supply)
    if supply <= LOW_V:
        raise FinderError(f"a supply of {supply:g} V is not above the low level of {LOW_V:g} V")
    body = a.tolerance
    least, most = (supply - low) / sink, mode.rise_s / (RISES * farad)
    if least > most:
        raise FinderError(
            f"at least {show(least, 'Ω')} for the drivers, at most {show(most, 'Ω')} for the edge: no "
            "resistor does both; shorten the cords, part the bus, or run it more slowly"
        )
    if there and there < least:
        raise FinderError(
            f"the {show(there, 'Ω')} that are there are too strong already: at least {show(least, 'Ω')} are "
            "wanted"
        )
    wanted = math.sqrt(least * most)
    if not there:
        exact = wanted
    elif there > wanted:
        exact = 1 / (1 / wanted - 1 / there)
    else:
        exact = 10 * most

    def at(ohm: float) -> Trial:
        whole = 1 / (1 / ohm + (1 / there if there else 0.0))
        strong, weak = whole * (1 - body), whole * (1 + body)
        rise, amps = RISES * weak * farad, (supply - low) / strong
        if amps > sink * (1 + 1e-9):
            fault = f"{show(amps, 'A')} are too much for a driver of {show(sink, 'A')}"
        elif rise > mode.rise_s * (1 + 1e-9):
            fault = f"it rises in {show(rise, 's')}, {show(mode.rise_s, 's')} are allowed"
        else:
            fault = ""
        longest = (min(mode.farad, mode.rise_s / (RISES * weak)) - farad) / per_m
        return Trial(
            ohm,
            (
                Number("together", whole, "Ω"),
                Number("rise time at worst", rise, "s", mode.rise_s),
                Number(f"current at {show(low, 'V')} at worst", amps, "A", sink),
                Number("more cord that it bears", max(0.0, longest), "m"),
                Number("least resistor", least, "Ω"),
                Number("largest resistor", most, "Ω"),
            ),
            fault,
        )

    value = at_or_above(exact, series)
    cautions = (
        (f"The {show(there, 'Ω')} that are there do already; none has to be added.",)
        if least <= there <= most
        else ()
    )
    return Found(
        "pull-up of an I2C line",
        "Ω",
        exact,
        at(value),
        "(V − V_OL) / I_OL ≤ R ≤ t_r / (0.8473·C), R being all pull-ups together; taken: the geometric mean "
        "of both, less what is there",
        "NXP UM10204, 7.1 and tables 10 and 11; IEC 60063",
        at(below(value, series)),
        at(above(value, series)),
        cautions=cautions,
        series=series,
    )


finder = Finder(
    "bus-pull",
    "I2C pull-up",
    "Which pull-up does an I2C line need, and how long may its cord be?",
    (
        Input("supply", "Supply", "V", 3.3, help="What the pull-ups lead to."),
        Input(
            "clock",
            "Clock",
            default="100 kHz",
            choices=tuple(BY_CLOCK),
            help="The fastest that is used; it names the mode.",
        ),
        Input(
            "capacitance",
            "Capacitance",
            "F",
            100e-12,
            most=1e-6,
            help="About 10 pF for each device, 50 to 100 pF for a metre.",
        ),
        Input("sink", "Driver's current", "A", 0.003, help="What the weakest driver pulls to 0.4 V."),
        Input(
            "there",
            "Pull-ups there",
            "Ω",
            0.0,
            above=False,
            help="All that are there already, together; 0 for none.",
        ),
        Input(
            "per_metre",
            "Cord, per metre",
            "F",
            FARAD_PER_M[""],
            most=1e-9,
            help="Capacitance of a metre of cord.",
        ),
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
