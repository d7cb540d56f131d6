"""The order of written values: "9.5 mA" before "1.2 A", "pin 9" before "pin 10", "0x0F" before "0x10"."""

import re

from knotplan.core.quantity.written import PREFIX

UNITS = ("A", "V", "W", "Ω", "Hz", "s", "F", "m", "cd", "B", "bit")
"""that take a prefix"""
NUMBER = r"[-−+]?(?:0[xX][0-9A-Fa-f]+|\d+(?:\.\d+)?)"
VALUE = re.compile(rf"\s*({NUMBER})\s*(.*)", re.DOTALL)
LAST_WORD = re.compile(r"([^\s\d.]+)\s*$")

Key = tuple[int, float, tuple[tuple[int, float, str], ...]]
"""(what stands first, its size, its pieces)"""


def size_key(text: str) -> Key:
    """A key to sort by: what begins with a number by its size in the unit at its end, then other words, with
    the numbers in them by size; what is empty last. "2 of 3 A" counts as two amperes."""
    if not text.strip():
        return 2, 0.0, ()
    found = VALUE.match(text)
    if found is None:
        return 1, 0.0, _pieces(text)
    return 0, _number(found[1]) * _factor(found[2]), _pieces(text)


def _number(text: str) -> float:
    text = text.replace("−", "-")
    return float(int(text, 16)) if "x" in text.lower() else float(text)


def _factor(after: str) -> float:
    """What the unit at the end makes of the number."""
    last = LAST_WORD.search(after)
    unit = last[1] if last else ""
    if unit and unit[0] in PREFIX and unit[1:] in UNITS:
        return float(10.0 ** PREFIX[unit[0]])
    return 1.0


def _pieces(text: str) -> tuple[tuple[int, float, str], ...]:
    """Numbers and words in turn, so that they compare with one another."""
    parts = re.split(r"(\d+)", text.casefold())
    return tuple((0, float(p), "") if p.isdecimal() else (1, 0.0, p) for p in parts if p)
