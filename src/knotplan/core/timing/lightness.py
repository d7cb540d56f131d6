"""Brightness as seen: tables of duty that look evenly spaced to the eye."""

from typing import Literal, get_args

Law = Literal["lightness", "doubling", "even"]
LAWS: tuple[Law, ...] = get_args(Law)


class TableError(ValueError):
    """There is no such table; the message says why."""


def luminance(lightness: float) -> float:
    """Relative luminance Y of a lightness L (0 to 100): Y = ((L + 16) / 116)^3
    above L = 8, L / 903.3 below (CIE 1976).

    >>> round(luminance(50), 4), round(luminance(8), 6), luminance(100)
    (0.1842, 0.008856, 1.0)
    """
    return ((lightness + 16) / 116) ** 3 if lightness > 8 else lightness / 903.3


def lightness(share: float) -> float:
    """The inverse: how bright a share of the full luminance looks, 0 to 100.

    >>> round(lightness(0.1842), 1), lightness(1.0)
    (50.0, 100.0)
    """
    return 116 * share ** (1 / 3) - 16 if share > 8 / 903.3 else share * 903.3


def table(levels: int, most: int, law: Law = "lightness") -> tuple[int, ...]:
    """Counts for `levels` steps from dark to full, strictly rising, the last one `most`.

    Near the dark end the law asks for less than one count a step; there each step is one count, until the law
    overtakes. A ladder of two doubles from step to step: levels - 1 steps down from `most`, then 0.

    >>> table(5, 255), table(5, 255, "doubling")
    ((0, 11, 47, 123, 255), (0, 32, 64, 128, 255))
    """
    if levels < 2:
        raise TableError(f"a table needs at least 2 steps, not {levels}")
    if levels > most + 1:
        raise TableError(
            f"{levels} steps do not fit into {most + 1} counts: take {most + 1} at most, or a finer counter"
        )
    if law == "doubling":
        steps = [0, *(round(most * 0.5 ** (levels - 1 - k)) for k in range(1, levels))]
    elif law == "even":
        steps = [round(most * k / (levels - 1)) for k in range(levels)]
    else:
        steps = [round(most * luminance(100 * k / (levels - 1))) for k in range(levels)]
    for k in range(1, levels):
        steps[k] = max(steps[k], steps[k - 1] + 1)
    return tuple(steps)
