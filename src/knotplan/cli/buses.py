"""`knotplan buses`"""

from pathlib import Path

import click

from knotplan.cli import manners
from knotplan.cli.columns import print_table
from knotplan.cli.common import format_option, plan_argument, print_json, report_of
from knotplan.cli.manners import stop
from knotplan.core.buses.addresses import can_be, named, soldering, trunk
from knotplan.core.buses.assign import Given, assign
from knotplan.core.buses.i2c import i2c_buses, notes, some
from knotplan.core.buses.numbers import called
from knotplan.core.buses.single import single_lines
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.spoken import AddressError, forms, read
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import show
from knotplan.core.text.buses import allowed_ohms
from knotplan.exchange.answers import buses as answers


@manners.command(
    "buses",
    ("buses lamp.knot.json", "Each bus with its devices, addresses and edges."),
    ("buses lamp.knot.json --assign", "Addresses for all devices that have a choice."),
    ("buses lamp.knot.json --address 0xA0", "What an address means that somebody wrote."),
)
@plan_argument
@format_option
@click.option(
    "--assign", "give", is_flag=True, help="Find addresses for all I2C devices that can have several."
)
@click.option("--address", "written", help="Say what an address means, in whatever form somebody wrote it.")
def command(plan: Path, form: str, give: bool, written: str | None) -> None:
    """Who answers where: addresses, selects, clocks, pull-ups and edges;
    and what the system calls each bus."""
    c = report_of(plan).circuit
    if written is not None:
        _meaning(written)
    elif give:
        _give(c, form)
    elif form == "json":
        print_json(answers.answer(c))
    else:
        _text(c)


def _meaning(written: str) -> None:
    try:
        for m in read(written):
            click.echo(
                f"0x{m.address:02X} ({m.how}): "
                + ", ".join(f"{what} {text}" for what, text in forms(m.address))
            )
    except AddressError as error:
        stop(f"knotplan: {error}", 2)


def _give(c: Circuit, form: str) -> None:
    """Straps for every device with a choice; ends with 1 where they do not suffice."""
    parts = [p for p in c.parts if len(can_be(c, p)) > 1]
    assignment = assign(c, parts)
    if isinstance(assignment, Given):
        if form == "json":
            print_json(answers.assigned(assignment))
        else:
            cells = [
                [c.placed[p].name, f"0x{s.address:02X}", soldering(c, p, dict(s.params))]
                for p, s in assignment.straps.items()
            ]
            print_table([["device", "address", "pads"], *cells])
        return
    names = some([c.placed[p].name for p in assignment.parts], 8)
    left = ", ".join(f"0x{a:02X}" for a in assignment.addresses) or "nothing"
    stop(
        f"{names} cannot all have addresses of their own: {left} is left to them. A bus switch, a second bus "
        "or another part helps.",
        1,
    )


def _text(c: Circuit) -> None:
    for bus in i2c_buses(c):
        click.echo(
            f"{'  ' * bus.depth}{bus.title}: {show(bus.hz, 'Hz')}"
            + ("" if bus.devices else ", nothing on it")
        )
        for text in called(c, trunk(c, bus.bus)[-1].unit).lines if bus.depth == 0 and bus.devices else ():
            click.echo(f"  {text}")
        for p in bus.devices:
            click.echo(f"{'  ' * bus.depth}  0x{p.address:02X}  {named(c, p)}")
        slow = bus.slower_line
        if slow is not None and slow.ohm is not None and slow.rise is not None:
            click.echo(
                f"  {show(slow.ohm.typ, 'Ω')} with {show(slow.farad, 'F')} rise in "
                f"{show(slow.rise.max, 's')} of {show(bus.mode.rise_s, 's')}; "
                f"{allowed_ohms(slow.least_ohm, slow.most_ohm(bus.mode))}"
            )
        for note in notes(c, bus):
            click.echo(f"  {note}")
    for k in controllers(c):
        click.echo(f"{k.title}: {show(k.hz, 'Hz')}, bounded by {k.limited_by}")
        for s in k.selects:
            names = ", then ".join(c.placed[d.part].name for d in s.devices)
            click.echo(f"  {c.titles.of(s.contact) if s.contact else 'no select'}  {names}, {s.bits} bits")
    for link in links(c):
        rate = f", made as {link.reached.hz:.0f}" if link.reached else ""
        click.echo(
            f"{link.title}: {c.placed[link.part].name}, {link.baud:g} baud{rate}, {link.error:.2%} apart at "
            "worst"
        )
    for line in single_lines(c):
        click.echo(
            f"{line.protocol} on {c.titles.full(line.contact)}: "
            f"{', '.join(c.placed[p].name for p in line.parts)}"
        )
