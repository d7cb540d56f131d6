"""Written values sort by what they mean."""

from hypothesis import given
from hypothesis import strategies as st

from knotplan.core.quantity.order import size_key
from knotplan.core.quantity.written import show

SIZES = st.floats(1e-9, 1e9, allow_nan=False)


@given(SIZES, SIZES, st.sampled_from(["A", "V", "Ω", "Hz", "s", "F", "W"]))
def test_quantities_sort_by_size(a: float, b: float, unit: str) -> None:
    low, high = sorted((a, b))
    if high > low * 1.01:  # three figures are written
        assert size_key(show(low, unit)) <= size_key(show(high, unit))


def test_other_writings() -> None:
    for rising in (
        ["0x08", "0x3C", "0x48"],
        ["pos 2", "pos 10", "pos 11"],
        ["4.64 – 5.05 V", "12 V"],
        ["−0.3 V", "-0.1 V", "0 V"],
        ["0.02 of 1 A", "479 of 500 mA", "2.4 of 2.5 A"],
        ["50 µA", "9.5 mA", "1.2 A"],
        ["9", "10", "GND", "L2", "L10", ""],
    ):
        falling = list(reversed(rising))
        assert sorted(falling, key=size_key) == rising


@given(st.lists(st.text(max_size=12)))
def test_any_text_can_be_sorted(texts: list[str]) -> None:
    keys = [size_key(text) for text in texts]
    other_way = list(reversed(keys))
    assert sorted(keys) == sorted(other_way), "any two keys compare, and always alike"
