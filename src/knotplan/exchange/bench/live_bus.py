"""The I2C buses of this machine, through their device nodes (Linux i2c-dev, by `smbus2`)."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from knotplan.core.bringup.said import BusScan
from knotplan.exchange.bench import on_board
from knotplan.exchange.bench.bench_file import SavedScan, scan_of


def buses(folder: Path = Path("/dev")) -> list[Path]:
    """The device nodes of this machine's buses."""
    return on_board.buses(folder)


def scan(path: Path, open_bus: Callable[[str], Any] | None = None) -> BusScan:
    """Which addresses of a bus answer; what keeps it from being asked is in the answer's `trouble`."""
    said = on_board.scan_bus(path, open_bus)
    lists = {k: tuple(said.get(k, ())) for k in ("answers", "drivers", "silent")}
    return scan_of(SavedScan(said["bus"], **lists, trouble=said.get("trouble", "")), str(path))
