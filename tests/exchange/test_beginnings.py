"""Beginnings of a board: a table from a spreadsheet, the GPIO lines of a Linux machine."""

from pathlib import Path
from types import SimpleNamespace

import pytest

from knotplan.core.bringup.said import LineState
from knotplan.core.draft.board_compiled import compiled
from knotplan.exchange import board_csv, gpio_lines
from knotplan.exchange.board_csv import TableError
from knotplan.exchange.gpio_lines import GpioError, parse, read_chip

TABLE = (
    "Pin;Name;GPIO;Does;Remark\n1;5V;;;\n2;3V3;;;\n3;D0;12;pwm;\n4;GND;;;\n"
    "5;D1;13;sda;\n6;D2;7;scl;second bus\n"
)


def board_of(
    table: board_csv.Table, arrangement: board_csv.Arrangement = "double", meanings: tuple[str, ...] = ()
):
    board, wrong = compiled(board_csv.draft(table, meanings or board_csv.guessed(table), arrangement))
    assert wrong == [] and board is not None
    return board


def test_columns_are_guessed_by_their_headings_and_what_stands_in_them() -> None:
    assert board_csv.guessed(board_csv.loads(TABLE)) == (
        "position",
        "printed",
        "scheme:GPIO",
        "functions",
        "note",
    )
    bare = board_csv.loads("1\tD0\tpulled up\n2\tD1\thigh\n")
    assert bare.headings == ("column 1", "column 2", "column 3")
    assert board_csv.guessed(bare) == ("position", "scheme:column 2", "power_on")


@pytest.mark.parametrize("parting", [";", ",", "\t"])
def test_a_table_becomes_a_board_whatever_parts_its_cells(parting: str) -> None:
    board = board_of(board_csv.loads(TABLE.replace(";", parting)))
    assert [(p.kind, p.row, p.col) for p in board.pins.values()] == [
        ("supply", 1, 1),
        ("supply", 1, 2),
        ("io", 2, 1),
        ("ground", 2, 2),
        ("io", 3, 1),
        ("io", 3, 2),
    ]
    assert board.schemes.keys() == {"position", "printed", "gpio"}
    last = list(board.pins.values())[-1]
    assert (last.names["gpio"], last.functions, last.note) == ("7", ("digital", "i2c:0.scl"), "second bus")


def test_a_supply_in_a_table_is_never_taken_for_another_or_for_a_signal() -> None:
    board, wrong = compiled(board_csv.draft(board_csv.loads("Name\n3V3\nD0\n"), ("printed",), "single", 5.0))
    assert wrong == [] and board is not None
    assert [(p.kind, p.rail) for p in board.pins.values()] == [("supply", "3v3"), ("io", "")]


def test_two_edges_and_a_single_row() -> None:
    table = board_csv.loads(TABLE)
    assert [(h.rows, h.columns) for h in board_of(table, "edges").headers.values()] == [(3, 1), (3, 1)]
    assert [(h.rows, h.columns) for h in board_of(table, "single").headers.values()] == [(6, 1)]


def test_the_maker_s_word_goes_before_the_guess() -> None:
    board = board_of(board_csv.loads(TABLE), meanings=("skip", "scheme:Silk", "skip", "skip", "skip"))
    assert board.schemes.keys() == {"silk"} and next(iter(board.pins.values())).functions == ()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "it is empty"),
        ("a,b\n1,2,3\n4\n", "row 3: 1 cells where others have 3"),
        ("x\n" * 3000, "3000 rows are more than any board has pins"),
        (",".join("abc" * 40) + "\n1\n", "120 columns are more"),
    ],
)
def test_tables_that_cannot_be_read(text: str, words: str) -> None:
    with pytest.raises(TableError, match=words):
        board_csv.loads(text)


# --- GPIO lines -----------------------------------------------------------------------------------

FIRST = """gpiochip0 - 4 lines:
\tline   0:     "LAMP_A"       unused   input  active-high
\tline   1:      unnamed  "heartbeat"  output  active-high [used]
gpiochip1 - 2 lines:
\tline   0:     "FAN"          kernel   output  active-low [used]
"""
SECOND = """gpiochip0 - 3 lines:
\tline   0:\t"SDA_1"         \tinput
\tline   1:\tunnamed         \toutput consumer="mast light"
\tline   2:\t"TIDE"          \tinput bias=pull-up consumer=tide
"""


