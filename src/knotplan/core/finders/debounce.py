"""A capacitor that swallows the bouncing of a contact."""

import math

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
from knotplan.core.quantity.series import TOLERANCE
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def _find(a: Asked) -> Found:
    supply, pull, series_ohm, bounce = (a.number(n) for n in ("supply", "pull", "series_ohm", "bounce"))
    low, high, most = a.number("low_share"), a.number("high_share"), a.number("contact_a")
    if low >= high:
        raise FinderError("the share that is surely low has to be below the one that is surely high")
    floor = series_ohm / (pull + series_ohm)
    if floor >= low:
        raise FinderError(
            f"{show(series_ohm, 'Ω')} against {show(pull, 'Ω')} leave {floor * 100:.0f} % of the supply: "
            "never surely low"
        )
    if series_ohm and supply / series_ohm > most * (1 + 1e-9):
        raise FinderError(
            f"through {show(series_ohm, 'Ω')} the contact empties the capacitor with "
            f"{show(supply / series_ohm, 'A')}, and bears {show(most, 'A')}: take "
            f"{show(supply / most, 'Ω')} or more in series"
        )
    # opened: it rises through the pull-up alone, from what the closed contact left; until it is no longer
    # surely low the input sees none of the bouncing
    holds = pull * math.log((1 - floor) / (1 - low))
    rise = pull * math.log((1 - floor) / (1 - high))
    least = 1 - TOLERANCE[a.word("series")]

    def at(farad: float) -> tuple[tuple[Number, ...], str]:
        closed = (
            pull * series_ohm / (pull + series_ohm) * farad * math.log((1 - floor) / (low - floor))
            if series_ohm
            else 0.0
        )
        rush = [Number("rush through the contact", supply / series_ohm, "A", most)] if series_ohm else []
        fault = "bounces longer" if holds * farad * least < bounce * (1 - 1e-9) else ""
        return (
            Number("surely low after it opens", holds * farad * least, "s", bounce, lower=True),
            Number("surely high after it opens", rise * farad / least, "s"),
            Number("delay when it closes", closed, "s"),
            *rush,
        ), fault

    cautions = []
    if not series_ohm:
        cautions.append(
            f"The contact empties the capacitor in a rush: {show(supply / most, 'Ω')} or more in series keep "
            f"it below {show(most, 'A')}."
        )
    cautions.append("The edges are slow: the input has to be one with hysteresis, else it sees several.")
    return chosen(
        "debounce capacitor",
        "F",
        bounce / holds / least,
        a.word("series"),
        at,
        "C = t / (R_pull · ln((1 − share left) / (1 − share of low)) · (1 − tolerance)), share left = "
        "R_series / (R_pull + R_series); then the next preferred value at or above",
        "charging of a capacitor, V(t) = V(1 − e^(−t/RC)); IEC 60063",
        cautions=tuple(cautions),
    )


finder = Finder(
    "debounce",
    "Debounce capacitor",
    "Which capacitor swallows the bouncing of a contact?",
    (
        Input(
            "bounce",
            "Bouncing",
            "s",
            0.01,
            most=1,
            help="How long the contact bounces, 5 to 20 ms for buttons.",
        ),
        Input("pull", "Pull-up", "Ω", 10e3, help="From the capacitor to the supply."),
        Input(
            "series_ohm", "Series resistor", "Ω", 1000.0, above=False, help="Between capacitor and contact."
        ),
        Input("supply", "Supply", "V", 3.3, help="Of the pull-up."),
        Input(
            "low_share",
            "Surely low",
            "%",
            0.3,
            0,
            1,
            help="Share of the supply below which the input reads low.",
        ),
        Input("high_share", "Surely high", "%", 0.7, 0, 0.99, help="Share above which it reads high."),
        Input("contact_a", "Contact's limit", "A", 0.05, help="Current that the contact bears."),
        series_input("E6", CAPACITORS),
    ),
    _find,
)
