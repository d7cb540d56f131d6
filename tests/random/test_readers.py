"""Damaged and hostile files: an answer or the reader's own error, in time, and never another number."""

import os
import random
from pathlib import Path

import pytest

from knotplan.catalog.load import shipped
from knotplan.exchange import board_csv, board_file, gpio_lines, part_file, plan_file
from knotplan.exchange.bench import bench_file, scan_text, serial_text, wave_csv, waves
from knotplan.exchange.source import dialect_file
from tests.conftest import examples
from tests.random.mutations import mutant
from tests.random.readers import READERS, seeds

LOADERS = {
    "plan": lambda p: plan_file.load(p, shipped()),
    "board": board_file.load,
    "part": part_file.load,
    "table": board_csv.load,
    "listing": gpio_lines.load,
    "scan": scan_text.load,
    "capture": waves.load,
    "capture table": wave_csv.load,
    "bench": bench_file.load,
    "log": serial_text.load,
    "dialect": dialect_file.load,
}


@pytest.mark.parametrize("reader", READERS)
def test_no_mutant_surprises_its_reader(reader: str, tmp_path: Path) -> None:
    read, good = READERS[reader][0], seeds(reader)
    for data in good:
        read(data, tmp_path)
    for number in range(examples(60)):
        r = random.Random(f"{reader} {number}")
        data = mutant(r.choice(good), r)
        try:
            read(data, tmp_path)
        except Exception as error:
            kept = tmp_path.parent / f"surprise-{reader}-{number}"
            kept.write_bytes(data)
            raise AssertionError(f"{reader}, mutant {number}, kept as {kept}: {error!r}") from error


@pytest.mark.parametrize("reader", [*LOADERS])
@pytest.mark.parametrize("what", ["folder", "pipe", "device", "endless", "nothing"])
def test_what_is_no_file_is_not_opened_as_one(reader: str, what: str, tmp_path: Path) -> None:
    path = tmp_path / "odd.toml"
    if what == "folder":
        path.mkdir()
    elif what == "pipe":
        os.mkfifo(path)
    elif what in ("device", "endless"):
        path.symlink_to("/dev/zero" if what == "endless" else "/dev/null")
    load = LOADERS[reader]
    with pytest.raises(OSError):
        load(path)
