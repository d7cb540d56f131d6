"""Plans that random tests found to break something once, each as a plain case."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from tests.conftest import lay, look_at
from tests.random.holding import analysed, drawn_and_handed_over, opens_again

REGISTERS = dict.fromkeys(("one", "two", "three"), "shift-register")
BAR = f"bar.{next(iter(shipped().part('ground-bar', {}).leads))}"
ODD: dict[str, Plan] = {
    "a grid's output on its own input": lay(
        "clove-22", {"grid": "led-grid"}, {"grid.din": "grid.dout", "grid.clk": "e13"}
    ),
    "a grid's input on its clock": lay(
        "clove-22", {"grid": "led-grid"}, {"grid.din": "grid.clk", "grid.clk": "e13"}
    ),
    "a chain of registers half tied": lay(
        "bowline-40",
        REGISTERS,
        {"one.ser": "p19", "two.ser": "one.qh", "three.ser": "two.qh", "one.srclk": "p23"},
    ),
    "a chain in a ring": lay(
        "bowline-40",
        {"one": "shift-register", "two": "shift-register"},
        {"one.ser": "two.qh", "two.ser": "one.qh", "one.srclk": "p23", "two.srclk": "p23"},
    ),
    "a clock on a supply pin": lay(
        "bowline-40", {"one": "shift-register"}, {"one.srclk": "p1", "one.ser": "p19", "one.rclk": "p5"}
    ),
    "clocks and data on a ground bar": lay(
        "bowline-40",
        {"one": "shift-register", "bar": "ground-bar", "grid": "led-grid"},
        dict.fromkeys(("one.srclk", "one.ser", "grid.clk", "grid.din"), BAR),
    ),
    "nothing at all": Plan("toggle"),
}


@pytest.mark.parametrize("name", ODD)
def test_an_odd_plan_is_analysed_and_handed_over(name: str) -> None:
    opens_again(ODD[name], shipped())
    drawn_and_handed_over(analysed(ODD[name], shipped()))


@pytest.mark.parametrize(
    "part",
    [
        "shift-register",
        "led-grid",
        "input-register",
        "pixel-strip",
        "spi-adc",
        "spi-flash",
        "relay-module",
        "encoder",
    ],
)
@pytest.mark.parametrize("to", ["p1", "p2", "p6", "p19", "p23", "usb"])
def test_each_lead_anywhere_by_itself(part: str, to: str) -> None:
    """One wire never stops every hand-over."""
    for lead in shipped().part(part, {}).leads:
        plan = lay("bowline-40", {"one": part}, {f"one.{lead}": to})
        drawn_and_handed_over(analysed(plan, shipped()))


def test_a_board_that_brings_out_no_ground_is_told_so_without_failing() -> None:
    from msgspec.structs import replace

    board = shipped().board("toggle")
    pins = {k: replace(p, kind="unconnected") if p.kind == "ground" else p for k, p in board.pins.items()}
    plan = edits.add_part(Plan("mine", carried=replace(board, id="mine", pins=pins)), "dc-motor", "Motor")
    for part in ("micro-servo", "led", "brick-5v"):
        plan = edits.add_part(plan, part, part)
    io = [f"board.{k}" for k, p in pins.items() if p.kind == "io"]
    plan = edits.tie(
        edits.tie(plan, "motor.a" if "a" in shipped().part("dc-motor", {}).leads else "motor.plus", io[0]),
        "led.anode",
        io[1],
    )
    drawn_and_handed_over(analysed(plan, shipped()))


def test_a_plug_that_is_tied_to_a_pin_feeds_nothing() -> None:
    """Nobody can plug it in there: the board is fed as if it were not there, and no check fails over it."""
    plan = lay("splice-24", {"Brick": "usb-brick"}, {"brick.plug": "p35"})
    pins = {p for p, pin in shipped().board("splice-24").pins.items() if pin.kind == "supply"}
    for pin in sorted(pins):
        report = look_at(edits.tie(plan, "brick.plug", f"board.{pin}"))
        assert report.circuit.supplies.past_socket == "" and report.power
