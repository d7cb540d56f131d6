"""The sheet to wire from, as HTML that stands alone: picture, ties with all names, beads, power."""

from functools import cache

from jinja2 import Environment, PackageLoader, StrictUndefined
from msgspec import Struct

from knotplan.core.buses.addresses import named, soldering
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.check.finding import SAID
from knotplan.core.check.report import Report
from knotplan.core.circuit.cords import colour_of
from knotplan.core.drawing.palette import CORDS
from knotplan.core.names.book import LABEL
from knotplan.core.plan.assumptions import BY_ID
from knotplan.core.plan.beads import Bead, PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Plan, split
from knotplan.core.quantity.series import bands_words
from knotplan.core.quantity.written import code, show
from knotplan.core.text.beads import bead_words
from knotplan.core.text.permissions import permissions
from knotplan.exchange.exports.export import Export, Printed
from knotplan.exchange.exports.picture import picture_svg
from knotplan.exchange.plain_text import writable


class SheetRow(Struct, frozen=True):
    """One tie on the sheet."""

    part: str
    lead: str
    role: str
    place: str
    names: tuple[str, ...]
    cord: str
    ink: str
    beads: str


def table(report: Report) -> list[SheetRow]:
    """Every tie in the order of the parts, with the pin's name in each scheme."""
    c = report.circuit
    rows = []
    order = {part: k for k, part in enumerate(c.parts)}
    for tie in sorted(c.plan.ties, key=lambda t: order[split(t.lead)[0]]):
        spec = c.contacts.lead(tie.lead)
        part, lead = c.placed[split(tie.lead)[0]].name, spec.title if spec else split(tie.lead)[1]
        pin = c.contacts.pin(tie.to)
        names = tuple(pin.names.get(s, pin.names.get(LABEL, "–")) if pin else "–" for s in c.board.schemes)
        colour = colour_of(c, tie)
        beads = ", ".join(map(_bead, tie.beads))
        rows.append(
            SheetRow(
                part,
                lead,
                tie.role,
                c.titles.full(tie.to),
                names,
                colour,
                CORDS.get(colour, "#888888"),
                beads,
            )
        )
    return rows


def addresses(report: Report) -> list[tuple[str, str, str, str]]:
    """(device, bus, address, what to solder or to send) of everything on I2C."""
    c = report.circuit
    rows = []
    for bus in i2c_buses(c):
        for p in bus.devices:
            facts = c.parts[p.part].facts.i2c if p.part else None
            if facts is None:
                how = "the board's own"
            elif facts.by_command:
                how = "by command, anew after each power-on"
            else:
                how = soldering(c, p.part) or "always"
            rows.append((named(c, p), bus.title, f"0x{p.address:02X}", how))
    return rows


def _bead(bead: Bead) -> str:
    """A bead with its marking, where it is a resistor."""
    if isinstance(bead, SeriesResistor | PullUp | PullDown):
        return f"{bead_words(bead)} ({code(bead.ohm)}: {bands_words(bead.ohm, bead.tolerance)})"
    return bead_words(bead)


def _written(value: object) -> object:
    """What a template puts in, without what HTML has no place for; what is markup already was made here."""
    return writable(value) if type(value) is str else value


@cache
def _templates() -> Environment:
    environment = Environment(
        loader=PackageLoader("knotplan.exchange"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        finalize=_written,
    )
    environment.filters["amps"] = lambda a: show(a, "A")
    return environment


def rendered(template: str, report: Report, **more: object) -> str:
    """A template about a report."""
    c = report.circuit
    return _templates().get_template(template).render(plan=c.plan, board=c.board, report=report, **more)


def html(report: Report, template: str = "sheet.html", image: str | None = None) -> str:
    """The whole sheet; `image` replaces the inline picture (for writers that draw it themselves)."""
    c = report.circuit
    return (
        _templates()
        .get_template(template)
        .render(
            plan=c.plan,
            board=c.board,
            report=report,
            counts=report.counted,
            said=SAID,
            assumed=_assumed(c.plan),
            rows=table(report),
            schemes=list(c.board.schemes.values()),
            changes=[*c.hardware.system_changes(), *permissions(c)],
            addresses=addresses(report),
            picture=picture_svg(report) if image is None else image,
        )
    )


def _assumed(plan: Plan) -> list[tuple[str, str, str]]:
    """(figure, what the plan has, what is usual) of what it assumes otherwise."""
    own = [(BY_ID[a.id], a.value) for a in plan.assumes]
    return [(a.title, show(value, a.unit), show(a.usual, a.unit)) for a, value in own]


def heads(report: Report) -> list[str]:
    """The columns of the table of ties."""
    return [
        "Part",
        "Lead",
        "to",
        *(s.title for s in report.circuit.board.schemes.values()),
        "Cord",
        "In the tie",
        "Role",
    ]


def cells(row: SheetRow) -> list[str]:
    """A row's texts, as many as there are heads; the cord with room for its colour."""
    return [row.part, row.lead, row.place, *row.names, f"xxxxx {row.cord}", row.beads, row.role]


def page_html(headings: list[str], rows: list[SheetRow], widths: list[int]) -> str:
    """A table of some rows, for paper: `widths` of its columns in points."""
    return _templates().get_template("ties_page.html").render(heads=headings, rows=rows, widths=widths)


EXPORT = Export(
    "sheet",
    "Wiring sheet (HTML)",
    ".html",
    "picture and table of ties",
    lambda report, _: html(report).encode("utf-8"),
    lambda report, _: Printed(report),
)
