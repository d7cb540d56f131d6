"""Lists of pins: every name taken apart, resolved without guessing, and said in all the other schemes."""

import re
from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from knotplan.core.names.book import NameBook

MOST_NAMES = 5000
MOST_NEAR = 60
"""unknown names of a list for which the nearest are looked up, which takes its time"""
RANGE = re.compile(r"(?P<head>.*?)(?P<first>\d+)\s*(?:\.\.+|…)\s*(?P<again>\D*?)(?P<last>\d+)")
LONGEST_RANGE = 100
"""letters of the longest text that is looked at as a range: the search takes the square of its length"""
State = Literal["found", "ambiguous", "unknown"]


class Named(Struct, frozen=True):
    """One name of a list, and the pins that it means."""

    text: str
    line: int
    """where it stands, from 1"""
    pins: tuple[str, ...]
    near: tuple[str, ...] = ()
    """the nearest names, where it means nothing"""

    @property
    def state(self) -> State:
        """Whether the name means one pin, several, or none."""
        if len(self.pins) == 1:
            return "found"
        if self.pins:
            return "ambiguous"
        return "unknown"


def range_in(text: str) -> re.Match[str] | None:
    """First and last of a range of names, where the text is one."""
    return RANGE.fullmatch(text) if len(text) <= LONGEST_RANGE else None


def expanded(text: str) -> list[str]:
    """A range written out; anything else as it is.

    >>> expanded("D2..D5"), expanded("pos 7..9"), expanded("X2.14"), expanded("A")
    (['D2', 'D3', 'D4', 'D5'], ['pos 7', 'pos 8', 'pos 9'], ['X2.14'], ['A'])
    """
    span = range_in(text)
    if not span or span["again"].strip() not in ("", span["head"].strip()):
        return [text]
    if len(span["first"]) > 6 or len(span["last"]) > 6:
        return [text]
    first, last = int(span["first"]), int(span["last"])
    if abs(last - first) > MOST_NAMES:
        return [text]
    step = 1 if last >= first else -1
    wide = len(span["first"]) if span["first"].startswith("0") else 0
    return [f"{span['head']}{n:0{wide}d}" for n in range(first, last + step, step)]


def names_in(text: str, book: NameBook) -> Iterator[tuple[str, int]]:
    """(name, line) of everything in a text that is separated by lines, commas, semicolons or tabs; by
    spaces too where what stands between commas is no name as a whole."""
    for number, line in enumerate(text.splitlines(), 1):
        for piece in re.split(r"[,;\t|]", line):
            whole = piece.strip().strip("\"'")
            if not whole:
                continue
            words = [whole] if book.find(whole) or range_in(whole) else whole.split()
            for word in words:
                for name in expanded(word):
                    yield name, number


def resolved(text: str, book: NameBook, scheme: str | None = None) -> tuple[Named, ...]:
    """Every name of a list with the pins that it means, by one scheme or by any."""
    answers: list[Named] = []
    unknown = 0
    for name, line in names_in(text, book):
        if len(answers) >= MOST_NAMES:
            break
        pins = book.pins(name, scheme)
        unknown += not pins
        answers.append(Named(name, line, pins, () if pins or unknown > MOST_NEAR else book.near(name, 3)))
    return tuple(answers)


def fitting_schemes(text: str, book: NameBook) -> tuple[str, ...]:
    """The schemes in which every name of a list means exactly one pin:
    what the list was probably written in."""
    names = [name for name, _ in names_in(text, book)][:MOST_NAMES]
    return tuple(s for s in book.board.schemes if names and all(len(book.pins(n, s)) == 1 for n in names))
