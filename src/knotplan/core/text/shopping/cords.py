"""Cords by kind, gauge and colour: ready-made ones by length, hook-up wire by the metre with its cuts."""

import math

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import CordKind, cord_of, size_words
from knotplan.core.circuit.cords import colour_of
from knotplan.core.text.shopping.line import ShoppingLine

BY_THE_METRE = ("solder", "screw")
CUT_M = 0.1
"""wire is bought in steps of so much"""


def cord_lines(c: Circuit, spare: float) -> list[ShoppingLine]:
    """What is plugged onto a pin or joins two leads; a supply's plug brings its own cable."""
    ready: dict[tuple[float, float, str, str], int] = {}
    wire: dict[tuple[float, str], dict[float, int]] = {}
    for tie in c.plan.ties:
        if c.contacts.is_socket(tie.to):
            continue
        cord, colour = cord_of(c, tie), colour_of(c, tie)
        if cord.fixing in BY_THE_METRE:
            cuts = wire.setdefault((cord.mm2, colour), {})
            cuts[cord.length_m] = cuts.get(cord.length_m, 0) + 1
        else:
            key = (cord.mm2, cord.length_m, cord.fixing, colour)
            ready[key] = ready.get(key, 0) + 1
    lines = []
    for (mm2, length, fixing, colour), count in sorted(ready.items()):
        kind = CordKind(length, mm2, fixing)  # type: ignore[arg-type]  # it was one
        buy = math.ceil(count * (1 + spare))
        lines.append(ShoppingLine("cords", count, buy, kind.what, f"{colour}, {kind.words}", ""))
    return lines + [_wire(mm2, colour, cuts, spare) for (mm2, colour), cuts in sorted(wire.items())]


def _wire(mm2: float, colour: str, cuts: dict[float, int], spare: float) -> ShoppingLine:
    """One length of wire of a colour and gauge, and what to cut from it, the longest first."""
    total = sum(length * count for length, count in cuts.items())
    wanted = math.ceil(total * (1 + spare) / CUT_M - 1e-9) * CUT_M
    pieces = ", ".join(f"{count} × {_metres(length)}" for length, count in sorted(cuts.items(), reverse=True))
    details = f"{colour}, {size_words(mm2)}, {_metres(wanted)} for {_metres(total)}: cut {pieces}"
    return ShoppingLine("cords", sum(cuts.values()), 1, "Hook-up wire", details, "")


def _metres(length: float) -> str:
    """A length as it is measured at the bench.

    >>> _metres(0.2), _metres(1.25)
    ('20 cm', '1.25 m')
    """
    return f"{length * 100:.3g} cm" if length < 1 else f"{length:.4g} m"
