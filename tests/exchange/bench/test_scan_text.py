"""Bus scans as people paste them: whatever stands around, every cell is taken for the address that it is."""

import errno
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.core.bringup.said import Answer, BusScan
from knotplan.exchange.bench.live_bus import buses, scan
from knotplan.exchange.bench.scan_text import ScanError, load, parse

MARKS = {"silent": "--", "driver": "UU"}
HEAD = "     0  1  2  3  4  5  6  7  8  9  a  b  c  d  e  f"


def grid(cells: dict[int, Answer]) -> str:
    """As the tool prints it: nothing where nobody asked."""
    lines = [HEAD]
    for row in range(8):
        shown = [
            MARKS.get(cells[a], f"{a:02x}") if a in cells else "  " for a in range(row * 16, row * 16 + 16)
        ]
        lines.append(f"{row}0: " + " ".join(shown) + " ")
    return "\n".join(lines) + "\n"


ANSWERS = st.sampled_from(["silent", "silent", "answers", "driver"])
WHOLE = st.fixed_dictionaries(dict.fromkeys(range(8, 120), ANSWERS))
PARTLY = st.tuples(st.integers(0, 127), st.integers(0, 127)).flatmap(
    lambda ends: st.fixed_dictionaries(dict.fromkeys(range(min(ends), max(ends) + 1), ANSWERS))
)


@given(st.lists(st.tuples(st.integers(0, 30), WHOLE | PARTLY), min_size=1, max_size=3), st.booleans())
def test_every_cell_is_read_back(scans, prompts: bool) -> None:
    text = ""
    for bus, cells in scans:
        text += f"you@board:~$ i2cdetect -y {bus}\n" if prompts else f"I will probe file /dev/i2c-{bus}.\n"
        text += grid(cells)
    found = parse(text + "you@board:~$ \n")
    assert [(s.bus, s.cells) for s in found] == [(bus, cells) for bus, cells in scans]


@given(WHOLE)
def test_a_grid_that_has_lost_its_spaces_is_read_too(cells) -> None:
    collapsed = "\n".join(" ".join(line.split()) for line in grid(cells).splitlines())
    (found,) = parse(collapsed)
    assert found.cells == cells and found.bus is None


@given(WHOLE, st.sampled_from(["\r\n", "\r"]))
def test_other_ends_of_lines_change_nothing(cells, end: str) -> None:
    assert parse(grid(cells).replace("\n", end))[0].cells == cells


def test_a_number_in_the_wrong_cell_and_a_broken_row_are_told() -> None:
    broken = (
        grid(dict.fromkeys(range(8, 120), "silent"))
        .replace("40: -- --", "40: 48 --")
        .replace("50: -- ", "50: -x ")
    )
    with pytest.raises(ScanError) as caught:
        parse(broken, "paste")
    places = dict(caught.value.errors)
    assert "0x48 stands in the cell of 0x40" in places["line 6"] and "no row of a scan" in places["line 7"]


@pytest.mark.parametrize("text", ["", "hello\n", "80: -- --\n"])
def test_what_has_no_row_is_no_scan(text: str, tmp_path: Path) -> None:
    path = tmp_path / "scan.txt"
    path.write_text(text)
    with pytest.raises(ScanError, match="no row of a scan"):
        load(path)


def test_a_bus_that_cannot_be_opened_is_a_scan_with_its_trouble() -> None:
    (found,) = parse(
        "$ i2cdetect -y 1\nError: Could not open file `/dev/i2c-1' or `/dev/i2c/1': No such file or "
        "directory\n"
    )
    assert found.bus == 1 and not found.cells and "switched off" in found.trouble
    (found,) = parse("Error: Could not open file `/dev/i2c-3': Permission denied\n")
    assert found.bus == 3 and "group" in found.trouble


# --- live ---------------------------------------------------------------------------------------------


class Node:
    """A stand-in for a device node, with the interface of the bindings."""

    def __init__(self, there: set[int], busy: set[int], held: bool = False):
        self.there, self.busy, self.held = there, busy, held
        self.asked: list[tuple[str, int]] = []

    def __enter__(self) -> "Node":
        return self

    def __exit__(self, *_: object) -> None:
        pass

    def _ask(self, how: str, address: int) -> None:
        self.asked.append((how, address))
        if self.held:
            raise OSError(errno.ETIMEDOUT, "timed out")
        if address in self.busy:
            raise OSError(errno.EBUSY, "busy")
        if address not in self.there:
            raise OSError(errno.ENXIO, "nobody")

    def write_quick(self, address: int) -> None:
        self._ask("write", address)

    def read_byte(self, address: int) -> int:
        self._ask("read", address)
        return 0


def test_a_live_bus_is_asked_without_writing_to_memories() -> None:
    node = Node({0x3C, 0x50}, {0x68})
    found = scan(Path("/dev/i2c-1"), lambda _: node)
    assert found.heard == (0x3C, 0x50, 0x68) and found.answer(0x68) == "driver" and found.bus == 1
    assert {a for how, a in node.asked if how == "read"} == {*range(0x30, 0x38), *range(0x50, 0x60)}
    assert "held low" in scan(Path("/dev/i2c-1"), lambda _: Node(set(), set(), held=True)).trouble


def test_a_node_that_is_not_there_or_not_ours_says_so(tmp_path: Path) -> None:
    for name in ("i2c-10", "i2c-2", "i2c-x"):
        (tmp_path / name).write_text("")
    assert [p.name for p in buses(tmp_path)] == ["i2c-2", "i2c-10"]
    assert scan(tmp_path / "i2c-9").trouble.startswith("There is no")
    assert scan(tmp_path / "i2c-2").trouble  # a plain file, by the real bindings

    def refused(_: str) -> object:
        raise PermissionError(errno.EACCES, "no")

    assert "group" in scan(tmp_path / "i2c-2", refused).trouble


def test_a_scan_is_equal_to_itself() -> None:
    assert BusScan(1, {3: "silent"}).answer(4) == "not tried"
