"""What an export is: a way out of the program, with its own preview."""

from collections.abc import Callable

from msgspec import Struct

from knotplan.core.check.report import Report
from knotplan.core.drawing.shapes import Picture


class Printed(Struct, frozen=True):
    """A preview that is the wiring sheet as it is printed; who can paint lays out its pages."""

    report: Report


class Later(Struct, frozen=True):
    """A preview whose text takes its time, and needs nothing of the plan any more: it can be asked for beside
    the interface. `text` may raise CannotExportError."""

    text: Callable[[], str]


Preview = str | Picture | Printed | Later
"""a file as it is read, as it looks, as it is printed, or as it will be read"""


class CannotExportError(ValueError):
    """This plan has no such file; the message says why."""


class SchemeError(CannotExportError):
    """The constants cannot be written so: the scheme does not name every pin that the
    program needs; the message lists them."""


class Export(Struct, frozen=True):
    """A report, and the scheme of names that a program uses, make bytes.

    `make` and `preview` may raise CannotExportError.
    """

    id: str
    title: str
    suffix: str
    what: str
    make: Callable[[Report, str], bytes]
    preview: Callable[[Report, str], Preview]
    tail: str = ""
    """what its file is called after the plan's name"""
    takes_scheme: bool = False
    """it writes numbers or names of pins, and the maker chooses which"""


def file_name(base: str, export: Export) -> str:
    """What a hand-over file is called; programs want names without hyphens."""
    base = base.replace("-", "_") if export.tail.startswith("_") else base
    return base + export.tail + export.suffix


def text_export(
    export_id: str,
    title: str,
    suffix: str,
    what: str,
    text: Callable[[Report, str], str],
    tail: str = "",
    takes_scheme: bool = False,
) -> Export:
    """An export that is text, and is looked at as that."""

    def make(report: Report, scheme: str) -> bytes:
        return text(report, scheme).encode("utf-8")

    return Export(export_id, title, suffix, what, make, text, tail, takes_scheme)
