"""C and C++ source as a tree."""

import re
from collections.abc import Iterator

import tree_sitter_c
import tree_sitter_cpp
from tree_sitter import Language, Node

from knotplan.core.bringup.difference import Spot
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

C, CPP = Language(tree_sitter_c.language()), Language(tree_sitter_cpp.language())
SUFFIX = re.compile(r"(?i)[uln]+$|(?<=[.\d])f$")
ESCAPES = {"n": "\n", "t": "\t", "r": "\r", "0": "\0", "\\": "\\", '"': '"', "'": "'"}
RANGE = "<range>"
"""the name under which the numbers of a counting loop stand in the tree"""
INNER = (
    "pointer_declarator",
    "array_declarator",
    "reference_declarator",
    "parenthesized_declarator",
    "function_declarator",
)


class CReader(Reader):
    """One file of C."""

    language = "c"
    grammar = C

    def __init__(self, name: str, data: bytes):
        super().__init__(name, data, self.grammar)

    # --- statements -----------------------------------------------------------------------------------

    def do_preproc_include(self, node: Node) -> Iterator[Statement]:
        path = self.text(node.child_by_field_name("path")).strip('<>"')
        yield Import(self.at(node), path, path)

    def do_type_definition(self, node: Node) -> Iterator[Statement]:
        kind = node.child_by_field_name("type")
        named = node.child_by_field_name("declarator")
        if kind is not None and kind.child_by_field_name("name") is None and kind.type == "struct_specifier":
            body = kind.child_by_field_name("body")
            if body is not None:
                yield Class(self.at(node), self.text(named), (), self.block(body))
            return
        for inner in node.named_children:
            yield from self.statement(inner)

    def do_expression_statement(self, node: Node) -> Iterator[Statement]:
        for inner in node.named_children:
            yield from self._plain(inner)

    def do_for_range_loop(self, node: Node) -> Iterator[Statement]:
        name = self._name(node.child_by_field_name("declarator"))
        yield Loop(self.at(node), (name,), self.part(node, "right"), self._body(node))

    def do_while_statement(self, node: Node) -> Iterator[Statement]:
        yield Loop(self.at(node), (), None, self._body(node))

    do_do_statement = do_while_statement

    def do_if_statement(self, node: Node) -> Iterator[Statement]:
        yield Branch(self.at(node), tuple(self._bodies(node)))

    do_switch_statement = do_if_statement

    def do_return_statement(self, node: Node) -> Iterator[Statement]:
        if node.named_children:
            yield Return(self.at(node), self.expression(node.named_children[0]))

    def do_compound_statement(self, node: Node) -> Iterator[Statement]:
        yield from self.block(node.child_by_field_name("body") or node)

    do_declaration_list = do_linkage_specification = do_namespace_definition = do_compound_statement
    do_preproc_ifdef = do_preproc_if = do_preproc_else = do_preproc_elif = do_compound_statement
    do_template_declaration = do_case_statement = do_labeled_statement = do_else_clause = (
        do_compound_statement
    )

    def do_preproc_def(self, node: Node) -> Iterator[Statement]:
        name, value = node.child_by_field_name("name"), node.child_by_field_name("value")
        if name is None or value is None:
            return
        spot = self.at(value)
        yield Set(
            self.at(node),
            (Name(self.at(name), self.text(name)),),
            self._of_text(self.text(value), spot),
            True,
        )

    def _of_text(self, text: str, spot: Spot) -> Expression:
        """What a macro stands for, read as an expression; its places are those of the macro."""
        inner = type(self)(self.name, b"__auto_type x = " + _bare(text).encode() + b";")
        inner.at = lambda node: spot  # type: ignore[method-assign]
        for s in inner.block(inner.root):
            if isinstance(s, Set):
                return s.value
        return Unknown(spot)

    def do_declaration(self, node: Node) -> Iterator[Statement]:
        kind = node.child_by_field_name("type")
        if kind is not None and kind.type in ("enum_specifier", "struct_specifier", "class_specifier"):
            yield from self.do_struct_specifier(kind)
        constant = any(self.text(n) in ("const", "constexpr") for n in node.named_children)
        for declared in node.children_by_field_name("declarator"):
            value = declared.child_by_field_name("value") or node.child_by_field_name("default_value")
            name = self._name(declared)
            target = (Name(self.at(declared), name),)
            if value is not None and value.type == "argument_list":
                made = self._object(node, kind, value)
                yield Set(self.at(declared), target, made, constant)
            elif value is not None:
                made = self.expression(value)
                if isinstance(made, Listing) and declared.type == "init_declarator":
                    made = self._braced(declared, kind, made)
                yield Set(self.at(declared), target, made, constant)
            elif declared.type == "function_declarator" and self._is_object(kind):
                yield from self._vexing(node, declared, kind)

    def do_field_declaration(self, node: Node) -> Iterator[Statement]:
        """Fields in their order, those without a value too: a list in braces fills them."""
        given = list(self.do_declaration(node))
        yield from given
        known = {x.name for s in given if isinstance(s, Set) for x in s.targets if isinstance(x, Name)}
        for declared in node.children_by_field_name("declarator"):
            name = self._name(declared)
            if declared.type != "function_declarator" and name not in known:
                at = self.at(declared)
                yield Set(at, (Name(at, name),), Unknown(at))

    def _is_object(self, kind: Node | None) -> bool:
        return kind is not None and kind.type in ("type_identifier", "qualified_identifier", "template_type")

    def _object(self, node: Node, kind: Node | None, args: Node) -> Expression:
        of = Name(self.at(kind or node), self.text(kind))
        return Call(self.at(node), of, tuple(self.expression(n) for n in args.named_children))

    def _braced(self, declared: Node, kind: Node | None, made: Listing) -> Expression:
        """`Servo flag{3};` makes an object, `Line lines[] = {{"horn", 3}, {"lamp", 4}};` one of each item;
        `uint8_t x[] = {1}` is a list."""
        if kind is not None and kind.type == "struct_specifier":
            kind = kind.child_by_field_name("name")
        if not self._is_object(kind):
            return made.items[0] if len(made.items) == 1 and not self._is_array(declared) else made
        if not self._is_array(declared):
            return self._made_of(kind, made)
        items = (self._made_of(kind, x) if isinstance(x, Listing) else x for x in made.items)
        return Listing(made.at, tuple(items))

    def _is_array(self, declared: Node) -> bool:
        inner = declared.child_by_field_name("declarator")
        return inner is not None and inner.type == "array_declarator"

    def _made_of(self, kind: Node | None, items: Listing) -> Call:
        return Call(items.at, Name(items.at, self.text(kind)), items.items, braced=True)

    def _vexing(self, node: Node, declared: Node, kind: Node | None) -> Iterator[Statement]:
        """`Servo flag(FLAG_PIN);` looks like a function's declaration: an unnamed parameter is taken for a
        value."""
        listed = declared.child_by_field_name("parameters")
        params = listed.named_children if listed is not None else []
        plain = [p for p in params if p.child_by_field_name("declarator") is None]
        names = [p.child_by_field_name("type") for p in plain]
        if (
            params
            and len(plain) == len(params)
            and all(n is not None and n.type == "type_identifier" for n in names)
        ):
            args = tuple(Name(self.at(n), self.text(n)) for n in names if n is not None)
            of = Name(self.at(node), self.text(kind))
            yield Set(
                self.at(node), (Name(self.at(declared), self._name(declared)),), Call(self.at(node), of, args)
            )

    def _name(self, node: Node | None) -> str:
        """The name that a declarator declares."""
        while node is not None and node.type in ("init_declarator", *INNER):
            node = node.child_by_field_name("declarator") or next(iter(node.named_children), None)
        return self.text(node)

    def do_struct_specifier(self, node: Node) -> Iterator[Statement]:
        name, body = node.child_by_field_name("name"), node.child_by_field_name("body")
        if body is None:
            return
        if node.type != "enum_specifier":
            yield Class(self.at(node), self.text(name), (), self.block(body))
            return
        members = tuple(self._enumerators(body))
        yield from members
        if name is not None:
            yield Class(self.at(node), self.text(name), ("enum",), members)

    do_class_specifier = do_enum_specifier = do_struct_specifier

    def _enumerators(self, body: Node) -> Iterator[Statement]:
        before: Expression | None = None
        for n in body.named_children:
            if n.type != "enumerator":
                continue
            at, value = self.at(n), n.child_by_field_name("value")
            if value is not None:
                made = self.expression(value)
            elif before is None:
                made = Literal(at, 0)
            else:
                made = Binary(at, "+", before, Literal(at, 1))
            before = made
            yield Set(at, (Name(at, self.text(n.child_by_field_name("name"))),), made, True)

    def do_function_definition(self, node: Node) -> Iterator[Statement]:
        declared = node.child_by_field_name("declarator")
        while declared is not None and declared.type != "function_declarator":
            declared = declared.child_by_field_name("declarator")
        listed = declared.child_by_field_name("parameters") if declared is not None else None
        params: list[tuple[str, Expression | None]] = []
        for p in listed.named_children if listed is not None else ():
            value = p.child_by_field_name("default_value")
            name = self._name(p.child_by_field_name("declarator"))
            if name:
                params.append((name, self.expression(value) if value is not None else None))
        body = (*self._initialized(node), *self._body(node))
        yield Function(self.at(node), self._name(declared), tuple(params), body)

    def _initialized(self, node: Node) -> Iterator[Statement]:
        """`: pin_(pin)` before a constructor's body."""
        for listed in node.named_children:
            for n in listed.named_children if listed.type == "field_initializer_list" else ():
                field, *rest = n.named_children
                values = rest[0].named_children if rest else []
                if len(values) == 1:
                    yield Set(
                        self.at(n), (Name(self.at(field), self.text(field)),), self.expression(values[0])
                    )

    def _plain(self, node: Node) -> Iterator[Statement]:
        if node.type == "assignment_expression":
            left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
            target, value = self.expression(left), self.expression(right)
            sign = self.text(node.child_by_field_name("operator")).removesuffix("=")
            yield Set(self.at(node), (target,), Binary(self.at(node), sign, target, value) if sign else value)
        elif node.type == "comma_expression":
            for child in node.named_children:
                yield from self._plain(child)
        else:
            yield Run(self.at(node), self.expression(node))

    def _body(self, node: Node) -> tuple[Statement, ...]:
        body = node.child_by_field_name("body")
        return self._one(body) if body is not None else ()

    def _one(self, node: Node) -> tuple[Statement, ...]:
        return self.block(node) if node.type == "compound_statement" else tuple(self.statement(node))

    def _bodies(self, node: Node) -> Iterator[tuple[Statement, ...]]:
        if (then := node.child_by_field_name("consequence")) is not None:
            yield self._one(then)
        if (other := node.child_by_field_name("alternative")) is not None:
            yield tuple(s for n in other.named_children for s in self._one(n))
        if node.type == "switch_statement" and (body := node.child_by_field_name("body")) is not None:
            for case in body.named_children:
                yield tuple(self.statement(case))

    def do_for_statement(self, node: Node) -> Iterator[Statement]:
        """A loop that counts is one over numbers."""
        first, condition = node.child_by_field_name("initializer"), node.child_by_field_name("condition")
        body, at = self._body(node), self.at(node)
        begun = next(self.statement(first), None) if first is not None else None
        if first is not None and first.type == "assignment_expression":
            begun = next(self._plain(first), None)
        if isinstance(begun, Set) and isinstance(begun.targets[0], Name) and condition is not None:
            name, sign = begun.targets[0].name, self.text(condition.child_by_field_name("operator"))
            if sign in ("<", "<=", "!=") and self.text(condition.child_by_field_name("left")) == name:
                end = self.expression(condition.child_by_field_name("right"))
                if sign == "<=":
                    end = Binary(at, "+", end, Literal(at, 1))
                yield Loop(at, (name,), Call(at, Name(at, RANGE), (begun.value, end)), body)
                return
        yield Loop(at, (), None, body)

    # --- expressions ----------------------------------------------------------------------------------

    def on_number_literal(self, node: Node) -> Expression | None:
        value = number(self.text(node))
        return Literal(self.at(node), value) if value is not None else None

    def on_char_literal(self, node: Node) -> Expression | None:
        inside = self.text(node)[1:-1]
        letter = ESCAPES.get(inside[1:], "") if inside.startswith("\\") else inside
        return Literal(self.at(node), ord(letter)) if len(letter) == 1 else None

    def on_string_literal(self, node: Node) -> Expression:
        text = re.sub(r"\\(.)", lambda m: ESCAPES.get(m[1], m[1]), self._string(node))
        return Literal(self.at(node), text)

    on_concatenated_string = on_string_literal

    def on_true(self, node: Node) -> Expression:
        return Literal(self.at(node), node.type == "true")

    on_false = on_true

    def on_identifier(self, node: Node) -> Expression:
        return Name(self.at(node), self.text(node))

    on_field_identifier = on_type_identifier = on_identifier

    def on_qualified_identifier(self, node: Node) -> Expression:
        scope, name = node.child_by_field_name("scope"), node.child_by_field_name("name")
        if scope is None:
            return self.expression(name, node)
        return Member(self.at(node), self.expression(scope), self.text(name))

    def on_namespace_identifier(self, node: Node) -> Expression:
        return Name(self.at(node), self.text(node.child_by_field_name("name") or node))

    on_template_function = on_template_type = on_namespace_identifier

    def on_field_expression(self, node: Node) -> Expression:
        return Member(
            self.at(node), self.part(node, "argument"), self.text(node.child_by_field_name("field"))
        )

    def on_call_expression(self, node: Node) -> Expression:
        args = node.child_by_field_name("arguments")
        given = [n for n in args.named_children if n.type != "comment"] if args is not None else []
        return Call(self.at(node), self.part(node, "function"), tuple(self.expression(n) for n in given))

    def on_subscript_expression(self, node: Node) -> Expression:
        indices = node.child_by_field_name("indices") or node
        index = node.child_by_field_name("index") or next(iter(indices.named_children), None)
        return Item(self.at(node), self.part(node, "argument"), self.expression(index, node))

    def on_parenthesized_expression(self, node: Node) -> Expression | None:
        return self.inner(node)

    on_condition_clause = on_parenthesized_expression

    def on_cast_expression(self, node: Node) -> Expression:
        return self.part(node, "value")

    def on_pointer_expression(self, node: Node) -> Expression:
        return self.part(node, "argument")

    def on_unary_expression(self, node: Node) -> Expression:
        return Unary(
            self.at(node), self.text(node.child_by_field_name("operator")), self.part(node, "argument")
        )

    def on_binary_expression(self, node: Node) -> Expression:
        sign = self.text(node.child_by_field_name("operator"))
        return Binary(self.at(node), sign, self.part(node, "left"), self.part(node, "right"))

    def on_conditional_expression(self, node: Node) -> Expression:
        one, other = self.part(node, "consequence"), self.part(node, "alternative")
        return Choice(self.at(node), self.part(node, "condition"), one, other)

    def on_sizeof_expression(self, node: Node) -> Expression:
        return Call(self.at(node), Name(self.at(node), "sizeof"), (self.part(node, "value"),))

    def on_assignment_expression(self, node: Node) -> Expression:
        return self.part(node, "right")

    def _string(self, node: Node) -> str:
        if node.type == "concatenated_string":
            return "".join(self._string(n) for n in node.named_children)
        return self.text(node).partition('"')[2].rpartition('"')[0]

    def on_new_expression(self, node: Node) -> Expression | None:
        args = node.child_by_field_name("arguments") or node.child_by_field_name("value")
        kind = node.child_by_field_name("type")
        if args is None:
            return None
        if node.type == "compound_literal_expression" and kind is not None and kind.type != "type_identifier":
            return self.expression(args)
        made = self.expression(args) if args.type == "initializer_list" else None
        if isinstance(made, Pairs):
            return made
        given = tuple(self.expression(n) for n in args.named_children)
        return Call(self.at(node), Name(self.at(node), self.text(kind)), given)

    on_compound_literal_expression = on_new_expression

    def on_initializer_list(self, node: Node) -> Expression:
        pairs: list[tuple[Expression, Expression]] = []
        items: list[Expression] = []
        for n in node.named_children:
            if n.type == "initializer_pair":
                field = n.child_by_field_name("designator")
                text = self.text(field).strip(".[]")
                pairs.append((Literal(self.at(n), text), self.expression(n.child_by_field_name("value"))))
            elif n.type != "comment":
                items.append(self.expression(n))
        return Pairs(self.at(node), tuple(pairs)) if pairs else Listing(self.at(node), tuple(items))


class CppReader(CReader):
    """One file of C++."""

    language = "cpp"
    grammar = CPP


def number(text: str) -> int | float | None:
    """A number as C writes it.

    >>> number("0x1Fu"), number("017"), number("0b101"), number("1'000"), number("2.5f"), number("1e3")
    (31, 15, 5, 1000, 2.5, 1000.0)
    """
    plain = text.replace("'", "")
    is_hex = re.match(r"(?i)0[xb]", plain)
    plain = re.sub(r"(?i)[ul]+$", "", plain) if is_hex else SUFFIX.sub("", plain)
    try:
        if re.fullmatch(r"0[0-7]+", plain):
            return int(plain, 8)
        return int(plain, 0) if re.fullmatch(r"(?i)0[xb][\da-f]+|\d+", plain) else float(plain)
    except (ValueError, OverflowError):
        return None


def _bare(text: str) -> str:
    """A macro's text without comments and continued lines."""
    return re.sub(r"//[^\n]*|/\*.*?\*/", " ", text.replace("\\\n", " "), flags=re.DOTALL).strip()
