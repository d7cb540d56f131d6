"""The resistor of LEDs: one, strings in series, and several strings side by side."""

import math
from itertools import product

from msgspec.structs import replace

from knotplan.core.engine.solver.junction import VT
from knotplan.core.finders.finder import (
    LOAD_INPUT,
    SERIES_INPUT,
    TOLERANCE_INPUT,
    Asked,
    Finder,
    FinderError,
    Found,
    Input,
    chosen,
    heat,
    warm,
)
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

STEEPNESS = 2 * VT
"""volts in which an LED's current grows by e, as the engine's fit has it at small currents"""


def _find(a: Asked) -> Found:
    supply, forward, wish, inner = (a.number(n) for n in ("supply", "forward", "current", "source_ohm"))
    string, strings, one = (
        int(a.number("in_series")),
        int(a.number("in_parallel")),
        a.word("resistors") == "one for all",
    )
    spread_v, tolerance, body = (
        a.number("forward_spread"),
        a.number("supply_tolerance"),
        a.tolerance,
    )
    spare = supply - string * forward
    if spare <= 0:
        most = int(supply / forward - 1e-9)
        fits = f"; {most} in series do" if most else ""
        raise FinderError(
            f"a supply of {supply:g} V is not above the forward voltage of {string * forward:g} V{fits}"
        )
    shared = strings if one else 1
    # the source carries all strings, whether they have resistors of their own or not
    through = inner if one else strings * inner
    exact = spare / (shared * wish) - through

    def at(ohm: float) -> tuple[tuple[Number, ...], str]:
        drops = [string * max(0.0, forward + k * spread_v) for k in (-1, 1)]
        corners = [
            (max(0.0, (supply * (1 + s) - d) / (ohm * (1 + r) + through)), ohm * (1 + r))
            for s, d, r in product((-tolerance, tolerance), drops, (-body, body))
        ]
        amps = [i for i, _ in corners]
        watt = max(i * i * r for i, r in corners)
        return (
            Number("typical current", spare / (ohm + through) / shared, "A"),
            Number("least current", min(amps) / shared, "A"),
            Number("most current", max(amps) / shared, "A"),
            heat("power in the resistor", watt, a.load_share),
            Number("voltage left for the resistor", spare, "V"),
        ), ""

    cautions = []
    if spare < 0.15 * supply:
        cautions.append(
            f"Only {show(spare, 'V')} are left for the resistor: the current varies much with the supply."
        )
    if one and strings > 1:
        share = 1 / (1 + (strings - 1) * math.exp(-2 * string * spread_v / STEEPNESS / string))
        cautions.append(
            f"One resistor for {strings} strings side by side: specimens that lie {show(2 * spread_v, 'V')} "
            f"apart share the current as their junctions do, and one string may take {share * 100:.0f} % of "
            "it. Give each string a resistor of its own."
        )
    answer = (
        chosen(
            "LED resistor",
            "Ω",
            exact,
            a.word("series"),
            at,
            "R = (V − n·V_F) / (m·I) − R_source (n LEDs in series, m strings behind one resistor), or with "
            "one for each of m strings R = (V − n·V_F) / I − m·R_source; then the next preferred value at "
            "or above",
            "Kirchhoff's voltage law, forward voltage taken as constant; preferred values of IEC 60063; at "
            "most half of the resistor's rating",
            cautions=tuple(cautions),
        )
        if exact > 0
        else None
    )
    if answer is None:
        raise FinderError(f"the source's own {show(inner, 'Ω')} lets through less than {show(wish, 'A')}")
    watt = next(n.value for n in answer.chosen.results if n.name == "power in the resistor")
    return replace(answer, cautions=(*answer.cautions, *warm(watt, a.load_share)))


finder = Finder(
    "led",
    "LED resistor",
    "Which resistor gives an LED, or strings of them, the current that I want?",
    (
        Input("supply", "Supply", "V", help="Voltage of the supply, or of the pin when high."),
        Input("forward", "Forward voltage", "V", help="Of one LED at about that current."),
        Input("current", "Wished current", "A", most=10, help="In one string, e.g. 5m."),
        Input(
            "in_series",
            "LEDs in series",
            "",
            1.0,
            1,
            100,
            above=False,
            whole=True,
            help="One behind the other, in a string.",
        ),
        Input(
            "in_parallel",
            "Strings side by side",
            "",
            1.0,
            1,
            100,
            above=False,
            whole=True,
            help="Strings on one supply.",
        ),
        Input(
            "resistors",
            "Resistors",
            default="one for each",
            choices=("one for each", "one for all"),
            help="One for each string, or one for all of them.",
        ),
        Input("source_ohm", "Source resistance", "Ω", 0.0, above=False, help="Of the pin or supply."),
        Input(
            "supply_tolerance",
            "Supply tolerance",
            "%",
            0.05,
            0,
            0.5,
            above=False,
            help="Relative, both ways.",
        ),
        Input("forward_spread", "Forward spread", "V", 0.1, 0, 5, above=False, help="Volts, both ways."),
        LOAD_INPUT,
        TOLERANCE_INPUT,
        SERIES_INPUT,
    ),
    _find,
)
