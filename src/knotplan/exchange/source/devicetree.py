"""Devicetree source as a tree: each property of a standard binding becomes a call, with the node's name
first.

Source: Devicetree Specification v0.4; bindings gpio-leds, gpio-keys, and devices on I2C by their unit
address.
"""

from collections.abc import Iterator

import tree_sitter_devicetree
from tree_sitter import Language, Node

from knotplan.core.bringup.program.code import Call, Expression, Literal, Name, Run, Set, Statement
from knotplan.exchange.source.c_family import CReader, number
from knotplan.exchange.source.reader import Reader

GRAMMAR = Language(tree_sitter_devicetree.language())


class DevicetreeReader(Reader):
    """One file of Devicetree source."""

    language = "devicetree"

    def __init__(self, name: str, data: bytes):
        super().__init__(name, data, GRAMMAR)

    def do_preproc_def(self, node: Node) -> Iterator[Statement]:
        yield from CReader(self.name, self._lines(node)).source().body

    def do_node(self, node: Node) -> Iterator[Statement]:
        yield from self._node(node, "", "")

    def do_preproc_ifdef(self, node: Node) -> Iterator[Statement]:
        yield from self.block(node)

    do_preproc_if = do_preproc_else = do_preproc_ifdef

    def _lines(self, node: Node) -> bytes:
        """The text of a node at its own place in the file, so that places are right."""
        before = b"\n" * node.start_point.row + b" " * node.start_point.column
        return before + self.data[node.start_byte : node.end_byte] + b"\n"

    def _node(self, node: Node, compatible: str, bus: str) -> Iterator[Statement]:
        name = node.child_by_field_name("name")
        own = self._strings(node, "compatible") or ""
        title = (
            self._strings(node, "label") or self.text(node.child_by_field_name("label")) or self.text(name)
        )
        here = self.text(name)
        is_bus = here.lstrip("&").startswith(("i2c", "spi"))
        for child in node.named_children:
            if child.type == "property":
                yield from self._property(child, compatible, bus, title)
            elif child.type == "node":
                yield from self._node(child, own or compatible, here if is_bus else bus)
            elif child.type.startswith("preproc"):
                yield from self.statement(child)

    def _strings(self, node: Node, wanted: str) -> str:
        for child in node.named_children:
            if child.type == "property" and self.text(child.child_by_field_name("name")) == wanted:
                value = next((n for n in child.named_children if n.type == "string_literal"), None)
                return self.text(value).strip('"')
        return ""

    def _property(self, node: Node, compatible: str, bus: str, title: str) -> Iterator[Statement]:
        name = self.text(node.child_by_field_name("name"))
        groups = [n for n in node.named_children if n.type == "integer_cells"]
        cells = [c for n in groups for cell in n.named_children for c in self._apart(cell)]
        if name in ("gpios", "gpio") or name.endswith(("-gpios", "-gpio")):
            kind = compatible if compatible in ("gpio-leds", "gpio-keys") else "gpios"
            user = title if kind != "gpios" else f"{title} {name.rpartition('-')[0]}"
            for chosen in _lines_of(cells):
                yield self._call(node, kind, user, *chosen)
        elif name == "reg" and bus.lstrip("&").startswith("i2c") and cells:
            yield self._call(node, "i2c-device", title, cells[0], text=bus)

    def _apart(self, cell: Node) -> list[Node]:
        """`DOOR (FLAG | FLAG)` is two cells, which the grammar takes for a call; a macro has its bracket at
        once."""
        name, args = cell.child_by_field_name("function"), cell.child_by_field_name("arguments")
        if cell.type != "call_expression" or name is None or args is None or name.end_byte == args.start_byte:
            return [cell]
        return [name, *args.named_children]

    def _call(self, node: Node, kind: str, user: str, *cells: Node, text: str = "") -> Statement:
        at = self.at(node)
        args: list[Expression] = [Literal(at, user), *(self.expression(c) for c in cells)]
        if text:
            args.append(Literal(at, text))
        return Run(at, Call(at, Name(at, kind), tuple(args)))

    def on_integer_literal(self, node: Node) -> Expression | None:
        value = number(self.text(node))
        return Literal(self.at(node), value) if value is not None else None

    def on_identifier(self, node: Node) -> Expression:
        return Name(self.at(node), self.text(node))

    def on_parenthesized_expression(self, node: Node) -> Expression | None:
        """Arithmetic in cells is that of C."""
        at = self.at(node)
        reader = CReader(self.name, b"int x = " + self.data[node.start_byte : node.end_byte] + b";")
        reader.at = lambda node: at  # type: ignore[method-assign]
        for s in reader.block(reader.root):
            if isinstance(s, Set):
                return s.value
        return None

    on_binary_expression = on_call_expression = on_unary_expression = on_parenthesized_expression


def _lines_of(cells: list[Node]) -> Iterator[list[Node]]:
    """`<&gpio0 17 FLAG>, <&gpio0 18 FLAG>`: each line with its flags, without its controller."""
    line: list[Node] = []
    for cell in cells:
        if cell.type == "reference":
            if line:
                yield line
            line = []
        else:
            line.append(cell)
    if line:
        yield line
