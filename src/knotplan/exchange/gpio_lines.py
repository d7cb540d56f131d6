"""The lines of GPIO chips: live through the character device, or as the usual tools and the kernel list them.

Source: Linux GPIO character device, uAPI v2 (`gpiod` 2.x bindings); the listings of `gpioinfo` and `gpioget`
of libgpiod 1.x and 2.x, with quoted names and without, by chip or by name; `/sys/kernel/debug/gpio`.
"""

import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from knotplan.core.bringup.said import Bias, Direction, Drive, Level, LineState
from knotplan.core.draft.board import BoardDraft, add_header, blank
from knotplan.exchange.bench import on_board
from knotplan.exchange.bench.around import is_around
from knotplan.exchange.decoding import read_any
from knotplan.exchange.files import FileTooLargeError
from knotplan.exchange.problems import FileProblemsError

MOST_LINES = on_board.MOST_LINES
MOST_BYTES = 2_000_000
CHIP = re.compile(r"(?P<name>gpiochip\d+)\b.*?(?P<count>\d+) lines\)?:?\s*$")
LINE = re.compile(
    r"(?:line\s+(?P<offset>\d{1,9}):|(?P<chip>gpiochip\d+)\s+(?P<at>\d{1,9})\b:?)(?P<gap>\s*)(?P<rest>.*)"
)
NAME = re.compile(r"\"(?P<quoted>[^\"]*)\"\s*|(?P<none>(?:unnamed|-)(?=\s|$))\s*")
BARE = re.compile(r"(?P<name>\S.*?)(?:\s*\t\s*|\s{2,}|\s+(?=(?:input|output|unused)\b)|$)")
BY_NAME = re.compile(r"(?P<name>\"[^\"]+\"|[\w.:@+/-]+)\s+(?P<rest>(?:input|output)\b.*)")
USED = re.compile(r"consumer=(?:\"(?P<named>[^\"]*)\"|(?P<plain>.+))|^\"(?P<quoted>[^\"]+)\"")
OPTION = re.compile(r"(bias|drive)=([\w-]+)")
LEVEL = re.compile(r"(?P<name>\"[^\"]+\"|[\w.:@+/-]+)=(?P<level>active|inactive|[01])(?=\s|$)")
BANK = re.compile(r"(?P<name>gpiochip\d+): GPIOs (?P<first>\d+)-(?P<last>\d+)\b")
GLOBAL = re.compile(r"gpio-(?P<number>\d+)\s*\((?P<names>[^)]*)\)\s*(?P<rest>.*)")
BIASES: dict[str, Bias] = {
    "pull-up": "pull-up",
    "pull-down": "pull-down",
    "disabled": "disabled",
    "bias-disabled": "disabled",
}
DRIVES: dict[str, Drive] = {"open-drain": "open-drain", "open-source": "open-source"}


class GpioError(FileProblemsError):
    """The listing or the device cannot be read."""

    what = "list of GPIO lines"


def chips(folder: Path = Path("/dev")) -> list[Path]:
    """The GPIO character devices of this machine."""
    return on_board.chips(folder)


def read_chip(path: Path, open_chip: Callable[[str], Any] | None = None) -> list[LineState]:
    """The lines of a device, through the kernel; nothing is requested, no line changes. Raises GpioError."""
    try:
        return [LineState(**line) for line in on_board.chip_lines(path, open_chip)]
    except PermissionError:
        raise GpioError(path.name, [(str(path), f"may not be read{on_board.group_of(path)}")]) from None
    except (OSError, ValueError) as error:
        raise GpioError(path.name, [(str(path), str(error))]) from None


def _direction(text: str) -> Direction:
    return "input" if text == "input" else "output" if text == "output" else ""


def parse(text: str, name: str = "the listing") -> list[LineState]:
    """The lines of a listing. Raises GpioError with every line of the text that is none."""
    reader = _Reader()
    for number, raw in enumerate(text.split("\n"), 1):
        reader.take(number, raw.strip(" \r"))
    found = reader.lines()
    wrong = reader.wrong
    if len(found) > MOST_LINES:
        wrong = [("", f"{len(found)} lines are more than a board brings out")]
    if wrong or not found:
        raise GpioError(name, wrong or [("", "lists no line")])
    return found


def load(path: Path) -> list[LineState]:
    """The lines of a saved listing. Raises GpioError or OSError."""
    try:
        return parse(read_any(path, MOST_BYTES), path.name)
    except FileTooLargeError:
        raise GpioError(path.name, [("", "is larger than any listing")]) from None
    except UnicodeDecodeError as error:
        raise GpioError(path.name, [(f"byte {error.start}", "is no text")]) from None


