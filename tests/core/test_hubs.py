"""Hubs: what they offer, what flows through them, what hangs on what.
Expected values by hand, as each test says."""

import math

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import tie_ohm
from knotplan.core.engine.keys import of_bead, of_part
from knotplan.core.engine.readings import pin_volts
from knotplan.core.match.fit import Grade, fit, fits
from knotplan.core.plan.beads import Clamp, Diode, LevelShifter, PullUp, SeriesResistor
from tests.conftest import lay, look_at

USB = {"usb": "usb-brick"}
FED = {"usb.plug": "board.usb"}
COIL = lay(
    "bowline-40",
    {**USB, "Brick": "brick-5v", "Bell": "relay", "Driver": "coil-driver"},
    {
        **FED,
        "brick.zero": "p39",
        "bell.a1": "brick.plus",
        "bell.a2": "driver.out1",
        "driver.gnd": "p17",
        "driver.in1": "p11",
        "driver.com": "brick.plus",
    },
)


def test_a_darlington_keeps_its_drop_from_the_coil() -> None:
    """By hand: (5 V − 0.75 V) / (69 Ω + 1 Ω) = 60.7 mA when it conducts, nothing when it does not."""
    report = look_at(COIL)
    amps = {
        r.case.pin("driver.out1"): r.typ
        for r in report.points.bars[of_part("bell", "coil")]
        if r.case.moment == "running"
    }
    assert amps["low"] == pytest.approx((5 - 0.75) / 70, rel=1e-3)
    assert amps["off"] == pytest.approx(0, abs=1e-6)
    volts = {
        r.case.pin("driver.out1"): r.typ for r in pin_volts(report.circuit, report.points, "driver.out1")
    }
    assert volts["low"] == pytest.approx(0.75 + (5 - 0.75) / 70, rel=1e-3) and volts["off"] == pytest.approx(
        5.0, rel=1e-3
    )


def test_the_load_counts_on_the_supply_that_feeds_it_and_on_the_hub() -> None:
    budgets = {b.id: b for b in look_at(COIL).budgets}
    assert {i.title: i.usual_a for i in budgets["brick"].items}["Bell"] == pytest.approx(
        (5 - 0.75) / 70, rel=1e-3
    )
    assert budgets["driver.all"].usual_a == pytest.approx((5 - 0.75) / 70, rel=1e-3)
    assert not any(i.title == "Bell" for i in budgets["5v"].items)


def test_a_relays_contact_passes_on_what_comes_in() -> None:
    plan = lay(
        "bowline-40",
        {**USB, "Brick": "brick-12v", "R": "relay-module", "Lamp": "pump"},
        {**FED, "brick.zero": "p39", "r.com1": "brick.plus", "lamp.plus": "r.no1", "lamp.minus": "p5"},
    )
    c = Circuit(plan, shipped())
    assert c.supplies.origin("lamp.plus").id == "brick" and c.supplies.fed_by("lamp.plus") == c.nets.of(
        "brick.plus"
    )
    assert fit(c, "lamp.plus", "r.no1").grade <= Grade.POSSIBLE
    amps = {
        r.case.contact("r", "closes1"): r.typ for r in look_at(plan).points.bars[of_part("lamp", "motor")]
    }
    assert amps["open"] == pytest.approx(0, abs=1e-6) and amps["closed"] == pytest.approx(0.35, rel=0.02)


def test_a_motor_draws_what_it_draws_turning_and_stalled() -> None:
    plan = lay(
        "bowline-40",
        {**USB, "Brick": "brick-12v", "Lamp": "pump"},
        {**FED, "brick.zero": "p39", "lamp.plus": "brick.plus", "lamp.minus": "brick.zero"},
    )
    brick = next(b for b in look_at(plan).budgets if b.id == "brick")
    assert brick.usual_a == pytest.approx(0.35, rel=0.01) and brick.worst_a == pytest.approx(
        1.1 * 12.4 / 12, rel=0.01
    )


def test_a_converter_draws_at_its_input_what_hangs_on_its_output() -> None:
    """By hand: 0.65 A at 5 V over 88 % are 3.69 W; behind the brick's 30 mΩ and the cords there and back
    V² - 11.6 V + 3.69 W · R = 0, and I = 3.69 W / V."""
    plan = lay(
        "bowline-40",
        {**USB, "Brick": "brick-12v", "Buck": "buck-converter", "Flag": "micro-servo"},
        {
            **FED,
            "brick.zero": "p39",
            "buck.gnd": "p39",
            "buck.in": "brick.plus",
            "flag.power": "buck.out",
            "flag.ground": "p5",
            "flag.signal": "p7",
        },
    )
    budgets = {b.id: b for b in look_at(plan).budgets}
    assert budgets["buck"].worst_a == pytest.approx(0.65)
    circuit = Circuit(plan, shipped())
    cords = [circuit.ties.of(lead) for lead in ("buck.in", "buck.gnd")]
    ohm, watt = 0.03 + sum(tie_ohm(circuit, t) for t in cords if t is not None), 0.65 * 5 / 0.88
    volts = (11.6 + math.sqrt(11.6**2 - 4 * ohm * watt)) / 2
    assert budgets["brick"].worst_a == pytest.approx(watt / volts, rel=1e-5)


