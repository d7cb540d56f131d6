"""A pull-up or pull-down: strong enough against leakage and edges, weak
enough for who pulls the other way."""

import math

from knotplan.core.finders.finder import (
    SERIES_INPUT,
    TOLERANCE_INPUT,
    Asked,
    Finder,
    FinderError,
    Found,
    Input,
    Trial,
    at_or_below,
)
from knotplan.core.quantity.series import above, below
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

SETTLES = 0.8473
"""ln(0.7/0.3): from 30 % to 70 % of the supply (NXP UM10204, 7.1)"""


def _find(a: Asked) -> Found:
    supply, leak, farad, rise, sink, low = (
        a.number(n) for n in ("supply", "leak", "capacitance", "rise", "sink", "low")
    )
    share, series = a.number("high_share"), a.word("series")
    if low >= supply:
        raise FinderError(f"a low of {low:g} V is not below the supply of {supply:g} V")
    by_leak = supply * (1 - share) / leak
    by_edge = rise / (SETTLES * farad) if rise and farad else math.inf
    most, least = min(by_leak, by_edge), (supply - low) / sink
    if least > most:
        raise FinderError(
            f"at least {show(least, 'Ω')} for who pulls the other way, at most {show(most, 'Ω')} for the "
            f"{'edge' if by_edge < by_leak else 'leakage'}: no resistor does both"
        )
    exact = math.sqrt(least * min(most, 1e3 * least))

    def at(ohm: float) -> Trial:
        if ohm < least:
            fault = f"{show((supply - low) / ohm, 'A')} are too much for who pulls the other way"
        elif ohm > most:
            fault = "too weak"
        else:
            fault = ""
        settles = [Number("rise time, 30 to 70 %", SETTLES * ohm * farad, "s", rise or None)] if farad else []
        return Trial(
            ohm,
            (
                Number("current when pulled the other way", (supply - low) / ohm, "A", sink),
                Number("level left by leakage", supply - ohm * leak, "V", supply * share, lower=True),
                *settles,
                Number("least resistor", least, "Ω"),
                Number("largest resistor", most, "Ω"),
            ),
            fault,
        )

    value = at_or_below(exact, series)
    value = above(value, series) if value < least else value
    return Found(
        "pull-up or pull-down",
        "Ω",
        exact,
        at(value),
        "R ≥ (V − V_OL) / I_OL;  R ≤ V·(1 − share) / I_leak;  R ≤ t_r / (0.8473·C);  taken: their geometric "
        "mean, at most 1000 times the least",
        "NXP UM10204, 7.1, for the edge; Kirchhoff's laws; IEC 60063",
        at(below(value, series)),
        at(above(value, series)),
        series=series,
    )


finder = Finder(
    "pull",
    "Pull-up or pull-down",
    "Which resistor holds a line that nobody drives?",
    (
        Input(
            "supply",
            "Supply",
            "V",
            3.3,
            help="What the pull-up leads to (for a pull-down: the level of high).",
        ),
        Input("leak", "Leakage", "A", 1e-6, help="Of everything on the line together."),
        Input(
            "high_share",
            "Share that is sure",
            "%",
            0.7,
            0.3,
            0.99,
            help="High from this share of the supply on.",
        ),
        Input("sink", "Driver's current", "A", 0.003, help="What pulls the line the other way can take."),
        Input("low", "Driver's level", "V", 0.4, above=False, help="What it leaves on the line then."),
        Input(
            "capacitance",
            "Capacitance",
            "F",
            0.0,
            above=False,
            most=1e-3,
            help="Of the line; 0 where edges do not matter.",
        ),
        Input(
            "rise",
            "Rise time allowed",
            "s",
            0.0,
            above=False,
            help="From 30 to 70 % of the supply; 0 for none.",
        ),
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
