"""A bus scan as the usual Linux tool prints it (`i2cdetect` of i2c-tools 3 and 4), pasted or from a file.

A grid has a row for each sixteen addresses of 7 bits: `--` nobody, `UU` a driver has it, a number somebody,
and nothing at all where nobody asked. Prompts, questions and whatever else stands around the grids is passed
over.
"""

import re
from collections.abc import Iterator
from pathlib import Path

from knotplan.core.bringup.said import Answer, BusScan
from knotplan.exchange.decoding import read_any
from knotplan.exchange.files import FileTooLargeError
from knotplan.exchange.problems import FileProblemsError

MOST_BYTES = 1_000_000
HEAD = re.compile(r"^\s*0\s+1\s+2\s+3\s+4\s+5\s+6\s+7\s+8\s+9\s+a\s+b\s+c\s+d\s+e\s+f\s*$", re.IGNORECASE)
ROW = re.compile(r"^\s*(?P<row>[0-7])0:(?P<cells>(?:\s+(?:--|UU|[0-9a-f]{2}))*)\s*$", re.IGNORECASE)
NEARLY = re.compile(r"^\s*[0-9a-f]{1,2}0?:\s*\S")
COMMAND = re.compile(r"i2cdetect\s+(?P<arguments>[^;|&]*)")
DEVICE = re.compile(r"/dev/i2c[-/](?P<number>\d{1,4})\b")
NO_BUS = re.compile(
    r"(?:Could not open|Error).*?/dev/i2c[-/](?P<number>\d{1,4})(?:.*['`:])?\s*(?P<why>[^'`:]*)$",
    re.IGNORECASE,
)
WIDTH = 3
"""letters that a cell takes"""
MARKS: dict[str, Answer] = {"--": "silent", "uu": "driver"}
WHY = {
    "permission denied": "Permission denied: the user is not in the group of the device",
    "no such file or directory": "There is no such device: the bus is switched off, or has another number",
}


class ScanError(FileProblemsError):
    """The text holds no scan, or one that contradicts itself."""

    what = "bus scan"


def parse(text: str, name: str = "the scan") -> list[BusScan]:
    """The scans in a text, in their order. Raises ScanError with every place that is wrong."""
    reader = _Reader(text)
    scans = list(reader.scans())
    if reader.wrong:
        raise ScanError(name, reader.wrong)
    if not scans:
        raise ScanError(name, [("", "has no row of a scan, such as '40: -- -- -- -- -- -- -- -- 48'")])
    return scans


def load(path: Path) -> list[BusScan]:
    """The scans in a file. Raises ScanError or OSError."""
    try:
        return parse(read_any(path, MOST_BYTES), path.name)
    except FileTooLargeError:
        raise ScanError(path.name, [("", "is larger than any scan")]) from None
    except UnicodeDecodeError as error:
        raise ScanError(path.name, [(f"byte {error.start}", "is no text")]) from None


class _Reader:
    """Goes through the lines; a grid ends where a row is not below the one before."""

    def __init__(self, text: str):
        self.lines = text.replace("\r\n", "\n").replace("\r", "\n").expandtabs(8).split("\n")
        self.wrong: list[tuple[str, str]] = []
        self.bus: int | None = None
        self.cells: dict[int, Answer] = {}
        self.last_row = -1
        self.begun = 0

    def scans(self) -> Iterator[BusScan]:
        for number, line in enumerate(self.lines, 1):
            if row := ROW.match(line):
                if int(row["row"]) <= self.last_row:
                    yield from self._ended()
                self.begun = self.begun or number
                self.last_row = int(row["row"])
                self._take(number, line, row)
                continue
            if HEAD.match(line):
                yield from self._ended()
            elif said := NO_BUS.search(line):
                yield from self._ended()
                why = said["why"].strip()
                yield BusScan(
                    int(said["number"]),
                    {},
                    f"line {number}",
                    WHY.get(why.lower(), why or "It cannot be opened"),
                )
            elif command := COMMAND.search(line):
                yield from self._ended()
                self.bus = _bus_of(command["arguments"])
            elif device := DEVICE.search(line):
                yield from self._ended()
                self.bus = int(device["number"])
            elif self.cells and NEARLY.match(line):
                self.wrong.append((f"line {number}", f"{line.strip()[:60]!r} is no row of a scan"))
        yield from self._ended()

    def _ended(self) -> Iterator[BusScan]:
        if self.begun:
            yield BusScan(self.bus, self.cells, f"line {self.begun}")
            self.bus = None
        self.cells, self.last_row, self.begun = {}, -1, 0

    def _take(self, number: int, line: str, row: re.Match[str]) -> None:
        first, words = int(row["row"]) * 16, row["cells"].split()
        columns = self._columns(row, len(words))
        if columns is None:
            self.wrong.append((f"line {number}", f"has {len(words)} cells, and none says which is the first"))
            return
        for column, said in zip(columns, words, strict=True):
            address, mark = first + column, said.lower()
            if mark not in MARKS and int(mark, 16) != address:
                self.wrong.append(
                    (
                        f"line {number}",
                        f"0x{mark} stands in the cell of 0x{address:02x}: is the row complete?",
                    )
                )
                continue
            self.cells[address] = MARKS.get(mark, "answers")

    def _columns(self, row: re.Match[str], count: int) -> list[int] | None:
        """Which column each cell of a row is in: by where it stands; where spaces went lost, a full row, or
        one in which a number says it."""
        stand = [m.start() - 1 for m in re.finditer(r"\S+", row["cells"])]
        if not count:
            return []
        if all(at % WIDTH == 0 and at // WIDTH < 16 for at in stand) and (
            count == 16 or self._wide(row, stand)
        ):
            return [at // WIDTH for at in stand]
        if count == 16:
            return list(range(16))
        for k, said in enumerate(row["cells"].split()):
            if said.lower() not in MARKS:
                first = int(said, 16) % 16 - k
                return list(range(first, first + count)) if 0 <= first <= 16 - count else None
        return self._usual(int(row["row"]), count)

    def _wide(self, row: re.Match[str], stand: list[int]) -> bool:
        """Cells that were left out have left their room; a row that begins at once may have lost it."""
        return bool(stand) and (stand[0] > 0 or int(row["row"]) == 7 or self._full_head())

    def _full_head(self) -> bool:
        return any(line.startswith("    ") for line in self.lines if HEAD.match(line))

    def _usual(self, row: int, count: int) -> list[int] | None:
        """What the tool leaves out unasked: addresses below 3 or 8, and above 0x77."""
        if row == 0 and count in (8, 13):
            return list(range(16 - count, 16))
        return list(range(count)) if row == 7 and count == 8 else None


def _bus_of(arguments: str) -> int | None:
    """The number in what the tool was called with: the first one that is no option."""
    for word in arguments.split():
        if word.startswith("-"):
            continue
        return int(word) if re.fullmatch(r"\d{1,4}", word) else None
    return None
