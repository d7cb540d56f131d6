"""Ids that are safe in files, addresses and program constants."""

import re

LONGEST_ID = 60
"""letters of an id, so that a file can be called so"""


def slug(name: str, taken: set[str]) -> str:
    """A short id from a name, safe in files, URLs and programs, and not yet taken.

    >>> slug("Fog horn!", {"fog-horn"})
    'fog-horn-2'
    """
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:LONGEST_ID].strip("-") or "part"
    if base == "board" or base[0].isdigit():
        base = f"part-{base}"
    number, text = 1, base
    while text in taken:
        number += 1
        text = f"{base}-{number}"
    return text
