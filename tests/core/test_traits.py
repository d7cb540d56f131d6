"""Every trait that the table of boards asks for, by name: one test, one trait."""

from collections import Counter

import pytest

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.function import parse_function
from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.keys import of_part
from knotplan.core.match.fit import Grade, fit
from knotplan.core.names.book import NameBook
from knotplan.core.plan.document import Plan
from tests.conftest import lay, look_at


def board(name: str) -> Board:
    return shipped().board(name)


def io(name: str) -> dict:
    return {i: p for i, p in board(name).pins.items() if p.kind == "io"}


def units(name: str, kind: str) -> Counter:
    return Counter(f.instance for p in board(name).pins.values() for f in p.jobs(kind))


def rules(*args, **named) -> set[str]:
    return {f.rule for f in look_at(lay(*args, **named)).findings}


# --- Bowline 40 -------------------------------------------------------------------------------


def test_bowline_has_five_name_schemes() -> None:
    assert set(board("bowline-40").schemes) == {"position", "chip", "library", "kernel", "function"}
    assert board("bowline-40").headers["main"].rows == 20


def test_bowline_gives_12_ma_a_pin_and_60_ma_together() -> None:
    assert (board("bowline-40").drivers["io"].recommended_a, board("bowline-40").all_pins_a) == (0.012, 0.06)


def test_bowline_has_its_console_on_a_uart_pair_by_default() -> None:
    pins = [p for p in io("bowline-40").values() if p.reserved == "console"]
    assert {str(f) for p in pins for f in p.jobs("uart")} == {"uart:0.tx", "uart:0.rx"}
    assert board("bowline-40").settings["console"].starts == "on"


def test_bowline_has_one_bus_with_pull_ups_and_a_second_for_identification() -> None:
    fitted = {
        str(f): (p.fitted_pull_ohm, p.reserved) for p in io("bowline-40").values() for f in p.jobs("i2c")
    }
    assert fitted["i2c:1.sda"] == (1800, "") and fitted["i2c:0.sda"] == (3900, "identification")


def test_bowline_has_spi_with_two_selects() -> None:
    assert {f.channel for p in io("bowline-40").values() for f in p.jobs("spi")} >= {"select-0", "select-1"}


def test_bowline_has_two_pulse_pairs_each_on_one_timer() -> None:
    assert set(units("bowline-40", "pwm")) == {"A", "B"}
    assert board("bowline-40").peripherals["pwm:A"].shares == ("frequency",)


def test_bowline_s_pulls_and_states_at_power_on_differ_by_pin() -> None:
    assert {p.power_on for p in io("bowline-40").values()} >= {"pull-up", "pull-down", "floating", "high"}


def test_bowline_s_inputs_bear_3_3_v_only() -> None:
    assert board("bowline-40").drivers["io"].max_v < 4


# --- Clove 22 ---------------------------------------------------------------------------------


def test_clove_22_has_15_digital_and_7_analogue_pins_with_labels_and_ports() -> None:
    analogue = [p for p in io("clove-22").values() if p.jobs("adc")]
    assert (len(io("clove-22")) - len(analogue), len(analogue)) == (15, 7)
    assert all({"printed", "port"} <= p.names.keys() for p in io("clove-22").values())


def test_clove_22_gives_pulses_on_seven_pins_over_three_timers_one_of_which_keeps_time() -> None:
    assert sum(units("clove-22", "pwm").values()) == 7 and set(units("clove-22", "pwm")) == {"0", "1", "2"}
    assert "time base" in board("clove-22").peripherals["pwm:0"].note


def test_clove_22_has_18_and_36_ma_a_pin_180_ma_and_banks() -> None:
    driver = board("clove-22").drivers["io"]
    assert (driver.recommended_a, driver.absolute_a, board("clove-22").all_pins_a) == (0.018, 0.036, 0.18)
    assert len(board("clove-22").banks) == 3


