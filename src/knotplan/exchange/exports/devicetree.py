"""The plan as an overlay onto a Linux board's Devicetree (Devicetree Specification v0.4, 6: source
format)."""

from collections.abc import Iterator

from knotplan.core.check.report import Report
from knotplan.core.text.devicetree.node import Cells, Hex, Node, Overlay, Property, Ref, Target, Value
from knotplan.core.text.devicetree.overlay import overlay
from knotplan.exchange.exports.export import CannotExportError, text_export
from knotplan.exchange.plain_text import c_string, one_line, remark

INDENT = "\t"


def source(report: Report, scheme: str = "") -> str:
    """The overlay's source. Raises CannotExportError where the board has no Linux system."""
    c = report.circuit
    tree = c.board.devicetree
    if tree is None:
        raise CannotExportError(f"{c.board.title} has no Linux system, and no Devicetree")
    made = overlay(c, tree)
    if not made.targets:
        raise CannotExportError("nothing is tied yet that the kernel has a standard driver for")
    stops = report.count("stop")
    lines = [
        "/dts-v1/;",
        "/plugin/;",
        "",
        f"/* {remark(c.plan.title)}: overlay for {remark(c.board.title)}. Written by Knot Plan.",
        " * dtc -@ -O dtb -o plan.dtbo this-file; then as your system takes overlays.",
        *([f" * Not to be relied on yet: {stops} at stop."] if stops else []),
        *(f" * Left to programs: {remark(text)}." for text in made.left),
        " */",
        "",
        *_overlay(made),
    ]
    return "\n".join(lines) + "\n"


def _overlay(made: Overlay) -> Iterator[str]:
    yield "/ {"
    yield f"{INDENT}compatible = {_text(made.compatible)};"
    yield "};"
    for target in made.targets:
        yield ""
        yield from _target(target)


def _target(target: Target) -> Iterator[str]:
    yield f"&{target.label} {{" if target.label else "&{/} {"
    yield from _inside(target.properties, target.children, 1)
    yield "};"


def _inside(said: tuple[Property, ...], children: tuple[Node, ...], depth: int) -> Iterator[str]:
    pad = INDENT * depth
    for p in said:
        if p.value is not False:
            yield f"{pad}{p.name};" if p.value is True else f"{pad}{p.name} = {_value(p.value)};"
    for k, child in enumerate(children):
        if k or said:
            yield ""
        if child.remark:
            yield f"{pad}/* {remark(child.remark)} */"
        label = f"{child.label}: " if child.label else ""
        yield f"{pad}{label}{child.name} {{"
        yield from _inside(child.properties, child.children, depth + 1)
        yield f"{pad}}};"


def _value(value: Value) -> str:
    """A value as it is written: text, groups of numbers."""
    if isinstance(value, str):
        return _text(value)
    assert not isinstance(value, bool)
    if all(isinstance(v, str) for v in value):
        return ", ".join(_text(str(v)) for v in value)
    if all(isinstance(v, tuple) for v in value):
        return ", ".join(_cells(v) for v in value if isinstance(v, tuple))
    return _cells(tuple(v for v in value if isinstance(v, int | Hex | Ref)))


def _cells(cells: Cells) -> str:
    return f"<{' '.join(map(_cell, cells))}>"


def _cell(cell: int | Hex | Ref) -> str:
    match cell:
        case Ref(label):
            return f"&{label}"
        case Hex(number):
            return f"0x{number:x}"
    return str(cell)


def _text(text: str) -> str:
    return c_string(one_line(text))


EXPORT = text_export(
    "devicetree",
    "Devicetree overlay",
    ".dts",
    "for a Linux board: lights, keys, fans, buses, settings of pins",
    source,
    "-overlay",
)
