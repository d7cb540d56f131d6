"""What pulls a line up: resistors on the board and on modules, beads, and what a pin has inside."""

from collections.abc import Collection

from msgspec import Struct

from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cluster import Bar
from knotplan.core.engine.elements import Builder
from knotplan.core.plan.beads import SHIFTER_PULL_OHM, LevelShifter
from knotplan.core.plan.document import Tie, split

NO_PULL_OHM = 1e8
"""what is larger holds nothing"""


class Pull(Struct, frozen=True):
    """One pull-up of a line."""

    what: str
    ohm: Range
    volts: Range
    rail: str
    """what it leads to, in words"""
    part: str = ""
    """the part that carries it"""
    tie: str = ""
    """the tie in which it is a bead"""
    net: str = ""
    """of the line, the net on which it sits"""


def together(pulls: Collection[Pull]) -> Range | None:
    """All of them in parallel, or nothing where there is none: 1/R = sum of 1/R_k."""
    if not pulls:
        return None
    least, usual, most = (1 / sum(1 / getattr(p.ohm, at) for p in pulls) for at in ("min", "typ", "max"))
    return Range(least, usual, most)


def shifter_in(tie: Tie) -> LevelShifter | None:
    """The level shifter that sits in a tie."""
    return next((b for b in tie.beads if isinstance(b, LevelShifter)), None)


def pulls(c: Circuit, nets: set[str], contacts: Collection[str]) -> list[Pull]:
    """Everything that pulls a line up which is made of these nets, with the
    contacts on them: pins, modules, beads."""
    all_pulls = [p for m in contacts if (p := _of_pin(c, m)) is not None]
    build = Builder(c)
    for part_id in dict.fromkeys(split(m)[0] for m in contacts):
        if part_id in c.parts:
            build.part(part_id)
    for tie in {t.id: t for n in contacts for t in c.ties.at.get(n, ())}.values():
        build.tie(tie)
        shifter = shifter_in(tie)
        if shifter is not None and shifter.style == "mosfet":
            for rail, net in (
                (shifter.lead_rail, c.nets.of(tie.lead)),
                (shifter.pin_rail, c.nets.of(tie.to)),
            ):
                origin = c.supplies.origin(rail)
                if net in nets and origin is not None:
                    pull = Range.around(SHIFTER_PULL_OHM, 0.05)
                    all_pulls.append(
                        Pull("in the level shifter", pull, origin.volts, origin.title, tie=tie.id, net=net)
                    )
    return all_pulls + [made for bar in build.bars if (made := _of_bar(c, bar, nets)) is not None]


def _of_bar(c: Circuit, bar: Bar, nets: set[str]) -> Pull | None:
    """A resistor from the line to a supply: of a module, or a bead."""
    if bar.a in nets:
        far, net = bar.b, bar.a
    elif bar.b in nets:
        far, net = bar.a, bar.b
    else:
        return None
    part, tie = bar.key.part, bar.key.tie
    if far in nets or bar.ohm[0].typ > NO_PULL_OHM:
        return None
    what = f"on {c.placed[part].name}" if part else f"at {c.titles.of(c.plan.tie(tie).lead)}"
    origin = c.supplies.origin(far)
    return Pull(what, bar.ohm[0], origin.volts, origin.title, part, tie, net) if origin is not None else None


def _of_pin(c: Circuit, contact: str) -> Pull | None:
    """What the pin itself has: a resistor on the board, or the weak one that a program switches on."""
    pin = c.contacts.pin(contact)
    if pin is None or pin.kind != "io" or not pin.driver:
        return None
    volts, driver = c.supplies.rail_volts(contact), c.hardware.driver(contact)
    if volts is None:
        return None
    if pin.fitted_pull_ohm:
        return Pull(
            "fitted on the board",
            Range.around(pin.fitted_pull_ohm, 0.05),
            volts,
            c.supplies.rail_title(contact),
            net=c.nets.of(contact),
        )
    if driver.pull_up_ohm and any(t.pull == "up" for t in c.ties.holders.get(contact, ())):
        return Pull(
            f"inside {c.titles.full(contact)}",
            driver.pull_up_ohm,
            volts,
            c.supplies.rail_title(contact),
            net=c.nets.of(contact),
        )
    return None
