"""Every kind of hand-over file, by name: one place for the window and the command line.

Kinds that need painting (PNG, PDF) are added by the interface, see `knotplan.desktop.paper`.
"""

from collections.abc import Callable

from msgspec import Struct

from knotplan.core.check.report import Report
from knotplan.exchange import constants, parts_list, sheet, waves
from knotplan.exchange.chart import chart_svg


class Export(Struct, frozen=True):
    """A way out: a report and a scheme make bytes."""

    id: str
    title: str
    suffix: str
    what: str
    make: Callable[[Report, str], bytes]
    text: bool = True
    """can be shown as text"""
    tail: str = ""
    """what its file is called after the plan's name"""


def file_name(base: str, export: Export) -> str:
    """What a hand-over file is called; programs want names without hyphens."""
    base = base.replace("-", "_") if export.tail.startswith("_") else base
    return base + export.tail + export.suffix


def _text(make: Callable[[Report, str], str]) -> Callable[[Report, str], bytes]:
    return lambda report, scheme: make(report, scheme).encode("utf-8")


TEXTS: tuple[Export, ...] = (
    Export(
        "sheet",
        "Wiring sheet (HTML)",
        ".html",
        "picture and table of ties",
        _text(lambda r, _: sheet.html(r)),
        text=False,
    ),
    Export(
        "c",
        "Pin constants (C header)",
        ".h",
        "role names and pin numbers",
        _text(constants.c_header),
        tail="_pins",
    ),
    Export(
        "python",
        "Pin constants (Python)",
        ".py",
        "role names and pin numbers",
        _text(constants.python_module),
        tail="_pins",
    ),
    Export(
        "parts",
        "Parts list (CSV)",
        ".csv",
        "what to buy or take from the drawer",
        _text(lambda r, _: parts_list.parts_csv(r)),
        tail="-parts",
    ),
    Export(
        "waves",
        "Waves (VCD)",
        ".vcd",
        "what each output does, as a value change dump",
        lambda r, _: waves.whole_dump(r),
        tail="-waves",
    ),
    Export(
        "waves-svg",
        "Waves (SVG)",
        ".svg",
        "the same as a drawing",
        _text(lambda r, _: waves.whole_svg(r)),
        text=False,
        tail="-waves",
    ),
    Export(
        "svg",
        "Picture (SVG)",
        ".svg",
        "the loom as a drawing that scales",
        _text(lambda r, _: sheet.picture_svg(r)),
        text=False,
    ),
    Export(
        "chart",
        "Board chart (SVG)",
        ".svg",
        "every pin by all its names, with what is tied",
        _text(lambda r, _: chart_svg(r.circuit)),
        text=False,
        tail="-chart",
    ),
)
