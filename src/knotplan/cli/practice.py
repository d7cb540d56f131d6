"""`knotplan practice`"""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from knotplan.catalog.load import everything
from knotplan.cli import manners
from knotplan.cli.common import plan_argument, plan_of
from knotplan.cli.manners import stop

if TYPE_CHECKING:
    from knotplan.core.practice.bench import PracticeBench
    from knotplan.core.practice.troubles import Trouble


@manners.command(
    "practice",
    ("practice lamp.knot.json --faults 1 --seed 7 --scan", "A bench with one hidden fault: its bus scan."),
    ("practice lamp.knot.json --faults 1 --seed 7 --show", "What is wrong with it."),
)
@plan_argument
@click.option(
    "--fault", "wanted", multiple=True, metavar="ID", help="What is wrong; --list says what can be."
)
@click.option(
    "--faults", "count", type=click.IntRange(0, 20), default=0, help="So many, drawn by chance and hidden."
)
@click.option("--seed", type=int, default=0, show_default=True, help="The same bench again.")
@click.option("--list", "listed", is_flag=True, help="Everything that can be wrong.")
@click.option("--scan", "ask", flag_value="scan", help="A scan of its buses, as the usual tool prints it.")
@click.option("--lines", "ask", flag_value="lines", help="Its GPIO lines, as the usual tool prints them.")
@click.option("--capture", "ask", flag_value="capture", help="Its waveforms, as a value change dump.")
@click.option(
    "--seconds", type=click.FloatRange(0.001, 60), default=1.0, show_default=True, help="Of a capture."
)
@click.option("--read", "points", multiple=True, metavar="POINT", help="What a meter shows at a point.")
@click.option("--show", is_flag=True, help="Say what is wrong.")
def command(
    plan: Path,
    wanted: tuple[str, ...],
    count: int,
    seed: int,
    listed: bool,
    ask: str | None,
    seconds: float,
    points: tuple[str, ...],
    show: bool,
) -> None:
    """A bench to practise on: PLAN with something wrong, made up and marked as such. It answers as a bench
    would."""
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.practice.bench import PracticeBench
    from knotplan.core.practice.troubles import drawn, troubles

    c = Circuit(plan_of(plan), everything())
    known = {t.id: t for t in troubles(c)}
    if listed:
        for t in known.values():
            click.echo(f"{t.id}\n    {t.title}")
        return
    chosen = _chosen(known, wanted) + list(drawn(c, count, seed))
    bench = PracticeBench(c, everything(), chosen, seed)
    if ask is not None:
        click.echo(_answer(bench, ask, seconds), nl=False)
    if points:
        _read(bench, points)
    if show:
        for t in chosen:
            click.echo(t.title)
        if not chosen:
            click.echo("Nothing is wrong with it.")
    if ask is None and not points and not show:
        stop("knotplan: say what to ask: --scan, --lines, --capture, --read POINT, --show or --list", 2)


def _chosen(known: "dict[str, Trouble]", wanted: tuple[str, ...]) -> "list[Trouble]":
    from knotplan.catalog.board.check import hint

    wrong = [f"there is no fault {w!r}{hint(w, known)}" for w in wanted if w not in known]
    if wrong:
        stop("\n".join(f"knotplan: {text}" for text in wrong), 2)
    return [known[w] for w in wanted]


def _answer(bench: "PracticeBench", ask: str, seconds: float) -> str:
    from knotplan.core.practice.traces import Instrument, capture
    from knotplan.exchange.bench import practice_text

    match ask:
        case "scan":
            return practice_text.scans(bench.scans())
        case "lines":
            return practice_text.lines(bench.lines())
    return practice_text.dump(capture(bench, Instrument(seconds=seconds)))


def _read(bench: "PracticeBench", points: tuple[str, ...]) -> None:
    from knotplan.core.meter.table import Meter
    from knotplan.core.meter.told import ReadingError, displayed, point_of

    meter = Meter(bench.planned)
    found, wrong = [], []
    for text in points:
        try:
            found.append(point_of(bench.planned, meter.points, text))
        except ReadingError as error:
            wrong.append(str(error))
    if wrong:
        stop("\n".join(f"knotplan: {text}" for text in wrong), 2)
    for point, value in bench.read(found, meter).items():
        click.echo(f"{point.id}={displayed(point, value)}")
