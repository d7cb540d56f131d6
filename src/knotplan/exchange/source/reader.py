"""What the readers of all languages share: nodes of `tree-sitter`, their places and texts."""

from collections.abc import Callable, Iterator

from tree_sitter import Language, Node, Parser

from knotplan.core.bringup.difference import Spot
from knotplan.core.bringup.program.code import Expression, Source, Statement, Unknown

MOST_SHOWN = 80
"""letters of an expression that are shown"""
MOST_DEPTH = 200


class Reader:
    """Makes the tree of one file."""

    language = ""

    def __init__(self, name: str, data: bytes, grammar: Language):
        self.name, self.data = name, data
        self.root = Parser(grammar).parse(data).root_node
        self.depth = 0

    def source(self) -> Source:
        """The whole file."""
        return Source(self.name, self.language, self.block(self.root), tuple(self._unread()))

    def block(self, node: Node) -> tuple[Statement, ...]:
        """The statements in a block; one that is nested beyond all measure is left out."""
        if self.depth > MOST_DEPTH:
            return ()
        self.depth += 1
        found = tuple(s for child in node.named_children for s in self.statement(child))
        self.depth -= 1
        return found

    def statement(self, node: Node) -> Iterator[Statement]:
        """What the method for this type of node makes of it: `do_` and the grammar's name."""
        do: Callable[[Node], Iterator[Statement]] | None = getattr(self, f"do_{node.type}", None)
        return do(node) if do is not None else iter(())

    def expression(self, node: Node | None, outer: Node | None = None) -> Expression:
        """An expression; `outer` is where it is said to be, if elsewhere."""
        if node is None or self.depth > MOST_DEPTH:
            return Unknown(self.at(outer or self.root))
        self.depth += 1
        made = self.made(node)
        self.depth -= 1
        return made if made is not None else Unknown(self.at(node))

    def made(self, node: Node) -> Expression | None:
        """The same of an expression: `on_` and the grammar's name."""
        on: Callable[[Node], Expression | None] | None = getattr(self, f"on_{node.type}", None)
        return on(node) if on is not None else None

    def part(self, node: Node, field: str) -> Expression:
        """The expression in a field of a node."""
        return self.expression(node.child_by_field_name(field), node)

    def inner(self, node: Node) -> Expression | None:
        """The only expression in a node."""
        return self.expression(node.named_children[0]) if node.named_children else None

    def text(self, node: Node | None) -> str:
        return (
            self.data[node.start_byte : node.end_byte].decode("utf-8", "replace") if node is not None else ""
        )

    def at(self, node: Node) -> Spot:
        text = " ".join(self.text(node).split())
        shown = text if len(text) <= MOST_SHOWN else f"{text[: MOST_SHOWN - 1]}…"
        before = self.data[node.start_byte - node.start_point.column : node.start_byte]
        column = len(before.decode("utf-8", "replace")) + 1
        return Spot(self.name, node.start_point.row + 1, column, shown)

    def _unread(self) -> Iterator[Spot]:
        waiting = [self.root] if self.root.has_error else []
        while waiting:
            node = waiting.pop()
            if node.is_error or node.is_missing:
                yield self.at(node)
            else:
                waiting += [n for n in reversed(node.children) if n.has_error or n.is_missing]
