"""Against the tables printed in IEC 60063 (E6, E12; first and last rows of E96 and the odd one of E192)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.core.quantity.series import SERIES, above, at_or_above, bands, below


def test_printed_tables() -> None:
    assert SERIES["E6"] == (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
    assert SERIES["E12"] == (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
    assert SERIES["E96"][:6] == (1.00, 1.02, 1.05, 1.07, 1.10, 1.13)
    assert SERIES["E96"][-3:] == (9.31, 9.53, 9.76)
    assert 9.20 in SERIES["E192"] and 9.19 not in SERIES["E192"]


@given(st.floats(0.5, 1e7), st.sampled_from(list(SERIES)))
def test_next_value_is_next(value: float, name: str) -> None:
    chosen = at_or_above(value, name)
    assert chosen >= value * (1 - 1e-9)
    assert below(chosen, name) < value
    assert above(chosen, name) > chosen
    assert below(above(chosen, name), name) == chosen


@pytest.mark.parametrize(
    ("ohm", "tolerance", "expected"),
    [
        (4700, 0.05, "yellow violet red gold"),
        (1e6, 0.1, "brown black green silver"),
        (0.47, 0.05, "yellow violet silver gold"),
        (10, 0.01, "brown black black gold brown"),
        (0.475, 0.01, "yellow violet green pink brown"),
        (47, 0.2, "yellow violet black"),
        (261, 0.05, "red blue brown black gold"),
        (100, 0.1, "brown black brown silver"),
        (1e3, 0.02, "brown black black brown red"),
        (1234, 0.01, ""),
        (9.9, 0.05, "white white gold gold"),
        (82, 0.05, "grey red black gold"),
    ],
)
def test_bands_as_printed_in_iec_60062(ohm: float, tolerance: float, expected: str) -> None:
    assert " ".join(bands(ohm, tolerance)) == expected
