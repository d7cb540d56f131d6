"""Dissipation and temperature of regulators and drivers."""

from knotplan.core.finders.finder import Asked, Finder, FinderError, Found, Input, Trial, assumed
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

KINDS = ("linear regulator", "switching regulator", "transistor with a drop", "transistor with a resistance")


def dissipated(
    kind: str, volts_in: float, volts_out: float, amps: float, efficiency: float, ohm: float
) -> float:
    """Watts that stay in the part: ``(V_in - V_out) I``, ``V_out I (1/eta - 1)``, ``V_drop I`` or ``I^2 R``.

    >>> dissipated("linear regulator", 9.0, 5.0, 0.25, 1.0, 0.0)
    1.0
    >>> dissipated("transistor with a resistance", 0, 0, 2.0, 1.0, 0.03)
    0.12
    """
    match kind:
        case "linear regulator":
            return (volts_in - volts_out) * amps
        case "switching regulator":
            return volts_out * amps * (1 / efficiency - 1)
        case "transistor with a drop":
            return volts_out * amps
    return amps * amps * ohm


def _find(a: Asked) -> Found:
    kind = a.word("kind")
    volts_in, volts_out, amps = (
        a.number("volts_in"),
        a.number("volts_out"),
        a.number("current") * a.number("channels"),
    )
    theta, ambient, most = a.number("theta"), a.number("ambient"), a.number("most")
    one = a.number("current")
    if kind == "linear regulator" and volts_in <= volts_out:
        raise FinderError(f"an input of {volts_in:g} V is not above the output of {volts_out:g} V")
    if ambient >= most:
        raise FinderError(f"the air, {ambient:g} °C, is hotter than the part may get, {most:g} °C")
    watt = dissipated(kind, volts_in, volts_out, one, a.number("efficiency"), a.number("ohm")) * a.number(
        "channels"
    )
    hot = ambient + watt * theta
    allowed = (most - ambient) / theta
    results = [
        Number("temperature inside", hot, "°C", most),
        Number("rise above the air", watt * theta, "K"),
        Number("heat allowed", allowed, "W"),
    ]
    cautions = []
    # in a resistance the heat grows with the square of the current
    power = 0.5 if kind == "transistor with a resistance" else 1.0
    limit = amps * (allowed / watt) ** power if watt > 0 else None
    if limit is not None:
        results.append(Number("current allowed", limit, "A"))
    if limit is not None and hot > most:
        cautions.append(
            f"It would reach {hot:.0f} °C and switches off or dies at {most:.0f} °C: at most "
            f"{show(limit, 'A')} together, or a heat sink, or a switching regulator."
        )
    elif hot > 70:
        cautions.append(f"{hot:.0f} °C burn a finger: keep it away from plastic and cords.")
    return Found(
        "heat",
        "W",
        watt,
        Trial(watt, tuple(results)),
        "P = (V_in − V_out)·I (linear), V_out·I·(1/η − 1) (switching), V_drop·I or I²·R_on (transistor), "
        "times the channels;  T = T_air + P·R_θ",
        "energy balance; thermal resistance junction to air",
        cautions=tuple(cautions),
    )


finder = Finder(
    "heat",
    "Heat of a regulator or driver",
    "How hot does a regulator or driver get?",
    (
        Input("kind", "Kind", default=KINDS[0], choices=KINDS, help="What turns the power into heat."),
        Input("volts_in", "Input", "V", 9.0, above=False, help="Of a regulator."),
        Input(
            "volts_out",
            "Output, or drop",
            "V",
            5.0,
            above=False,
            help="Of a regulator its output, of a transistor its drop.",
        ),
        Input("current", "Current", "A", help="At worst, of one channel."),
        Input(
            "channels", "Channels", "", 1.0, 1, 64, above=False, whole=True, help="Of a driver, on at once."
        ),
        Input("efficiency", "Efficiency", "%", 0.88, 0, 1, help="Of a switching regulator."),
        Input(
            "ohm",
            "On-resistance",
            "Ω",
            0.05,
            above=False,
            help="Of a field-effect transistor, at its gate voltage.",
        ),
        Input(
            "theta",
            "Thermal resistance",
            "K/W",
            60.0,
            most=1000,
            help="Junction to air: 60 for a package that stands, 100 for a flat one.",
        ),
        assumed("ambient", "air"),
        Input("most", "Most inside", "°C", 125.0, 0, 250, help="By its data sheet."),
    ),
    _find,
)
