"""A program as a tree, alike for all languages: only what constants can flow through. Anything else is
`Unknown`."""

from msgspec import Struct

from knotplan.core.bringup.difference import Spot


class Node(Struct, frozen=True):
    """A piece of a program, with its place."""

    at: Spot


# --- expressions --------------------------------------------------------------------------------------


class Literal(Node, frozen=True):
    """A number, a text, or true and false."""

    value: int | float | str | bool


class Name(Node, frozen=True):
    """A variable, constant or function."""

    name: str


class Member(Node, frozen=True):
    """A field or method: `of.name`."""

    of: "Expression"
    name: str


class Call(Node, frozen=True):
    """A call, or an object that is made."""

    of: "Expression"
    args: tuple["Expression", ...]
    named: tuple[tuple[str, "Expression"], ...] = ()
    braced: bool = False
    """written as a list in braces: an object if there is such a class, else a list"""


class Listing(Node, frozen=True):
    """A list, tuple or array."""

    items: tuple["Expression", ...]


class Pairs(Node, frozen=True):
    """A dictionary, or a structure with its fields: keys are expressions, or texts for fields."""

    items: tuple[tuple["Expression", "Expression"], ...]


class Item(Node, frozen=True):
    """`of[index]`"""

    of: "Expression"
    index: "Expression"


class Unary(Node, frozen=True):
    """A sign, a complement, not."""

    sign: str
    of: "Expression"


class Binary(Node, frozen=True):
    """Arithmetic of two."""

    sign: str
    left: "Expression"
    right: "Expression"


class Choice(Node, frozen=True):
    """One of two, by a condition."""

    when: "Expression"
    one: "Expression"
    other: "Expression"


class Unknown(Node, frozen=True):
    """What no constant flows through."""


Expression = Literal | Name | Member | Call | Listing | Pairs | Item | Unary | Binary | Choice | Unknown

# --- statements ---------------------------------------------------------------------------------------


class Set(Node, frozen=True):
    """`targets = value`; several targets take a list apart."""

    targets: tuple[Expression, ...]
    value: Expression
    constant: bool = False
    """it is defined so for good"""


class Run(Node, frozen=True):
    """An expression for what it does."""

    value: Expression


class Loop(Node, frozen=True):
    """A body, for each item of a list; without a list again and again."""

    names: tuple[str, ...]
    over: Expression | None
    body: tuple["Statement", ...]


class Branch(Node, frozen=True):
    """Bodies of which one is run."""

    bodies: tuple[tuple["Statement", ...], ...]


class Function(Node, frozen=True):
    """A function or method."""

    name: str
    params: tuple[tuple[str, Expression | None], ...]
    body: tuple["Statement", ...]


class Class(Node, frozen=True):
    """A class, structure or enumeration with its members."""

    name: str
    bases: tuple[str, ...]
    body: tuple["Statement", ...]


class Import(Node, frozen=True):
    """A name for something of another module or header."""

    name: str
    meant: str


class Return(Node, frozen=True):
    """What a function gives."""

    value: Expression


Statement = Set | Run | Loop | Branch | Function | Class | Import | Return


class Source(Struct, frozen=True):
    """One file."""

    name: str
    language: str
    body: tuple[Statement, ...]
    unread: tuple[Spot, ...] = ()
    """places that the parser could not make out"""