def test_clove_22_has_a_usb_fuse_and_a_jack_through_a_linear_regulator() -> None:
    sockets = board("clove-22").sockets
    assert sockets["usb"].limit_a == 0.5 and "fuse" in sockets["usb"].note
    assert sockets["barrel"].rail == "vin" and "linear" in sockets["barrel"].note
    assert board("clove-22").rails["5v"].fed_from == "vin"


def test_clove_22_has_a_10_bit_converter_with_selectable_reference() -> None:
    unit = board("clove-22").converters["adc:0"]
    assert unit.bits == 10 and "selectable" in unit.note


def test_clove_22_has_its_indicator_on_a_pin_and_serial_pins_shared_with_usb() -> None:
    assert Counter(p.reserved for p in io("clove-22").values() if p.reserved) == {
        "usb-serial": 2,
        "indicator": 1,
    }


# --- Clove 60 ---------------------------------------------------------------------------------


def test_clove_60_has_48_digital_and_12_analogue_pins() -> None:
    analogue = [p for p in io("clove-60").values() if p.jobs("adc")]
    assert (len(io("clove-60")) - len(analogue), len(analogue)) == (48, 12)


def test_clove_60_has_a_double_row_across_one_end() -> None:
    south = board("clove-60").headers["south"]
    assert (south.rows, south.columns, south.across) == (2, 18, True)


def test_clove_60_has_three_uarts_and_twelve_pulse_outputs() -> None:
    assert set(units("clove-60", "uart")) == {"0", "1", "2"} and sum(units("clove-60", "pwm").values()) == 12


# --- Halyard W --------------------------------------------------------------------------------


def test_halyard_has_start_up_straps_with_required_levels() -> None:
    levels = {p.strap: board("halyard-w").straps[p.strap].level for p in io("halyard-w").values() if p.strap}
    assert levels == {"boot": "high", "flash-supply": "low", "boot-second": "low", "start-messages": "high"}


def test_halyard_has_pins_that_are_input_only() -> None:
    only = [i for i, p in io("halyard-w").items() if p.reads and not p.drives]
    c = Circuit(lay("halyard-w", {"Lamp": "led"}, {}), shipped())
    assert len(only) == 4
    assert {fit(c, "lamp.anode", f"board.{i}").reason for i in only} == {"input only"}


def test_halyard_has_pins_taken_by_flash() -> None:
    assert sum(p.reserved == "flash" for p in io("halyard-w").values()) == 6
    assert board("halyard-w").reservations["flash"].severity == "stop"


def test_halyard_s_second_converter_cannot_be_used_while_the_radio_runs() -> None:
    assert board("halyard-w").converters["adc:2"].blocked_by == "radio"
    plan = lay("halyard-w", {"Dial": "knob"}, {"dial.top": "w1", "dial.wiper": "e2", "dial.bottom": "e1"})
    found = next(f for f in look_at(plan).findings if f.rule == "converter-blocked")
    off = next(r for r in found.remedies if "radio" in r.title)
    assert "converter-blocked" not in {f.rule for f in look_at(off.apply(plan)).findings}


def test_halyard_leads_most_functions_to_any_pin_from_pools() -> None:
    offers = [p for p in io("halyard-w").values() if "pwm:any" in p.functions]
    assert len(offers) == 22 and {p.kind for p in board("halyard-w").pools.values()} == {
        "pwm",
        "i2c",
        "spi",
        "uart",
    }
    assert (board("halyard-w").pools["pwm"].channels, board("halyard-w").pools["pwm"].frequencies) == (12, 4)


def test_halyard_has_a_600_ma_regulator_with_radio_bursts() -> None:
    rail = board("halyard-w").rails["3v3"]
    assert "600 mA" in rail.note and "bursts" in rail.note and rail.fed_from == "5v"
    assert board("halyard-w").rails["5v"].own_worst_a > 4 * board("halyard-w").rails["5v"].own_usual_a


# --- Splice 24 --------------------------------------------------------------------------------


def test_splice_has_36_castellated_pads_whose_numbers_are_not_the_chip_s_lines() -> None:
    assert len(board("splice-24").pins) == 36 and {
        h.contact for h in board("splice-24").headers.values()
    } == {"pad"}
    book = NameBook(board("splice-24"))
    assert book.pins("pad 7") != book.pins("L7") and len(book.pins("7")) == 2


