"""Hubs that bear and read by their own supply, pulses that the maker wants, and relief where too much is
asked for. Expected values by hand, as each test says."""

import pytest

from knotplan.catalog.part.needs import Output, Pulse, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullDown, SeriesResistor
from knotplan.core.plan.document import Plan
from tests.conftest import lay, look_at
from tests.planted.bench import CATALOG

I2C = {"hub.sda": "p14", "hub.scl": "p22", "hub.gnd": "p10"}


def hub_at(kind: str, rail: str, supply: str = "vcc") -> Circuit:
    return Circuit(lay("bowline-40", {"Hub": kind}, {f"hub.{supply}": rail, **I2C}), CATALOG)


@pytest.mark.parametrize(("rail", "most"), [("p2", 3.4 + 0.3), ("p1", 5.25 + 0.3)])
def test_a_converter_bears_a_little_more_than_its_own_supply(rail: str, most: float) -> None:
    assert as_fed(hub_at("adc-4", rail), "hub.a0").max_v == pytest.approx(most)


@pytest.mark.parametrize(
    ("rail", "low", "high"), [("p2", 3.2 * 0.3, 3.4 * 0.7), ("p1", 4.75 * 0.3, 5.25 * 0.7)]
)
def test_an_expander_reads_by_shares_of_its_own_supply(rail: str, low: float, high: float) -> None:
    driver = as_fed(hub_at("port-expander", rail, "vdd"), "hub.p0")
    assert (driver.input_low_v, driver.input_high_v) == pytest.approx((low, high))
    assert driver.max_v == 5.5, "its pins bear 5 V whatever it is fed with"


def test_a_hub_that_is_not_fed_yet_keeps_the_figures_of_the_catalogue() -> None:
    c = Circuit(lay("bowline-40", {"Hub": "adc-4"}, I2C), CATALOG)
    assert as_fed(c, "hub.a0") == c.hardware.driver("hub.a0")
    assert as_fed(c, "board.p7") == c.hardware.driver("board.p7")


def test_a_knob_on_five_volts_is_too_much_for_a_converter_on_three() -> None:
    ties = {"hub.vcc": "p2", **I2C, "knob.top": "p1", "knob.wiper": "hub.a0", "knob.bottom": "p10"}
    plan = lay("bowline-40", {"Hub": "adc-4", "Knob": "knob"}, ties)
    found = next(f for f in look_at(plan).findings if f.rule == "input-over-voltage")
    assert found.severity == "stop" and found.numbers[1].limit == pytest.approx(3.7)
    assert not any(f.rule == "input-over-voltage" for f in look_at(found.remedies[0].apply(plan)).findings)


@pytest.mark.parametrize("kind", CATALOG.part_ids())
def test_every_hub_that_can_have_one_supply_or_another_reads_by_the_one_it_has(kind: str) -> None:
    """Of chips: a threshold in volts would hold for one of their supplies alone."""
    part = CATALOG.part(kind, {})
    for lead in part.leads.values():
        if lead.offers is None or lead.offers.kind != "io":
            continue
        driver = part.drivers[lead.offers.driver]
        need = part.leads[driver.rail].needs[0] if driver.rail in part.leads else None
        kinds = {function.split(":")[0] for function in lead.offers.functions}
        if isinstance(need, Supply) and need.most_v > 1.3 * need.least_v:
            if kinds & {"digital", "input", "i2c"}:
                assert driver.high_share and driver.low_share, lead.title
            if "adc" in kinds:
                assert driver.above_rail_v is not None, lead.title


# --- pulses where a lead takes both -------------------------------------------------------------------


def switched(pin: str) -> Plan:
    return lay("bowline-40", {"Switch": "n-mosfet"}, {"switch.gate": pin, "switch.source": "p10"})


def test_a_gate_is_switched_and_pulsed_where_its_maker_wants_that() -> None:
    plan = switched("p18")
    assert isinstance(Circuit(plan, CATALOG).needs.of("switch.gate"), Output)
    pulsed = edits.set_hertz(plan, plan.tie_of("switch.gate").id, 2000.0)
    need = Circuit(pulsed, CATALOG).needs.of("switch.gate")
    assert isinstance(need, Pulse) and need.frequency_hz == 2000.0