def test_a_converter_without_its_own_feed_gives_nothing() -> None:
    plan = lay("bowline-40", {"Buck": "buck-converter"}, {"buck.gnd": "p39"})
    assert Circuit(plan, shipped()).supplies.origin("buck.out") is None


ECHO = lay(
    "bowline-40",
    {**USB, "Tide": "echo-ranger"},
    {**FED, "tide.vcc": "p1", "tide.gnd": "p5", "tide.trig": "p11", "tide.echo": "p15"},
)


def test_an_output_of_a_part_reaches_the_pin_as_it_drives() -> None:
    """5 V behind 150 Ω into a pin that leaks a microampere: 5 V, and that is what the finding says."""
    found = next(f for f in look_at(ECHO).findings if f.rule == "input-over-voltage")
    assert found.subjects[0] == "board.p15" and "5 V" in found.message


@pytest.mark.parametrize("style", ["mosfet", "buffer"])
def test_a_level_shifter_holds_each_side_at_its_own_rail(style: str) -> None:
    from knotplan.core.plan import edits

    plan = edits.add_bead(ECHO, "tide.echo", LevelShifter(style, lead_rail="board.p1", pin_rail="board.p2"))
    report = look_at(plan)
    high = next(
        r
        for r in pin_volts(report.circuit, report.points, "board.p15")
        if r.case.contact("tide", "echo") == "high"
    )
    low = next(
        r
        for r in pin_volts(report.circuit, report.points, "board.p15")
        if r.case.contact("tide", "echo") == "low"
    )
    assert high.typ == pytest.approx(3.3, rel=0.03) and low.typ < 0.2
    assert not [f for f in report.findings if f.rule == "input-over-voltage"]


def test_a_divider_of_two_beads_is_a_divider() -> None:
    from knotplan.core.plan import edits
    from knotplan.core.plan.beads import PullDown

    plan = edits.add_bead(
        edits.add_bead(ECHO, "tide.echo", SeriesResistor(1000.0)), "tide.echo", PullDown(1800.0)
    )
    report = look_at(plan)
    high = next(
        r
        for r in pin_volts(report.circuit, report.points, "board.p15")
        if r.case.contact("tide", "echo") == "high"
    )
    assert high.typ == pytest.approx(5 * 1800 / (1000 + 1800 + 150), rel=2e-3)


def test_a_diode_in_a_supply_lead_passes_it_on_and_a_clamp_conducts_only_upwards() -> None:
    plan = lay(
        "bowline-40",
        {**USB, "Lamp": "led"},
        {**FED, "lamp.anode": "p1", "lamp.cathode": "p11"},
        {"lamp.anode": [Diode("lead")], "lamp.cathode": [SeriesResistor(470.0), Clamp("board.p1")]},
    )
    report = look_at(plan)
    lit = max(r.typ for r in report.points.junctions[of_part("lamp", "junction")])
    assert 0.003 < lit < 0.008, "5 V less 0.35 V and 1.9 V over 470 Ω and the pin"
    assert max(abs(r.max) for r in report.points.junctions[of_bead("lamp.cathode", 1)]) < 1e-3


def test_hub_pins_are_offered_with_their_own_limits_and_shared_units() -> None:
    plan = lay(
        "bowline-40",
        {**USB, "Ranks": "pwm-hub", "A": "micro-servo", "B": ("led", {"dimmed": "yes"})},
        {
            **FED,
            "ranks.vcc": "p2",
            "ranks.gnd": "p5",
            "ranks.sda": "p14",
            "ranks.scl": "p22",
            "a.signal": "ranks.ch0",
        },
    )
    c = Circuit(plan, shipped())
    held = fit(c, "b.anode", "ranks.ch0")
    other = fit(c, "b.anode", "ranks.ch1")
    assert held.grade == Grade.IMPOSSIBLE and "holds" in held.reason
    assert other.grade == Grade.POSSIBLE and "shares the hub's counter" in other.reason
    itself = [x for x in fits(c, "ranks.sda") if x.contact.startswith("ranks.")]
    assert all(x.grade == Grade.IMPOSSIBLE for x in itself), "nothing is tied to itself"


