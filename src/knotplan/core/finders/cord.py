"""The gauge of a cord: drop along it, and its heat."""

from knotplan.core.circuit.copper import SIZES, as_awg, bears, cord_ohm, size_words
from knotplan.core.finders.finder import Asked, Finder, FinderError, Found, Input, Trial, between
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def _find(a: Asked) -> Found:
    length, amps, volts, share, celsius = (
        a.number(n) for n in ("length", "current", "supply", "drop_share", "celsius")
    )
    drop = share * volts
    exact = cord_ohm(2 * length, 1.0, celsius) * amps / drop

    def at(mm2: float) -> Trial:
        ohm = cord_ohm(2 * length, mm2, celsius)
        if amps * ohm > drop * (1 + 1e-9):
            fault = f"drops {show(amps * ohm, 'V')}"
        elif amps > bears(mm2):
            fault = f"bears {show(bears(mm2), 'A')}"
        else:
            fault = ""
        return Trial(
            mm2,
            (
                Number("drop, there and back", amps * ohm, "V", drop),
                Number("heat", amps**2 * ohm, "W"),
                Number("resistance, there and back", ohm, "Ω"),
                Number("bears for ever", bears(mm2), "A"),
                Number("AWG", as_awg(mm2), ""),
            ),
            fault,
        )

    k = next((k for k, size in enumerate(SIZES) if not at(size).fault), None)
    if k is None:
        raise FinderError(
            f"{show(amps, 'A')} over {show(length, 'm')} need {exact:.3g} mm², and hook-up wire ends below "
            "that; feed at several places, or at a higher voltage"
        )
    here, lower, higher = between(SIZES, k, at)
    return Found(
        "cord, cross-section",
        "mm²",
        exact,
        here,
        "A = ρ·2l·I / ΔV, there and back",
        "annealed copper of 1.724·10⁻⁸ Ωm at 20 °C, +0.393 %/K (IACS); sizes by IEC 60228, thinner ones by "
        "the American wire gauge; heat: usual figures for cords in free air",
        lower,
        higher,
        lines=(size_words(SIZES[k]),),
    )


finder = Finder(
    "cord",
    "Cord",
    "How thick has a cord to be?",
    (
        Input("length", "Length", "m", help="One way; the current comes back."),
        Input("current", "Current", "A", help="At worst."),
        Input("supply", "Supply", "V", 5.0, help="At its beginning."),
        Input("drop_share", "Drop allowed", "%", 0.03, 0, 0.5, help="Share of the supply."),
        Input("celsius", "Temperature", "°C", 20.0, -40, 120, above=False, help="Of the copper."),
    ),
    _find,
)
