"""What a converter input can tell apart: in volts, and in the quantity that is measured."""

from knotplan.core.finders.finder import Asked, Finder, FinderError, Found, Input, Trial
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def code_of(volts: float, reference: float, bits: int) -> int:
    """code = V/V_ref · 2^n, cut off at both ends.

    >>> code_of(1.65, 3.3, 10), code_of(3.3, 3.3, 10), code_of(5.0, 3.3, 12)
    (512, 1023, 4095)
    """
    top: int = 2**bits - 1
    return max(0, min(top, int(volts / reference * 2**bits)))


def _find(a: Asked) -> Found:
    reference, bits, low, high = (
        a.number("reference"),
        int(a.number("bits")),
        a.number("low"),
        a.number("high"),
    )
    at_low, at_high, unit = a.number("at_low"), a.number("at_high"), a.word("unit")
    source, most = a.number("source"), a.number("source_most")
    if low >= high:
        raise FinderError(
            f"the voltage of the lower end, {low:g} V, has to be below that of the upper end, {high:g} V"
        )
    if at_low == at_high:
        raise FinderError("the quantity is the same at both ends; the voltage tells nothing about it")
    step = reference / 2**bits
    seen = max(0.0, min(high, reference) - min(low, reference))
    per_volt = (at_high - at_low) / (high - low)
    codes = code_of(low, reference, bits), code_of(high, reference, bits)
    cautions = []
    if high > reference:
        lost = (high - reference) / (high - low)
        cautions.append(
            f"Above {show(reference, 'V')} the converter shows its largest number, whatever the voltage: "
            f"{lost * 100:.0f} % of "
            "the range is missing."
        )
    if seen / reference < 0.5:
        cautions.append(f"Only {seen / reference * 100:.0f} % of the scale is in use.")
    if source > most:
        cautions.append(
            f"A source of {show(source, 'Ω')} charges the converter's capacitor too slowly "
            f"({show(most, 'Ω')} are allowed): put 10 nF to 100 nF at the pin, or measure twice."
        )
    here = Trial(
        abs(per_volt) * step,
        (
            Number("voltage of one step", step, "V"),
            Number("share of the scale in use", seen / reference, "%"),
            Number("first code", codes[0], ""),
            Number("last code", codes[1], ""),
            Number("source resistance", source, "Ω", most),
        ),
    )
    factor, offset = per_volt * step, at_low - per_volt * low
    lines = (
        f"value = {factor:.6g} * code + {offset:.6g}",
        f"value at code 0: {offset:.6g}; for each step: {factor:.6g}",
    )
    return Found(
        "one step",
        unit,
        abs(per_volt) * step,
        here,
        "code = V / V_ref · 2^n;  one step = V_ref / 2^n, times (Q2 − Q1) / (V2 − V1) in the measured "
        "quantity",
        "converter's transfer function; straight line between both ends",
        cautions=tuple(cautions),
        lines=lines,
    )


finder = Finder(
    "converter",
    "Converter input",
    "How finely does a converter tell it, and what does the program reckon with?",
    (
        Input("reference", "Reference", "V", 3.3, help="The voltage of a full scale."),
        Input("bits", "Bits", "", 10.0, 1, 24, above=False, whole=True, help="Of the converter."),
        Input("low", "Lower voltage", "V", 0.0, above=False, help="At one end of the range."),
        Input("high", "Upper voltage", "V", 3.3, help="At the other end."),
        Input("at_low", "Quantity at the lower", "", 0.0, -1e12, above=False, help="What is measured there."),
        Input(
            "at_high", "Quantity at the upper", "", 100.0, -1e12, above=False, help="What is measured there."
        ),
        Input(
            "unit",
            "Unit",
            default="%",
            choices=("%", "V", "°C", "K", "°", "lx", "mm", "N", "bar"),
            help="Of the quantity.",
        ),
        Input("source", "Source resistance", "Ω", 2500.0, above=False, help="Of what is measured."),
        Input("source_most", "Allowed by the converter", "Ω", 10e3, help="By its data sheet."),
    ),
    _find,
)
