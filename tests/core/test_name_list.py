"""Lists of names: taken apart, resolved without guessing, said in every other scheme."""

from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.names.book import NameBook
from knotplan.core.names.lists import expanded, fitting_schemes, names_in, resolved
from knotplan.core.plan.document import Plan
from knotplan.core.text.pin_table import headings, pin_rows

BOOK = NameBook(shipped().board("bowline-40"))


def test_any_usual_way_of_writing_a_list() -> None:
    text = 'L12, L7;\tpos 7..9\n"sda1"\n3 4 5\n'
    assert [n for n, _ in names_in(text, BOOK)] == [
        "L12",
        "L7",
        "pos 7",
        "pos 8",
        "pos 9",
        "sda1",
        "3",
        "4",
        "5",
    ]
    assert [line for _, line in names_in(text, BOOK)][-1] == 3


def test_ranges_run_both_ways_and_keep_their_zeros() -> None:
    assert expanded("D3..D1") == ["D3", "D2", "D1"] and expanded("P08..P10") == ["P08", "P09", "P10"]
    assert expanded("1" * 5000) == ["1" * 5000]
    assert expanded("A0..D3") == ["A0..D3"] and len(expanded("D0..D999999999")) == 1


def test_ambiguity_and_ignorance_are_told_apart() -> None:
    found = {n.text: n for n in resolved("L12, 12, L99", BOOK)}
    assert [found[t].state for t in ("L12", "12", "L99")] == ["found", "ambiguous", "unknown"]
    assert found["L99"].near[0] == "L9" and len(found["12"].pins) == 3


def test_the_scheme_that_a_list_was_written_in_is_found() -> None:
    assert fitting_schemes("40, 2, 5", BOOK) == ("position",)
    assert fitting_schemes("line 62\nline 44", BOOK) == ("kernel",)
    assert resolved("12", BOOK, "chip")[0].pins == ("p4",)


def test_the_table_has_every_scheme_what_each_pin_does_and_its_state() -> None:
    c = Circuit(Plan("bowline-40"), shipped())
    heads, rows = headings(c, True), pin_rows(c, resolved("L21, 12, nonsense", BOOK))
    first = dict(zip(heads, rows[0].cells, strict=True))
    assert first == {
        "Asked": "L21",
        "Position": "40",
        "Chip line": "L21",
        "Library index": "15",
        "Kernel line": "line 61",
        "Function": "TXD0",
        "Does": "in and out, UART 0 tx, pulse pair A",
        "At power-on": "high",
        "Output current": "12 mA",
        "Voltage allowed": "-0.3 – 3.6 V",
        "State": "console",
    }
    assert [r.pin for r in rows] == ["p40", "p12", "p4", "p32", ""]
    assert rows[1].cells[-1] == "one of 3 meanings" and rows[4].tone == "stop"
    assert all(len(r.cells) == len(heads) for r in rows)


def test_without_a_list_every_pin_of_the_board_has_its_line() -> None:
    for name in shipped().shipped_ids("board"):
        c = Circuit(Plan(name), shipped())
        rows = pin_rows(c)
        assert [r.pin for r in rows] == list(c.board.pins) and {len(r.cells) for r in rows} == {
            len(headings(c, False))
        }


@settings(deadline=None)
@given(st.text(max_size=60))
def test_any_text_at_all_is_a_list(text: str) -> None:
    for name in resolved(text, BOOK):
        assert name.state in ("found", "ambiguous", "unknown") and name.line >= 1
