import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.core.quantity.written import QuantityError, code, parse, show


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("4K7", "Ω", 4700),
        ("330R", "Ω", 330),
        ("R47", "Ω", 0.47),
        ("100n", "F", 1e-7),
        ("4u7", "F", 4.7e-6),
        ("12 mA", "A", 0.012),
        ("3,3", "V", 3.3),
        ("1e3", "Ω", 1000),
        ("4.7k", "Ω", 4700),
        ("2M2", "Ω", 2.2e6),
        ("10 kΩ", "Ω", 10e3),
        (" 5 ", "V", 5.0),
    ],
)
def test_spellings_of_iec_60062_and_si(text: str, unit: str, value: float) -> None:
    assert parse(text, unit) == pytest.approx(value)


@pytest.mark.parametrize("text", ["", "four", "4k7k", "12 mA", "1e999", "k", "--3"])
def test_what_is_no_resistance_says_what_would_be(text: str) -> None:
    with pytest.raises(QuantityError, match=r"such as|too large"):
        parse(text, "Ω")


@given(st.floats(1e-7, 1e9))
def test_shown_quantities_read_back(value: float) -> None:
    assert parse(show(value, "A", 6), "A") == pytest.approx(value, rel=1e-5)


def test_what_no_meter_shows_is_nothing() -> None:
    assert (show(2e-10, "A"), show(1.6e-7, "V"), show(1e-11, "F")) == ("0 A", "0 V", "10 pF")


@given(st.integers(1, 999), st.integers(-1, 5))
def test_letter_code_reads_back(figures: int, exponent: int) -> None:
    ohm = float(f"{figures}e{exponent}")
    assert parse(code(ohm), "Ω") == pytest.approx(ohm)


@pytest.mark.parametrize(
    ("text", "value"), [("3V3", 3.3), ("5V0", 5.0), ("12V0", 12.0), ("1V8", 1.8), ("3.3 V", 3.3)]
)
def test_voltages_as_rails_are_called(text: str, value: float) -> None:
    assert parse(text, "V") == value


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("1,000", "write 1000 or 1.000"),
        ("12,500", "12500 or 12.500"),
        ("1,000,000", "1000000"),
        ("9" * 5000, "longer than any number"),
        ("3V3V3", "such as"),
        ("3V3", "such as"),
    ],
)
def test_what_can_mean_two_numbers_or_none_is_told(text: str, words: str) -> None:
    with pytest.raises(QuantityError, match=words):
        parse(text, "Ω")


def test_a_decimal_comma_is_a_point_where_it_can_only_be_one() -> None:
    assert parse("0,125", "V") == 0.125 and parse("3,3", "V") == 3.3 and parse("1,5k", "Ω") == 1500
