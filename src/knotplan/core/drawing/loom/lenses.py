"""What each lens adds to the board: one question answered at every pin, by shape as well as colour."""

from collections.abc import Callable, Iterable, Iterator
from itertools import pairwise

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.sharing import relatives, timed_units
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.board_place import PIN_R, PinSpot
from knotplan.core.drawing.marks import severity, triangle
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Arc, Box, Curve, Disc, Polygon, Shape, Text
from knotplan.core.engine.readings import pin_volts
from knotplan.core.plan.document import BOARD, split
from knotplan.core.power.budget import pin_current
from knotplan.core.quantity.written import show

ROOMY = 25.0
"""points from pin to pin that leave room for a word below a name"""
LEAKAGE_A = 5e-6
"""what a pin carries up to this is not worth a number beside it"""
BY_VOLTS = (
    (2.4, "#7fb7e6", "up to 2.4 V"),
    (4.0, "#f0b04a", "about 3 V"),
    (1e9, "#f0806c", "about 5 V and more"),
)
"""(below, colour, meaning) of a level"""
BEARS_MORE_V = 0.6
"""a pin that bears so much more than its supply is meant to"""
WAKE_INK = {
    "pull-up": "#f0b04a",
    "high": "#f0b04a",
    "pull-down": "#7fb7e6",
    "low": "#7fb7e6",
    "floating": "#dfe4ee",
    "toggling": "#f0806c",
}
AFTER_INK = "#ffd98a"
TINTS = ("#f0b04a", "#7fb7e6", "#8fd6ac", "#f0806c", "#c9a6ee", "#e8e08a")
"""told apart with their letter: no tint stands alone"""


def _none(report: Report, bench: Bench, p: Palette) -> Iterable[Shape]:
    return ()


def _beside(bench: Bench, spot: PinSpot, text: str, ink: str) -> Iterator[Text]:
    """A small word below a pin's name, or beside it on a lying header, where pins are far enough apart."""
    if bench.setting.pitch < ROOMY:
        return
    dx, dy = (11, 0) if spot.label_angle else (0, 10.5)
    yield Text(
        spot.label_x + dx,
        spot.label_y + dy,
        text,
        11,
        ink,
        False,
        spot.label_anchor,
        spot.label_angle,
    )


# --- Load ---------------------------------------------------------------------------------------


def _loads(report: Report, bench: Bench, p: Palette) -> Iterator[Shape]:
    """How much of its limit each pin and rail carries at worst, as an arc round it."""
    c, rails = report.circuit, {b.id: b for b in report.budgets if b.kind == "rail"}
    for contact, spot in bench.pins.items():
        pin = c.contacts.pin(contact)
        if contact in report.points.pins and pin is not None:
            amps = pin_current(report.points.pins[contact])[1]
            yield from _share(spot, amps / c.hardware.driver(contact).recommended_a, p)
            if amps > LEAKAGE_A:
                yield from _beside(bench, spot, show(amps, "A", 2), "#ffd98a")
        elif pin is not None and pin.kind == "supply" and pin.rail in rails:
            yield from _share(spot, rails[pin.rail].worst_a / rails[pin.rail].limit_a, p)


def _share(spot: PinSpot, share: float, p: Palette) -> Iterator[Shape]:
    if share > 1:
        colour = p.stop
    elif share > 0.75:
        colour = p.care
    else:
        colour = "#7fd0a0"
    yield Disc(spot.x, spot.y, PIN_R + 3.2, "", "#ffffff30", 3)
    yield Arc(spot.x, spot.y, PIN_R + 3.2, min(1.0, max(share, 0.02)), colour, 3)
    if share > 1:
        yield from severity(spot.x + 10, spot.y - 8, "stop", p, 6)


# --- Volts --------------------------------------------------------------------------------------


def level(volts: float) -> tuple[str, str]:
    """(colour, meaning) of a voltage."""
    return next((ink, words) for below, ink, words in BY_VOLTS if volts < below)


def volts_mark(x: float, y: float, volts: float, bears_more: bool) -> Iterator[Shape]:
    """A ring in the level's colour: dashed below 2.4 V, plain about 3 V,
    double above; square corners bear more."""
    ink = level(volts)[0]
    yield Disc(x, y, PIN_R + 2.6, "", ink, 2.4, volts < BY_VOLTS[0][0])
    if volts >= BY_VOLTS[1][0]:
        yield Disc(x, y, PIN_R + 5.6, "", ink, 1.4)
    if bears_more:
        r = PIN_R + 4.6
        for sx, sy in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
            yield Polygon(
                ((x + sx * r, y + sy * r), (x + sx * (r - 5), y + sy * r), (x + sx * r, y + sy * (r - 5))),
                "#f0806c",
            )


def _volts(report: Report, bench: Bench, p: Palette) -> Iterator[Shape]:
    """The level that each pin works at, whether it bears more, and what it really sees."""
    c = report.circuit
    for contact, spot in bench.pins.items():
        pin = c.contacts.pin(contact)
        if pin is None or pin.kind not in ("io", "supply"):
            continue
        if pin.kind == "supply":
            volts = c.board.rails[pin.rail].volts.typ
            yield from volts_mark(spot.x, spot.y, volts, False)
            yield from _beside(
                bench,
                spot,
                show(volts, "V", 2) if pin.rail in c.supplies.live_rails else "dead",
                level(volts)[0],
            )
            continue
        driver = c.board.drivers[pin.driver]
        rail = c.board.rails[driver.rail].volts
        yield from volts_mark(spot.x, spot.y, rail.typ, driver.max_v > rail.max + BEARS_MORE_V)
        seen = pin_volts(c, report.points, contact)
        if seen:
            most = max(r.max for r in seen)
            yield from _beside(bench, spot, show(most, "V", 3), level(most)[0])
            if most > driver.max_v:
                yield from severity(spot.x + 11, spot.y - 9, "stop", p, 6)


