import pytest

from knotplan.catalog.load import Catalog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.led import choose
from knotplan.core.plan import edits
from knotplan.core.plan.beads import SeriesResistor
from tests.conftest import lay, look_at


def plan_with(params: dict, beads: list):
    return lay(
        "bowline-40",
        {"lamp": ("led", params)},
        {"lamp.anode": "p11", "lamp.cathode": "p17"},
        {"lamp.anode": beads},
    )


def test_choice_in_a_plan_is_the_next_preferred_value() -> None:
    """(3.3 - V_F(5 mA) - pin) by hand: V_F = 1.75 + 0.0514 ln 5 + 0.004 * 5.06 = 1.853 V,
    so (3.3 - 1.853)/0.005 - 42 = 247.4, and next in E12 is 270."""
    plan = plan_with({}, [])
    found = choose(Circuit(plan, Catalog()), Catalog(), "lamp")
    assert found.best.ohm == 270
    assert found.working.results[0].value == pytest.approx(247.4, abs=0.5)
    assert (found.lower.ohm, found.higher.ohm) == (220, 330)
    assert found.lower.current.typical > found.best.current.typical > found.higher.current.typical


def test_choice_follows_the_drawer() -> None:
    plan = edits.set_series(plan_with({}, []), "E24")
    assert choose(Circuit(plan, Catalog()), Catalog(), "lamp").best.ohm == 270
    plan = edits.set_series(plan, "E96")
    assert choose(Circuit(plan, Catalog()), Catalog(), "lamp").best.ohm == 249


def test_choice_keeps_the_most_current_within_the_pins_limit() -> None:
    plan = plan_with({"wish": 0.0115}, [])
    found = choose(Circuit(plan, Catalog()), Catalog(), "lamp")
    assert found.best.current.max <= 0.012
    assert found.lower.current.max > 0.012


def test_what_is_chosen_is_what_the_plan_then_gets() -> None:
    plan = plan_with({}, [SeriesResistor(1000, 0.1)])
    found = choose(Circuit(plan, Catalog()), Catalog(), "lamp")
    after = look_at(found.remedy().apply(plan))
    high = max(after.points.junctions[of_part("lamp", "junction")], key=lambda r: r.typ)
    assert (high.min, high.typ, high.max) == pytest.approx(
        (found.best.current.min, found.best.current.typical, found.best.current.max)
    )


def test_a_wish_that_the_supply_cannot_meet_is_said() -> None:
    found = choose(Circuit(plan_with({"colour": "blue", "wish": 0.02}, []), Catalog()), Catalog(), "lamp")
    assert not found.reaches


def test_an_untied_led_has_no_value_yet() -> None:
    plan = lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p11"})
    assert choose(Circuit(plan, Catalog()), Catalog(), "lamp") is None