def test_splice_has_a_fixed_choice_of_functions_for_each_pin() -> None:
    assert {len(p.functions) for p in io("splice-24").values()} <= {4, 5, 6}
    assert all(
        f.instance != "any" for p in io("splice-24").values() for f in map(parse_function, p.functions)
    )


def test_splice_has_pulse_slices_of_two_channels() -> None:
    channels = {(f.instance, f.channel) for p in io("splice-24").values() for f in p.jobs("pwm")}
    assert len(channels) == 12 and {c for _, c in channels} == {"a", "b"}


def test_splice_has_three_adc_pins_and_three_supply_pads_with_different_meanings() -> None:
    assert sum(bool(p.jobs("adc")) for p in io("splice-24").values()) == 3
    rails = {p.rail for p in board("splice-24").pins.values() if p.kind == "supply"}
    assert rails == {"vusb", "vin", "3v3"}
    assert [bool(board("splice-24").rails[r].accepts) for r in ("vusb", "vin", "3v3")] == [False, True, False]


def test_splice_s_pads_are_easily_counted_from_the_wrong_end() -> None:
    assert board("splice-24").schemes["pad"].other_end
    assert NameBook(board("splice-24")).from_other_end("p9") == {"pad": "28"}


# --- Reef 48 ----------------------------------------------------------------------------------


def test_reef_has_port_names_and_alternate_functions_with_remaps() -> None:
    assert all(p.names["port"].startswith("P") for p in io("reef-48").values())
    remapped = {f.unit for p in io("reef-48").values() for f in map(parse_function, p.functions) if f.remap}
    assert remapped == {"pwm:2", "pwm:3", "i2c:1", "uart:1", "spi:1"}


def test_reef_s_pins_bear_5_v_in_part() -> None:
    bears = {i: board("reef-48").drivers[p.driver].max_v > 5 for i, p in io("reef-48").items()}
    assert 15 < sum(bears.values()) < len(bears)


def test_reef_moves_a_5_v_signal_to_a_pin_that_bears_it() -> None:
    plan = lay("reef-48", {"Door": "push-button"}, {"door.contact": "e10", "door.common": "w1"})
    found = next(f for f in look_at(plan).findings if f.rule == "input-over-voltage")
    remedy = next(r for r in found.remedies if "bears it" in r.title)
    assert "input-over-voltage" not in {f.rule for f in look_at(remedy.apply(plan)).findings}


def test_reef_has_debug_pins_and_boot_straps() -> None:
    assert sum(p.reserved == "debug" for p in io("reef-48").values()) == 2
    assert {s.level for s in board("reef-48").straps.values()} == {"low"}
    assert sum(bool(p.strap) for p in io("reef-48").values()) == 2


def test_reef_has_three_weak_pins() -> None:
    weak = [i for i, p in io("reef-48").items() if p.driver == "weak"]
    assert len(weak) == 3 and board("reef-48").drivers["weak"].absolute_a == 0.003


def test_reef_has_timers_of_four_channels() -> None:
    channels = {(f.instance, f.channel) for p in io("reef-48").values() for f in p.jobs("pwm")}
    assert Counter(unit for unit, _ in channels) == {"1": 4, "2": 4, "3": 4, "4": 4}


# --- Carrick 72 -------------------------------------------------------------------------------


def test_carrick_has_two_headers_and_names_by_header_and_position() -> None:
    assert [(h.rows, h.columns) for h in board("carrick-72").headers.values()] == [(18, 2), (18, 2)]
    assert len(board("carrick-72").pins) == 72
    assert NameBook(board("carrick-72")).pins("X2.14") == ("x2-14",)