class _Reader:
    """Goes through the lines of a text. What several listings in it say of one line is put together."""

    def __init__(self) -> None:
        self.chip = ""
        self.first = 0
        """the global number of a chip's first line, in the kernel's own list"""
        self.found: dict[tuple[str, int, str], LineState] = {}
        self.levels: dict[str, Level] = {}
        self.wrong: list[tuple[str, str]] = []

    def take(self, number: int, raw: str) -> None:
        said = raw.strip()
        if not said:
            return
        if bank := BANK.match(said):
            self.chip, self.first = bank["name"], int(bank["first"])
        elif head := CHIP.match(said):
            self.chip = head["name"]
        elif line := LINE.match(said):
            chip, offset = line["chip"] or self.chip, int(line["offset"] or line["at"])
            self._put(_line(chip, offset, line["rest"]))
        elif one := GLOBAL.match(said):
            self._put(_of_kernel_list(self.chip, int(one["number"]) - self.first, one["names"], one["rest"]))
        elif named := BY_NAME.fullmatch(said):
            self._put(_with(LineState("", -1, named["name"].strip('"')), named["rest"]))
        elif (levels := list(LEVEL.finditer(said))) and not LEVEL.sub("", said).strip():
            for level in levels:
                self.levels[level["name"].strip('"')] = 1 if level["level"] in ("active", "1") else 0
        elif not is_around(said):
            self.wrong.append((f"line {number}", f"{said[:60]!r} is neither a chip nor a line of one"))

    def _put(self, line: LineState) -> None:
        key = (line.chip, line.offset, line.name if line.offset < 0 else "")
        known = self.found.get(key)
        if known is not None and line.level is None:
            line = replace(line, level=known.level)
        self.found[key] = line

    def lines(self) -> list[LineState]:
        """All lines, with the levels that were read of them. (Those are as the user of a line sees them.)"""
        lines = [self._with_level(line) for line in self.found.values()]
        lines += [
            LineState("", -1, name, level=level) for name, level in self.levels.items() if not name.isdigit()
        ]
        return lines

    def _with_level(self, line: LineState) -> LineState:
        level = self.levels.pop(line.name, None) if line.name else None
        if level is None:
            level = self.levels.pop(str(line.offset), None)
        return line if level is None else replace(line, level=1 if bool(level) != line.active_low else 0)


def _line(chip: str, offset: int, rest: str) -> LineState:
    """What stands behind a line's number: its name, then what it is."""
    name = NAME.match(rest)
    if name is not None:
        return _with(LineState(chip, offset, name["quoted"] or ""), rest[name.end() :])
    bare = BARE.match(rest)
    if bare is None or _direction(bare["name"]):
        return _with(LineState(chip, offset), rest)
    return _with(LineState(chip, offset, bare["name"]), rest[bare.end() :])


def _with(line: LineState, rest: str) -> LineState:
    """The line with what is said of it: either generation of the tool."""
    used = USED.search(rest)
    consumer = next(filter(None, used.groups()), "") if used else "system" if "[used" in rest else ""
    words = re.sub(r"\"[^\"]*\"", "", USED.sub("", rest)).replace("[", " ").replace("]", " ").split()
    options = dict(OPTION.findall(rest))
    direction = next((w for w in words if w in ("input", "output")), "")
    bias = options.get("bias") or next((w for w in words if w in BIASES), "")
    drive = options.get("drive") or next((w for w in words if w in DRIVES), "")
    return replace(
        line,
        used_by=consumer.strip(),
        direction=_direction(direction),
        bias=BIASES.get(bias, ""),
        active_low="active-low" in words,
        drive=DRIVES.get(drive, ""),
    )


def _of_kernel_list(chip: str, offset: int, names: str, rest: str) -> LineState:
    """ "gpio-529 (LAMP |led ) out hi ACTIVE LOW" of the kernel's own list, with the level on the pin."""
    name, _, user = (x.strip() for x in names.partition("|"))
    words = rest.split()
    level: Level | None = 1 if "hi" in words else 0 if "lo" in words else None
    direction = "input" if "in" in words else "output" if "out" in words else ""
    return LineState(chip, offset, name, user, _direction(direction), "", "ACTIVE LOW" in rest, level=level)


def draft(lines: Iterable[LineState], title: str = "My computer") -> BoardDraft:
    """The beginning of a board: a contact for each line, to be put in the order of the header."""
    lines = list(lines)
    several = len({one.chip for one in lines}) > 1
    begun = replace(blank(title), headers={}, pins=(), schemes={"kernel": "Kernel line"})
    if any(one.name for one in lines):
        begun = replace(begun, schemes={"system": "System name", "kernel": "Kernel line"})
    begun = add_header(begun, "main", (len(lines) + 1) // 2, 2)
    taken: set[str] = set()
    pins = []
    for pin, one in zip(begun.pins, lines, strict=False):
        names = {"kernel": f"{one.chip} {one.offset}" if several else f"line {one.offset}"}
        if one.name and one.name.casefold() not in taken:
            names["system"] = one.name
            taken.add(one.name.casefold())
        note = f"in use: {one.used_by}" if one.used_by else ""
        pins.append(replace(pin, names=names, kind="signal", note=note))
    return replace(begun, pins=(*pins, *begun.pins[len(pins) :]))
