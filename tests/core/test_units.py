"""Units behind pins: pools that run short, remaps, pins with a choice of
functions, buses that several parts share."""

import pytest
from msgspec.structs import replace

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.units import pulse_job
from knotplan.core.engine.readings import pin_volts
from knotplan.core.match.fit import Grade, candidates, fit, fits
from knotplan.core.plan.beads import PullUp
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.board import set_up
from knotplan.core.plan.edits.parts import add_part
from knotplan.core.plan.edits.ties import tie
from tests.conftest import lay, look_at


def with_functions(name: str, **functions: str) -> Board:
    """A board of the catalogue with other functions on some pins."""
    board = shipped().board(name)
    pins = {
        i: replace(p, functions=tuple(functions[i].split())) if i in functions else p
        for i, p in board.pins.items()
    }
    return replace(board, id="changed", pins=pins)


def flags(board: Board, pins: list[str]) -> Plan:
    plan = Plan("changed", carried=board)
    for k, pin in enumerate(pins):
        plan = tie(add_part(plan, "micro-servo", f"Flag {k}"), f"flag-{k}.signal", f"board.{pin}")
    return plan


def test_a_pin_with_two_pulse_functions_takes_the_one_that_is_free() -> None:
    board = with_functions("clove-22", e5="digital pwm:0.a pwm:1.a", e8="digital pwm:1.a")
    c = Circuit(flags(board, ["e5", "e8"]), shipped())
    assert [str(pulse_job(c, p)) for p in ("board.e5", "board.e8")] == ["pwm:0.a", "pwm:1.a"]
    turned_round = with_functions("clove-22", e5="digital pwm:1.a pwm:0.a", e8="digital pwm:1.a")
    other = Circuit(flags(turned_round, ["e5", "e8"]), shipped())
    assert [str(pulse_job(other, p)) for p in ("board.e5", "board.e8")] == ["pwm:0.a", "pwm:1.a"]
    assert "timer-shared" not in {f.rule for f in analyse(other.plan, shipped()).findings}


def test_where_no_function_is_free_the_clash_is_found() -> None:
    board = with_functions("clove-22", e5="digital pwm:1.a", e8="digital pwm:1.a")
    assert "timer-shared" in {f.rule for f in analyse(flags(board, ["e5", "e8"]), shipped()).findings}


def test_a_pool_gives_out_its_channels_one_by_one_and_then_none() -> None:
    toggle = shipped().board("toggle")
    plan = flags(replace(toggle, id="changed"), ["p2", "p7"])
    plan = add_part(plan, "micro-servo", "Last")
    c = Circuit(plan, shipped())
    assert fit(c, "last.signal", "board.p11").reasons == ("one of the pulse channels, 1 free",)
    full = tie(add_part(plan, "micro-servo", "More"), "last.signal", "board.p11")
    answers = {
        f.grade for f in fits(Circuit(full, shipped()), "more.signal") if f.contact.startswith("board.p")
    }
    assert answers == {Grade.IMPOSSIBLE}


def test_a_pool_s_frequencies_run_short_too() -> None:
    halyard = shipped().board("halyard-w")
    few = replace(
        halyard, id="changed", pools={**halyard.pools, "pwm": replace(halyard.pools["pwm"], frequencies=1)}
    )
    plan = add_part(flags(few, ["w9"]), "led", "Lamp", {"dimmed": "yes"})
    answer = fit(Circuit(plan, shipped()), "lamp.anode", "board.w10")
    assert "frequencies, and all are taken" in answer.reason
    report = analyse(tie(plan, "lamp.anode", "board.w10"), shipped())
    assert "give at most 1 at a time" in next(f.message for f in report.findings if f.rule == "pool-over")


def test_a_unit_is_led_to_one_group_of_pins_only() -> None:
    c = Circuit(
        lay("reef-48", {"Flag": "micro-servo", "Mast": "micro-servo"}, {"flag.signal": "e17"}), shipped()
    )
    assert fit(c, "mast.signal", "board.w10").reason == "timer 2 is led to other pins for Flag · signal"
    assert fit(c, "mast.signal", "board.e16").grade == Grade.GOOD


def test_several_parts_share_a_bus_and_that_is_no_clash() -> None:
    parts: dict = {"Mast": "i2c-thermometer", "Keel": "i2c-thermometer"}
    ties = {
        f"{p}.{lead}": pin
        for p in ("mast", "keel")
        for lead, pin in (("vcc", "p2"), ("gnd", "p5"), ("sda", "p14"), ("scl", "p22"))
    }
    found = {f.rule for f in look_at(lay("bowline-40", parts, ties)).findings}
    assert not found & {"pin-shared", "need-unmet", "bus-mixed"}


def test_the_second_lead_of_a_bus_goes_where_the_first_one_is() -> None:
    c = Circuit(lay("splice-24", {"Mast": "i2c-thermometer"}, {"mast.sda": "p1"}), shipped())  # L0, bus 0
    best = {c.titles.of(f.contact): f for f in candidates(c, "mast.scl")}
    assert best["L1"].grade <= Grade.GOOD and best["L3"].grade == Grade.POSSIBLE
    assert "another bus" in best["L3"].reason


