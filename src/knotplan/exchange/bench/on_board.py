"""This machine as a bench: its GPIO lines, buses and permissions, read and never changed.

This file stands for itself: it runs on a Linux board without anything else of Knot Plan, with Python 3.9 or
newer and the packages `gpiod` (version 2) and `smbus2`, as far as they are there:

    python3 read_bench.py > bench.json

Open bench.json in Bring-up on another machine. Lines are not requested. An address is asked by a write of no
bytes, where memories and some clocks are by reading one byte, because a write could change them; nobody's
registers are touched. Source: Linux GPIO character device, uAPI v2; Linux i2c-dev.
"""

from __future__ import annotations

import errno
import grp
import json
import os
import platform
import re
import sys
from datetime import datetime, timezone
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator

FREE = range(0x08, 0x78)
"""addresses that are not reserved"""
READ_THERE = (range(0x30, 0x38), range(0x50, 0x60))
"""where memories usually are"""
HELD = (errno.ETIMEDOUT, errno.EAGAIN)
"""what a controller says of a bus that it cannot drive"""
MOST_LINES = 4096


def numbered(folder: str | Path, pattern: str) -> list[Path]:
    """Device nodes in the order of their numbers."""
    found = (
        [p for p in Path(folder).iterdir() if re.fullmatch(pattern, p.name)] if Path(folder).is_dir() else []
    )
    return sorted(found, key=lambda p: int(re.sub(r"\D", "", p.name)))


def chips(folder: str | Path = "/dev") -> list[Path]:
    """The GPIO character devices of this machine."""
    return numbered(folder, r"gpiochip\d{1,4}")


def buses(folder: str | Path = "/dev") -> list[Path]:
    """The device nodes of this machine's I2C buses."""
    return numbered(folder, r"i2c-\d{1,4}")


def chip_lines(path: str | Path, open_chip: Callable[[str], Any] | None = None) -> list[dict[str, Any]]:
    """The lines of a chip, as the file has them. Raises OSError, ValueError, or ImportError without gpiod."""
    if open_chip is None:
        import gpiod

        open_chip = gpiod.Chip
    with open_chip(str(path)) as chip:
        count = min(chip.get_info().num_lines, MOST_LINES)
        return [_line(Path(path).name, chip.get_line_info(k)) for k in range(count)]


def _line(chip: str, one: Any) -> dict[str, Any]:
    """The bindings' enumerations by the names of their members; what is as usual is left out."""

    def said(field: str, *known: str) -> str:
        text = getattr(getattr(one, field, None), "name", "").lower().replace("_", "-")
        return text if text in known else ""

    line = {
        "chip": chip,
        "offset": one.offset,
        "name": one.name or "",
        "used_by": (one.consumer or "kernel") if one.used else "",
        "direction": said("direction", "input", "output"),
        "bias": said("bias", "pull-up", "pull-down", "disabled"),
        "active_low": bool(getattr(one, "active_low", False)),
        "drive": said("drive", "open-drain", "open-source"),
    }
    return {k: v for k, v in line.items() if v or k in ("chip", "offset")}


def scan_bus(path: str | Path, open_bus: Callable[[str], Any] | None = None) -> dict[str, Any]:
    """Who answers on a bus; what keeps it from being asked is its `trouble`."""
    path = Path(path)
    found: dict[str, Any] = {
        "bus": int(path.name.partition("-")[2]),
        "answers": [],
        "drivers": [],
        "silent": [],
    }
    try:
        if open_bus is None:
            from smbus2 import SMBus

            open_bus = SMBus
        with open_bus(str(path)) as bus:
            for address in FREE:
                found[_asked(bus, address)].append(address)
        return found
    except ImportError:
        why = "the package smbus2 is missing"
    except PermissionError:
        why = f"{path} may not be read{group_of(path)}"
    except FileNotFoundError:
        why = f"There is no {path}: the bus is switched off, or has another number"
    except OSError as error:
        held = error.errno in HELD
        why = (
            "A line of the bus is held low: it answers nobody"
            if held
            else f"{path}: {error.strerror or error}"
        )
    return {"bus": found["bus"], "trouble": why}


def _asked(bus: Any, address: int) -> str:
    try:
        if any(address in block for block in READ_THERE):
            bus.read_byte(address)
        else:
            bus.write_quick(address)
    except OSError as error:
        if error.errno == errno.EBUSY:
            return "drivers"
        if error.errno in HELD:
            raise
        return "silent"
    return "answers"


def group_of(path: str | Path) -> str:
    """What to do where a device may not be read."""
    try:
        return f": add yourself to the group {Path(path).group()}, then log in anew"
    except (OSError, KeyError):
        return ": add yourself to the group that owns it"


def read_all(
    numbers: Iterable[int] = (),
    *,
    scan: bool = True,
    root: str | Path = "/",
    open_chip: Callable[[str], Any] | None = None,
    open_bus: Callable[[str], Any] | None = None,
) -> dict[str, Any]:
    """Everything that may be read; what may not is in the notes. `root` and the two openers are for tests."""
    root = Path(root)
    notes: list[str] = []
    lines: list[dict[str, Any]] = []
    for path in chips(root / "dev"):
        try:
            lines += chip_lines(path, open_chip)
        except ImportError:
            notes.append("the package gpiod is missing: no lines were read")
            break
        except PermissionError:
            notes.append(f"{path} may not be read{group_of(path)}")
        except (OSError, ValueError) as error:
            notes.append(f"{path}: {error}")
    if not chips(root / "dev"):
        notes.append("there is no GPIO character device")
    nodes = buses(root / "dev") if scan else []
    wanted = [p for p in nodes if not numbers or int(p.name.partition("-")[2]) in numbers]
    if scan and not nodes:
        notes.append("there is no I2C device node: no bus is switched on, or its driver is not loaded")
    kernel_list = _text(root / "sys/kernel/debug/gpio")
    if lines and not kernel_list:
        notes.append("levels are not known: /sys/kernel/debug/gpio may be read by root only")
    return {
        "format": "knotplan-bench",
        "version": 1,
        "taken": datetime.now(timezone.utc).isoformat(timespec="seconds"),  # noqa: UP017  (Python 3.9 too)
        "system": f"{platform.system()} {platform.release()}, {platform.machine()}",
        "model": _text(root / "proc/device-tree/model").strip("\0 \n"),
        "lines": lines,
        "kernel_list": kernel_list,
        "scans": [scan_bus(p, open_bus) for p in wanted],
        "groups": sorted(_groups()),
        "notes": notes,
    }


def _groups() -> Iterator[str]:
    for number in os.getgroups():
        try:
            yield grp.getgrgid(number).gr_name
        except KeyError:
            yield str(number)


def _text(path: Path) -> str:
    try:
        return path.read_text("utf-8", "replace")
    except OSError:
        return ""


if __name__ == "__main__":
    json.dump(read_all(), sys.stdout, indent=1)
    print()
