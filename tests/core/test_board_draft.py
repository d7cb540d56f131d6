"""A board in the making: whole from the first moment, and nothing about it guessed out of sight."""

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.draft.board import (
    BoardDraft,
    add_header,
    add_scheme,
    blank,
    from_board,
    paste,
    remove_header,
    resize_header,
    set_cell,
    set_volts,
)
from knotplan.core.draft.board_compiled import compiled
from knotplan.core.match.fit import candidates
from knotplan.core.names.book import NameBook
from knotplan.core.plan.document import Plan


def board_of(draft: BoardDraft):
    board, wrong = compiled(draft)
    assert wrong == [] and board is not None
    return board


def test_a_blank_board_can_be_used_at_once() -> None:
    for volts in (5.0, 3.3, 3.0, 1.8):
        board = board_of(blank("Mine", volts))
        assert board.logic_v == volts and len(board.pins) == 30
        assert Circuit(Plan(board.id, carried=board), shipped()).board is board


def test_names_tell_what_contacts_are() -> None:
    board = board_of(paste(blank(), 0, ["printed"], "5V\nGND\n3V3\nRST\nNC\nD0..D3"))
    kinds = [(p.kind, p.rail) for p in board.pins.values()][:9]
    assert kinds == [
        ("supply", "5v"),
        ("ground", ""),
        ("supply", "3v3"),
        ("control", ""),
        ("unconnected", ""),
        *[("io", "")] * 4,
    ]
    assert NameBook(board).pins("D2") == ("left-8",) and NameBook(board).pins("L8") == ("left-8",)


def test_no_supply_is_taken_for_another() -> None:
    """On a 5 V board 3V3 is a rail of its own; where power goes in, nothing is
    fed from unasked; VCC is the logic's."""
    board = board_of(paste(blank("Mine", 5.0), 0, ["printed"], "3V3\nVIN\nVCC\nVBUS\n12V"))
    assert [(p.kind, p.rail) for p in board.pins.values()][:5] == [
        ("supply", "3v3"),
        ("control", ""),
        ("supply", "5v"),
        ("supply", "5v"),
        ("supply", "12v"),
    ]
    assert (
        board.rails["3v3"].volts.typ == 3.3
        and board.rails["3v3"].limit_a == 0.05
        and board.rails["12v"].volts.typ == 12
    )


def test_a_supply_without_a_rail_says_so() -> None:
    _, wrong = compiled(set_cell(set_cell(blank(), 0, "printed", "V+"), 0, "kind", "supply"))
    assert wrong == [("row 1 (V+)", "'' is no rail of this board")]


def test_a_block_from_a_spreadsheet_goes_into_neighbouring_columns() -> None:
    draft = paste(
        blank(), 3, ["printed", "functions", "power_on"], "D7\tpwm:1.a\tpulled up\r\nD8\tadc\thigh\r\n"
    )
    seven, eight = list(board_of(draft).pins.values())[3:5]
    assert (seven.names["printed"], seven.functions, seven.power_on) == (
        "D7",
        ("digital", "pwm:1.a"),
        "pull-up",
    )
    assert (eight.functions, eight.power_on) == (("digital", "adc:0.0"), "high")


def test_a_paste_beyond_the_last_row_is_cut() -> None:
    assert len(paste(blank(), 28, ["printed"], "D0..D40").pins) == 30


@pytest.mark.parametrize(
    ("said", "functions"),
    [
        ("", ("digital",)),
        ("pwm", ("digital", "pwm:any")),
        ("sda", ("digital", "i2c:0.sda")),
        ("uart 1.tx", ("digital", "uart:1.tx")),
        ("input, adc", ("input", "adc:0.0")),
        ("only adc:2.4", ("adc:2.4",)),
        ("pwm:3.1~2; scl", ("digital", "pwm:3.1~2", "i2c:0.scl")),
    ],
)
def test_short_words_for_functions(said: str, functions: tuple[str, ...]) -> None:
    draft = set_cell(set_cell(blank(), 0, "printed", "D0"), 0, "functions", said)
    assert next(iter(board_of(draft).pins.values())).functions == functions


