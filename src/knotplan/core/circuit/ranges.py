"""How a supply's voltage lies to the range that is made for it."""

from typing import Literal

from knotplan.catalog.part.source import Source
from knotplan.catalog.quantities import Range


def lies(volts: Range, least: float, most: float, edge: float) -> Literal["within", "beyond", "outside"]:
    """Within a range; beyond it at the least favourable corner only; or outside it as it usually is.
    `edge`: by which share the corner may lie beyond what is stated.

    >>> lies(Range(2.85, 3.0, 3.3), 3.0, 3.6, 0.04), lies(Range(11.6, 12.0, 12.4), 7.0, 12.0, 0.04)
    ('beyond', 'within')
    """
    if not least <= volts.typ <= most:
        return "outside"
    low, high = least * (1 - edge), most * (1 + edge)
    return "within" if low <= volts.min and volts.max <= high else "beyond"


def suits(source: Source, made_for: Range, edge: float) -> bool:
    """A supply may be plugged in where a range is accepted. Cells may run down below it: then they are
    empty."""
    volts = source.volts
    least = volts.typ if source.watt_hours else volts.min
    return lies(Range(least, volts.typ, volts.max), made_for.min, made_for.max, edge) == "within"
