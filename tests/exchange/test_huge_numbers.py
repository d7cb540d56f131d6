"""Whole numbers that TOML does not have (64 bits), in every text of a catalogue that is read."""

import re
from pathlib import Path

import pytest

from knotplan.catalog.load import HERE, BrokenEntryError, Catalog
from knotplan.catalog.toml_text import HugeNumberError, parsed
from knotplan.core.plan.document import CarriedPart
from knotplan.core.plan.kinds import carried_faults, lines_of
from knotplan.exchange import board_file, part_file

HUGE = [
    str(2**63),
    "9" * 20,
    "4" * 400,
    "4" * 5000,
    "0x" + "7" * 30,
    "0x" + "9" * 5000,
    "-" + "8" * 25,
    "0b" + "1" * 70,
]
PART = (HERE / "parts/shift-register.toml").read_text("utf-8")
BOARD = (HERE / "boards/clove-22.toml").read_text("utf-8")


def with_number(text: str, number: str) -> str:
    """The number in the place of the text's first whole number that stands by itself."""
    lines = text.split("\n")
    at = next(k for k, line in enumerate(lines) if line.partition(" = ")[2].isdigit())
    lines[at] = lines[at].partition(" = ")[0] + f" = {number}"
    return "\n".join(lines)


@pytest.mark.parametrize("number", HUGE)
def test_they_are_told_wherever_a_part_or_a_board_is_read(number: str, tmp_path: Path) -> None:
    part = with_number(PART, number)
    with pytest.raises(part_file.PartFileError, match=r"whole number|digits"):
        part_file.loads(part, "mine")
    with pytest.raises(board_file.BoardFileError, match=r"whole number|digits"):
        board_file.loads(BOARD.replace("memory_bytes = ", f"memory_bytes = {number}  # ", 1), "mine")
    assert re.search("whole number|digits", carried_faults(CarriedPart("mine", lines_of(part)))[0][1])
    own = tmp_path / "parts"
    own.mkdir()
    (own / "mine.toml").write_text(part, "utf-8")
    with pytest.raises(BrokenEntryError, match=r"whole number|digits"):
        Catalog(own=tmp_path).part("mine", {})


def test_the_largest_that_there_are_are_read() -> None:
    assert parsed(f"a = {2**63 - 1}\nb = [{-(2**63)}]") == {"a": 2**63 - 1, "b": [-(2**63)]}
    with pytest.raises(
        HugeNumberError, match=r"b\[0\].c: a whole number lies between -\d{19} and \d{19}; this one does not"
    ):
        parsed(f"b = [{{c = {2**63}}}]")
