"""Finds parts by what people call them: the better a part's words match, and the more common it is, the
earlier it comes."""

from collections.abc import Iterable

import msgspec

from knotplan.catalog.load import Offer
from knotplan.catalog.nearest import nearest

MOST_AT_ONCE = 32
"""so many of a part can be added at once"""
WHOLE_NAME, BEGUN_NAME, WHOLE_WORD, BEGUN_WORD, INSIDE = 8, 6, 5, 3, 1
"""what a typed word counts: a word of the part's name, or its beginning; a word that people call it by, or
its beginning; a part of any word"""


class Found(msgspec.Struct, frozen=True):
    """A part that is meant, and how many of it."""

    offer: Offer
    count: int = 1


def found(offers: Iterable[Offer], typed: str) -> list[Found]:
    """The parts that a text means, the likeliest first; all of them, the most common first, for an empty one.

    A number before the rest says how many: "3 red led". Where it is a word of what a part is called, such as
    the 7 of a driver with seven ways, it is that first.
    """
    everything = list(offers)
    words = typed.casefold().split()
    literally = _ranked(everything, words)
    count, rest = _counted(words)
    if not count or not rest:
        return [Found(offer) for offer in literally]
    several = [Found(offer, count) for offer in _ranked(everything, rest)]
    return [*(Found(offer) for offer in literally), *several]


def nothing_found(offers: Iterable[Offer], typed: str) -> str:
    """Why a text means no part, and what it may have meant."""
    number = typed.split(maxsplit=1)[0].rstrip("x×") if typed.split() else ""
    if number.isascii() and number.isdigit() and len(typed.split()) > 1:
        wanted = int(number[:9])
        if wanted == 0 or wanted > MOST_AT_ONCE:
            return f"Between 1 and {MOST_AT_ONCE} parts can be added at once."
        typed = typed.split(maxsplit=1)[1]
    words = {word for offer in offers for word in f"{offer.called} {offer.said}".casefold().split()}
    near = [word for one in typed.casefold().split() for word in nearest(one, words, 2)]
    return f"No part is called “{typed}”." + (f" Nearest words: {', '.join(near)}." if near else "")


def _counted(words: list[str]) -> tuple[int, list[str]]:
    """How many are wanted, if the first word says that, and the other words: "3", "3x" or "3 x"."""
    number, rest = (words[0].removesuffix("x").removesuffix("×"), words[1:]) if words else ("", [])
    if rest and rest[0] in ("x", "×"):
        rest = rest[1:]
    if not number.isascii() or not number.isdigit() or not 2 <= int(number[:4]) <= MOST_AT_ONCE:
        return 0, words
    return int(number), rest


def _ranked(offers: list[Offer], words: list[str]) -> list[Offer]:
    scored = [(_score(offer, words), offer) for offer in offers]
    kept = [(score, offer) for score, offer in scored if score >= 0]
    return [offer for _, offer in sorted(kept, key=lambda one: (-one[0], -one[1].common))]


def _score(offer: Offer, words: list[str]) -> int:
    """How well a part's words match those typed; -1 where one of them fits nothing."""
    called, said = offer.called.casefold().split(), offer.said.casefold().split()
    text = f"{offer.called} {offer.said} {offer.does}".casefold()
    score = 0
    for word in words:
        if word in called:
            score += WHOLE_NAME
        elif any(one.startswith(word) for one in called):
            score += BEGUN_NAME
        elif word in said:
            score += WHOLE_WORD
        elif any(one.startswith(word) for one in said):
            score += BEGUN_WORD
        elif word in text and not word.isdigit():
            score += INSIDE
        else:
            return -1
    return score
