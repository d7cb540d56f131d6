"""The nearest valid word to one that is not."""

from collections.abc import Iterable

LONGEST = 120
"""letters of a word that is looked at: likeness takes the square of them"""


def nearest(word: str, known: Iterable[str], count: int = 1, cutoff: float = 0.5) -> list[str]:
    """Up to `count` known words like `word`, the most alike first; likeness from 0 to 1 is at least `cutoff`.

    >>> nearest("bowlin-40", ["clove-22", "bowline-40"])
    ['bowline-40']
    """
    if len(word) > LONGEST:
        return []
    from difflib import get_close_matches  # asked for when something is wrong, never at start-up

    return get_close_matches(word, list(known), count, cutoff)
