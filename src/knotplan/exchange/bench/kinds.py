"""What a file from a bench is, by its name and its beginning."""

from collections.abc import Callable
from pathlib import Path
from typing import Literal

from knotplan.exchange import gpio_lines
from knotplan.exchange.bench import scan_text, serial_text, wave_csv, waves
from knotplan.exchange.bench.bench_file import FORMAT
from knotplan.exchange.files import open_ordinary
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.source.languages import READERS

Kind = Literal["", "scan", "lines", "waves", "program", "log", "bench"]
TABLES = (".csv", ".tsv")
BEGINNING = 4096
TEXTS: tuple[tuple[Kind, Callable[[Path], object]], ...] = (
    ("scan", scan_text.load),
    ("lines", gpio_lines.load),
    ("log", serial_text.load),
)


def kind_of(path: Path) -> Kind:
    """What it is; empty for what comes from no bench: a plan, a table of pins. Raises OSError."""
    suffix = path.suffix.lower()
    if path.is_dir() or suffix in READERS:
        return "program"
    with open_ordinary(path) as file:
        beginning = file.read(BEGINNING)
    if suffix == ".json":
        return "bench" if FORMAT.encode() in beginning else ""
    if waves.is_dump(path):
        return "waves"
    if suffix in TABLES:
        return "waves" if _is_numbers(path) else ""
    for kind, load in TEXTS:
        if _can(load, path):
            return kind
    return ""


def _is_numbers(path: Path) -> bool:
    return _can(lambda p: wave_csv.understood(wave_csv.beginning(p), p.name), path)


def _can(load: Callable[[Path], object], path: Path) -> bool:
    try:
        load(path)
    except FileProblemsError:
        return False
    return True
