"""Each reader of files with something to read, and what it may say of it: an
answer or its own error, nothing else."""

import json
import random
from collections.abc import Callable, Iterator
from decimal import Decimal
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from knotplan.catalog.kept import tree_of as kept_tree
from knotplan.catalog.load import shipped
from knotplan.core.bringup.held import Bench, held
from knotplan.core.check.analysis import analyse
from knotplan.core.draft.board_compiled import compiled
from knotplan.core.names.book import NameBook
from knotplan.core.names.lists import resolved
from knotplan.desktop.settings import Settings
from knotplan.examples import example
from knotplan.exchange import board_csv, board_file, gpio_lines, part_file
from knotplan.exchange.bench import bench_file, scan_text, serial_text, wave_csv, waves
from knotplan.exchange.plan_file import PlanFileError, dumps, loads
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.recovery import Recovery
from knotplan.exchange.source import dialect_file, languages
from tests.programs.by_hand import (
    CPP_CONSTEXPR,
    DEFINES,
    DESIGNATED,
    INT_ENUM,
    OVERLAY,
    PINS,
    SETTINGS_FILE,
    written,
)
from tests.programs.own_dialects import PYTHON, C

CATALOG = shipped()
REPORT = analyse(example("harbour-light", CATALOG), CATALOG)
EXAMPLE = Path(__file__).parents[2] / "docs/examples/harbour-light"
Read = Callable[[bytes, Path], None]


def plan(data: bytes, folder: Path) -> None:
    """What is accepted has the numbers that the file has, and can be written and read again."""
    try:
        found = loads(data, CATALOG)
    except PlanFileError as error:
        assert error.errors and all(why for _, why in error.errors)
        if error.rest is not None:
            again = dumps(error.rest.plan)
            assert dumps(loads(again, CATALOG)) == again, "what is left opens"
        return
    again = dumps(found)
    assert dumps(loads(again, CATALOG)) == again
    written = list(_numbers(json.loads(data.decode("utf-8-sig"), parse_float=Decimal)))
    kept = sorted(float(n) for n in _numbers(msgspec.to_builtins(found)))
    missing = [n for n in written if float(n) not in kept and float(n) not in DEFAULTS]
    assert not missing, f"numbers of the file that the plan has not: {missing}"


DEFAULTS = {0.0, 1.0, 2.0, 0.05, 0.25, 16.0, 3.3, 60.0}
"""values that a plan leaves out because they are the usual ones, and the format's version"""


def _numbers(tree: Any) -> Iterator[Any]:
    if isinstance(tree, int | float | Decimal) and not isinstance(tree, bool):
        yield tree
    for value in tree.values() if isinstance(tree, dict) else tree if isinstance(tree, list | tuple) else ():
        yield from _numbers(value)


def board(data: bytes, folder: Path) -> None:
    path = folder / "mutant.toml"
    path.write_bytes(data)
    try:
        found = board_file.load(path)
    except board_file.BoardFileError as error:
        assert error.errors
        return
    board_file.loads(board_file.dumps(found), "mutant")


def part(data: bytes, folder: Path) -> None:
    path = folder / "mutant.toml"
    path.write_bytes(data)
    part_file.looks_like(path)
    try:
        found = part_file.load(path)
    except part_file.PartFileError as error:
        assert error.errors
        return
    part_file.loads(part_file.dumps({k: v for k, v in found.tree.items() if k != "id"}), "mutant")


def table(data: bytes, folder: Path) -> None:
    path = folder / "mutant.csv"
    path.write_bytes(data)
    try:
        found = board_csv.load(path)
        for arrangement in board_csv.ARRANGEMENTS:
            compiled(board_csv.draft(found, board_csv.guessed(found), arrangement))
    except board_csv.TableError as error:
        assert error.errors


def listing(data: bytes, folder: Path) -> None:
    path = folder / "mutant.txt"
    path.write_bytes(data)
    try:
        compiled(gpio_lines.draft(gpio_lines.load(path)))
    except FileProblemsError as error:
        assert error.errors


