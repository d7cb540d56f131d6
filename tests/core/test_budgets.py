"""Sums by hand from the catalogue's figures."""

import pytest

from knotplan.core.plan.beads import SeriesResistor
from tests.conftest import lay, look_at


def budget(plan, id: str):
    return next(b for b in look_at(plan).budgets if b.id == id)


def test_loads_add_up_on_their_rail() -> None:
    plan = lay("bowline-40", {"a": "micro-servo", "b": "micro-servo"}, {"a.power": "p1", "b.power": "p3"})
    rail = budget(plan, "5v")
    assert (rail.usual_a, rail.worst_a, rail.limit_a) == pytest.approx((0.24, 1.3, 1.5))


def test_the_brick_carries_board_and_rail() -> None:
    plan = lay(
        "bowline-40", {"a": "micro-servo", "usb": "usb-brick"}, {"a.power": "p1", "usb.plug": "board.usb"}
    )
    supply = budget(plan, "usb")
    assert (supply.usual_a, supply.worst_a, supply.limit_a) == pytest.approx((0.6 + 0.12, 1.2 + 0.65, 2.5))


def test_a_bench_supply_carries_its_own_loads_only() -> None:
    plan = lay(
        "bowline-40", {"a": "micro-servo", "brick": "brick-5v"}, {"a.power": "brick.plus", "brick.zero": "p5"}
    )
    assert budget(plan, "brick").worst_a == pytest.approx(0.65)
    assert budget(plan, "5v").worst_a == 0


def test_a_switching_rail_draws_power_not_current() -> None:
    """x at 3.3 V is x * 3.3 / (5 * 0.88) at 5 V."""
    plan = lay(
        "bowline-40",
        {"lamp": "led"},
        {"lamp.anode": "p11", "lamp.cathode": "p17"},
        {"lamp.anode": [SeriesResistor(270)]},
    )
    low, high = budget(plan, "3v3"), budget(plan, "5v")
    assert high.usual_a == pytest.approx(low.usual_a * 3.3 / (5 * 0.88))
    assert budget(plan, "pins").usual_a == pytest.approx(low.usual_a, rel=1e-3)


def test_banks_hold_their_own_pins() -> None:
    plan = lay(
        "clove-22",
        {"lamp": "led"},
        {"lamp.anode": "e5", "lamp.cathode": "e2"},
        {"lamp.anode": [SeriesResistor(330)]},
    )
    assert budget(plan, "pa").worst_a == pytest.approx(budget(plan, "pins").worst_a)
    assert budget(plan, "pc").worst_a == budget(plan, "pe").worst_a == 0


def test_a_rail_that_nothing_feeds_is_not_counted() -> None:
    rails = [b.id for b in look_at(lay("clove-22", {"lamp": "led"}, {})).budgets if b.kind == "rail"]
    assert rails == ["5v"]
