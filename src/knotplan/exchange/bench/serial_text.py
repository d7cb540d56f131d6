"""Numbers from a serial log: columns by place or by name, whatever stands around them."""

import re
from collections import Counter
from pathlib import Path

import numpy as np
from msgspec import Struct

from knotplan.core.timing.wave import Floats
from knotplan.exchange.decoding import read_any
from knotplan.exchange.files import FileTooLargeError
from knotplan.exchange.problems import FileProblemsError

MOST_BYTES = 50_000_000
MOST_LINES = 1_000_000
NUMBER = re.compile(r"(?<![\w.])[-+]?(?:\d+(?:[.,]\d+)?|\.\d+)(?:[eE][-+]?\d+)?(?![\w.]|[.,]\d)")
NAMED = re.compile(r"([A-Za-z_][\w .-]{0,30}?)\s*[:=]\s*$")
STAMP = re.compile(
    r"^\s*(?:\[[^\]]*\]|\d{1,2}:\d{2}:\d{2}(?:[.,]\d+)?\s*(?:->|-|:)?|\d{4}-\d\d-\d\d[T ]\S+)\s*"
)


class SerialError(FileProblemsError):
    """The log has no numbers that come again and again."""

    what = "serial log"


class Column(Struct, frozen=True, eq=False):
    """One number of a line, over all lines that have it."""

    name: str
    values: Floats

    @property
    def least(self) -> float:
        """The smallest one."""
        return float(self.values.min())

    @property
    def most(self) -> float:
        """The greatest one."""
        return float(self.values.max())


def load(path: Path) -> list[Column]:
    """The columns of a log. Raises SerialError or OSError."""
    try:
        return parse(read_any(path, MOST_BYTES), path.name)
    except FileTooLargeError:
        raise SerialError(path.name, [("", "is larger than 50 MB")]) from None
    except UnicodeDecodeError as error:
        raise SerialError(path.name, [(f"byte {error.start}", "is no text")]) from None


def parse(text: str, name: str = "the log") -> list[Column]:
    """The columns of a log: by the name before a number (`left: 1512`), else by its place in lines that have
    as many numbers as most. Raises SerialError."""
    named: dict[str, list[float]] = {}
    plain: list[list[float]] = []
    for raw in text.splitlines()[:MOST_LINES]:
        line = STAMP.sub("", raw)
        row: list[float] = []
        for found in NUMBER.finditer(line):
            value = float(found[0].replace(",", "."))
            title = NAMED.search(line[: found.start()])
            if title:
                named.setdefault(" ".join(title[1].split()), []).append(value)
            else:
                row.append(value)
        if row:
            plain.append(row)
    usual = Counter(map(len, plain)).most_common(1)[0][0] if plain else 0
    rows = np.array([row for row in plain if len(row) == usual]) if usual else np.zeros((0, 0))
    columns = [Column(title, np.array(values)) for title, values in named.items() if len(values) > 1]
    if len(rows) > 1:
        columns += [Column(f"number {k + 1}", rows[:, k]) for k in range(usual)]
    if not columns:
        raise SerialError(name, [("", "has no number that comes again and again, such as 'left: 1512'")])
    return columns
