"""Lanes of whole plans: what each pin is seen to do, read back from its wave."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.buses.spi import Select
from knotplan.core.check.analysis import analyse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import PlacedPart, Plan, Tie
from knotplan.core.text.program import constants
from knotplan.core.text.timing import describe
from knotplan.core.timing import stepper
from knotplan.core.timing.lanes import Lane, lanes
from knotplan.core.timing.lanes.frames import rainbow
from knotplan.core.timing.lanes.spi import Transfer
from knotplan.core.timing.lanes.uarts import uart_bits
from knotplan.core.timing.program_settings import program_settings
from knotplan.examples import SCENES, example
from tests.conftest import lay


def of(plan: Plan) -> dict[str, Lane]:
    return {lane.id: lane for lane in lanes(Circuit(plan, shipped()))}


@pytest.fixture(scope="module")
def harbour() -> Plan:
    return example("harbour-light", shipped())


def test_a_servo_pulses_as_long_as_its_angle_says(harbour: Plan) -> None:
    lane = of(edits.set_program_setting(harbour, "flag", "at", 0.0))["flag.signal"]
    times, levels = lane.wave.edges(0.0, 0.04)
    assert levels.tolist() == [1, 0, 1, 0] and times[1] - times[0] == pytest.approx(0.0006, abs=1e-7)
    assert times[2] - times[0] == pytest.approx(0.02)


def test_coils_go_through_their_sequence_and_backwards(harbour: Plan) -> None:
    """Levels at the middle of each step are the rows of the table."""
    for way, mode in (("forwards", "half"), ("backwards", "wave")):
        plan = edits.set_program_setting(
            edits.set_program_setting(harbour, "lens", "mode", mode), "lens", "way", way
        )
        found = [of(plan)[f"lens-driver.in{k}"].wave for k in range(1, 5)]
        rows = stepper.SEQUENCES[mode]
        step = found[0].period_s / len(rows)
        read = [tuple(w.level((k + 0.5) * step) for w in found) for k in range(len(rows))]
        assert read == list(rows if way == "forwards" else reversed(rows))


def test_a_contact_follows_its_relay_or_does_not(harbour: Plan) -> None:
    usual = of(harbour)
    coil, contact = usual["horn-and-bell.in1"].wave, usual["horn-and-bell.no1"].wave
    assert coil.level(0.005) == 0, "active low"
    assert (
        contact.level(0.005) == 0
        and contact.level(0.015) == 1
        and contact.level(1.004) == 1
        and contact.level(1.006) == 0
    )
    quick = of(edits.set_program_setting(harbour, "horn-and-bell", "on_s", 0.008))["horn-and-bell.no1"]
    assert quick.wave.level(0.5) == 0 and quick.wave.count(0, 10) == 0 and "never closes" in quick.about
    stuck = of(edits.set_program_setting(harbour, "horn-and-bell", "off_s", 0.003))["horn-and-bell.no1"]
    assert stuck.wave.level(5.0) == 1 and "never opens" in stuck.about


def test_a_pixel_frame_can_be_read_bit_by_bit(harbour: Plan) -> None:
    """Sampled between the two lengths, the bits are those of the bytes that were sent."""
    wave = of(harbour)["quay.din"].wave
    bits = [wave.level(k * 1.25e-6 + 0.6e-6) for k in range(12 * 24)]
    data = bytes(int("".join(map(str, bits[8 * k : 8 * k + 8])), 2) for k in range(36))
    assert data == rainbow(12, 3)
    assert wave.level(12 * 24 * 1.25e-6 + 10e-6) == 0 and wave.period_s == pytest.approx(0.04)
    assert [m.text for m in wave.words(0.0, 30e-6, 1e-6)] == ["1: 00 55 AA"]


def test_uart_bytes_can_be_read_in_the_middle_of_their_bits() -> None:
    plan = edits.set_program_setting(example("kite-winder", shipped()), "place", "text", "Kite")
    wave = of(plan)["place.tx"].wave
    bit, read = 1 / 9600, []
    for k in range(4):
        frame = [wave.level((10 * k + n + 0.5) * bit) for n in range(10)]
        assert frame[0] == 0 and frame[9] == 1
        read.append(sum(b << n for n, b in enumerate(frame[1:9])))
    assert bytes(read) == b"Kite" and wave.level(45 * bit) == 1
    assert (
        uart_bits(b"\x03", "8E1")[9] == 0
        and uart_bits(b"\x01", "8E1")[9] == 1
        and uart_bits(b"\x01", "8O2")[9:] == [0, 1, 1]
    )


def test_spi_words_can_be_read_at_the_clocks_edges() -> None:
    plan = edits.set_program_setting(example("rules/spi-clock.good", shipped()), "adc", "words", "C0FFEE")
    found = of(plan)
    clock, data, select = (found[f"adc.{n}"].wave for n in ("clk", "din", "cs"))
    rises = [
        t for t, level in zip(*(x.tolist() for x in clock.edges(0.0, clock.period_s)), strict=True) if level
    ]
    assert len(rises) == 24 and all(select.level(t) == 0 for t in rises)
    assert int("".join(str(data.level(t)) for t in rises), 2) == 0xC0FFEE
    assert select.level(clock.period_s * 0.9) == 1


def test_several_words_go_out_one_after_another_each_with_its_select() -> None:
    plan = edits.set_program_setting(
        example("rules/spi-clock.good", shipped()), "adc", "words", "018000 01A000 01C000"
    )
    found = of(plan)
    clock, data, select = (found[f"adc.{n}"].wave for n in ("clk", "din", "cs"))
    times, levels = select.edges(0.0, select.period_s)
    assert levels.tolist() == [0, 1] * 3
    rises = [
        t for t, level in zip(*(x.tolist() for x in clock.edges(0.0, clock.period_s)), strict=True) if level
    ]
    words = [
        [data.level(t) for t in rises if on < t < off]
        for on, off in zip(times[::2], times[1::2], strict=True)
    ]
    assert [int("".join(map(str, w)), 2) for w in words] == [0x018000, 0x01A000, 0x01C000]


def test_devices_of_two_modes_are_each_spoken_to_in_their_own() -> None:
    """What is on the data line at the edges at which a mode takes it: rising ones in
    modes 0 and 3, falling ones in 1 and 2."""
    plan, words = example("rules/spi-modes.bad", shipped()), {"oven": 0x5AC3, "row": 0x96}
    for part, word in words.items():
        plan = edits.set_program_setting(plan, part, "words", f"{word:X}")
    found = of(plan)
    clock = next(
        x.wave for k, x in found.items() if x.kind == "spi" and x.id.endswith((".clk", ".sck", ".sclk"))
    )
    data = next(x.wave for x in found.values() if x.wave.marks and x.kind == "spi")
    for part, rises in (("oven", 0), ("row", 1)):
        select = next(x.wave for k, x in found.items() if k.startswith(f"{part}.") and "bits" in x.about)
        (on, off), _ = select.edges(0.0, select.period_s)
        taken = [data.level(t) for t, level in zip(*clock.edges(on, off), strict=True) if level == rises]
        assert int("".join(map(str, taken)), 2) == words[part], part


def test_the_least_significant_bit_goes_first_where_the_part_wants_it() -> None:
    select = Select("board.p1", (), "held", 8)
    assert [Transfer(select, 0.0, 0x0D, 0, first).bit(n) for first in (True, False) for n in range(8)] == [
        0,
        0,
        0,
        0,
        1,
        1,
        0,
        1,
        1,
        0,
        1,
        1,
        0,
        0,
        0,
        0,
    ]


def test_step_pulses_come_at_the_speed_asked_for_and_with_microsteps() -> None:
    plan = edits.set_program_setting(example("kite-winder", shipped()), "left-line", "rpm", 60.0)
    assert of(plan)["left-driver.step"].wave.period_s == pytest.approx(1 / 200)
    finer = edits.set_program_setting(plan, "left-driver", "microsteps", 16.0)
    assert of(finer)["left-driver.step"].wave.period_s == pytest.approx(1 / 3200)


def test_what_is_measured_has_a_lane_too() -> None:
    """1 m there and back at 343 m/s are 5.83 ms; a channel of a radio
    receiver gives the pulse that is asked."""
    echo = of(example("mist-bench", shipped()))["level.echo"]
    times, _ = echo.wave.edges(0.0, 0.05)
    assert times[1] - times[0] == pytest.approx(2 / 343) and echo.kind == "measured"
    part = PlacedPart("rc", "rc-receiver", "Remote", settings={"pulse": 0.0012})
    lane = of(Plan("clove-22", parts=(part,), ties=(Tie("rc.ch1", "rc.ch1", "board.e6"),)))["rc.ch1"]
    assert lane.wave.period_s == 0.022 and lane.wave.level(0.0011) == 1 and lane.wave.level(0.0013) == 0


def test_the_rows_of_a_grid_are_shown_one_after_another() -> None:
    """Two modules in a chain: of each, one row at a time, 156.25 µs each, the next one after it."""
    parts = (PlacedPart("left", "led-grid", "Left"), PlacedPart("right", "led-grid", "Right"))
    ends = {
        "left.din": "board.p5",
        "left.clk": "board.p4",
        "left.cs": "board.p2",
        "right.din": "left.dout",
        "right.clk": "board.p4",
        "right.cs": "board.p2",
    }
    plan = Plan("splice-24", parts=parts, ties=tuple(Tie(k, k, v) for k, v in ends.items()))
    rows = [lane for lane in lanes(Circuit(plan, shipped())) if lane.kind == "row"]
    assert [lane.title for lane in rows[:2]] == ["Left · row 1", "Left · row 2"] and len(rows) == 16
    for eight in (rows[:8], rows[8:]):
        for n in range(24):
            lit = [k for k, r in enumerate(eight) if r.wave.level((n + 0.5) * 156.25e-6)]
            assert lit == [n % 8]


@pytest.mark.parametrize("scene", [f"{s}{t}" for s in SCENES for t in ("", "-draft")])
def test_every_scene_has_lanes_with_words_and_tables(scene: str) -> None:
    plan = example(scene, shipped())
    report = analyse(plan, shipped())
    found = lanes(report.circuit)
    assert len({lane.id for lane in found}) == len(found)
    for lane in found[:40]:
        assert lane.about and lane.title and lane.wave.seen(0.0, 1.0, 1e-3).count >= 1
        description = describe(report, lane.part)
        assert all(text.endswith(".") for text, _ in description.lines)
        assert all(len(row) == len(table.heads) for table in description.tables for row in table.rows)
        offered = program_settings(report.circuit, lane.part)
        assert len({(x.part, x.key) for x in offered}) == len(offered)
        for x in offered:
            assert (
                x.value in dict(x.choices)
                if x.choices
                else isinstance(x.value, str) or x.least <= x.value <= x.most
            )
            edits.set_program_setting(plan, x.part or lane.part, x.key, x.value)


def test_numbers_for_the_program_are_once_where_many_have_them_in_common() -> None:
    organ = {k.name: k for k in constants(analyse(example("organ-shutters", shipped()), shipped()))}
    assert organ["MICRO_SERVO_COUNTS"].value == (123, 471) and "all 960" in organ["MICRO_SERVO_COUNTS"].remark
    assert (
        organ["PWM_HUB_PRESCALE"].value == 121
        and organ["RANK_31_BUS"].value == 1
        and organ["RANK_1_BUS"].value == 7
    )
    assert len(organ) < 200
    harbour = {k.name: k.value for k in constants(analyse(example("harbour-light", shipped()), shipped()))}
    assert (
        harbour["AIR_ADDRESS"] == 0x49
        and harbour["FLAG_PULSE_US"] == (600, 2300)
        and harbour["LENS_STEPS_PER_TURN"] == 2038
    )
    assert harbour["LENS_SEQUENCE"] == stepper.SEQUENCES["full"] and harbour["LAMP_STEPS"][-1] == 65535


def test_what_the_catalogue_knows_of_motion_and_contacts_is_said(harbour: Plan) -> None:
    """Micro servo: 0.12 s for 60°, 170° in all. Geared stepper: 0.03 N·m. Contacts: 10 A, 250 V."""
    report = analyse(harbour, shipped())

    def lines(part: str) -> str:
        return " ".join(text for text, _ in describe(report, part).lines)

    assert "Unloaded it turns 60° in 120 ms, from end to end in 340 ms." in lines("flag")
    assert "its shaft holds 0.03 N·m" in lines("lens")
    assert "Its contact bears 10 A at 250 V." in lines("horn-and-bell")
    assert "correct to within 0.5 °C; a reading takes 30 ms." in lines("air")


def test_an_echo_takes_as_long_as_sound_there_and_back() -> None:
    """1.5 m: 3 m at 343 m/s are 8.75 ms, and they begin after the trigger."""
    plan = lay(
        "clove-22",
        {"range": ("echo-ranger", {})},
        {"range.vcc": "e1", "range.gnd": "e2", "range.trig": "e6", "range.echo": "e7"},
    )
    plan = edits.set_program_setting(plan, "range", "metres", 1.5)
    lane = of(plan)["range.echo"]
    times, levels = lane.wave.edges(0.0, 0.05)
    assert levels.tolist() == [1, 0] and times[1] - times[0] == pytest.approx(3 / 343)
    assert "there and back over 1.5 m" in lane.about
    offered = {x.key: x.value for x in program_settings(Circuit(plan, shipped()), "range")}
    assert offered["metres"] == 1.5
