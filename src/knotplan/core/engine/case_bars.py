"""Resistances that differ from case to case: pins, contacts, knobs, level shifters."""

from knotplan.catalog.board.driver import Driver
from knotplan.catalog.part import elements as kinds
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.nets import GROUND
from knotplan.core.engine.cluster import OPEN_OHM, Bar, Movable, Offset, Shifter
from knotplan.core.engine.elements import Builder
from knotplan.core.engine.keys import of_part, of_pin
from knotplan.core.engine.readings import Case
from knotplan.core.plan.beads import (
    BUFFER_OHM,
    SHIFTER_OHM,
    SHIFTER_PULL_OHM,
)
from knotplan.core.plan.document import Tie, split

NONE = Range.exactly(OPEN_OHM)
"""nothing between"""


def pin_bars(build: Builder, pin_id: str, node: str, cases: list[Case]) -> list[Bar]:
    """A pin is a resistance to its rail and one to ground, as its state in each case has them."""
    c = build.c
    pin, driver, key = c.contacts.pins[pin_id], c.hardware.driver(pin_id), of_pin(pin_id)
    low = _beside(build, build.low(pin_id), driver.low_drop_v)
    high = _beside(build, build.high(pin_id), -driver.high_drop_v) if driver.rail else low
    both = [_pin_ohms(c, pin_id, case.pin(pin_id)) for case in cases]
    bars = [
        Bar(key.its("high"), high, node, tuple(up for up, _ in both), key),
        Bar(key.its("low"), node, low, tuple(down for _, down in both), key),
    ]
    if pin.fitted_pull_ohm:
        bars.append(
            Bar(key.its("fitted"), high, node, (Range.around(pin.fitted_pull_ohm, 0.05),), key.its("fitted"))
        )
    strap = c.board.straps.get(pin.strap)
    if strap is not None and strap.pull_ohm:
        ends = (high, node) if strap.level == "high" else (node, build.net(GROUND))
        bars.append(Bar(key.its("strap"), *ends, (Range.around(strap.pull_ohm, 0.05),), key.its("strap")))
    return bars


def _beside(build: Builder, net: str, by_v: float) -> str:
    """The node at a given distance from a supplied net."""
    if not by_v:
        return net
    name = f"{net}{by_v:+g}V"
    build.known.add(name)
    build.offsets[name] = Offset(net, by_v)
    return name


def _pin_ohms(c: Circuit, contact: str, state: str) -> tuple[Range, Range]:
    """(to the rail, to ground) in one state."""
    driver = c.hardware.driver(contact)
    if state == "input":
        pull = next((t.pull for t in c.ties.holders[contact] if t.pull != "none"), "")
        state = {"up": "pull-up", "down": "pull-down"}.get(pull, "floating")
    match state:
        case "high":
            return (driver.high_ohm if driver.rail else NONE), NONE
        case "low":
            return NONE, driver.low_ohm
        case "off":
            return NONE, NONE
        case "pull-up":
            return driver.pull_up_ohm or NONE, _leak(c, contact, driver)
        case "pull-down":
            return NONE, driver.pull_down_ohm or _leak(c, contact, driver)
        case _:
            return NONE, _leak(c, contact, driver)


def _leak(c: Circuit, contact: str, driver: Driver) -> Range:
    """What a floating pin leaks, as a resistance."""
    volts = c.supplies.rail_volts(contact) if driver.rail else None
    return Range.exactly((volts.typ if volts else c.board.logic_v) / driver.leak_a)


INVERSE = {"open": "closed", "closed": "open"}


def _stands(m: Movable, case: Case) -> str:
    """Where it stands in a case: as the case says, or the other way than its opposite does."""
    own = case.contact(m.part, m.name)
    if own or not isinstance(m.element, kinds.Switch):
        return own
    return INVERSE.get(case.contact(m.part, m.element.opposite), "")