@pytest.mark.parametrize(
    ("column", "text", "why"),
    [
        ("functions", "pwn", "row 1: 'pwn' is no function; did you mean 'pwm'?"),
        ("functions", "pwm:1.a.b", "row 1: 'pwm:1.a.b' is not a function"),
        ("kind", "groud", "row 1: 'groud' is no kind of contact; did you mean 'ground'?"),
        ("power_on", "puled up", "row 1: 'puled up' is no state at power-on"),
        ("driver", "oi", "row 1 (D0): 'oi' is no driver of this board; did you mean 'io'?"),
    ],
)
def test_what_is_wrong_has_its_row_and_the_nearest_word(column: str, text: str, why: str) -> None:
    _, wrong = compiled(set_cell(set_cell(blank(), 0, "printed", "D0"), 0, column, text))
    assert why in ": ".join(wrong[0])


def test_a_name_given_twice_is_told_at_its_row() -> None:
    _, wrong = compiled(paste(blank(), 0, ["printed"], "D0\nD0"))
    assert wrong[0][0] == "row 2 (D0)" and "too" in wrong[0][1]


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_a_board_taken_up_again_is_the_same_board(name: str) -> None:
    board = shipped().board(name)
    assert msgspec.to_builtins(board_of(from_board(board))) == msgspec.to_builtins(board)


def test_a_copy_has_another_id_and_keeps_what_the_grid_does_not_show() -> None:
    board = board_of(from_board(shipped().board("toggle"), "Toggle of mine"))
    assert board.id == "toggle-of-mine" and board.settings == shipped().board("toggle").settings


def test_headers_grow_shrink_and_go_without_losing_what_stays() -> None:
    draft = paste(blank(), 0, ["printed"], "D0..D14")
    longer = resize_header(draft, "left", 18, 1, 2.0)
    assert [p.names.get("printed", "") for p in longer.pins][:16] == [*[f"D{k}" for k in range(15)], ""]
    assert len(board_of(longer).pins) == 33
    assert len(board_of(remove_header(longer, "right")).pins) == 18
    assert len(board_of(add_header(longer, "main", 10, 2)).pins) == 53


def test_another_scheme_and_another_voltage() -> None:
    draft = set_cell(add_scheme(blank(), "Port"), 0, "port", "PB6")
    board = board_of(set_volts(draft, 5.0))
    assert (
        board.schemes["port"].title == "Port"
        and board.drivers["io"].input_high_v == 3.5
        and "3v3" not in board.rails
    )


def test_the_optimum_pin_of_a_board_of_one_s_own_is_found() -> None:
    """The whole way: described, planned on, answered."""
    from tests.conftest import lay

    board = board_of(paste(paste(blank(), 0, ["printed"], "5V\nGND\nD0..D12"), 5, ["functions"], "pwm"))
    plan = msgspec.structs.replace(
        lay("bowline-40", {"Flag": "micro-servo"}, {}), board=board.id, carried=board
    )
    assert [f.contact for f in candidates(Circuit(plan, shipped()), "flag.signal")] == ["board.left-6"]


COLUMNS = ["printed", "kind", "functions", "rail", "power_on", "driver", "note"]


@settings(deadline=None)
@given(st.lists(st.tuples(st.integers(0, 29), st.sampled_from(COLUMNS), st.text(max_size=12)), max_size=12))
def test_whatever_is_typed_the_draft_says_what_is_wrong_and_never_fails(
    cells: list[tuple[int, str, str]],
) -> None:
    draft = blank()
    for row, column, text in cells:
        draft = set_cell(draft, row, column, text)
    board, wrong = compiled(draft)
    assert board is not None or wrong


def test_a_new_header_of_an_old_board_stands_beside_it_and_the_board_grows() -> None:
    draft = add_header(from_board(shipped().board("clove-22"), "Clove of mine"), "main", 20, 2)
    board = board_of(draft)
    assert board.headers["main"].x_mm == 25.4 and board.outline.width_mm > 25.4 + 2.54
    assert board.headers["west"] == shipped().board("clove-22").headers["west"]
    longer = board_of(resize_header(draft, "west", 30, 1, 2.54))
    assert board.outline.height_mm > 45.0 and longer.outline.height_mm > 5.0 + 29 * 2.54


def test_positions_of_headers_with_one_initial_are_told_apart() -> None:
    draft = add_header(add_header(blank(), "lower", 3, 1), "landing", 2, 1)
    board = board_of(draft)
    assert [p.names["position"] for p in board.pins.values()][30:] == ["L2.1", "L2.2", "L2.3", "L3.1", "L3.2"]
