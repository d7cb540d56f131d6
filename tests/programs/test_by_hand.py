"""Programs written by hand: what is right raises no alarm, and each pin that is changed in one is found at
its line."""

import re

import pytest

from knotplan.core.bringup.program.compare import compared
from knotplan.exchange.exports.bench_program import python_program
from knotplan.exchange.source import dialect_file
from knotplan.exchange.source.languages import read, trees
from tests.conftest import look_at
from tests.programs.by_hand import PINS, PROGRAMS, written
from tests.programs.corpus import PIN, circuit

C = circuit("harbour-light")


def found(name: str, pins: dict[str, int]):
    file, text = PROGRAMS[name]
    source = read(file, written(text, pins))
    return compared(C, [source], dialect_file.shipped(), "kernel")


@pytest.mark.parametrize("name", PROGRAMS)
def test_what_is_right_raises_no_alarm_and_is_followed(name) -> None:
    answer = found(name, PINS)
    assert [d.title for d in answer.differences if d.gravity == "differs"] == []
    numbers = {int(m.value.value) for m in answer.meant if m.tie is not None}
    assert numbers == {n for key, n in PINS.items() if f"<{key}>" in PROGRAMS[name][1]}


@pytest.mark.parametrize("name", PROGRAMS)
def test_each_pin_that_is_changed_is_found_where_it_stands(name) -> None:
    text = PROGRAMS[name][1]
    for key, number in PINS.items():
        if f"<{key}>" not in text:
            continue
        line = next(k for k, row in enumerate(text.splitlines(), 1) if f"<{key}>" in row)
        for other in (number + 1, number - 32, 50):
            if other in PINS.values():
                continue
            wrong = found(name, {**PINS, key: other}).differences
            spots = {d.spot.line for d in wrong if d.kind in PIN and d.gravity == "differs" and d.spot}
            assert line in spots, (key, other, [(d.kind, d.title, d.spot) for d in wrong])


def test_the_plan_s_own_bench_program_is_followed_and_each_of_its_pins_counts() -> None:
    """It puts dictionaries of dictionaries together, from rows of a table."""
    text = python_program(look_at(C.plan))
    answer = compared(C, [read("bench.py", text)], dialect_file.shipped(), "kernel")
    assert answer.differences == () and answer.says_anything
    numbers = sorted({int(m.value.value) for m in answer.meant})
    assert numbers == sorted(int(n) for n in re.findall(r"'gpiochip0', (\d+),", text))
    for number in numbers:
        wrong = text.replace(f"'gpiochip0', {number},", "'gpiochip0', 50,")
        line = next(k for k, row in enumerate(wrong.splitlines(), 1) if "'gpiochip0', 50," in row)
        told = compared(C, [read("bench.py", wrong)], dialect_file.shipped(), "kernel").differences
        assert line in {d.spot.line for d in told if d.kind in PIN and d.spot}, number


def test_a_program_of_which_nothing_is_known_says_nothing() -> None:
    source = read("main.c", "#include <time.h>\nint main(void) { nanosleep(0, 0); io_make(41, 1); }\n")
    assert not compared(C, [source], dialect_file.shipped(), "kernel").says_anything


BELL = """
import time
import gpiod
from gpiod.line import Direction, Value
BELL = 33
low = gpiod.LineSettings(direction=Direction.OUTPUT, active_low=True)
lines = gpiod.request_lines("/dev/gpiochip0", config={BELL: low})
"""
ON, OFF = ("lines.set_value(BELL, Value.ACTIVE)\n", "lines.set_value(BELL, Value.INACTIVE)\n")
WAIT = "time.sleep(0.0001)\n"


@pytest.mark.parametrize(
    ("files", "short"),
    [
        ({"a.py": BELL + ON + WAIT + OFF}, True),
        ({"a.py": BELL + ON + WAIT, "b.py": BELL + OFF}, False),
        ({"a.py": BELL + f"def on():\n    {ON}    {WAIT}\ndef off():\n    {OFF}"}, False),
        ({"a.py": BELL + f"def on():\n    {ON}    {WAIT}\ndef off():\n    {OFF}\non()\noff()\n"}, True),
    ],
)
def test_time_goes_on_within_one_beginning_only(files: dict[str, str], short: bool) -> None:
    """Between two programs, or two functions that nothing calls, any time may pass."""
    told = compared(C, trees(files.items()), dialect_file.shipped(), "kernel").differences
    assert any(d.kind == "program-wait" for d in told) is short
