"""Constants by a maker's own template: a file `name.rs.j2` makes files `….rs`."""

import json
import subprocess
import sys
from functools import partial
from pathlib import Path

from knotplan.catalog.load import own_folder as catalog_folder
from knotplan.core.check.report import Report
from knotplan.exchange.exports import template_worker
from knotplan.exchange.exports.constant_template import given
from knotplan.exchange.exports.constants import gathered
from knotplan.exchange.exports.export import CannotExportError, Export, Later
from knotplan.exchange.files import FileTooLargeError, read_utf8

SUFFIX = ".j2"
MOST_BYTES = 200_000
PATIENCE_S = 30
"""more than the process is given: it is ended from outside only where it stands still"""


def folder() -> Path:
    """Where makers' own templates are; those there are among the kinds of hand-over."""
    return catalog_folder().parent / "templates"


def own_exports() -> tuple[Export, ...]:
    """An export for each template of the maker's own."""
    try:
        files = sorted(folder().glob(f"*{SUFFIX}"))
    except OSError:
        return ()
    return tuple(export_by(path) for path in files)


def export_by(path: Path) -> Export:
    """The export that a template makes."""
    name = path.name.removesuffix(SUFFIX)
    stem, _, suffix = name.rpartition(".")
    return Export(
        f"own:{stem or name}",
        f"Constants by {path.name}",
        f".{suffix}" if stem else ".txt",
        "your own template",
        lambda report, scheme: by_template(path, report, scheme).encode("utf-8"),
        lambda report, scheme: Later(partial(_answer, path, _question(path, report, scheme))),
        f"_{stem or name}",
        takes_scheme=True,
    )


def by_template(path: Path, report: Report, scheme: str = "") -> str:
    """What a template makes of a plan's constants. Raises CannotExportError with what is wrong and where."""
    return _answer(path, _question(path, report, scheme))


def _question(path: Path, report: Report, scheme: str) -> bytes:
    """What the process is asked: the template, and what it is given."""
    try:
        template = read_utf8(path, MOST_BYTES)
    except FileTooLargeError as error:
        raise CannotExportError(f"{path.name} {error.strerror}") from None
    except OSError as error:
        raise CannotExportError(f"{path.name}: {error.strerror}") from None
    except UnicodeDecodeError as error:
        raise CannotExportError(f"{path.name}: byte {error.start} is not UTF-8 text") from None
    asked = {"template": template, "given": given(gathered(report, scheme))}
    return json.dumps(asked).encode("utf-8")


def _answer(path: Path, question: bytes) -> str:
    try:
        done = subprocess.run(
            [sys.executable, "-m", template_worker.__name__],
            input=question,
            capture_output=True,
            timeout=PATIENCE_S,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise CannotExportError(f"{path.name} comes to no end") from None
    try:
        said = json.loads(done.stdout)
    except ValueError:
        limit = f"more than {template_worker.SECONDS} s or {template_worker.BYTES // 1_000_000} MB"
        raise CannotExportError(f"{path.name} takes {limit}, which no file of constants needs") from None
    if "error" in said:
        line = f", line {said['line']}" if said["line"] else ""
        raise CannotExportError(f"{path.name}{line}: {said['error']}")
    text: str = said["text"]
    return text