Hear = Callable[[Any], None]


def heard(name: str, load: Callable[[Path], Any], hear: Hear) -> Read:
    """A file from a bench: its own error, or something that can be held against a plan."""

    def read(data: bytes, folder: Path) -> None:
        path = folder / name
        path.write_bytes(data)
        try:
            found = load(path)
        except FileProblemsError as error:
            assert error.errors
            return
        hear(found)

    return read


def against(**heard_: Any) -> None:
    """No bench may stop the comparison."""
    held(REPORT, CATALOG, Bench(**heard_))


def hear_scans(found: Any) -> None:
    assert all(0 <= a < 128 for s in found for a in s.cells)
    against(scans=tuple(found))


def hear_traces(found: Any) -> None:
    """Times rise, levels are levels, and any stretch of it can be drawn."""
    for trace in found:
        assert (np.diff(trace.times) >= 0).all() and set(np.unique(trace.levels).tolist()) <= {0, 1, 3}
        assert np.isfinite([trace.start_s, trace.end_s]).all()
        trace.seen(trace.start_s, trace.end_s or 1.0, 50)
    against(traces=tuple(found))


def hear_bench(found: Any) -> None:
    against(scans=tuple(bench_file.scans_of(found)), lines=tuple(bench_file.lines_of(found)))


def hear_log(found: Any) -> None:
    assert all(c.least <= c.most for c in found)


def hear_dialect(found: Any) -> None:
    assert dialect_file.loads(dialect_file.dumps(found), found.id) == found
    program = languages.read("main.py", written(INT_ENUM, PINS))
    against(sources=(program,), dialects=(found,))


def hear_source(found: Any) -> None:
    against(sources=tuple(found), dialects=dialect_file.shipped())


def source(suffix: str) -> Read:
    return heard(f"mutant{suffix}", lambda path: languages.load([path]), hear_source)


def names(data: bytes, folder: Path) -> None:
    resolved(data.decode("utf-8", "replace"), NameBook(CATALOG.board("bowline-40")))


def settings(data: bytes, folder: Path) -> None:
    (folder / "settings.ini").write_bytes(data)
    found = Settings(folder)
    assert all(p.is_file() for p in found.recent) and isinstance(found.look, str)


def recovery(data: bytes, folder: Path) -> None:
    work = folder / "work"
    work.mkdir(exist_ok=True)
    path = work / "4000000.work.json"
    path.write_bytes(data)
    (found,) = Recovery(work).lost(CATALOG)
    assert found.plan is not None or found.wrong
    assert path.read_bytes() == data


def cache(data: bytes, folder: Path) -> None:
    """Whatever is kept, what is read is what the file says."""
    boards = folder / "boards"
    boards.mkdir(exist_ok=True)
    source = boards / "b.toml"
    source.write_text(SMALL)
    (folder / "boards-b.json").write_bytes(data)
    assert kept_tree(source, folder) == {"a": 1, "names": {"x": "y"}, "list": [1.5, 2.5]}


SMALL = "a = 1\nlist = [1.5, 2.5]\n[names]\nx = 'y'\n"
WAVES = "time,a,b\n" + "".join(f"{k / 1000:.4f},{k % 2},{3.3 * (k // 2 % 2):.1f}\n" for k in range(40))
BENCH_FILE = {
    "format": "knotplan-bench", "version": 1, "model": "x", "notes": ["a"], "groups": ["gpio"],
    "lines": [{"chip": "gpiochip0", "offset": 38, "used_by": "system", "direction": "output", "level": 1}],
    "kernel_list": "gpiochip0: GPIOs 512-565, parent: x:\n gpio-550 (a |b ) out hi",
    "scans": [{"bus": 1, "answers": [72, 60], "drivers": [104], "silent": [80]}],
}  # fmt: skip
HERE = Path(__file__).parent.parent.parent / "src" / "knotplan"
LISTING = (
    b'gpiochip0 - 5 lines:\n\tline   0:\t"ID_SDA"\tinput\n'
    b"\tline   1:      unnamed       unused   input  active-high\n"
    b'\tline   2:\t"SDA1"\tinput consumer="i2c"\n\tline   3: "SCL1" "spi0" output active-low [used]\n'
)
TABLE = (
    'Pin,Name,Function,Power-on\n1,GND,,\n2,5V,,\n3,D2,"pwm, '
    'adc",floating\n4,D3,sda,pull-up\n5,D4,,\n6,RST,,\n'
)