def test_a_branch_behind_a_bus_switch_is_a_bus_of_its_own() -> None:
    parts = {
        **USB,
        "Switch": "bus-switch",
        "One": "i2c-thermometer",
        "Two": "i2c-thermometer",
        "Trunk": "i2c-thermometer",
    }
    ties = {**FED, "switch.vin": "p2", "switch.gnd": "p5", "switch.sda": "p14", "switch.scl": "p22"}
    for part, ends in (
        ("one", ("switch.sd0", "switch.sc0")),
        ("two", ("switch.sd1", "switch.sc1")),
        ("trunk", ("p14", "p22")),
    ):
        ties |= {f"{part}.vcc": "p2", f"{part}.gnd": "p5", f"{part}.sda": ends[0], f"{part}.scl": ends[1]}
    found = [
        f.subjects for f in look_at(lay("bowline-40", parts, ties)).findings if f.rule == "address-clash"
    ]
    assert found == [("one", "trunk"), ("two", "trunk")], (
        "two branches do not disturb each other, the trunk disturbs both"
    )


def test_a_device_without_pads_moves_to_another_bus() -> None:
    parts = {**USB, "One": "clock", "Two": "clock"}
    ties = {"usb.plug": "board.usb"}
    for part in ("one", "two"):
        ties |= {f"{part}.vcc": "p32", f"{part}.gnd": "p3", f"{part}.sda": "p1", f"{part}.scl": "p2"}
    report = look_at(lay("splice-24", parts, ties))
    clash = next(f for f in report.findings if f.rule == "address-clash")
    assert len(clash.remedies) == 2
    for remedy in clash.remedies:
        after = look_at(remedy.apply(report.circuit.plan))
        assert not {"address-clash", "bus-mixed", "pin-shared"} & {f.rule for f in after.findings}


def test_an_all_call_at_a_devices_address_is_said() -> None:
    parts = {**USB, "Ranks": "pwm-hub", "Switch": "bus-switch"}
    ties = {
        **FED,
        "ranks.vcc": "p2",
        "ranks.gnd": "p5",
        "ranks.sda": "p14",
        "ranks.scl": "p22",
        "switch.vin": "p2",
        "switch.gnd": "p5",
        "switch.sda": "p14",
        "switch.scl": "p22",
    }
    found = [f for f in look_at(lay("bowline-40", parts, ties)).findings if f.rule == "address-clash"]
    assert [(f.severity, "0x70" in f.message) for f in found] == [("care", True)]
    assert [r.title for r in found[0].remedies] == ["Set A0 of Switch: 0x71"]


def test_daisy_chains_share_clock_and_select_and_hand_on_data() -> None:
    parts = {**USB, "One": "led-grid", "Two": "led-grid"}
    ties = {
        **FED,
        **{
            f"{p}.{lead}": to
            for p in ("one", "two")
            for lead, to in (("vcc", "p1"), ("gnd", "p5"), ("cs", "p31"), ("clk", "p29"))
        },
        "one.din": "p25",
        "two.din": "one.dout",
    }
    rules = {f.rule for f in look_at(lay("bowline-40", parts, ties)).findings}
    assert not rules & {"pin-shared", "bus-mixed", "need-unmet"}
    apart = {**ties, "two.din": "p25"}
    assert "pin-shared" in {f.rule for f in look_at(lay("bowline-40", parts, apart)).findings}, (
        "one select, no chain"
    )


def test_one_wire_thermometers_share_their_line_and_one_pull_up() -> None:
    parts = {**USB, "In": "one-wire-thermometer", "Out": "one-wire-thermometer"}
    ties = {
        **FED,
        **{
            f"{p}.{lead}": to
            for p in ("in", "out")
            for lead, to in (("vdd", "w1"), ("gnd", "e1"), ("dq", "w9"))
        },
    }
    found = look_at(lay("halyard-w", parts, ties, {"in.dq": [PullUp(4700.0, rail="board.w1")]})).findings
    assert found == ()


def test_what_switches_a_load_is_offered_with_everything_it_needs() -> None:
    parts = {**USB, "Big": "brick-12v", "Latch": "solenoid"}
    report = look_at(
        lay("bowline-40", parts, {"usb.plug": "board.usb", "big.zero": "p5", "latch.plus": "big.plus"})
    )
    [untied] = report.findings
    [switch] = untied.remedies
    assert switch.title == "Add a MOSFET switch for Latch · –"
    left = look_at(switch.apply(report.circuit.plan)).findings
    assert [f.rule for f in left if f.severity != "note"] == []


def test_a_part_with_several_coils_gets_a_driver_for_all_of_them() -> None:
    parts = {**USB, "Brick": "brick-5v", "Lens": "geared-stepper"}
    plan = lay(
        "bowline-40", parts, {"usb.plug": "board.usb", "brick.zero": "p5", "lens.common": "brick.plus"}
    )
    for _ in range(9):  # one remedy after another, as a maker would click
        remedies = [f.remedies[0] for f in look_at(plan).findings if f.remedies]
        plan = remedies[0].apply(plan) if remedies else plan
    assert look_at(plan).findings == () and [p.part for p in plan.parts].count("coil-driver") == 1
