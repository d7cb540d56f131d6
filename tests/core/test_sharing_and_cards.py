"""What pins have in common, and everything about one of them at a glance."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import unchecked
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.sharing import relatives, sharers, timed_units
from knotplan.core.plan.document import Plan
from knotplan.core.text.pin_card import as_text, pin_card
from knotplan.examples import example


def test_relatives_share_a_timer_a_bank_or_a_job() -> None:
    clove = shipped().board("clove-22")
    kin = relatives(clove, "e5")  # D2, timer 0, port PA
    assert kin["e7"] == ("timer 0, one frequency", "Port PA, one current limit")
    assert kin["e8"] == ("Port PA, one current limit",) and "w5" not in kin
    assert relatives(clove, "e3")["e4"] == (
        "UART 0",
        "serial over USB of the board",
        "Port PE, one current limit",
    )


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_sharing_goes_both_ways(name: str) -> None:
    board = shipped().board(name)
    for pin in board.pins:
        for other, what in relatives(board, pin).items():
            assert relatives(board, other)[pin] == what
    assert all(len(pins) > 1 for pins in sharers(board).values())
    assert set(timed_units(board)) <= set(board.pins)


def card(board: str, pin: str) -> dict[str, str]:
    return {r.about: r.text for r in pin_card(unchecked(Circuit(Plan(board), shipped())), f"board.{pin}")}


def test_a_card_has_names_functions_limits_power_on_reservations_and_straps() -> None:
    console = card("bowline-40", "p40")
    assert (console["Chip line"], console["Does"], console["Power-on"]) == (
        "L21",
        "in and out, UART 0 tx, pulse pair A",
        "high",
    )
    assert "takes log-ins" in console["Job"] and console["Output current"] == "12 mA, never above 16 mA"
    assert "has to be high" in card("halyard-w", "e3")["At start"]
    assert (
        "Output current" not in card("halyard-w", "w3")
        and card("halyard-w", "e7")["Power-on"] == "high, then toggling"
    )
    assert card("splice-24", "p1")["Beware"] == "counted from the wrong end, pad 36"
    assert card("splice-24", "p35")["Feeding in"] == "1.9 – 5.5 V may be fed in here"
    assert card("splice-24", "p36")["Feeding in"] == "never: it only gives"


def test_a_card_has_who_shares_and_what_is_tied_with_what_flows() -> None:
    report = analyse(example("harbour-light", shipped()), shipped())
    said = as_text(report, "board.p7")
    assert said.startswith("Bowline 40: L22 (pos 7)\n")
    for words in ("pulse pair A, one frequency: L14, L21", "Lamp · anode (“lamp”)", "of 12 mA", "up to 3.3"):
        assert words in said


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_every_contact_of_every_board_has_a_card(name: str) -> None:
    report = unchecked(Circuit(Plan(name), shipped()))
    for contact in [*report.circuit.board.pins, *report.circuit.board.sockets]:
        rows = pin_card(report, f"board.{contact}")
        assert rows and all(r.about and r.text for r in rows)
