"""What a converter tells of a sensor that varies its resistance:
kelvins, or ratios of light, for each step."""

import math

from knotplan.core.finders.finder import Asked, Finder, FinderError, Found, Input, Trial
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

ZERO_C = 273.15
LAWS = ("thermistor", "power law", "straight in the logarithm")


def quantity(law: str, ohm: float, ends: tuple[tuple[float, float], tuple[float, float]]) -> float:
    """What is measured, at a resistance; `ends` are two points (ohm, quantity) that the law goes through.

    Thermistor: ``1/T = 1/T1 + ln(R/R1)/B`` (degrees Celsius in and out); power law: ``Q = Q1 (R/R1)^(-1/g)``,
    straight in both logarithms, as light resistors are; else Q is straight in ln R.

    >>> round(quantity("thermistor", 10e3, ((1000.0, 90.0), (100e3, -20.0))), 1)
    25.2
    """
    (r1, q1), (r2, q2) = ends
    share = math.log(ohm / r1) / math.log(r2 / r1)
    if law == "thermistor":
        t1, t2 = 1 / (q1 + ZERO_C), 1 / (q2 + ZERO_C)
        return 1 / (t1 + share * (t2 - t1)) - ZERO_C
    if law == "power law":
        return q1 * math.exp(share * math.log(q2 / q1))
    return q1 + share * (q2 - q1)


def _find(a: Asked) -> Found:
    bits, second, law, unit = int(a.number("bits")), a.number("second"), a.word("law"), a.word("unit")
    ends = (a.number("least"), a.number("at_least")), (a.number("most"), a.number("at_most"))
    if ends[0][0] >= ends[1][0]:
        raise FinderError("the sensor's least resistance has to be below its greatest")
    if ends[0][1] == ends[1][1]:
        raise FinderError("the quantity is the same at both ends; the sensor tells nothing")
    if law == "power law" and min(ends[0][1], ends[1][1]) <= 0:
        raise FinderError("a power law needs quantities above 0 at both ends; one of these is not")
    if law == "thermistor" and min(ends[0][1], ends[1][1]) <= -ZERO_C:
        raise FinderError("nothing is colder than −273.15 °C")
    sensor_below, full = a.word("place") == "between pin and ground", 1 << bits

    def ohm_at(code: float) -> float:
        up = code / full
        return second * up / (1 - up) if sensor_below else second * (1 - up) / up

    codes = sorted(full * (r / (r + second) if sensor_below else second / (r + second)) for r, _ in ends)
    # a converter cuts off: what lies between two codes is read as the lower one
    first, last = max(1, math.floor(codes[0])), min(full - 1, math.floor(codes[1]))
    if last - first < 2:
        raise FinderError(
            "the whole range lies within two steps of the converter: another second resistor is needed"
        )
    middle = (first + last) // 2
    read = [
        quantity(law, ohm_at(code), ends) for code in (first, first + 1, middle, middle + 1, last - 1, last)
    ]
    ratio = law == "power law"

    def step(one: float, other: float) -> float:
        return max(one / other, other / one) - 1 if ratio else abs(one - other)

    steps = step(read[0], read[1]), step(read[2], read[3]), step(read[4], read[5])
    shown, allowed = "%" if ratio else unit, a.number("source_most")
    source = second * ends[1][0] / (second + ends[1][0])
    names = [f"one step near {show(read[k], unit)}" for k in (0, 2, 5)]
    here = Trial(
        max(steps),
        (
            *(Number(n, s, shown) for n, s in zip(names, steps, strict=True)),
            Number("first code", first, ""),
            Number("last code", last, ""),
            Number("share of the scale in use", (last - first + 1) / full, "%"),
            Number("source resistance at most", source, "Ω", allowed),
        ),
    )
    cautions = []
    if max(steps) > 10 * min(steps):
        cautions.append(
            "The steps differ much from end to end: where they are coarse the last digit means nothing."
        )
    if source > allowed:
        cautions.append(
            f"A source of {show(source, 'Ω')} charges the converter's capacitor too slowly "
            f"({show(allowed, 'Ω')} are allowed): put 10 nF to 100 nF at the pin, or measure twice."
        )
    return Found(
        "coarsest step",
        shown,
        max(steps),
        here,
        "R = R2·code/(2^n − code), or R2·(2^n − code)/code with the sensor at the supply; then the sensor's "
        "law",
        "voltage divider; two-point law of the sensor (B equation, or straight in the logarithms)",
        cautions=tuple(cautions),
        lines=_program(law, second, full, sensor_below, ends),
    )


def _program(
    law: str, second: float, full: int, below: bool, ends: tuple[tuple[float, float], tuple[float, float]]
) -> tuple[str, ...]:
    """What a program reckons with."""
    (r1, q1), (r2, q2) = ends
    first = (
        f"r = {second:.6g} * code / ({full} - code)"
        if below
        else f"r = {second:.6g} * ({full} - code) / code"
    )
    spread = math.log(r2 / r1)
    if law == "thermistor":
        b = spread / (1 / (q2 + ZERO_C) - 1 / (q1 + ZERO_C))
        return (
            first,
            f"t = 1 / (1 / {q1 + ZERO_C:.6g} + ln(r / {r1:.6g}) / {b:.6g}) - {ZERO_C}   (B = {b:.5g} K)",
        )
    if law == "power law":
        return first, f"q = {q1:.6g} * (r / {r1:.6g}) ** {math.log(q2 / q1) / spread:.6g}"
    return first, f"q = {q1:.6g} + {(q2 - q1) / spread:.6g} * ln(r / {r1:.6g})"


finder = Finder(
    "reading",
    "Sensor's reading",
    "How finely does a converter read a sensor that varies, and how does the program reckon back?",
    (
        Input("least", "Sensor's least", "Ω", help="Its resistance at one end of the range."),
        Input("most", "Sensor's most", "Ω", help="Its resistance at the other end."),
        Input("at_least", "Quantity at its least", "", 90.0, -1e9, help="What is measured there."),
        Input("at_most", "Quantity at its most", "", -20.0, -1e9, help="What is measured there."),
        Input(
            "law", "Law", default=LAWS[0], choices=LAWS, help="How the quantity follows from the resistance."
        ),
        Input("second", "Second resistor", "Ω", 10e3, help="On the other side of the pin."),
        Input(
            "place",
            "Sensor's place",
            default="between pin and ground",
            choices=("between pin and ground", "between supply and pin"),
            help="The resistor is on the other side.",
        ),
        Input(
            "bits",
            "Converter",
            "",
            10.0,
            1,
            24,
            above=False,
            whole=True,
            help="Bits, against the divider's own supply.",
        ),
        Input(
            "source_most", "Allowed by the converter", "Ω", 10e3, help="Source resistance, by its data sheet."
        ),
        Input("unit", "Unit", default="°C", choices=("°C", "lx", "% r.h.", "N"), help="Of the quantity."),
    ),
    _find,
)
