"""What is read on a board, from made-up chips and buses; and the script by itself, in a bare Python."""

import errno
import json
import subprocess
import sys
from pathlib import Path
from types import SimpleNamespace

from knotplan.exchange.bench import bench_file, on_board


class Bus:
    """Somebody at 0x48; a driver at 0x68; a memory at 0x50, which must not be written to."""

    def __init__(self, path: str):
        self.path = path

    def __enter__(self):
        return self

    def __exit__(self, *_):
        return None

    def write_quick(self, address: int) -> None:
        assert not 0x50 <= address < 0x60
        if address == 0x68:
            raise OSError(errno.EBUSY, "busy")
        if address != 0x48:
            raise OSError(errno.ENXIO, "nobody")

    def read_byte(self, address: int) -> int:
        if address != 0x50:
            raise OSError(errno.EREMOTEIO, "nobody")
        return 0


class Chip:
    def __init__(self, path: str):
        self.path = path

    def __enter__(self):
        return self

    def __exit__(self, *_):
        return None

    def get_info(self):
        return SimpleNamespace(num_lines=2)

    def get_line_info(self, k: int):
        named = SimpleNamespace
        return named(
            offset=k, name=f"L{k}", used=k == 1, consumer="bench" if k else "",
            direction=named(name="OUTPUT" if k else "INPUT"), bias=named(name="PULL_UP"),
            active_low=bool(k), drive=named(name="PUSH_PULL"),
        )  # fmt: skip


def board(folder: Path) -> Path:
    (folder / "dev").mkdir()
    for name in ("gpiochip0", "i2c-1", "i2c-10"):
        (folder / "dev" / name).touch()
    (folder / "sys/kernel/debug").mkdir(parents=True)
    (folder / "sys/kernel/debug/gpio").write_text(
        "gpiochip0: GPIOs 512-513, parent: platform/x, x:\n gpio-513 (L1                  |bench      "
        "         ) out hi ACTIVE LOW\n"
    )
    (folder / "proc/device-tree").mkdir(parents=True)
    (folder / "proc/device-tree/model").write_bytes(b"Made-up board\0")
    return folder


def test_what_is_read_comes_back_from_its_file(tmp_path) -> None:
    said = on_board.read_all(root=board(tmp_path), open_chip=Chip, open_bus=Bus)
    bench = bench_file.loads(json.dumps(said))
    assert bench.model == "Made-up board" and bench.notes == ()
    one, two = bench_file.lines_of(bench)
    assert (one.direction, one.bias, one.level, one.used_by) == ("input", "pull-up", None, "")
    assert (two.direction, two.used_by, two.active_low, two.level) == ("output", "bench", True, 1)
    scans = bench_file.scans_of(bench)
    assert [s.bus for s in scans] == [1, 10]
    assert scans[0].heard == (0x48, 0x50, 0x68) and scans[0].answer(0x68) == "driver"
    assert scans[0].answer(0x49) == "silent" and scans[0].answer(0x03) == "not tried"
    assert len(on_board.read_all([10], root=tmp_path, open_chip=Chip, open_bus=Bus)["scans"]) == 1
    assert on_board.read_all(scan=False, root=tmp_path, open_chip=Chip)["scans"] == []


def test_what_may_not_be_read_is_said_with_what_to_do(tmp_path) -> None:
    def refused(path: str):
        raise PermissionError(errno.EACCES, "no", path)

    def stuck(path: str):
        raise OSError(errno.ETIMEDOUT, "timed out", path)

    said = on_board.read_all(root=board(tmp_path), open_chip=refused, open_bus=refused)
    assert any("gpiochip0 may not be read: add yourself to the group" in n for n in said["notes"])
    bench = bench_file.loads(json.dumps(said))
    assert all("add yourself to the group" in s.trouble for s in bench_file.scans_of(bench))
    held = on_board.scan_bus(tmp_path / "dev/i2c-1", stuck)
    assert "held low" in held["trouble"] and "answers" not in held
    (tmp_path / "dev/gpiochip0").unlink()
    (tmp_path / "dev/i2c-1").unlink()
    (tmp_path / "dev/i2c-10").unlink()
    notes = on_board.read_all(root=tmp_path)["notes"]
    assert any("no GPIO character device" in n for n in notes) and any(
        "no I2C device node" in n for n in notes
    )


def test_the_script_runs_in_a_python_that_has_nothing_else() -> None:
    """Isolated, without any site package: what is missing is a note, and the file opens."""
    text = Path(on_board.__file__).read_text("utf-8")
    done = subprocess.run(
        [sys.executable, "-I", "-S", "-"], input=text, capture_output=True, text=True, check=True, timeout=60
    )
    bench = bench_file.loads(done.stdout)
    assert bench.system.startswith("Linux")
