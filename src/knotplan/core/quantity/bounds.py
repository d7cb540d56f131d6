"""Ranges of the numbers in a plan."""

from knotplan.core.quantity.written import show


def within(what: str, value: float, unit: str, least: float, most: float, above: bool = False) -> None:
    """Raises ValueError, with the range, where a value lies outside it; `above`: the least itself does, too.

    >>> within("fuse", 200, "A", 0, 100, above=True)
    Traceback (most recent call last):
    ValueError: a fuse of 200 A is not possible; it has to be above 0 A and at most 100 A
    """
    if least <= value <= most and not (above and value == least):
        return
    low = f"above {show(least, unit)}" if above else f"at least {show(least, unit)}"
    shown, high = show(value, unit, 6), show(most, unit)
    raise ValueError(f"a {what} of {shown} is not possible; it has to be {low} and at most {high}")