def _kept_of(plan_data: bytes) -> bytes:
    return b'{"origin": "/home/me/x.knot.json", "plan": ' + plan_data + b"}"


def _cached() -> bytes:
    import tempfile

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "boards").mkdir()
        (folder / "boards" / "b.toml").write_text(SMALL)
        kept_tree(folder / "boards" / "b.toml", folder)
        return (folder / "boards-b.json").read_bytes()


READERS: dict[str, tuple[Read, Callable[[], list[bytes]]]] = {
    "plan": (
        plan,
        lambda: [dumps(example(n, CATALOG)) for n in ("harbour-light", "badge-wall-draft", "mist-bench")],
    ),
    "board": (
        board,
        lambda: [(HERE / f"catalog/boards/{n}.toml").read_bytes() for n in ("clove-22", "toggle")],
    ),
    "part": (
        part,
        lambda: [(HERE / f"catalog/parts/{n}.toml").read_bytes() for n in ("led", "micro-servo", "pwm-hub")],
    ),
    "table": (table, lambda: [TABLE.encode(), TABLE.replace(",", ";").encode("utf-8-sig")]),
    "listing": (listing, lambda: [LISTING]),
    "scan": (heard("mutant.txt", scan_text.load, hear_scans), lambda: [(EXAMPLE / "scan.txt").read_bytes()]),
    "lines": (
        heard("mutant.txt", gpio_lines.load, lambda found: against(lines=tuple(found))),
        lambda: [(EXAMPLE / "lines.txt").read_bytes(), LISTING],
    ),
    "capture": (
        heard("mutant.vcd", waves.load, hear_traces),
        lambda: [(EXAMPLE / "capture.vcd").read_bytes()[:4000]],
    ),
    "capture table": (
        heard("mutant.csv", wave_csv.load, hear_traces),
        lambda: [WAVES.encode(), WAVES.replace(",", ";").encode("utf-8-sig")],
    ),
    "bench": (heard("mutant.json", bench_file.load, hear_bench), lambda: [json.dumps(BENCH_FILE).encode()]),
    "log": (
        heard("mutant.log", serial_text.load, hear_log),
        lambda: [b"12:00:01 left: 1512, right=88\n12:00:02 left: 987, right=90\n3 4\n5 6\n"],
    ),
    "dialect": (heard("mutant.toml", dialect_file.load, hear_dialect), lambda: [PYTHON.encode(), C.encode()]),
    "source .py": (
        source(".py"),
        lambda: [written(INT_ENUM, PINS).encode(), written(SETTINGS_FILE, PINS).encode()],
    ),
    "source .c": (
        source(".c"),
        lambda: [written(DEFINES, PINS).encode(), written(DESIGNATED, PINS).encode()],
    ),
    "source .cpp": (source(".cpp"), lambda: [written(CPP_CONSTEXPR, PINS).encode()]),
    "source .dts": (source(".dts"), lambda: [written(OVERLAY, PINS).encode()]),
    "names": (names, lambda: [b"L12, 7, GND\nD2..D13\npos 4; chip:9\tSDA\n"]),
    "settings": (settings, lambda: [b"[General]\nlook=dark\nrecent=/tmp/a.json, /tmp/b.json\n"]),
    "recovery": (recovery, lambda: [_kept_of(dumps(example("seed-drawers", CATALOG)))]),
    "cache": (cache, lambda: [_cached()]),
}


def seeds(reader: str) -> list[bytes]:
    """Valid files to begin with."""
    return READERS[reader][1]()


def chosen(r: random.Random) -> str:
    return r.choice(list(READERS))
