"""The figures in a sentence."""

import re

_FIGURE = re.compile(r"\d+(?:\.\d+)?(?: (?:[pnµmkMG]?(?:V|A|W|Ω|s|Hz|F|m)\b|%|°C))?")


def figures(message: str) -> tuple[str, ...]:
    """The figures in a message with their units, in any order.

    >>> figures("5 V rail: 227 mA usually; the limit is 450 mA.")
    ('227 mA', '450 mA', '5 V')
    """
    return tuple(sorted(_FIGURE.findall(message)))
