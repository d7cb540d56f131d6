"""Listings of GPIO lines in every form of the usual tools: printed here from made-up lines, and read back."""

from enum import Enum
from pathlib import Path
from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from knotplan.core.bringup.said import LineState
from knotplan.exchange.gpio_lines import GpioError, parse, read_chip

NAMES = st.from_regex(r"[A-Za-z][A-Za-z0-9_.+-]{0,11}", fullmatch=True).filter(
    lambda n: n not in ("unnamed", "input", "output", "unused")
)
USERS = st.just("") | st.from_regex(r"[a-z][a-z0-9-]{0,8}( [a-z0-9]{1,4})?", fullmatch=True)
LINES = st.builds(
    LineState,
    chip=st.just("gpiochip0"),
    offset=st.just(0),
    name=st.just("") | NAMES,
    used_by=USERS,
    direction=st.sampled_from(["input", "output"]),
    bias=st.sampled_from(["", "pull-up", "pull-down", "disabled"]),
    active_low=st.booleans(),
    drive=st.sampled_from(["", "open-drain", "open-source"]),
)


def numbered(lines: list[LineState]) -> list[LineState]:
    return [replace(one, offset=k) for k, one in enumerate(lines)]


MANY = st.lists(LINES, min_size=1, max_size=12).map(numbered)


def first_generation(lines: list[LineState]) -> str:
    rows = [f"gpiochip0 - {len(lines)} lines:"]
    for one in lines:
        name = f'"{one.name}"' if one.name else "unnamed"
        user = f'"{one.used_by}"' if one.used_by else "unused"
        flags = [*(["used"] if one.used_by else []), *filter(None, [one.drive, one.bias])]
        bracket = f" [{' '.join(flags)}]" if flags else ""
        level = "active-low" if one.active_low else "active-high"
        rows.append(f"\tline {one.offset:3}: {name:>12} {user:>12} {one.direction:>8} {level:>11}{bracket}")
    return "\n".join(rows) + "\n"


def second_generation(lines: list[LineState], *, quoted: bool = True, heads: bool = True) -> str:
    mark = '"' if quoted else ""
    rows = [f"gpiochip0 - {len(lines)} lines:"] if heads else []
    for one in lines:
        name = f"{mark}{one.name}{mark}" if one.name else "unnamed"
        said = [one.direction, "active-low" if one.active_low else ""]
        said += [f"drive={one.drive}" if one.drive else "", f"bias={one.bias}" if one.bias else ""]
        said += [f"consumer={mark}{one.used_by}{mark}" if one.used_by else ""]
        at = f"\tline {one.offset:3}:" if heads else f"gpiochip0 {one.offset}"
        rows.append(f"{at}\t{name:16}\t{' '.join(filter(None, said))}")
    return "\n".join(rows) + "\n"


@given(MANY)
def test_the_first_generation_is_read_back(lines: list[LineState]) -> None:
    assert parse(first_generation(lines)) == lines


@given(MANY, st.booleans(), st.booleans())
def test_the_second_generation_is_read_back(lines: list[LineState], quoted: bool, heads: bool) -> None:
    assert parse(second_generation(lines, quoted=quoted, heads=heads)) == lines


@given(MANY)
def test_prompts_and_commands_around_change_nothing(lines: list[LineState]) -> None:
    text = (
        "you@board:~$ sudo gpioinfo\n[sudo] password for you: "
        f"\n{second_generation(lines)}you@board:~$ \n$ exit\n"
    )
    assert parse(text) == lines


@given(MANY)
def test_the_kernel_s_own_list_has_levels(lines: list[LineState]) -> None:
    rows = ["gpiochip0: GPIOs 512-565, parent: platform/fe200000.gpio, pinctrl:"]
    shown = [replace(one, bias="", drive="", level=k % 2) for k, one in enumerate(lines)]
    for one in shown:
        way = {"input": "in ", "output": "out"}[one.direction]
        low = " ACTIVE LOW" if one.active_low else ""
        rows.append(
            f" gpio-{512 + one.offset:<4}({one.name:20}|{one.used_by:20}) {way} "
            f"{'hi' if one.level else 'lo'}{low}"
        )
    assert parse("\n".join(rows)) == shown


def test_levels_that_were_asked_for_by_name_go_to_their_lines() -> None:
    lines = 'gpiochip0 - 2 lines:\n\tline 0:\t"LAMP"\toutput active-low\n\tline 1:\t"DOOR"\tinput\n'
    text = f'{lines}"LAMP"=active "DOOR"=inactive\n'
    lamp, door = parse(text)
    assert (lamp.level, door.level) == (0, 0), "active means low on a line that is active-low"
    (alone,) = parse('"LAMP"=active\n')
    assert alone.level == 1 and alone.title == "LAMP"


@pytest.mark.parametrize(
    "text", ["line x: y\n", 'gpiochip0 - 1 lines:\n\tline 0:\t"A"\tinput\nnonsense here\n']
)
def test_what_is_no_line_is_told(text: str) -> None:
    with pytest.raises(GpioError):
        parse(text)


class Way(Enum):
    """Members as the bindings have them."""

    OUTPUT = 3
    PULL_UP = 4
    OPEN_DRAIN = 2


def test_a_device_s_lines_bring_all_that_the_kernel_says() -> None:
    one = SimpleNamespace(
        offset=0,
        name="A",
        consumer="me",
        used=True,
        direction=Way.OUTPUT,
        bias=Way.PULL_UP,
        active_low=True,
        drive=Way.OPEN_DRAIN,
    )

    class Chip:
        def __init__(self, path: str):
            pass

        def __enter__(self) -> "Chip":
            return self

        def __exit__(self, *_: object) -> None:
            pass

        def get_info(self) -> SimpleNamespace:
            return SimpleNamespace(num_lines=1)

        def get_line_info(self, offset: int) -> SimpleNamespace:
            return one

    assert read_chip(Path("/dev/gpiochip3"), Chip) == [
        LineState("gpiochip3", 0, "A", "me", "output", "pull-up", True, "open-drain")
    ]
