"""What a board file can get wrong besides its types: everything that refers to something has to find it."""

import math
import re
from collections.abc import Iterable, Iterator
from itertools import chain, islice
from typing import Any

import msgspec

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.function import ANY, KINDS, parse_function
from knotplan.catalog.board.pin import KERNEL, Pin
from knotplan.catalog.nearest import nearest

Fault = tuple[str, str]
"""(place in the file, what is wrong there)"""
MOST_PINS = 2000
MOST_FAULTS = 100
"""that are looked for in one file"""
ID = re.compile(r"[a-z0-9][a-z0-9_-]*")
LABEL = "label"
DT_LABEL = re.compile(r"[A-Za-z_][A-Za-z0-9_]*")
"""Devicetree Specification v0.4, 6.2"""
BINDING = re.compile(r"[a-z0-9][a-z0-9.+_-]*(,[A-Za-z0-9.+_-]+)?")
"""a value of `compatible`: Devicetree Specification v0.4, 2.3.1"""


def hint(word: str, known: Iterable[object]) -> str:
    """The nearest valid word as the end of a message, or nothing."""
    near = nearest(word, map(str, known))
    return f"; did you mean {near[0]!r}?" if near else ""


def faults(board: Board, most: int = MOST_FAULTS) -> list[Fault]:
    """What is inconsistent in a board, each with its place; nothing where it is sound. The search for near
    words takes its time, so that it ends after `most`."""
    wrong = chain(
        no_quantities(msgspec.to_builtins(board), ""),
        _head(board),
        _headers(board),
        _power(board),
        _units(board),
        _pins(board),
        _names(board),
        _devicetree(board),
    )
    return list(islice(wrong, most))


def _unknown(
    place: str, word: str, known: Iterable[str], what: str, *, may_be_empty: bool = False
) -> Iterator[Fault]:
    known = list(known)
    if word not in known and (word or not may_be_empty):
        yield place, f"{word!r} is no {what} of this board{hint(word, known)}"


def _devicetree(board: Board) -> Iterator[Fault]:
    """Labels are names as the Devicetree compiler takes them, of units that there are."""
    tree = board.devicetree
    if tree is None:
        return
    if KERNEL not in board.schemes:
        yield "devicetree", f"needs the lines of GPIO controllers: a scheme {KERNEL!r}"
    yield from _unknown("devicetree.pins", tree.pins, board.schemes, "scheme")
    for unit in tree.units:
        yield from _unknown(f"devicetree.units.{unit}", unit, board.peripherals, "unit")
    labels = {
        "devicetree.pinctrl": tree.pinctrl,
        **{f"devicetree.units.{u}": x for u, x in tree.units.items()},
    }
    labels |= {f"devicetree.gpio[{k}]": x for k, x in enumerate(tree.gpio)}
    for place, label in labels.items():
        if label and not DT_LABEL.fullmatch(label):
            yield place, f"{label!r} is no label: letters, digits and underscores, no digit first"
    if not BINDING.fullmatch(tree.compatible):
        yield "devicetree.compatible", f"{tree.compatible!r} is not written as `vendor,board`"
    if not tree.gpio or (len(tree.gpio) > 1 and tree.lines <= 0):
        yield "devicetree.lines", "several GPIO controllers need the number of lines that each has"


def no_quantities(tree: Any, place: str) -> Iterator[Fault]:
    """TOML has infinities and "not a number"; no board or part has."""
    if isinstance(tree, float) and not math.isfinite(tree):
        yield place, f"{tree} is no quantity"
    items: Iterable[tuple[Any, Any]]
    if isinstance(tree, dict):
        items = tree.items()
    elif isinstance(tree, list | tuple):
        items = enumerate(tree)
    else:
        items = ()
    for key, value in items:
        yield from no_quantities(
            value, f"{place}[{key}]" if isinstance(key, int) else f"{place}.{key}".lstrip(".")
        )


def _head(board: Board) -> Iterator[Fault]:
    yield from _unknown("spoken", board.spoken, board.schemes, "name scheme")
    for what, things in (
        ("schemes", board.schemes),
        ("headers", board.headers),
        ("rails", board.rails),
        ("sockets", board.sockets),
        ("drivers", board.drivers),
        ("pins", board.pins),
    ):
        if not things:
            yield what, "is empty; a board has at least one"
    for place, ids in (("pins", board.pins), ("sockets", board.sockets)):
        for name in ids:
            if not ID.fullmatch(name):
                yield f"{place}.{name}", "is no id: small letters, digits, hyphens"
    for both in board.pins.keys() & board.sockets.keys():
        yield f"sockets.{both}", "is the name of a pin too"
    for place, value in (
        ("outline.width_mm", board.outline.width_mm),
        ("outline.height_mm", board.outline.height_mm),
        ("logic_v", board.logic_v),
        ("all_pins_a", board.all_pins_a),
    ):
        if not value > 0:
            yield place, f"{value:g} has to be above zero"


def _headers(board: Board) -> Iterator[Fault]:
    for name, header in board.headers.items():
        if header.rows < 1 or header.columns < 1:
            yield (
                f"headers.{name}",
                f"{header.rows} rows of {header.columns}: a header has at least one contact",
            )
        elif header.rows * header.columns > MOST_PINS:
            yield f"headers.{name}", f"{header.rows} × {header.columns} contacts are more than any board has"


