"""`knotplan read-bench`"""

import json
from pathlib import Path

import click

from knotplan.cli import manners
from knotplan.cli.streams import STANDARD_OUTPUT, output_option, write


@manners.command(
    "read-bench",
    ("read-bench -o bench.json", "This machine's lines, buses and permissions."),
    ("read-bench --script", "The script: … | ssh board python3 - > bench.json"),
)
@output_option("The file to write; standard output if not given")
@click.option("--bus", "numbers", type=int, multiple=True, help="Only these buses; else all that there are.")
@click.option("--no-scan", is_flag=True, help="Ask no bus: only lines and permissions.")
@click.option(
    "--script", is_flag=True, help="Do not read: write the script that reads, to run on a board by itself."
)
def command(output: Path | None, numbers: tuple[int, ...], no_scan: bool, script: bool) -> None:
    """Read this Linux board: its GPIO lines, buses and permissions, into a file for Bring-up on another
    machine.

    Nothing is changed: lines are not requested, and buses are asked who answers only. On a board without this
    program the script does the same: it needs Python and its packages gpiod and smbus2.
    """
    from knotplan.exchange.bench import on_board

    if script:
        text = Path(on_board.__file__).read_text("utf-8")
    else:
        text = json.dumps(on_board.read_all(numbers, scan=not no_scan), indent=1) + "\n"
    write(output or STANDARD_OUTPUT, text.encode("utf-8"))
