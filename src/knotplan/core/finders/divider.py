"""Two resistors that make a voltage small enough for an input or converter, loaded by it."""

from itertools import product

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
)
from knotplan.core.quantity.series import SERIES, above, at_or_above, below
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def loaded(volts: float, top: float, bottom: float, load: float) -> float:
    """V_out = V · R2' / (R1 + R2'), R2' = R2 parallel to the load."""
    under = bottom * load / (bottom + load)
    return volts * under / (top + under)


def _find(a: Asked) -> Found:
    volts, wanted, load, most = (a.number(n) for n in ("volts", "wanted", "load", "source_most"))
    series = a.word("series")
    if wanted >= volts:
        raise FinderError(f"{show(wanted, 'V')} is not below {show(volts, 'V')}: there is nothing to divide")
    body = a.tolerance

    def trial(top: float, bottom: float) -> Trial:
        ends = [
            loaded(volts, top * (1 + p), bottom * (1 + q), load) for p, q in product((-body, body), repeat=2)
        ]
        typical, source = loaded(volts, top, bottom, load), top * bottom / (top + bottom)
        amps = volts / (top + bottom * load / (bottom + load))
        return Trial(
            top,
            (
                Number("typical output", typical, "V", wanted),
                Number("least output", min(ends), "V"),
                Number("most output", max(ends), "V", wanted),
                Number("source resistance", source, "Ω", most),
                Number("current", amps, "A"),
                Number("power in the upper", amps * amps * top, "W", a.usual_w),
            ),
            f"up to {show(max(ends), 'V')}, above {show(wanted, 'V')}"
            if max(ends) > wanted * (1 + 1e-9)
            else "",
        )

    # the lower resistor as large as the source resistance allows, over one decade; the upper the least that
    # keeps below
    best: tuple[float, Trial, float] | None = None
    start = most * volts / (volts - wanted)  # of an unloaded divider, R1 || R2 = most
    bottom = at_or_above(start / 10, series)
    for _ in range(len(SERIES[series]) + 1):
        most_under = bottom * (1 + body) * load / (bottom * (1 + body) + load)
        top = at_or_above(most_under * (volts / wanted - 1) / (1 - body), series)
        pair = trial(top, bottom)
        if pair.fault:  # by the last digit of the division above
            pair = trial(above(top, series), bottom)
        lost = wanted - pair.results[0].value
        cool = pair.results[5].value <= a.usual_w
        if (
            not pair.fault
            and cool
            and pair.results[3].value <= most
            and (best is None or lost < best[0] - 1e-12)
        ):
            best = (lost, pair, bottom)
        bottom = above(bottom, series)
    if best is None:
        raise FinderError(
            f"no pair of {series} values stays below {show(most, 'Ω')} of source resistance and cool"
        )
    _, here, bottom = best
    under = bottom * load / (bottom + load)
    return Found(
        "upper resistor",
        "Ω",
        under * (volts / wanted - 1),
        here,
        "V_out = V · R2' / (R1 + R2'),  R2' = R2 ∥ R_load;  R1 ∥ R2 at most the source resistance allowed",
        "voltage divider, loaded (Kirchhoff's laws); both resistors at their tolerances; IEC 60063",
        trial(below(here.value, series), bottom),
        trial(above(here.value, series), bottom),
        (("lower resistor", bottom, "Ω"),),
        series=series,
    )


finder = Finder(
    "divider",
    "Divider for an input",
    "Which two resistors bring a voltage down to what an input takes?",
    (
        Input("volts", "Voltage to divide", "V", help="Its greatest value."),
        Input("wanted", "Most at the input", "V", 3.3, help="What the input may have at that voltage."),
        Input("load", "Load", "Ω", 1e6, help="Resistance of the input itself."),
        Input(
            "source_most",
            "Source resistance allowed",
            "Ω",
            10e3,
            help="What the converter's data sheet asks for at most.",
        ),
        LOAD_INPUT,
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
