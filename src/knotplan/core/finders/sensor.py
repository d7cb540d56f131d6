"""The second resistor of a sensor that varies, for the best span over a range."""

import math

from knotplan.core.finders.finder import (
    LOAD_INPUT,
    SERIES_INPUT,
    TOLERANCE_INPUT,
    Asked,
    Finder,
    FinderError,
    Found,
    Input,
    Trial,
    heat,
    warm,
)
from knotplan.core.quantity.series import above, at_or_above, below
from knotplan.core.quantity.working import Number


def span(ohm: float, least: float, most: float) -> float:
    """The share of the supply between both ends: ``R_max/(R + R_max) - R_min/(R + R_min)``."""
    return most / (ohm + most) - least / (ohm + least)


def _find(a: Asked) -> Found:
    supply, least, most, bits = a.number("supply"), a.number("least"), a.number("most"), int(a.number("bits"))
    series, sensor_below = a.word("series"), a.word("place") == "between pin and ground"
    if least >= most:
        raise FinderError(
            f"the sensor's least resistance, {least:g} Ω, has to be below its greatest, {most:g} Ω"
        )
    exact = math.sqrt(least * most)

    def at(ohm: float) -> Trial:
        ends = [supply * r / (ohm + r) if sensor_below else supply * ohm / (ohm + r) for r in (least, most)]
        share = span(ohm, least, most)
        warmth = max(supply**2 * r / (ohm + r) ** 2 for r in (least, min(max(ohm, least), most), most))
        return Trial(
            ohm,
            (
                Number("voltage at its least", ends[0], "V"),
                Number("voltage at its most", ends[1], "V"),
                Number("share of the scale in use", share, "%"),
                Number("steps of the converter", share * 2**bits, ""),
                Number("heat in the sensor", warmth, "W"),
                heat("power in the resistor", supply**2 * ohm / (ohm + least) ** 2, a.load_share),
            ),
        )

    value = at_or_above(exact, series)
    value = max((value, below(value, series)), key=lambda r: span(r, least, most))
    cautions: tuple[str, ...] = (
        (
            "The resistance varies little: less than a tenth of the scale is used. A bridge and an amplifier "
            "show more.",
        )
        if span(exact, least, most) < 0.1
        else ()
    )
    here = at(value)
    cautions += warm(here.results[5].value, a.load_share)
    return Found(
        "second resistor",
        "Ω",
        exact,
        here,
        "R = √(R_min · R_max): there the span R_max/(R + R_max) − R_min/(R + R_min) is greatest",
        "its derivative is nothing where R² = R_min·R_max; voltage divider; IEC 60063",
        at(below(value, series)),
        at(above(value, series)),
        cautions=cautions,
        series=series,
    )


finder = Finder(
    "sensor",
    "Sensor's second resistor",
    "Which resistor makes the most of a sensor's range?",
    (
        Input("least", "Sensor's least", "Ω", help="Over the range that matters."),
        Input("most", "Sensor's most", "Ω", help="Over the range that matters."),
        Input("supply", "Supply", "V", 3.3, help="Of both in series."),
        Input(
            "bits",
            "Converter",
            "",
            10.0,
            1,
            24,
            above=False,
            whole=True,
            help="Bits of the converter that reads it.",
        ),
        Input(
            "place",
            "Sensor's place",
            default="between pin and ground",
            choices=("between pin and ground", "between supply and pin"),
            help="The resistor goes on the other side.",
        ),
        LOAD_INPUT,
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
