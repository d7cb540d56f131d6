"""Tables as people have them: the same pins, in whatever dress, are read as the same pins."""

import csv
import io
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.exchange import board_csv, gpio_lines
from knotplan.exchange.bench import scan_text, wave_csv
from knotplan.exchange.decoding import decoded
from knotplan.exchange.table import read
from knotplan.exchange.table.read import TableError

HEADS = ("Pin", "Name", "Does", "Note")
COUNT = 12
PINS = tuple(
    (str(k), f"D{k}" if k % 4 else "GND", "pwm, input" if k % 3 else "", "Größe 5 µs" if k == 5 else "")
    for k in range(1, COUNT + 1)
)


def rendered(rows: list[tuple[str, ...]], sign: str) -> str:
    out = io.StringIO()
    csv.writer(out, delimiter=sign, lineterminator="\n").writerows(rows)
    return out.getvalue()


def load(data: bytes) -> board_csv.Table:
    return read.table(data, read.understood(data, "t", board_csv.KNOWN), "t")


@given(
    sign=st.sampled_from([",", ";", "\t"]),
    directive=st.booleans(),
    titles=st.integers(0, 3),
    two_sided=st.sampled_from(["", "same", "mirrored"]),
    merged=st.booleans(),
    encoding=st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"]),
    line_end=st.sampled_from(["\n", "\r\n", "\r"]),
)
def test_the_same_pins_in_whatever_dress_are_the_same_pins(
    sign: str, directive: bool, titles: int, two_sided: str, merged: bool, encoding: str, line_end: str
) -> None:
    heads, rows = HEADS, [*PINS]
    upper = ("The pin", "", "What of it", "")
    if two_sided:
        halves = [(PINS[2 * k], PINS[2 * k + 1]) for k in range(COUNT // 2)]
        turned = (lambda x: x[::-1]) if two_sided == "mirrored" else (lambda x: x)
        rows = [a + turned(b) for a, b in halves]
        heads, upper = HEADS + turned(HEADS), ()
    above = [(f"Post, made up, sheet {k}", *[""] * (len(heads) - 1)) for k in range(titles)]
    if merged and upper:
        above.append(upper)
    text = ("sep=" + sign + "\n" if directive else "") + rendered([*above, heads, *rows], sign)
    found = load(text.replace("\n", line_end).encode(encoding))
    assert found.rows == PINS
    wanted = (
        ("The pin Pin", "The pin Name", "What of it Does", "What of it Note") if merged and upper else HEADS
    )
    assert found.headings == wanted


@pytest.mark.parametrize(
    "encoding", ["cp1252", "cp1250", "cp1251", "mac_roman", "cp437", "shift_jis", "gb18030"]
)
def test_code_pages_are_told_by_what_comes_out(encoding: str) -> None:
    words = {
        "cp1252": ["Größe", "Länge", "Masse à gauche", "entrée"],
        "cp1250": ["Zapojení", "průchodka", "žlutá", "světlo"],
        "cp1251": ["Вывод", "Земля", "Питание", "Сигнал"],
        "mac_roman": ["Größe", "Länge", "für Tür", "entrée"],
        "cp437": ["Größe", "Länge", "für Tür", "entrée"],
        "shift_jis": ["電源", "接地", "出力", "入力"],
        "gb18030": ["电源", "接地", "输出", "输入"],
    }[encoding]
    text = rendered([("Pin", "Name"), *((str(k), w) for k, w in enumerate(words * 3, 1))], ";")
    assert decoded(text.encode(encoding)).text == text


def test_what_stands_above_two_sides_names_the_sides_and_no_column() -> None:
    rows = [f"pwm;D{k};{2 * k + 1};{2 * k + 2};A{k};adc" for k in range(6)]
    text = "\n".join(
        ["My post; made up;;;;", "The left side;;;The right side;;", "Does;Name;Pin;Pin;Name;Does", *rows]
    )
    found = load(text.encode())
    assert found.headings == ("Does", "Name", "Pin") and [r[2] for r in found.rows] == [
        str(k) for k in range(1, 13)
    ]


def test_a_line_end_inside_quotes_parts_words() -> None:
    assert load(b'Pin,Name\n1,"serial\ndata"\n2,"a ""b"""\n').rows == (("1", "serial data"), ("2", 'a "b"'))


def test_a_table_of_a_text_page_is_one() -> None:
    text = b"| Pin | Name |\n|-----|:----:|\n| 1 | D0 |\n| 2 | D1 |\n"
    assert load(text).headings == ("Pin", "Name") and load(text).rows == (("1", "D0"), ("2", "D1"))


def test_what_was_understood_can_be_said_otherwise() -> None:
    data = b"A;B\n1;x\n2;y\n"
    taken = read.understood(data, "t", board_csv.KNOWN)
    from msgspec.structs import replace

    assert read.table(data, replace(taken, head=0), "t").rows[0] == ("A", "B")
    assert read.table(data, replace(taken, head=2), "t").headings == ("1", "x")
    assert read.table(data, replace(taken, sign=","), "t").rows[0] == ("1;x",)
    with pytest.raises(TableError, match="no row below"):
        read.table(data, replace(taken, head=3), "t")
    with pytest.raises(TableError, match="is not UTF-8 text"):
        read.table("Größe\n1\n".encode("cp1252"), replace(taken, encoding="utf-8"), "t")


@given(st.binary(max_size=300))
def test_any_bytes_are_a_table_or_told(data: bytes) -> None:
    try:
        found = load(data)
    except TableError:
        return
    assert all(len(row) == len(found.headings) for row in found.rows)


@given(st.text(max_size=200), st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be"]))
def test_any_text_in_unicode_comes_back(text: str, encoding: str) -> None:
    plain = text.replace("\r\n", "\n").replace("\r", "\n")
    if encoding in ("utf-16-le", "utf-16-be") and (
        len(text) < 20 or any(ord(c) > 255 or c == "\0" for c in text)
    ):
        return  # without a mark, foreign letters or a few of them may be anything
    if "\0" in text or text.startswith("\ufeff"):
        return
    assert decoded(text.encode(encoding, "surrogatepass")).text == plain


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16", "utf-16-le"])
def test_listings_scans_and_captures_are_read_as_other_systems_save_them(
    tmp_path: Path, encoding: str
) -> None:
    path = tmp_path / "x.txt"
    path.write_text('gpiochip0 - 2 lines:\n line 0: "MAST" input\n line 1: unnamed output\n', encoding)
    assert [x.name for x in gpio_lines.load(path)] == ["MAST", ""]
    path.write_text("     0  1  2\n10: -- -- 12\n", encoding)
    assert scan_text.load(path) == scan_text.parse("     0  1  2\n10: -- -- 12\n")

    path.write_text("time,a\n0,0\n0.1,1\n0.2,0\n", encoding)
    (trace,) = wave_csv.load(path)
    assert trace.name == "a" and len(trace.times) == 2
