"""The base resistor of a bipolar transistor that switches a load."""

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
    assumed,
    at_or_below,
    heat,
    warm,
)
from knotplan.core.quantity.series import above, at_or_above, below
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import at_most, show


def _find(a: Asked) -> Found:
    high, v_be, load, forced, most, inner = (
        a.number(n) for n in ("high", "base_v", "load", "gain", "pin_a", "source_ohm")
    )
    sure = forced * (1 + a.number("slack"))
    if high <= v_be:
        raise FinderError(f"{high:g} V cannot open a base that needs {v_be:g} V")
    wanted = load / forced
    exact = (high - v_be) / wanted - inner
    if exact <= 0:
        raise FinderError(
            f"the pin's own {show(inner, 'Ω')} leave less than the {show(wanted, 'A')} that the base needs; "
            "a MOSFET needs no current"
        )
    body = a.tolerance

    def at(ohm: float) -> tuple[tuple[Number, ...], str]:
        amps = (high - v_be) / (ohm + inner)
        top = (high - v_be + 0.1) / (ohm * (1 - body) + inner)
        if top > most:
            fault = f"{show(top, 'A')} are more than the pin's {show(most, 'A')}"
        elif load / amps > sure:
            fault = f"gain of {load / amps:.3g} would be needed, {at_most(sure, 3):g} are allowed"
        else:
            fault = ""
        return (
            Number("base current", amps, "A"),
            Number("most from the pin", top, "A", most),
            Number("forced gain", load / amps, "", sure),
            heat("power in the resistor", amps * amps * ohm, a.load_share),
            Number("heat in the transistor", load * a.number("saturation"), "W"),
        ), fault

    cautions = []
    start = at_or_below(exact, a.word("series"))
    if at(start)[1]:  # the pin's limit is harder than the margin of the gain
        start = at_or_above(exact, a.word("series"))
    if wanted > most:
        cautions.append(
            f"The base needs {show(wanted, 'A')}, and the pin gives {show(most, 'A')}: take a MOSFET, a "
            "Darlington pair, or a transistor before this one."
        )
    low, here, high_ = (
        Trial(v, *at(v)) for v in (below(start, a.word("series")), start, above(start, a.word("series")))
    )
    cautions += warm(here.results[3].value, a.load_share)
    return Found(
        "base resistor",
        "Ω",
        exact,
        here,
        "I_B = I_load / forced gain;  R = (V_OH − V_BE) / I_B − R_pin, then the next preferred value at or "
        "below; the next above where that one asks too much of the pin",
        "forced gain of 10 where nothing better is known, so that every specimen saturates; Kirchhoff's "
        "voltage law; IEC 60063",
        low,
        high_,
        cautions=tuple(cautions),
    )


finder = Finder(
    "base",
    "Base resistor",
    "Which resistor between a pin and the base of a transistor that switches a load?",
    (
        Input("high", "Pin when high", "V", 3.3, help="Its high level with some current flowing."),
        Input("load", "Load current", "A", most=100, help="What the transistor has to switch."),
        Input("base_v", "Base voltage", "V", 0.75, help="Base to emitter, when on."),
        assumed("gain", "forced_gain"),
        assumed("slack", "gain_slack"),
        assumed("saturation", "saturation"),
        Input("pin_a", "Pin's limit", "A", 0.012, help="Recommended current of the pin."),
        Input("source_ohm", "Pin resistance", "Ω", 0.0, above=False, help="Of the pin when high."),
        LOAD_INPUT,
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
