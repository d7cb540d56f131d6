"""Preferred values of IEC 60063 and colour bands of IEC 60062.

E3 to E24 stand in the standard as tables (4.7 is not a rounded power of ten). The standard is kept
to two figures there; E48 to E192 are 10^(i/n) to three figures, with 9.20 in E192.
"""

import math

E24 = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)


def _computed(n: int) -> tuple[float, ...]:
    values = [round(10 ** (i / n), 2) for i in range(n)]
    return tuple(9.20 if v == 9.19 else v for v in values)


SERIES: dict[str, tuple[float, ...]] = {
    "E3": E24[::8],
    "E6": E24[::4],
    "E12": E24[::2],
    "E24": E24,
    "E48": _computed(48),
    "E96": _computed(96),
    "E192": _computed(192),
}
TOLERANCE = {"E3": 0.4, "E6": 0.2, "E12": 0.1, "E24": 0.05, "E48": 0.02, "E96": 0.01, "E192": 0.005}
"""customary relative tolerance of each series"""

BANDS = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
_MULTIPLIER = {-3: "pink", -2: "silver", -1: "gold"} | {i: BANDS[i] for i in range(10)}
_TOLERANCE_BAND = {0.005: "green", 0.01: "brown", 0.02: "red", 0.05: "gold", 0.1: "silver"}
"""by the largest relative tolerance that it stands for, smallest first"""


def _grid(value: float, series: str) -> list[float]:
    decade = math.floor(math.log10(value))
    return [float(f"{m * 10.0**d:.6g}") for d in (decade - 1, decade, decade + 1) for m in SERIES[series]]


def at_or_above(value: float, series: str = "E12") -> float:
    """The least preferred value that is not below `value` (positive).

    >>> at_or_above(151), at_or_above(150), at_or_above(96, "E24")
    (180.0, 150.0, 100.0)
    """
    return next(v for v in _grid(value, series) if v >= value * (1 - 1e-9))


def below(value: float, series: str = "E12") -> float:
    """The greatest preferred value that is below `value` (positive).

    >>> below(150), below(151)
    (120.0, 150.0)
    """
    return [v for v in _grid(value, series) if v < value * (1 - 1e-9)][-1]


def above(value: float, series: str = "E12") -> float:
    """The least preferred value that is above `value` (positive)."""
    return next(v for v in _grid(value, series) if v > value * (1 + 1e-9))


def bands(ohm: float, tolerance: float = 0.05) -> tuple[str, ...]:
    """The colour bands of a resistor (IEC 60062, clause 3): two figures, or three from 2 % on.

    A tolerance of 20 % or more has no band of its own. Empty where the value has more figures than bands.

    >>> bands(4700), bands(180, 0.1), bands(47, 0.2)
    (('yellow', 'violet', 'red', 'gold'), ('brown', 'grey', 'brown', 'silver'), ('yellow', 'violet', 'black'))
    >>> bands(4750, 0.01), bands(4751, 0.01)
    (('yellow', 'violet', 'green', 'brown', 'brown'), ())
    """
    for places in (2, 3) if tolerance > 0.02 else (3,):
        exponent = math.floor(math.log10(ohm) + 1e-9) - places + 1
        figures = round(ohm / 10.0**exponent)
        if abs(figures * 10.0**exponent / ohm - 1) < 1e-6 and exponent in _MULTIPLIER:
            last = next((band for share, band in _TOLERANCE_BAND.items() if tolerance <= share), None)
            return (
                *(BANDS[int(digit)] for digit in str(figures)),
                _MULTIPLIER[exponent],
                *([last] if last else []),
            )
    return ()


def bands_words(ohm: float, tolerance: float = 0.05) -> str:
    """The colour bands as a line of text.

    >>> bands_words(270, 0.1), bands_words(1234, 0.05)
    ('red violet brown silver', 'no bands for so many figures')
    """
    return " ".join(bands(ohm, tolerance)) or "no bands for so many figures"
