"""The list to buy from, as CSV (RFC 4180)."""

import csv
import io
from collections.abc import Iterator

from msgspec import Struct

from knotplan.core.check.report import Report
from knotplan.core.circuit.copper import cord_of
from knotplan.core.circuit.cords import colour_of
from knotplan.core.plan.beads import (
    Bead,
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
    SeriesResistor,
    Zener,
)
from knotplan.core.quantity.series import bands_words
from knotplan.core.quantity.written import code, farad_code, show
from knotplan.exchange.exports.export import text_export
from knotplan.exchange.plain_text import one_line

FORMULA = ("=", "+", "-", "@", "＝", "＋", "－", "＠")


def tame(text: str) -> str:
    """A cell that no spreadsheet takes for a formula.

    >>> tame("=1+1"), tame("5 V brick")
    ("'=1+1", '5 V brick')
    """
    text = one_line(text)
    return f"'{text}" if text.startswith(FORMULA) else text


class ShoppingLine(Struct, frozen=True):
    """One kind of thing to buy or take from the drawer."""

    count: int
    what: str
    details: str
    users: str
    """the parts or ties that it is for"""


def lines(report: Report) -> list[ShoppingLine]:
    """Everything to buy: the board, the parts, the beads, the cords, equal things counted together."""
    things = [*_parts(report), *_beads(report), *_cords(report)]
    users: dict[tuple[str, str], list[str]] = {}
    for what, details, user in things:
        users.setdefault((what, details), []).append(user)
    return [
        ShoppingLine(len(who), what, details, ", ".join(filter(None, who)))
        for (what, details), who in users.items()
    ]


def _parts(report: Report) -> Iterator[tuple[str, str, str]]:
    c = report.circuit
    yield c.board.title, c.board.summary, ""
    for part_id, part in c.parts.items():
        chosen = c.placed[part_id].params
        values = [(p, chosen.get(n, p.default)) for n, p in part.params.items() if p.bought]
        details = "; ".join(
            f"{p.title.lower()}: {v if isinstance(v, str) else show(v, p.unit)}" for p, v in values
        )
        yield part.summary[0].upper() + part.summary[1:], details, c.placed[part_id].name


def _beads(report: Report) -> Iterator[tuple[str, str, str]]:
    c = report.circuit
    for tie in c.plan.ties:
        for bead in tie.beads:
            yield *_bought(bead), c.titles.signal(tie)


def _bought(bead: Bead) -> tuple[str, str]:
    """(what, details) of a bead in a shop."""
    match bead:
        case Capacitor(farad=farad, volts=volts):
            return f"Capacitor {show(farad, 'F')}", f"{farad_code(farad)}, at least {volts:g} V"
        case Diode(style=style):
            return "Diode", f"{style}, 1 A"
        case Clamp():
            return "Diode", "silicon, 1 A, to catch a coil's kick"
        case Zener(volts=volts):
            return "Zener diode", f"{show(volts, 'V')}, 0.5 W"
        case Fuse(amps=amps):
            return f"Fuse {show(amps, 'A')}", "with a holder for the cord"
        case LevelShifter(style=style):
            return (
                "Level shifter",
                "one channel, transistor with two pull-ups" if style == "mosfet" else "one channel, buffer",
            )
        case SeriesResistor() | PullUp() | PullDown():
            rating = f", {show(bead.rating_w, 'W')}" if isinstance(bead, SeriesResistor) else ""
            mark = (
                f"{code(bead.ohm)}, {bead.tolerance * 100:g}%{rating}, bands "
                f"{bands_words(bead.ohm, bead.tolerance)}"
            )
            return f"Resistor {show(bead.ohm, 'Ω')}", mark


def _cords(report: Report) -> Iterator[tuple[str, str, str]]:
    """What is plugged onto a pin or joins two leads; a supply's plug brings its own cable."""
    c = report.circuit
    for tie in c.plan.ties:
        if not c.contacts.is_socket(tie.to):
            cord = cord_of(c, tie)
            yield cord.what, f"{colour_of(c, tie)}, {cord.words}", ""


def parts_csv(report: Report) -> str:
    """The parts list as CSV with a heading."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["count", "part", "details", "for"])
    for line in lines(report):
        writer.writerow([line.count, tame(line.what), tame(line.details), tame(line.users)])
    return out.getvalue()


EXPORT = text_export(
    "parts",
    "Parts list (CSV)",
    ".csv",
    "what to buy or take from the drawer",
    lambda report, _: parts_csv(report),
    "-parts",
)
