"""The diode across a coil: its current, its voltage, and how long the coil holds on through it."""

import math

from knotplan.core.finders.finder import Asked, Finder, Found, Input, Trial, between
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

CURRENTS = (0.2, 1.0, 3.0, 6.0, 10.0)
"""amperes for which common diodes are made"""
VOLTAGES = (30.0, 50.0, 100.0, 200.0, 400.0)
HOLDS = 0.2
"""a relay lets go at about this share of its current"""


def _find(a: Asked) -> Found:
    volts, ohm, henry, hertz, drop = (a.number(n) for n in ("supply", "ohm", "henry", "frequency", "drop"))
    amps = volts / ohm
    joule = henry * amps**2 / 2
    reverse = next((v for v in VOLTAGES if v >= 2 * volts), 2 * volts)
    gone = henry / ohm * math.log((amps * ohm + drop) / drop)
    # the charge that flows on, tau I - V_D/R t, times the diode's drop: the rest warms the winding
    in_diode = drop * (henry / ohm * amps - drop / ohm * gone)
    lets_go = henry / ohm * math.log((amps * ohm + drop) / (HOLDS * amps * ohm + drop))

    def at(rated: float) -> Trial:
        return Trial(
            rated,
            (
                Number("current that goes on", amps, "A", rated),
                Number("energy", joule, "J"),
                Number("voltage at the switch", volts + drop, "V"),
                Number("until a relay lets go", lets_go, "s"),
                Number("until nothing flows", gone, "s"),
                Number("of that in the diode", in_diode, "J"),
                Number("heat of the diode", min(in_diode * hertz, drop * amps), "W"),
                Number("reverse voltage at least", reverse, "V"),
            ),
            f"{show(amps, 'A')} are more than it is made for" if rated < amps else "",
        )

    k = next((k for k, c in enumerate(CURRENTS) if c >= amps), len(CURRENTS) - 1)
    here, lower, higher = between(CURRENTS, k, at)
    cautions = [
        f"Without it the coil drives its {show(amps, 'A')} on, and the voltage rises until something breaks "
        "down."
    ]
    if hertz * gone > 0.5:
        cautions.append(
            f"At {show(hertz, 'Hz')} the current never ends between two pulses: that is as it should be for "
            "a motor, and needs a fast diode."
        )
    if amps > CURRENTS[-1]:
        cautions.append("None of these diodes carries that much: take one made for it.")
    if 2 * volts > VOLTAGES[-1]:
        cautions.append(
            f"Its reverse voltage has to be {show(2 * volts, 'V')} or more, above that of any of these."
        )
    return Found(
        "clamp diode, rated for",
        "A",
        amps,
        here,
        "I = V/R;  E = L·I²/2;  t = L/R · ln((I·R + V_D) / (share·I·R + V_D));  E_D = V_D·(L·I/R − V_D·t/R)",
        "energy of an inductance; decay through a constant voltage and its own resistance",
        lower,
        higher,
        cautions=tuple(cautions),
    )


finder = Finder(
    "clamp",
    "Clamp diode",
    "Which diode catches the kick of a coil?",
    (
        Input("supply", "Coil's supply", "V", 5.0, help="The diode leads to its plus."),
        Input("ohm", "Coil's resistance", "Ω", help="Of the winding."),
        Input(
            "henry", "Coil's inductance", "H", 0.05, most=100, help="Of the winding, about 50m for a relay."
        ),
        Input(
            "frequency",
            "Switchings a second",
            "Hz",
            1.0,
            0,
            1e6,
            above=False,
            help="How often it is switched off.",
        ),
        Input("drop", "Diode's drop", "V", 0.8, help="While it carries the current."),
    ),
    _find,
)
