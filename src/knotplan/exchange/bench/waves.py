"""Captures of either kind, by what is in the file."""

from pathlib import Path

from knotplan.core.bringup.captured.trace import Trace
from knotplan.exchange.bench import vcd_read, wave_csv
from knotplan.exchange.bench.progress import Progress, go_on
from knotplan.exchange.files import open_ordinary


def is_dump(path: Path) -> bool:
    """The file is a value change dump. Raises OSError."""
    with open_ordinary(path) as file:
        beginning = file.read(4096)
    return path.suffix.lower() == ".vcd" or b"$enddefinitions" in beginning or beginning.lstrip()[:1] == b"$"


def load(path: Path, progress: Progress = go_on) -> list[Trace]:
    """The channels of a capture. Raises DumpError, CsvError, Stopped or OSError."""
    if is_dump(path):
        return vcd_read.load(path, progress)
    return wave_csv.load(path, None, progress)
