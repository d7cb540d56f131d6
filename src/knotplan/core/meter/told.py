"""What a meter should read, in words, and what somebody types from its display."""

import math

from knotplan.catalog.board.check import hint
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.expected import OVER_OHM, OVER_V, Expected
from knotplan.core.meter.points import Point
from knotplan.core.names.book import NameBook
from knotplan.core.plan.document import BOARD
from knotplan.core.plan.wired import Reading
from knotplan.core.quantity.written import QuantityError, parse, show

UNITS = {"ohms": "Ω", "diode": "V", "volts": "V"}
LEADS_OHM = 1.0
"""what a meter's own leads may add"""
WORDS = {
    "ok": "ok",
    "yes": "ok",
    "no": "no",
    "open": "open",
    "ol": "open",
    "over": "open",
    "nothing": "open",
}


class ReadingError(ValueError):
    """What was typed is no reading, or names no point; the message says what would be."""


def reads(point: Point, e: Expected) -> str:
    """What the meter should show: "180 Ω (162 to 198 Ω)"."""
    unit = UNITS[point.range]
    if not math.isfinite(e.least) and e.least < 0:
        return "not known"
    if point.range == "ohms":
        if e.open:
            return "open"
        if e.most >= OVER_OHM:
            return f"more than {show(e.least, unit)}, or open"
        if e.most < LEADS_OHM:
            return f"0 Ω (below {show(LEADS_OHM, unit)})"
    if point.range == "diode" and e.least > OVER_V:
        return "open"
    if e.most - e.least < 0.005 * max(1e-9, abs(e.usual)) or e.most - e.least < 2e-3:
        return show(e.usual, unit) if abs(e.usual) > 2e-3 else f"0 {unit}"
    return f"{_shown(e.usual, unit)} ({_shown(e.least, unit)} to {_shown(e.most, unit)})"


def _shown(value: float, unit: str) -> str:
    return show(value, unit) if abs(value) > 2e-3 else f"0 {unit}"


def shown(reading: Reading, point: Point) -> str:
    """A reading as it was typed."""
    if reading.empty:
        return "nothing"
    if reading.says:
        return {"ok": "as expected", "no": "not as expected", "open": "open"}[reading.says]
    return show(reading.value or 0.0, UNITS[point.range]) if reading.value else f"0 {UNITS[point.range]}"


def displayed(point: Point, value: float) -> str:
    """What a meter's display has for an ideal reading: *open* beyond its range."""
    if (point.range == "ohms" and value >= OVER_OHM) or (point.range == "diode" and value > OVER_V):
        return "open"
    return f"{float(f'{value:.4g}'):g}"


def typed(point: Point, text: str, expected: Expected) -> Reading:
    """What somebody types from the display: a number with or without its unit, or *ok*, *no*, *open*. Raises
    ReadingError."""
    word = WORDS.get(text.strip().lower())
    least, most = (x if math.isfinite(x) else None for x in (expected.least, expected.most))
    if word == "open" and point.range == "volts":
        raise ReadingError("a voltmeter is never open; a reading is a number in V, or ok, no")
    if word is not None:
        return Reading(point.id, None, word, least, most)  # type: ignore[arg-type]
    unit = UNITS[point.range]
    try:
        value = parse(text, unit)
    except QuantityError as error:
        raise ReadingError(f"{error}; a reading is a number in {unit}, or ok, no, open") from None
    if value < 0 and point.range != "volts":
        why = "no resistance is" if point.range == "ohms" else "exchange red and black"
        raise ReadingError(f"{show(value, unit)} is negative: {why}")
    return Reading(point.id, value, "", least, most)


def stale(reading: Reading, expected: Expected) -> bool:
    """The plan has changed what was expected there since it was measured."""
    now = tuple(x if math.isfinite(x) else None for x in (expected.least, expected.most))
    pairs = zip((reading.least, reading.most), now, strict=True)
    return any(
        (a is None) != (b is None) or (a is not None and b is not None and _differ(a, b)) for a, b in pairs
    )


def _differ(one: float, other: float) -> bool:
    return abs(one - other) > 0.01 * max(abs(one), abs(other)) + 1e-3


def point_of(c: Circuit, points: tuple[Point, ...], text: str) -> Point:
    """The point that is meant: written out, with pins by any of their names, of volts also without what is
    on. Raises ReadingError."""
    by_id = {p.id: p for p in points}
    if text in by_id:
        return by_id[text]
    head, _, stage = text.partition("@")
    kind, *contacts = head.split(":")
    named = ":".join([kind, *(_contact(c, x) for x in contacts)])
    wanted = f"{named}@{stage}" if stage else named
    found = [p for i, p in by_id.items() if i == wanted or i.partition("@")[0] == wanted]
    if found:
        return found[-1]
    raise ReadingError(f"{text!r} is no point of this plan{hint(wanted, by_id)}")


def _contact(c: Circuit, text: str) -> str:
    """A contact by its id, or a pin by any of its names. Raises ReadingError where a name has two
    meanings."""
    if c.contacts.exists(text) or "#" in text:
        return text
    pins = NameBook(c.board).pins(text)
    if len(pins) > 1:
        meant = " or ".join(f"{BOARD}.{p} ({c.titles.full(f'{BOARD}.{p}')})" for p in pins)
        raise ReadingError(f"{text!r} could mean {meant}")
    return f"{BOARD}.{pins[0]}" if pins else text
