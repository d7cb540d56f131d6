"""Python source as a tree."""

import ast
from collections.abc import Iterator

import tree_sitter_python
from tree_sitter import Language, Node

from knotplan.core.bringup.program.code import (
    Binary,
    Branch,
    Call,
    Choice,
    Class,
    Expression,
    Function,
    Import,
    Item,
    Listing,
    Literal,
    Loop,
    Member,
    Name,
    Pairs,
    Return,
    Run,
    Set,
    Statement,
    Unary,
    Unknown,
)
from knotplan.exchange.source.reader import Reader

GRAMMAR = Language(tree_sitter_python.language())
EACH = "<each>"
"""the name under which a comprehension stands in the tree"""


class PythonReader(Reader):
    """One file of Python."""

    language = "python"

    def __init__(self, name: str, data: bytes):
        super().__init__(name, data, GRAMMAR)

    # --- statements -----------------------------------------------------------------------------------

    def do_expression_statement(self, node: Node) -> Iterator[Statement]:
        for child in node.named_children:
            yield from self._plain(child)

    def do_decorated_definition(self, node: Node) -> Iterator[Statement]:
        yield from self.statement(node.child_by_field_name("definition") or node.named_children[-1])

    def do_for_statement(self, node: Node) -> Iterator[Statement]:
        names = tuple(self._names(node.child_by_field_name("left")))
        yield Loop(self.at(node), names, self.part(node, "right"), self._body(node))

    def do_while_statement(self, node: Node) -> Iterator[Statement]:
        yield Loop(self.at(node), (), None, self._body(node))

    def do_return_statement(self, node: Node) -> Iterator[Statement]:
        if node.named_children:
            yield Return(self.at(node), self.expression(node.named_children[0]))

    def _plain(self, node: Node) -> Iterator[Statement]:
        if node.type == "assignment":
            left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
            if right is not None and right.type == "assignment":  # a = b = 1
                yield from self._plain(right)
                right = right.child_by_field_name("right")
            if left is not None:  # "line: int" alone declares a field
                value = self.expression(right) if right is not None else Unknown(self.at(node))
                yield Set(self.at(node), self._targets(left), value)
        elif node.type == "augmented_assignment":
            target, more = self.part(node, "left"), self.part(node, "right")
            sign = self.text(node.child_by_field_name("operator")).removesuffix("=")
            yield Set(self.at(node), (target,), Binary(self.at(node), sign, target, more))
        elif node.type not in ("string", "comment"):
            yield Run(self.at(node), self.expression(node))

    def _targets(self, left: Node) -> tuple[Expression, ...]:
        several = left.type in ("pattern_list", "tuple_pattern", "list_pattern")
        return tuple(self.expression(n) for n in (left.named_children if several else [left]))

    def _names(self, node: Node | None) -> Iterator[str]:
        if node is None:
            return
        if node.type == "identifier":
            yield self.text(node)
        for child in node.named_children:
            yield from self._names(child)

    def _body(self, node: Node) -> tuple[Statement, ...]:
        body = node.child_by_field_name("body")
        return self.block(body) if body is not None else ()

    def do_if_statement(self, node: Node) -> Iterator[Statement]:
        bodies = []
        for child in node.named_children:
            if child.type == "block":
                bodies.append(self.block(child))
            elif child.type in (
                "elif_clause",
                "else_clause",
                "except_clause",
                "finally_clause",
                "case_clause",
            ):
                inner = [n for n in child.named_children if n.type == "block"]
                bodies += [self.block(n) for n in inner]
        if node.type == "try_statement":
            for body in bodies:  # all of it is run, one after another
                yield from body
        else:
            yield Branch(self.at(node), tuple(bodies))

    do_match_statement = do_try_statement = do_if_statement

    def do_with_statement(self, node: Node) -> Iterator[Statement]:
        for clause in node.named_children:
            for item in clause.named_children if clause.type == "with_clause" else ():
                value = item.child_by_field_name("value")
                if value is not None and value.type == "as_pattern":
                    alias = value.child_by_field_name("alias")
                    targets = self._targets(alias.named_children[0]) if alias and alias.named_children else ()
                    yield Set(self.at(item), targets, self.expression(value.named_children[0]))
                else:
                    yield Run(self.at(item), self.expression(value))
        yield from self._body(node)

    def do_function_definition(self, node: Node) -> Iterator[Statement]:
        params: list[tuple[str, Expression | None]] = []
        listed = node.child_by_field_name("parameters")
        for p in listed.named_children if listed is not None else ():
            name = (
                p
                if p.type == "identifier"
                else p.child_by_field_name("name") or next(iter(p.named_children), None)
            )
            value = p.child_by_field_name("value")
            params.append((self.text(name), self.expression(value) if value is not None else None))
        called = self.text(node.child_by_field_name("name"))
        yield Function(self.at(node), called, tuple(params), self._body(node))

    def do_class_definition(self, node: Node) -> Iterator[Statement]:
        bases = node.child_by_field_name("superclasses")
        names = tuple(self.text(n) for n in bases.named_children) if bases is not None else ()
        called = self.text(node.child_by_field_name("name"))
        yield Class(self.at(node), called, names, self._body(node))

    def do_import_statement(self, node: Node) -> Iterator[Statement]:
        module = self.text(node.child_by_field_name("module_name")).lstrip(".")
        for child in node.children_by_field_name("name"):
            name, alias = child, child
            if child.type == "aliased_import":
                name = child.child_by_field_name("name") or child
                alias = child.child_by_field_name("alias") or child
            meant = ".".join(filter(None, [module, self.text(name)]))
            short = self.text(alias)
            if node.type == "import_statement" and alias is name:
                short = meant = short.partition(".")[0]
            yield Import(self.at(child), short, meant)
        if any(n.type == "wildcard_import" for n in node.named_children):
            yield Import(self.at(node), "*", module)

    do_import_from_statement = do_import_statement

    # --- expressions ----------------------------------------------------------------------------------

    def on_identifier(self, node: Node) -> Expression:
        return Name(self.at(node), self.text(node))

    def on_parenthesized_expression(self, node: Node) -> Expression | None:
        return self.inner(node)

    on_await = on_expression_statement = on_parenthesized_expression

    def on_attribute(self, node: Node) -> Expression:
        name = self.text(node.child_by_field_name("attribute"))
        return Member(self.at(node), self.part(node, "object"), name)

    def on_list(self, node: Node) -> Expression:
        return Listing(
            self.at(node), tuple(self.expression(n) for n in node.named_children if n.type != "comment")
        )

    on_tuple = on_set = on_expression_list = on_list

    def on_dictionary(self, node: Node) -> Expression:
        pairs = [n for n in node.named_children if n.type == "pair"]
        return Pairs(self.at(node), tuple((self.part(p, "key"), self.part(p, "value")) for p in pairs))

    def on_subscript(self, node: Node) -> Expression:
        return Item(self.at(node), self.part(node, "value"), self.part(node, "subscript"))

    def on_unary_operator(self, node: Node) -> Expression:
        sign = "not" if node.type == "not_operator" else self.text(node.child_by_field_name("operator"))
        return Unary(self.at(node), sign, self.part(node, "argument"))

    on_not_operator = on_unary_operator

    def on_binary_operator(self, node: Node) -> Expression:
        sign = self.text(node.child_by_field_name("operator"))
        return Binary(self.at(node), sign, self.part(node, "left"), self.part(node, "right"))

    def on_conditional_expression(self, node: Node) -> Expression | None:
        if len(node.named_children) != 3:
            return None
        one, when, other = (self.expression(n) for n in node.named_children)
        return Choice(self.at(node), when, one, other)

    def on_named_expression(self, node: Node) -> Expression:
        return self.part(node, "value")

    def on_integer(self, node: Node) -> Expression | None:
        text = self.text(node)
        if node.type in ("true", "false"):
            return Literal(self.at(node), node.type == "true")
        try:
            value = ast.literal_eval(text)
        except (ValueError, SyntaxError, MemoryError, RecursionError):
            return None
        return Literal(self.at(node), value) if isinstance(value, int | float | str) else None

    on_float = on_string = on_concatenated_string = on_true = on_false = on_integer

    def on_call(self, node: Node) -> Call:
        args, named = [], []
        listed = node.child_by_field_name("arguments")
        for n in listed.named_children if listed is not None and listed.type == "argument_list" else ():
            if n.type == "keyword_argument":
                value = self.expression(n.child_by_field_name("value"))
                named.append((self.text(n.child_by_field_name("name")), value))
            elif n.type != "comment":
                args.append(self.expression(n))
        return Call(
            self.at(node), self.expression(node.child_by_field_name("function")), tuple(args), tuple(named)
        )

    def on_list_comprehension(self, node: Node) -> Expression | None:
        """As a call that is told its body and its loop: the follower knows it by this name."""
        body = node.child_by_field_name("body") or next(iter(node.named_children), None)
        loop = next((n for n in node.named_children if n.type == "for_in_clause"), None)
        if body is None or loop is None:
            return None
        names = tuple(self._names(loop.child_by_field_name("left")))
        at = self.at(node)
        if body.type == "pair":
            key, value = body.child_by_field_name("key"), body.child_by_field_name("value")
            made: Expression = Pairs(at, ((self.expression(key), self.expression(value)),))
        else:
            made = self.expression(body)
        over = self.expression(loop.child_by_field_name("right"))
        return Call(at, Name(at, EACH), (made, over, *(Literal(at, n) for n in names)))

    on_dictionary_comprehension = on_generator_expression = on_set_comprehension = on_list_comprehension