def test_a_pin_without_pulses_does_not_do_where_pulses_are_wanted() -> None:
    plan = switched("p8")
    wanted = Circuit(edits.set_hertz(plan, plan.tie_of("switch.gate").id, 2000.0), CATALOG)
    assert fit(Circuit(plan, CATALOG), "switch.gate", "board.p8").grade <= Grade.POSSIBLE
    assert fit(wanted, "switch.gate", "board.p8").grade == Grade.IMPOSSIBLE


def test_the_frequency_that_a_part_has_by_itself_is_no_wish() -> None:
    needs = Circuit(lay("bowline-40", {"Flag": "micro-servo", "Switch": "n-mosfet"}, {}), CATALOG).needs
    assert needs.wish("flag.signal", 50.0) == 0.0 and needs.wish("flag.signal", 60.0) == 60.0
    assert needs.wish("switch.gate", 1000.0) == 1000.0, "by itself a gate is switched only"
    assert needs.pulses("switch.gate").frequency_hz == 1000.0 and needs.pulses("switch.source") is None


# --- an open drain ------------------------------------------------------------------------------------


def test_an_open_drain_is_never_offered_a_pull_down() -> None:
    ties = {"hub.vcc": "p2", **I2C, "hub.sqw": "p8"}
    plan = lay("bowline-40", {"Hub": "clock"}, ties)
    found = next(f for f in look_at(plan).findings if f.rule == "floating-input")
    assert found.remedies and all("pull-up" in r.title for r in found.remedies)


def test_a_pull_down_on_an_open_drain_is_exchanged_for_a_pull_up() -> None:
    plan = lay("bowline-40", {"Hub": "clock"}, {"hub.vcc": "p2", **I2C, "hub.sqw": "p8"})
    plan = edits.add_bead(plan, plan.tie_of("hub.sqw").id, PullDown(10e3))
    found = next(f for f in look_at(plan).findings if f.rule == "contact-unread")
    for remedy in found.remedies:
        after = remedy.apply(plan)
        assert not any(isinstance(b, PullDown) for t in after.ties for b in t.beads)
        assert not {f.rule for f in look_at(after).findings} & {"contact-unread", "floating-input"}
    assert len(found.remedies) == 2


# --- relief -------------------------------------------------------------------------------------------


def servos(count: int) -> Plan:
    names = [f"Leg {k}" for k in range(count)]
    ties = {"usb.plug": "board.usb"}
    for k, pin in enumerate(("p18", "p24", "p12")[:count]):
        ties |= {f"leg-{k}.signal": pin, f"leg-{k}.power": "p1", f"leg-{k}.ground": "p10"}
    return lay("bowline-40", {"USB": "usb-brick", **dict.fromkeys(names, "standard-servo")}, ties)


def test_as_many_loads_are_moved_as_it_takes_and_the_new_supply_is_strong_enough() -> None:
    """Three of 1.8 A on a rail of 1.5 A: all three leave, 5.4 A and a tenth want one of 6 A."""
    plan = servos(3)
    found = next(f for f in look_at(plan).findings if f.rule == "rail-over")
    remedy = next(r for r in found.remedies if "Leg 0" in r.title)
    assert remedy.title == "Feed Leg 0, Leg 1 and Leg 2 from a 5 V brick of their own"
    after = look_at(remedy.apply(plan))
    assert not {f.rule for f in after.findings} & {"rail-over", "supply-over"}
    (brick,) = [p for p in after.circuit.plan.parts if p.part == "brick-5v"]
    assert brick.params["amperes"] == 6.0


def test_leds_on_a_register_get_resistors_that_keep_its_bank_within_its_limit() -> None:
    ties = {"hub.vcc": "p2", "hub.gnd": "p10", "hub.ser": "p25", "hub.srclk": "p29", "hub.rclk": "p31"}
    for k in range(8):
        ties |= {f"lamp-{k}.anode": f"hub.q{k}", f"lamp-{k}.cathode": "p10"}
    plan = lay("bowline-40", {"Hub": "shift-register", **{f"Lamp {k}": "led" for k in range(8)}}, ties)
    for k in range(8):
        plan = edits.add_bead(plan, plan.tie_of(f"lamp-{k}.anode").id, SeriesResistor(47.0))
    found = next(f for f in look_at(plan).findings if f.rule == "bank-over")
    after = look_at(found.remedies[0].apply(plan))
    bank = next(b for b in after.budgets if b.id == "hub.all")
    assert bank.worst_a <= bank.limit_a and not any(f.rule == "bank-over" for f in after.findings)