@pytest.mark.parametrize("taken", ["storage", "video"])
def test_carrick_s_pins_are_taken_until_switched_off(taken: str) -> None:
    pin = next(i for i, p in io("carrick-72").items() if p.reserved == taken)
    plan = lay(
        "carrick-72",
        {"Door": "push-button"},
        {"door.contact": pin, "door.common": "x1-1"},
        pulls={"door.contact": "up"},
    )
    found = next(f for f in look_at(plan).findings if f.rule == "pin-reserved")
    remedy = next(r for r in found.remedies if "switch" in r.title)
    assert found.severity == "stop" and "pin-reserved" not in {
        f.rule for f in look_at(remedy.apply(plan)).findings
    }


def test_carrick_gives_4_to_6_ma_a_pin() -> None:
    drivers = {p.driver for p in io("carrick-72").values()} - {"analogue"}
    assert {board("carrick-72").drivers[d].recommended_a for d in drivers} == {0.004, 0.006}


def test_carrick_measures_up_to_1_8_v_only() -> None:
    pins = [i for i, p in io("carrick-72").items() if p.jobs("adc")]
    assert len(pins) == 7 and board("carrick-72").converters["adc:0"].reference == "1v8a"
    too_much = {"dial.top": "x1-5", "dial.wiper": pins[0], "dial.bottom": "x1-25"}
    assert "input-over-voltage" in rules("carrick-72", {"Dial": "knob"}, too_much)
    assert "input-over-voltage" not in rules(
        "carrick-72", {"Dial": "knob"}, {**too_much, "dial.top": "x1-26"}
    )


def test_carrick_s_pulse_outputs_need_an_overlay() -> None:
    pin = next(i for i, p in io("carrick-72").items() if p.jobs("pwm"))
    c = Circuit(lay("carrick-72", {"Flag": "micro-servo"}, {}), shipped())
    answer = fit(c, "flag.signal", f"board.{pin}")
    assert answer.grade == Grade.POSSIBLE and "overlay" in answer.reason


# --- Toggle -----------------------------------------------------------------------------------


def test_toggle_has_six_large_clip_pads_and_eighteen_narrow_ones() -> None:
    assert Counter(p.wide_mm > 3 for p in board("toggle").pins.values()) == {True: 6, False: 18}
    assert board("toggle").headers["edge"].across


def test_toggle_s_light_grid_buttons_and_sensors_share_pins() -> None:
    held = Counter(p.reserved for p in io("toggle").values() if p.reserved)
    assert held == {"light-grid": 5, "button-a": 1, "button-b": 1, "sensors": 2}
    assert board("toggle").settings["light-grid"].starts == "on"


def test_toggle_s_3_v_pad_gives_80_ma() -> None:
    assert board("toggle").rails["3v"].limit_a == 0.08


def test_toggle_is_fed_by_cells_or_usb() -> None:
    assert {s.rail for s in board("toggle").sockets.values()} == {"5v", "3v"}


# --- Capstan 34 -------------------------------------------------------------------------------


def test_capstan_has_two_buses_with_other_numbers_in_software() -> None:
    numbers = {f: board("capstan-34").peripherals[f].number for f in ("i2c:0", "i2c:1")}
    assert numbers == {"i2c:0": "i2c-7", "i2c:1": "i2c-1"}
    rows = {f.instance: p.row for p in io("capstan-34").values() for f in p.jobs("i2c") if f.channel == "sda"}
    assert abs(rows["0"] - rows["1"]) > 5


def test_capstan_s_spi_is_off_by_default() -> None:
    assert (
        board("capstan-34").settings["spi"].starts == "off"
        and board("capstan-34").peripherals["spi:0"].setting == "spi"
    )


def test_capstan_s_translators_cannot_drive_an_led() -> None:
    """Through 4 kΩ hardly a third of a milliampere flows, whatever the resistor."""
    assert board("capstan-34").drivers["translated"].recommended_a == 0.001
    report = look_at(lay("capstan-34", {"Lamp": "led"}, {"lamp.anode": "p5", "lamp.cathode": "p6"}))
    assert ("led-current", "care") in {(f.rule, f.severity) for f in report.findings}
    assert max(r.typ for r in report.points.junctions[of_part("lamp", "junction")]) < 0.0005