def test_a_bus_over_any_pin_takes_any_pins() -> None:
    ties = {"mast.vcc": "w1", "mast.gnd": "e1", "mast.sda": "w9", "mast.scl": "e16"}
    plan = lay("halyard-w", {"Mast": "i2c-thermometer"}, ties)
    assert not {f.rule for f in look_at(plan).findings} & {"need-unmet", "bus-mixed"}


def test_a_module_s_pull_ups_at_5_v_are_seen_at_the_pins() -> None:
    """10 kΩ to 5 V and the board's 1.8 kΩ to 3.3 V make 3.56 V at
    typical values: more than the 3.3 V rail."""
    ties = {"mast.vcc": "p1", "mast.gnd": "p5", "mast.sda": "p14", "mast.scl": "p22"}
    report = look_at(lay("bowline-40", {"Mast": "i2c-thermometer"}, ties))
    typical = max(
        r.typ for r in report.points.volts[report.circuit.nets.of("board.p14")] if r.case.moment == "running"
    )
    assert typical == pytest.approx((5.0 / 10e3 + 3.3 / 1.8e3) / (1 / 10e3 + 1 / 1.8e3), rel=1e-3)
    assert "input-over-voltage" in {f.rule for f in report.findings}


def test_what_is_off_is_said_and_the_switch_settles_it() -> None:
    plan = lay("capstan-34", {"Flag": "micro-servo"}, {"flag.signal": "p15"})
    finding = next(f for f in look_at(plan).findings if f.rule == "peripheral-off")
    after = finding.remedies[0].apply(plan)
    assert after == set_up(plan, "pulse") and set_up(after, "pulse") == plan
    report = look_at(after)
    assert "peripheral-off" not in {f.rule for f in report.findings}
    assert report.circuit.hardware.system_changes() == [
        "Switch the pulse outputs on: give the pulse pins their function in the system's header set-up, then "
        "restart."
    ]


def test_the_wiring_sheet_says_what_has_to_be_switched_before() -> None:
    from knotplan.exchange.exports.sheet import html

    plan = set_up(lay("capstan-34", {"Flag": "micro-servo"}, {"flag.signal": "p15"}), "pulse")
    off, on = html(look_at(plan)), html(look_at(set_up(plan, "pulse")))
    assert (
        "Before it works" in off
        and "Switch the pulse outputs on" in off
        and "Switch the pulse outputs" not in on
    )
    assert "Be in the group pwm" in off and "Be in the group pwm" in on, "who may use them is another matter"


def test_a_strap_is_looked_at_in_every_state_of_the_contact() -> None:
    def on(pin: str) -> list:
        ties = {"door.contact": pin, "door.common": "e1"}
        plan = lay("halyard-w", {"Door": "push-button"}, ties, pulls={"door.contact": "up"})
        return [f for f in look_at(plan).findings if f.rule == "strap-level"]

    finding = on("e3")[0]
    assert finding.severity == "care" and "Door closed" in finding.message  # only while it is pressed
    assert on("e16") == []


def test_a_strap_against_a_pull_up_is_a_divider() -> None:
    """By hand: 10 kΩ to 3.3 V against the board's 100 kΩ and the pin's 1 µA
    at 3.3 V give 2.99 V, far from low."""
    ties = {"door.contact": "w14", "door.common": "e1"}
    plan = lay("reef-48", {"Door": "push-button"}, ties, {"door.contact": [PullUp(10e3, rail="board.w3")]})
    report = look_at(plan)
    waking = [r for r in pin_volts(report.circuit, report.points, "board.w14") if r.case.moment == "power-on"]
    opened = next(r for r in waking if r.case.contact("door", "contact") == "open")
    down = 1 / (1 / 100e3 + 1e-6 / 3.3)
    assert opened.typ == pytest.approx(3.3 * down / (down + 10e3))
    found = next(f for f in report.findings if f.rule == "strap-level")
    assert "(boot 0) has to be low at start, below 990 mV" in found.message
    assert found.numbers[0].value == pytest.approx(opened.max)


def test_a_pin_that_toggles_while_the_board_starts_can_wake_a_load() -> None:
    """Halyard's console pin is high at first and then toggles: an active-low relay
    answers, and a steady high would not."""

    def woken(pin: str) -> bool:
        ties = {"horn.vcc": "w1", "horn.in1": pin, "horn.gnd": "e1"}
        plan = lay("halyard-w", {"Horn": ("relay-module", {"input": "transistor"})}, ties)
        return "wakes-load" in {f.rule for f in look_at(plan).findings}

    assert woken("e7")
    steady = shipped().board("halyard-w")
    pins = {**steady.pins, "e7": replace(steady.pins["e7"], starting="")}
    plan = Plan("changed", carried=replace(steady, id="changed", pins=pins))
    plan = add_part(plan, "relay-module", "Horn", {"input": "transistor"})
    for lead, pin in (("vcc", "w1"), ("in1", "e7"), ("gnd", "e1")):
        plan = tie(plan, f"horn.{lead}", f"board.{pin}")
    assert "wakes-load" not in {f.rule for f in analyse(plan, shipped()).findings}
