"""Typing what one has finds what one means, the common part first."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.catalog.search import MOST_AT_ONCE, found

OFFERS = shipped().offers()


@pytest.mark.parametrize(
    ("typed", "part"),
    [
        ("servo", "micro-servo"),
        ("led", "led"),
        ("red led", "led"),
        ("button", "push-button"),
        ("relay", "relay-module"),
        ("motor", "dc-motor"),
        ("stepper", "geared-stepper"),
        ("strip", "pixel-strip"),
        ("display", "oled-display"),
        ("humidity", "humidity-sensor"),
        ("knob", "knob"),
        ("transistor", "npn-transistor"),
        ("brick", "usb-brick"),
        ("mosfet", "mosfet-switch"),
        ("7 way", "coil-driver"),
    ],
)
def test_the_common_part_comes_first(typed: str, part: str) -> None:
    assert found(OFFERS, typed)[0].offer.part == part


@pytest.mark.parametrize("typed", ["3 red led", "3x red led", "3 x red led", "3 × RED LED"])
def test_a_number_says_how_many(typed: str) -> None:
    first = found(OFFERS, typed)[0]
    assert (first.count, first.offer.name) == (3, "Red LED")


def test_a_number_in_a_name_is_no_count() -> None:
    """7 ways are a driver's before they are seven of something; 1 and 33 say no number of parts."""
    assert found(OFFERS, "7-way")[0].count == 1 and found(OFFERS, "7-way")[0].offer.part == "coil-driver"
    assert (
        all(f.count == 1 for f in found(OFFERS, "1 led")) and found(OFFERS, f"{MOST_AT_ONCE + 1} led") == []
    )


@given(st.sampled_from(OFFERS))
def test_every_part_is_found_by_its_own_name(offer) -> None:
    assert offer in [f.offer for f in found(OFFERS, offer.name)]


@given(st.text(max_size=12))
def test_any_text_finds_parts_or_none(typed: str) -> None:
    for one in found(OFFERS, typed):
        assert 1 <= one.count <= MOST_AT_ONCE


def test_with_nothing_typed_the_most_common_come_first() -> None:
    everything = found(OFFERS, "")
    common = [f.offer.common for f in everything]
    assert len(everything) == len(OFFERS) and common == sorted(common, reverse=True)