def test_capstan_has_1_8_v_core_pins() -> None:
    core = [i for i, p in io("capstan-34").items() if p.driver == "core"]
    assert len(core) == 2 and board("capstan-34").drivers["core"].max_v < 2
    assert "input-over-voltage" in rules(
        "capstan-34", {"Door": "push-button"}, {"door.contact": core[0], "door.common": "p1"}
    )


# --- all of them ------------------------------------------------------------------------------


def test_there_are_boards_of_every_kind_that_people_have() -> None:
    assert len(shipped().shipped_ids("board")) >= 9


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_every_board_file_is_a_text_with_comments_and_one_line_a_pin(name: str) -> None:
    text = shipped().path_of(name).read_text("utf-8")
    pins = text[text.index("[pins]") :].splitlines()
    assert text.startswith("#") and text.count("\n#") >= 8
    assert sum(line.startswith(tuple(f"{i} = " for i in board(name).pins)) for line in pins) == len(
        board(name).pins
    )


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_an_empty_plan_on_every_board_is_analysed(name: str) -> None:
    assert {f.rule for f in look_at(Plan(name)).findings} <= {"board-unfed", "supply-over"}


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_nothing_in_a_board_file_is_without_use(name: str) -> None:
    b = board(name)
    pins = b.pins.values()
    assert set(b.reservations) == {p.reserved for p in pins} - {""} and set(b.straps) == {
        p.strap for p in pins
    } - {""}
    assert set(b.drivers) == {p.driver for p in pins if p.kind == "io"}
    jobs = [parse_function(t) for p in pins for t in p.functions]
    assert set(b.peripherals) == {j.unit for j in jobs if j.instance not in ("", "any")}
    assert {p.kind for p in b.pools.values()} == {j.kind for j in jobs if j.instance == "any"}
    used = {u.setting for u in [*b.peripherals.values(), *b.reservations.values()]}
    used |= {c.blocked_by for c in b.converters.values()}
    assert set(b.settings) == used - {""}
    assert all(f.reference in b.rails for f in b.converters.values()) and set(b.converters) <= set(
        b.peripherals
    )


RESERVED = [(b, r) for b in shipped().shipped_ids("board") for r in shipped().board(b).reservations]


@pytest.mark.parametrize(("name", "held"), RESERVED)
def test_whatever_already_uses_a_pin_is_said_when_a_part_is_tied_there(name: str, held: str) -> None:
    """Storage, video, flash, console, debug and all the others, each as gravely as its board says."""
    pin = next(i for i, p in board(name).pins.items() if p.reserved == held)
    ground = next(i for i, p in board(name).pins.items() if p.kind == "ground")
    plan = lay(name, {"Door": "push-button"}, {"door.contact": pin, "door.common": ground})
    found = next(f for f in look_at(plan).findings if f.rule == "pin-reserved")
    spec = board(name).reservations[held]
    assert (found.severity, spec.reason in found.message, spec.lifted_by in found.message) == (
        spec.severity,
        True,
        True,
    )
    assert any("switch" in r.title for r in found.remedies) == bool(spec.setting)


def test_a_name_instead_of_a_contact_in_a_plan_file_is_told_apart_from_nonsense() -> None:
    from knotplan.exchange.plan_file import PlanFileError, dumps, loads

    plan = dumps(lay("carrick-72", {"Lamp": "led"}, {"lamp.anode": "x1-9", "lamp.cathode": "x1-1"})).decode()
    for spelling, words in (
        ("X1.9", "'X1.9' is perhaps 'board.x1-9'"),
        ("2", "is no contact of Carrick 72"),
        ("gpio 0_14", "is perhaps 'board.x1-10'"),
    ):
        with pytest.raises(PlanFileError, match=words):
            loads(plan.replace("board.x1-9", f"board.{spelling}").encode(), shipped())
    other = dumps(lay("bowline-40", {"Lamp": "led"}, {"lamp.anode": "p12"})).decode()
    with pytest.raises(PlanFileError, match=r"could mean 'board\.p12' or 'board\.p4' or 'board\.p32'"):
        loads(other.replace("board.p12", "board.12").encode(), shipped())
