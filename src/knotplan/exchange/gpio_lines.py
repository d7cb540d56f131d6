"""The lines of a GPIO character device, live or as the usual command-line tool
lists them, as the beginning of a board.

Source: Linux GPIO character device, uAPI v2 (`gpiod` 2.x bindings); the listing of
`gpioinfo` of libgpiod 1.x and 2.x.
"""

import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from knotplan.core.draft.board import BoardDraft, add_header, blank
from knotplan.exchange.files import FileTooLargeError, read_utf8
from knotplan.exchange.problems import FileProblemsError

MOST_LINES = 1024
MOST_BYTES = 2_000_000
CHIP = re.compile(r"(?P<name>gpiochip\d+)\b.*?(?P<count>\d+) lines")
LINE = re.compile(
    r"line\s+(?P<offset>\d{1,9}):\s+(?:\"(?P<name>[^\"]*)\"|(?P<unnamed>unnamed|-))\s*(?P<rest>.*)"
)
USED = re.compile(r"consumer=(?:\"(?P<named>[^\"]*)\"|(?P<consumer>\S+))|^\"(?P<quoted>[^\"]+)\"")


class GpioLine(Struct, frozen=True):
    """One line of one chip."""

    chip: str
    offset: int
    name: str = ""
    used_by: str = ""


class GpioError(FileProblemsError):
    """The listing or the device cannot be read."""

    what = "list of GPIO lines"


def chips(folder: Path = Path("/dev")) -> list[Path]:
    """The GPIO character devices of this machine."""
    return sorted(folder.glob("gpiochip*"), key=lambda p: int(re.sub(r"\D", "", p.name) or 0))


def read_chip(path: Path, open_chip: Callable[[str], Any] | None = None) -> list[GpioLine]:
    """The lines of a device, through the kernel; nothing is requested, no line changes. Raises GpioError."""
    if open_chip is None:
        import gpiod

        open_chip = gpiod.Chip
    try:
        with open_chip(str(path)) as chip:
            info = chip.get_info()
            lines = [chip.get_line_info(k) for k in range(min(info.num_lines, MOST_LINES))]
    except PermissionError:
        raise GpioError(
            path.name, [(str(path), "may not be read; add yourself to the group that owns it")]
        ) from None
    except (OSError, ValueError) as error:
        raise GpioError(path.name, [(str(path), str(error))]) from None
    return [
        GpioLine(path.name, one.offset, one.name or "", (one.consumer or "kernel") if one.used else "")
        for one in lines
    ]


def parse(text: str, name: str = "the listing") -> list[GpioLine]:
    """The lines of a saved listing, of either generation of the tool. Raises
    GpioError with every line that is none."""
    chip, found = "", []
    wrong: list[tuple[str, str]] = []
    for number, raw in enumerate(text.split("\n"), 1):
        said = raw.strip()
        if not said:
            continue
        if head := CHIP.match(said):
            chip = head["name"]
        elif line := LINE.match(said):
            rest = line["rest"]
            used = USED.search(rest)
            if used:
                consumer = next(filter(None, used.groups()), "")
            elif "[used]" in rest:
                consumer = "system"
            else:
                consumer = ""
            found.append(GpioLine(chip, int(line["offset"]), line["name"] or "", consumer))
        else:
            wrong.append((f"line {number}", f"{said[:60]!r} is neither a chip nor a line of one"))
    if len(found) > MOST_LINES:
        wrong = [("", f"{len(found)} lines are more than a board brings out")]
    if wrong or not found:
        raise GpioError(name, wrong or [("", "lists no line")])
    return found


def load(path: Path) -> list[GpioLine]:
    """The lines of a saved listing. Raises GpioError or OSError."""
    try:
        return parse(read_utf8(path, MOST_BYTES), path.name)
    except FileTooLargeError:
        raise GpioError(path.name, [("", "is larger than any listing")]) from None
    except UnicodeDecodeError as error:
        raise GpioError(path.name, [(f"byte {error.start}", "is not UTF-8 text")]) from None


def draft(lines: Iterable[GpioLine], title: str = "My computer") -> BoardDraft:
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