def movable_bars(build: Builder, m: Movable, cases: list[Case]) -> list[Bar]:
    """The resistances of a switch, track or sensor, case by case."""
    key = of_part(m.part, m.name)
    stands = [_stands(m, case) for case in cases]
    a, b = build.node(m.part, m.element.a), build.node(m.part, m.element.b)
    match m.element:
        case kinds.Switch(ohm=ohm):
            return [Bar(key, a, b, tuple(Range.exactly(ohm) if s == "closed" else NONE for s in stands))]
        case kinds.Varies(least_ohm=least, most_ohm=most):
            between = tuple(Range.exactly(least * (most / least) ** float(s)) for s in stands)
            return [Bar(key, a, b, between)]
        case kinds.Talks():
            low = build.node(m.part, m.element.low)
            if m.element.most_v:
                b = _beside(build, build.net(GROUND), m.element.most_v)
            elif b in build.known:
                b = _beside(build, b, -m.element.high_drop_v)
            return [
                Bar(
                    key.its("high"),
                    b,
                    a,
                    tuple(m.element.high_ohm if s == "high" else NONE for s in stands),
                    key,
                ),
                Bar(
                    key.its("low"),
                    a,
                    low,
                    tuple(m.element.low_ohm if s == "low" else NONE for s in stands),
                    key,
                ),
            ]
    wiper, whole = build.node(m.part, m.element.wiper), m.element.ohm
    tolerance = m.element.tolerance

    def piece(share: float) -> Range:
        return Range.around(whole * max(share, 1e-3), tolerance)

    return [
        Bar(key.its("upper"), a, wiper, tuple(piece(1 - float(s)) for s in stands), key),
        Bar(key.its("lower"), wiper, b, tuple(piece(float(s)) for s in stands), key),
    ]


def shifter_lows(c: Circuit, x: Shifter, cases: list[Case]) -> list[bool | None]:
    """Whether the side of a level shifter that speaks is low, case by case; nothing where it floats."""
    return [_low(c, x.tie, case, weakly=x.bead.style == "buffer") for case in cases]


def shifter_bars(build: Builder, x: Shifter, low: list[bool | None]) -> list[Bar]:
    """A transistor joins the two sides while one of them is low, and each side's own pull-up makes its
    high; a buffer drives one side as the other one is."""
    c = build.c
    lead_rail, pin_rail = build.net(x.bead.lead_rail), build.net(x.bead.pin_rail)
    if x.bead.style == "mosfet":
        pull, through = Range.around(SHIFTER_PULL_OHM, 0.05), Range.exactly(SHIFTER_OHM)
        joined = tuple(through if is_low else NONE for is_low in low)
        return [
            Bar(x.key.its("lead"), lead_rail, x.lead_side, (pull,), x.key.its("lead")),
            Bar(x.key.its("pin"), pin_rail, x.pin_side, (pull,), x.key.its("pin")),
            Bar(x.key.its("through"), x.lead_side, x.pin_side, joined),
        ]
    out = Range.around(BUFFER_OHM, 0.3)
    rail, node = (lead_rail, x.lead_side) if c.needs.drives(x.tie.lead) else (pin_rail, x.pin_side)
    return [
        Bar(
            x.key.its("high"),
            rail,
            node,
            tuple(NONE if is_low is not False else out for is_low in low),
            x.key.its("out"),
        ),
        Bar(
            x.key.its("low"),
            node,
            build.net(GROUND),
            tuple(out if is_low else NONE for is_low in low),
            x.key.its("out"),
        ),
    ]


def _low(c: Circuit, tie: Tie, case: Case, weakly: bool) -> bool | None:
    """Whether the side of a level shifter that speaks is low in a case; nothing where it floats. `weakly`: a
    pin's pull is enough, where no pull-ups of the shifter are stronger."""
    part = split(tie.lead)[0]
    own = [stands for key, stands in case.contacts if key.part == part]
    if (
        "low" in own or "closed" in own
    ):  # what the part drives counts before what a pin's weak pull would have
        return True
    state = case.pin(tie.to)
    if "high" in own:
        return state == "low"
    if state == "pull-down" and not weakly:
        return False
    return {"low": True, "pull-down": True, "high": False, "pull-up": False}.get(state)
