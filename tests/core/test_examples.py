"""One walk through everything that ships: catalogue, example plans."""

from collections import Counter

import msgspec
import pytest

from knotplan.catalog.board_check import faults
from knotplan.catalog.load import Catalog, UnknownEntryError, shipped
from knotplan.catalog.parts import Led, Load
from knotplan.catalog.quantities import Range
from knotplan.core.analysis import analyse
from knotplan.core.solve.junction import fit
from knotplan.examples import example, names


def test_the_mended_demo_has_nothing_to_say() -> None:
    assert analyse(example("harbour-light", shipped()), shipped()).findings == ()


def test_the_first_draft_has_exactly_these_mistakes() -> None:
    found = Counter(f.rule for f in analyse(example("harbour-light-draft", shipped()), shipped()).findings)
    assert found == {
        "pin-shared": 1, "need-unmet": 1, "lead-untied": 1, "input-over-voltage": 2, "output-level": 2,
        "led-no-resistor": 1, "pin-over-absolute": 1, "led-current": 1, "jerky-load-on-board": 1, "wakes-load": 2,
        "pin-reserved": 1,
    }  # fmt: skip


def test_the_first_draft_can_be_mended_by_its_remedies_alone() -> None:
    """All but the knob: this board has no converter, so no pin can read it."""
    plan = example("harbour-light-draft", shipped())
    for _ in range(40):
        findings = analyse(plan, shipped()).findings
        remedy = next((r for f in findings for r in f.remedies), None)
        if remedy is None:
            break
        plan = remedy.apply(plan)
    assert {f.rule for f in findings} == {"need-unmet"}


@pytest.mark.parametrize("name", names())
def test_every_example_is_read_and_analysed(name: str) -> None:
    report = analyse(example(name, shipped()), shipped())
    assert not [f for f in report.findings if f.rule == "rule-failed"]


@pytest.mark.parametrize("board_id", shipped().board_ids())
def test_boards_are_consistent(board_id: str) -> None:
    assert faults(shipped().board(board_id)) == []


def test_bowline_has_its_traits() -> None:
    board = shipped().board("bowline-40")
    driver = board.drivers["io"]
    assert len(board.pins) == 40 and len(board.schemes) == 5
    assert (driver.recommended_a, board.all_pins_a) == (0.012, 0.06)
    assert driver.max_v < 5
    console = {p for p, pin in board.pins.items() if pin.reserved == "console"}
    assert {str(f) for p in console for f in board.pins[p].jobs("uart")} == {"uart:0.tx", "uart:0.rx"}
    fitted = {str(f) for pin in board.pins.values() if pin.fitted_pull_ohm for f in pin.jobs("i2c")}
    assert {"i2c:1.sda", "i2c:1.scl", "i2c:0.sda", "i2c:0.scl"} == fitted
    pulses = Counter(f.instance for pin in board.pins.values() for f in pin.jobs("pwm"))
    assert set(pulses) == {"A", "B"}
    selects = {f.channel for pin in board.pins.values() for f in pin.jobs("spi") if f.channel.startswith("select")}
    assert selects == {"select-0", "select-1"}
    assert {pin.power_on for pin in board.pins.values() if pin.kind == "io"} >= {"pull-up", "pull-down", "floating", "high"}


def test_clove_has_its_traits() -> None:
    board = shipped().board("clove-22")
    io = [p for p in board.pins.values() if p.kind == "io"]
    analogue = [p for p in io if p.jobs("adc")]
    pulses = [f.instance for p in io for f in p.jobs("pwm")]
    driver = board.drivers["io"]
    assert (len(io) - len(analogue), len(analogue)) == (15, 7)
    assert len(pulses) == 7 and set(pulses) == {"0", "1", "2"}
    assert "time base" in board.peripherals["pwm:0"].note
    assert (driver.recommended_a, driver.absolute_a, board.all_pins_a) == (0.018, 0.036, 0.18)
    assert len(board.banks) == 3 and board.sockets["usb"].limit_a == 0.5 and "barrel" in board.sockets
    assert board.converters["adc:0"].bits == 10
    assert {p.reserved for p in io} == {"", "usb-serial", "indicator"}


@pytest.mark.parametrize("part_id", shipped().part_ids())
def test_parts_are_consistent_in_every_variant(part_id: str) -> None:
    kind = shipped().kind(part_id)
    assert not kind.faults({n: p.default for n, p in kind.params.items()})
    choices = [{}] + [{n: c} for n, p in kind.params.items() for c in p.choices]
    for chosen in choices:
        part = shipped().part(part_id, chosen)
        for element in part.elements.values():
            if isinstance(element, Load):
                assert element.usual_a <= element.worst_a
                assert {element.a, element.b} <= set(part.leads)
            if isinstance(element, Led):
                assert fit(element.points).voltage(0.02) == pytest.approx(element.points[1][1])
        if part.source:
            assert {part.source.plus, part.source.minus} <= set(part.leads)


def test_parameters_out_of_range_are_named() -> None:
    kind = shipped().kind("led")
    assert dict(kind.faults({"colour": "pink", "wish": 1.0, "shade": "x"})).keys() == {"colour", "wish", "shade"}


@pytest.mark.parametrize("entry", ["bowlin-40", "../boards/bowline-40", "", "/etc/passwd"])
def test_an_unknown_board_is_named_and_never_leaves_the_folder(entry: str) -> None:
    with pytest.raises(UnknownEntryError, match="no board"):
        Catalog().board(entry)


def test_a_range_that_falls_is_refused() -> None:
    with pytest.raises(msgspec.ValidationError, match="rising order"):
        msgspec.convert([3, 2, 1], Range)
