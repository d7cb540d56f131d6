"""Where the values of a JSON text stand: lines and columns, for messages that point into a file."""

import re
from collections.abc import Iterator

from msgspec import Struct

from knotplan.core.plan.validity.fault import Place

TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+')
SPELLED = re.compile(r"\[(?P<at>\d+)\]|(?P<key>[^.\[\]]+)")
LINE = re.compile(r"line (?P<line>\d+)(?:, column (?P<column>\d+))?")


class Region(Struct, frozen=True):
    """A stretch of a text; lines and columns count from 1, columns in letters, the end is behind the last."""

    line: int
    column: int
    end_line: int
    end_column: int


START = Region(1, 1, 1, 1)


class Positions:
    """The places of all values of a text, which need not be whole."""

    def __init__(self, text: str):
        self._text = text
        self._lines = [m.end() for m in re.finditer("\n", text)]
        self._spans = {place: (start, end) for place, start, end in _values(text)}

    def of(self, place: Place) -> Region:
        """The value at a place; where there is none, the nearest that holds it."""
        while place and place not in self._spans:  # the whole text has no place
            place = place[:-1]
        start, end = self._spans.get(place, (0, 0))
        line_end = self._text.find("\n", start)
        if line_end >= 0:  # of a whole part or tie the first line is enough
            end = min(end, line_end)
        return Region(*self._at(start), *self._at(max(end, start)))

    def told(self, words: str) -> Region:
        """The place that a message of a reader names: "line 3, column 5" or "ties[3].to"."""
        if line := LINE.match(words):
            at = int(line["line"]), int(line["column"] or 1)
            return Region(*at, *at)
        return self.of(tuple(int(m["at"]) if m["at"] else m["key"] for m in SPELLED.finditer(words)))

    def _at(self, offset: int) -> tuple[int, int]:
        from bisect import bisect_right

        line = bisect_right(self._lines, offset)
        return line + 1, offset - (self._lines[line - 1] if line else 0) + 1


def _values(text: str) -> Iterator[tuple[Place, int, int]]:
    """(place, start, end) of every value, those of brackets when they close."""
    way: list[str | int] = []
    opened: list[int] = []
    key = False
    """what comes is a key, or its value"""
    for token in TOKEN.finditer(text):
        mark = token[0]
        match mark:
            case "{" | "[":
                opened.append(token.start())
                way.append("" if mark == "{" else 0)
                key = mark == "{"
            case "}" | "]":
                if opened:
                    way.pop()
                    yield tuple(way), opened.pop(), token.end()
                key = False
            case ",":
                if way and isinstance(way[-1], int):
                    way[-1] += 1
                key = bool(way) and isinstance(way[-1], str)
            case ":":
                key = False
            case _ if key:
                way[-1] = _plain(mark)
            case _:
                yield tuple(way), token.start(), token.end()


def _plain(key: str) -> str:
    import json

    try:
        return str(json.loads(key))
    except ValueError:
        return key.strip('"')