def test_listings_of_both_generations_are_read() -> None:
    assert parse(FIRST) == [
        LineState("gpiochip0", 0, "LAMP_A", direction="input"),
        LineState("gpiochip0", 1, "", "heartbeat", "output"),
        LineState("gpiochip1", 0, "FAN", "system", "output", active_low=True),
    ]
    assert parse(SECOND) == [
        LineState("gpiochip0", 0, "SDA_1", direction="input"),
        LineState("gpiochip0", 1, "", "mast light", "output"),
        LineState("gpiochip0", 2, "TIDE", "tide", "input", "pull-up"),
    ]


def test_lines_become_the_beginning_of_a_board() -> None:
    board, wrong = compiled(gpio_lines.draft(parse(SECOND), "Harbour computer"))
    assert wrong == [] and board is not None and board.id == "harbour-computer"
    assert [p.names for p in board.pins.values()][:3] == [
        {"kernel": "line 0", "system": "SDA_1"},
        {"kernel": "line 1"},
        {"kernel": "line 2", "system": "TIDE"},
    ]
    assert list(board.pins.values())[1].note == "in use: mast light"


def test_lines_of_several_chips_say_which() -> None:
    board, _ = compiled(gpio_lines.draft(parse(FIRST)))
    assert board is not None
    names = [p.names["kernel"] for p in board.pins.values() if "kernel" in p.names]
    assert names == ["gpiochip0 0", "gpiochip0 1", "gpiochip1 0"]


def test_everything_that_is_no_line_is_told() -> None:
    with pytest.raises(GpioError) as caught:
        parse('gpiochip0 - 1 lines:\nhello\n  line 0: "A" input\n42\n')
    assert [place for place, _ in caught.value.errors] == ["line 2", "line 4"]
    with pytest.raises(GpioError, match="lists no line"):
        parse("\n")


class Chip:
    """A stand-in for the kernel's device with the interface of the bindings."""

    LINES = (
        SimpleNamespace(offset=0, name="MAST", consumer=None, used=False),
        SimpleNamespace(offset=1, name="", consumer="spi0 CS0", used=True),
    )

    def __init__(self, path: str):
        self.path = path

    def __enter__(self) -> "Chip":
        return self

    def __exit__(self, *_: object) -> None:
        pass

    def get_info(self) -> SimpleNamespace:
        return SimpleNamespace(name="gpiochip7", num_lines=2)

    def get_line_info(self, offset: int) -> SimpleNamespace:
        return self.LINES[offset]


def test_a_device_is_read_through_the_bindings() -> None:
    assert read_chip(Path("/dev/gpiochip7"), Chip) == [
        LineState("gpiochip7", 0, "MAST"),
        LineState("gpiochip7", 1, "", "spi0 CS0"),
    ]


def test_a_device_that_is_none_or_may_not_be_read_says_so(tmp_path: Path) -> None:
    plain = tmp_path / "gpiochip0"
    plain.write_text("")
    with pytest.raises(GpioError):  # by the real bindings
        read_chip(plain)

    def refused(_: str) -> object:
        raise PermissionError("no")

    with pytest.raises(GpioError, match="add yourself to the group"):
        read_chip(plain, refused)
    assert [p.name for p in gpio_lines.chips(tmp_path)] == ["gpiochip0"]


def test_nothing_of_a_table_is_taken_for_a_formula_or_executed() -> None:
    from knotplan.catalog.load import shipped
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.plan.document import Plan
    from knotplan.core.text.pin_table import headings, pin_rows
    from knotplan.exchange.tables import as_csv

    board = board_of(board_csv.loads("Name;Does\n=cmd();\n@x;pwm\n"), "single")
    circuit = Circuit(Plan(board.id, carried=board), shipped())
    text = as_csv(headings(circuit, False), (row.cells for row in pin_rows(circuit)))
    assert "'=cmd()" in text and "'@x" in text