# --- Power-on -----------------------------------------------------------------------------------


def wake_mark(x: float, y: float, state: str) -> Iterator[Shape]:
    """A pull as a triangle, a driven level as a triangle on a bar, floating as a ring, toggling as a wave."""
    ink = WAKE_INK[state]
    yield Disc(x, y, PIN_R, "#1b2434", ink, 2)
    if state == "toggling":
        w, h = 5.0, 3.4
        corners = ((x - w, y + h), (x - w, y - h), (x, y - h), (x, y + h), (x + w, y + h), (x + w, y - h))
        for (ax, ay), (bx, by) in pairwise(corners):
            yield Curve((ax, ay), ((ax, ay, bx, by, bx, by),), ink, 1.8)
    elif state == "floating":
        yield Disc(x, y, 3.2, "", ink, 1.6, True)
    else:
        down = state in ("pull-down", "low")
        yield triangle(
            x, y + (1 if down else -1) * (0 if state.startswith("pull") else -1.2), 4.6, ink, down=down
        )
        if not state.startswith("pull"):
            yield Box(x - 5, y + (4.2 if not down else -6), 10, 1.8, 0.6, ink)


def first_mark(x: float, y: float, state: str) -> Iterator[Shape]:
    """A small triangle or disc beside the pin: what it is first, before
    it becomes what its own mark shows."""
    down = state in ("pull-down", "low")
    yield Disc(x, y, 5.4, "#1b2434", WAKE_INK[state], 1.2)
    if state in ("floating", "toggling"):
        yield Disc(x, y, 1.8, WAKE_INK[state])
    else:
        yield triangle(x, y, 2.8, WAKE_INK[state], down=down)


def _power_on(report: Report, bench: Bench, p: Palette) -> Iterator[Shape]:
    """What each pin does before a program runs, the levels that the board
    reads at start, loads that would answer."""
    c = report.circuit
    woken = {s for f in report.findings if f.rule in ("wakes-load", "strap-level") for s in f.subjects}
    for contact, spot in bench.pins.items():
        pin = c.contacts.pin(contact)
        if pin is None or pin.kind != "io":
            continue
        yield from wake_mark(spot.x, spot.y, pin.power_on_states[-1])
        if pin.strap:
            strap = c.board.straps[pin.strap]
            yield from _beside(bench, spot, f"{strap.level} at start", "#ffd98a")
        if len(pin.power_on_states) > 1:
            yield from first_mark(spot.x - PIN_R - 1, spot.y - PIN_R - 1, pin.power_on_states[0])
        if contact in woken:
            yield from severity(spot.x + 11, spot.y - 9, "care", p, 6)
        if contact in c.ties.holders:
            yield from after_mark(spot.x + PIN_R + 2, spot.y + PIN_R + 1, c.board.afterwards(pin))


def after_mark(x: float, y: float, after: str) -> Iterator[Shape]:
    """What a pin in use does after a program has ended: a filled square where it stays, an empty one where it
    becomes an input; nothing where it is again what its mark shows."""
    if after != "power-on":
        yield Box(x - 3.4, y - 3.4, 6.8, 6.8, 1, AFTER_INK if after == "stays" else "#1b2434", AFTER_INK, 1.4)


# --- Sharing ------------------------------------------------------------------------------------


def unit_letters(circuit: Circuit) -> dict[str, tuple[str, str]]:
    """(letter, tint) of each timer and converter of the board: {"pwm:A": ("a", "#f0b04a")}."""
    units = list(dict.fromkeys(timed_units(circuit.board).values()))
    return {unit: (chr(ord("a") + k % 26), TINTS[k % len(TINTS)]) for k, unit in enumerate(units)}


def _sharing(report: Report, bench: Bench, p: Palette) -> Iterator[Shape]:
    """Pins of one timer or converter carry its letter; what is in use is filled."""
    c = report.circuit
    letters = unit_letters(c)
    for pin_id, unit in timed_units(c.board).items():
        letter, tint = letters[unit]
        spot = bench.pins[f"{BOARD}.{pin_id}"]
        used = f"{BOARD}.{pin_id}" in c.ties.holders
        yield Disc(spot.x, spot.y, PIN_R + 0.4, tint if used else "#1b2434", tint, 2.2)
        yield Text(spot.x, spot.y + 4.2, letter, 12, "#14202e" if used else tint, True, "middle")


def relatives_shown(circuit: Circuit, bench: Bench, contact: str, p: Palette) -> Iterator[Shape]:
    """The pins that share something with one of them light up, the others step back."""
    pin_id = split(contact)[1]
    if pin_id not in circuit.board.pins:
        return
    kin = relatives(circuit.board, pin_id)
    for other, spot in bench.pins.items():
        name = split(other)[1]
        if name in kin:
            yield Disc(spot.x, spot.y, PIN_R + 4, "", "#ffcf5a", 2.6)
            yield Disc(spot.x, spot.y, PIN_R + 6.6, "", "#ffcf5a", 1.2, True)
        elif name != pin_id and circuit.contacts.pin(other) is not None:
            yield Disc(spot.x, spot.y, PIN_R + 1, p.board + "b0")
    here = bench.pins[contact]
    yield Disc(here.x, here.y, PIN_R + 4, "", "#ffffff", 3)


LENSES: dict[str, Callable[[Report, Bench, Palette], Iterable[Shape]]] = {
    "fit": _none,
    "volts": _volts,
    "load": _loads,
    "power-on": _power_on,
    "sharing": _sharing,
}
"""by name: the question that each answers"""