def _power(board: Board) -> Iterator[Fault]:
    rails = board.rails
    for name, rail in rails.items():
        yield from _unknown(f"rails.{name}.fed_from", rail.fed_from, rails, "rail", may_be_empty=True)
        seen, above = {name}, rail.fed_from
        while above in rails and above not in seen:
            seen.add(above)
            above = rails[above].fed_from
        if above in seen:
            yield f"rails.{name}.fed_from", "rails feed one another in a circle"
        if not rail.limit_a > 0 or rail.source_ohm < 0:
            yield f"rails.{name}", "its limit has to be above zero, its resistance not below"
    for name, socket in board.sockets.items():
        yield from _unknown(f"sockets.{name}.rail", socket.rail, rails, "rail")
    for name, driver in board.drivers.items():
        yield from _unknown(f"drivers.{name}.rail", driver.rail, rails, "rail")
        if driver.high_ohm.min <= 0 or driver.low_ohm.min <= 0 or driver.leak_a <= 0:
            yield f"drivers.{name}", "resistances and leakage have to be above zero"
        if not 0 < driver.recommended_a <= driver.absolute_a:
            yield f"drivers.{name}.recommended_a", "has to be above zero and at most the absolute maximum"


def _units(board: Board) -> Iterator[Fault]:
    rails, settings = board.rails, board.settings
    for name, converter in board.converters.items():
        yield from _unknown(f"converters.{name}.reference", converter.reference, rails, "rail")
        yield from _unknown(
            f"converters.{name}.blocked_by", converter.blocked_by, settings, "setting", may_be_empty=True
        )
        if not 1 <= converter.bits <= 32:
            yield f"converters.{name}.bits", f"{converter.bits} is no resolution of a converter"
    for name, unit in board.peripherals.items():
        yield from _unknown(
            f"peripherals.{name}.setting", unit.setting, settings, "setting", may_be_empty=True
        )
    for name, held in board.reservations.items():
        yield from _unknown(
            f"reservations.{name}.setting", held.setting, settings, "setting", may_be_empty=True
        )
    for name, bank in board.banks.items():
        for pin in bank.pins:
            yield from _unknown(f"banks.{name}.pins", pin, board.pins, "pin")
    for name, pool in board.pools.items():
        yield from _unknown(f"pools.{name}.kind", pool.kind, KINDS, "kind of function")
        if pool.channels < 1:
            yield f"pools.{name}.channels", "has to be at least 1"


def _pins(board: Board) -> Iterator[Fault]:
    places: dict[tuple[str, int, int], str] = {}
    for name, pin in board.pins.items():
        at = f"pins.{name}"
        header = board.headers.get(pin.header)
        if header is None:
            yield from _unknown(f"{at}.header", pin.header, board.headers, "header")
        elif not (1 <= pin.row <= header.rows and 1 <= pin.col <= header.columns):
            yield (
                at,
                (
                    f"row {pin.row}, column {pin.col} lies outside {header.title}, which has {header.rows} × "
                    f"{header.columns}"
                ),
            )
        other = places.setdefault((pin.header, pin.row, pin.col), name)
        if other != name:
            yield at, f"lies where {other!r} lies"
        yield from _unknown(
            f"{at}.reserved", pin.reserved, board.reservations, "reservation", may_be_empty=True
        )
        yield from _unknown(f"{at}.strap", pin.strap, board.straps, "strap", may_be_empty=True)
        if pin.kind == "supply":
            yield from _unknown(f"{at}.rail", pin.rail, board.rails, "rail")
        elif pin.rail:
            yield f"{at}.rail", f"only supply pins have a rail, and this is {pin.kind!r}"
        if pin.kind == "io":
            yield from _unknown(f"{at}.driver", pin.driver, board.drivers, "driver")
        yield from _functions(board, at, pin)
    for name, header in board.headers.items():
        missing = header.rows * header.columns - sum(place[0] == name for place in places)
        if missing > 0:
            yield (
                f"headers.{name}",
                f"{missing} of its {header.rows * header.columns} contacts are not described",
            )


def _functions(board: Board, at: str, pin: Pin) -> Iterator[Fault]:
    for k, text in enumerate(pin.functions):
        try:
            job = parse_function(text)
        except ValueError as error:
            yield f"{at}.functions[{k}]", str(error)
            continue
        if job.kind not in KINDS:
            yield f"{at}.functions[{k}]", f"{job.kind!r} is no kind of function{hint(job.kind, KINDS)}"
        elif job.instance == ANY:
            if board.pool(job.kind) is None:
                yield f"{at}.functions[{k}]", f"{text!r}: the board has no pool of kind {job.kind!r}"
        elif job.kind not in ("digital", "input"):
            yield from _unknown(f"{at}.functions[{k}]", job.unit, board.peripherals, "peripheral")
    if pin.kind != "io" and pin.functions:
        yield f"{at}.functions", f"only signal pins do anything, and this is {pin.kind!r}"


def _names(board: Board) -> Iterator[Fault]:
    known = [*board.schemes, LABEL]
    used: dict[tuple[str, str], str] = {}
    for name, pin in board.pins.items():
        if not any(t.strip() for t in pin.names.values()):
            yield f"pins.{name}.names", "has no name in any scheme"
        for scheme, text in pin.names.items():
            if scheme not in known:
                yield (
                    f"pins.{name}.names.{scheme}",
                    f"{scheme!r} is no name scheme of this board{hint(scheme, known)}",
                )
                continue
            if scheme == LABEL or not text.strip():
                continue
            other = used.setdefault((scheme, text.casefold()), name)
            if other != name:
                yield f"pins.{name}.names.{scheme}", f"{text!r} is the name of {other!r} in this scheme too"
