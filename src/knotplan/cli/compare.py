"""`knotplan compare`"""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

import click

from knotplan.catalog.load import everything
from knotplan.cli import manners
from knotplan.cli.common import format_option, plan_argument, print_json, report_of
from knotplan.cli.manners import stop
from knotplan.cli.streams import InFile
from knotplan.cli.words import SCHEME

if TYPE_CHECKING:
    from knotplan.core.bringup.difference import Difference
    from knotplan.core.bringup.held import Bench, Held
    from knotplan.core.bringup.program.dialect import Dialect
    from knotplan.core.check.report import Report

T = TypeVar("T")
file_ = InFile()
COLOURS = {"differs": "red", "note": "blue"}


@manners.command(
    "compare",
    ("compare lamp.knot.json --scan scan.txt --bus 1", "A bus scan that was saved, of bus 1."),
    (
        "compare lamp.knot.json --program src/ --capture run.vcd",
        "The source and a captured waveform at once.",
    ),
    ("compare lamp.knot.json --lines -", "GPIO lines from standard input: gpioinfo | knotplan compare …"),
)
@plan_argument
@format_option
@click.option(
    "--bench", "benches", type=file_, multiple=True, help="A file that `knotplan read-bench` has written."
)
@click.option("--scan", "scans", type=file_, multiple=True, help="A bus scan, as i2cdetect prints it.")
@click.option("--bus", type=int, help="The bus of a scan that does not say it.")
@click.option("--lines", type=file_, multiple=True, help="A listing of GPIO lines, as gpioinfo prints it.")
@click.option(
    "--capture", "captures", type=file_, multiple=True, help="Waveforms: a value change dump, or CSV."
)
@click.option("--program", "programs", type=file_, multiple=True, help="Source: a file or a folder.")
@click.option(
    "--dialect", "dialects", type=file_, multiple=True, help="A dialect of your own, for the source."
)
@click.option(
    "--scheme", default="", type=SCHEME, help="How the program counts pins, where its dialect does not say."
)
def command(plan: Path, form: str, bus: int | None, scheme: str, **sources: tuple[Path, ...]) -> None:
    """Hold what the bench and the program say against PLAN.

    Exit status: 0 they agree, 1 they differ, 2 something cannot be read, or nothing could be compared.
    """
    from knotplan.core.bringup.held import held

    report = report_of(plan)
    bench = _read(report, sources, bus, scheme)
    if bench.empty:
        stop("knotplan: nothing to compare with: give --scan, --lines, --capture, --program or --bench", 2)
    answer = held(report, everything(), bench)
    if form == "json":
        from knotplan.exchange.answers.compare import answer as for_programs

        print_json(for_programs(answer))
    else:
        _print(report, answer)
    for kind in answer.silent:
        click.echo(f"knotplan: nothing of the {kind} could be held against the plan", err=True)
    if answer.agrees and len(answer.silent) == bench.kinds:
        raise SystemExit(2)
    raise SystemExit(0 if answer.agrees else 1)


def _read(report: "Report", given: dict[str, tuple[Path, ...]], bus: int | None, scheme: str) -> "Bench":
    """Everything that was named; what cannot be read ends the command, all of it told."""
    from msgspec.structs import replace

    from knotplan.core.bringup.held import Bench
    from knotplan.exchange import gpio_lines
    from knotplan.exchange.bench import bench_file, scan_text, waves
    from knotplan.exchange.source import languages

    reader = _Reader()
    scheme = reader.scheme(report, scheme)
    saved = [b for path in given["benches"] if (b := reader.one(bench_file.load, path)) is not None]
    scans = [s for path in given["scans"] for s in reader.one(scan_text.load, path) or ()]
    if bus is not None:
        scans = [replace(s, bus=bus) if s.bus is None else s for s in scans]
    scans += [s for b in saved for s in bench_file.scans_of(b)]
    lines = [x for path in given["lines"] for x in reader.one(gpio_lines.load, path) or ()]
    lines += [x for b in saved for x in bench_file.lines_of(b)]
    traces = [t for path in given["captures"] for t in reader.one(waves.load, path) or ()]
    sources = (reader.one(languages.load, given["programs"]) or []) if given["programs"] else []
    dialects = reader.dialects(given["dialects"]) if sources else ()
    if reader.wrong:
        stop("\n".join(f"knotplan: {text}" for text in reader.wrong), 2)
    return Bench(tuple(scans), tuple(lines), tuple(traces), (), tuple(sources), dialects, scheme)


class _Reader:
    """Reads files, and keeps what is wrong with them."""

    def __init__(self) -> None:
        self.wrong: list[str] = []

    def one(self, load: Callable[..., T], what: object) -> T | None:
        """What a file holds; nothing where it cannot be read."""
        from knotplan.exchange.problems import FileProblemsError

        try:
            return load(what)
        except FileProblemsError as error:
            self.wrong.append(str(error))
        except OSError as error:
            self.wrong.append(f"{error.filename or what}: {error.strerror or error}")
        return None

    def scheme(self, report: "Report", scheme: str) -> str:
        known = report.circuit.board.schemes
        if scheme and scheme not in known:
            from knotplan.catalog.board.check import hint

            self.wrong.append(f"{report.circuit.board.title} has no scheme {scheme!r}{hint(scheme, known)}")
        return scheme

    def dialects(self, paths: tuple[Path, ...]) -> "tuple[Dialect, ...]":
        from knotplan.exchange.source import dialect_file

        own = [d for path in paths if (d := self.one(dialect_file.load, path)) is not None]
        return (*own, *dialect_file.everything())


def _print(report: "Report", answer: "Held") -> None:
    for d in answer.differences:
        mark = click.style(f"{d.gravity:8}", fg=COLOURS[d.gravity], bold=True)
        click.echo(f"{mark}  {d.title}")
        click.echo(f"          {d.message}")
        for line in _under(report, d):
            click.echo(f"          {line}")
    count = sum(d.gravity == "differs" for d in answer.differences)
    if count or not answer.silent:
        click.echo(f"{count or 'nothing'} {'differs' if count < 2 else 'differ'} from the plan")


def _under(report: "Report", d: "Difference") -> Iterator[str]:
    """Where it was read, where to look again, and how the plan could follow."""
    if d.spot is not None and (d.spot.line or d.spot.source not in ("capture", "scan")):
        text = f": {d.spot.text}" if d.spot.text and d.spot.line else ""
        yield f"{d.spot.words}{text}"
    if d.look:
        t = report.circuit.titles
        ties = {x.id: x for x in report.circuit.plan.ties}
        yield "look at " + ", ".join(
            f"{t.of(ties[i].lead)} on {t.full(ties[i].to)}" for i in d.look[:4] if i in ties
        )
    for remedy in d.remedies:
        yield f"or: {remedy.title}"
