"""Every bus of a plan in one list: what it is, what is on it, and what the checks say of it."""

from typing import Literal

from msgspec import Struct

from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.single import single_lines
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.check.finding import SEVERITIES, Finding, Severity, gravest
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import counted, show

Kind = Literal["i2c", "spi", "uart", "line"]
RULES = frozenset(
    (
        "address-clash",
        "wakes-at-taken",
        "bus-unpulled",
        "bus-pulled-hard",
        "bus-slow",
        "bus-heavy",
        "bus-clock",
        "bus-pulled-apart",
        "bus-level",
        "stretch-unheard",
        "select-unheld",
        "data-held",
        "spi-modes",
        "spi-clock",
        "spi-by-program",
        "three-wire-deaf",
        "uart-crossed",
        "uart-rate",
        "line-slow",
        "line-starved",
        "bus-mixed",
        "cannot-keep-time",
    )
)
"""those whose findings belong to the Buses view"""


class Entry(Struct, frozen=True):
    """One bus."""

    id: str
    kind: Kind
    title: str
    under: str
    """what is on it, and how fast it goes"""
    depth: int
    parts: tuple[str, ...]
    worst: Severity | Literal[""]


def overview(report: Report) -> list[Entry]:
    """I2C buses with their branches, SPI controllers, UARTs, single lines."""
    c = report.circuit
    worst = gravest(report.findings, RULES)
    entries = [
        Entry(
            b.id,
            "i2c",
            b.title,
            f"{_on(len(b.devices))} · {show(b.hz, 'Hz')}",
            b.depth,
            tuple(p.part for p in b.devices if p.part),
            "",
        )
        for b in i2c_buses(c)
    ]
    entries += [
        Entry(
            k.id,
            "spi",
            k.title,
            f"{_on(len(k.devices))} · {show(k.hz, 'Hz')}",
            0,
            tuple(d.part for d in k.devices),
            "",
        )
        for k in controllers(c)
    ]
    entries += [
        Entry(
            f"{link.unit or 'pins'}@{link.part}",
            "uart",
            link.title,
            f"{c.placed[link.part].name} · {link.baud:g} baud",
            0,
            (link.part,),
            "",
        )
        for link in links(c)
    ]
    entries += [
        Entry(
            line.contact,
            "line",
            _line_title(c, line.contact, line.protocol),
            _on(len(line.parts)),
            0,
            line.parts,
            "",
        )
        for line in single_lines(c)
    ]
    return [_graded(e, worst) for e in entries]


def _on(count: int) -> str:
    return counted(count, "device") if count else "nothing on it"


def _line_title(c: Circuit, contact: str, protocol: str) -> str:
    return f"{'One-wire' if protocol == 'one-wire' else 'Single line'} on {c.titles.of(contact)}"


def _graded(e: Entry, worst: dict[str, Severity]) -> Entry:
    levels = [worst[p] for p in e.parts if p in worst]
    level: Severity | Literal[""] = min(levels, key=SEVERITIES.index) if levels else ""
    return Entry(e.id, e.kind, e.title, e.under, e.depth, e.parts, level)


def findings_about(report: Report, entry: Entry) -> list[Finding]:
    """What the checks say of a bus, gravest first."""
    parts = set(entry.parts)
    return [f for f in report.findings if f.rule in RULES and any(split(s)[0] in parts for s in f.subjects)]


def allowed_ohms(least: float, most: float) -> str:
    """Between which pull-ups an I2C line works, in words.

    >>> allowed_ohms(967.0, 1500.0)
    'allowed are 967 Ω to 1.5 kΩ'
    """
    if least < most:
        return f"allowed are {show(least, 'Ω')} to {show(most, 'Ω')}"
    return (
        f"at least {show(least, 'Ω')} for the drivers and at most {show(most, 'Ω')} for the edge: nothing "
        "does both"
    )
