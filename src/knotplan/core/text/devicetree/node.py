"""Nodes of a Devicetree (Devicetree Specification v0.4, 2.2), as data."""

import re

from msgspec import Struct

LONGEST_NAME = 31
"""letters of a node's name, without its address (2.2.1)"""


class Ref(Struct, frozen=True):
    """The number of another node, by its label."""

    label: str


class Hex(Struct, frozen=True):
    """A number that people read in hexadecimal: an address, a code, flags."""

    value: int


Cells = tuple["int | Hex | Ref", ...]
"""what stands between angle brackets"""
Value = str | Cells | tuple[Cells, ...] | tuple[str, ...] | bool
"""a text, numbers, several groups of numbers, texts, or a property that says something by being there"""


class Property(Struct, frozen=True):
    """A property of a node."""

    name: str
    value: Value


class Node(Struct, frozen=True):
    """A node with what is in it."""

    name: str
    properties: tuple[Property, ...] = ()
    children: tuple["Node", ...] = ()
    label: str = ""
    remark: str = ""
    """what stands above it, for people"""


class Target(Struct, frozen=True):
    """A node of the board's own tree, and what is laid over it."""

    label: str
    """empty for the root"""
    properties: tuple[Property, ...] = ()
    children: tuple[Node, ...] = ()


class Overlay(Struct, frozen=True):
    """The whole of it."""

    compatible: str
    targets: tuple[Target, ...]
    left: tuple[str, ...]
    """what no standard binding knows and programs go on with, in sentences"""


def properties(**given: Value) -> tuple[Property, ...]:
    """Properties in their order, underscores for hyphens."""
    return tuple(Property(name.replace("_", "-"), value) for name, value in given.items())


def node_name(*words: str) -> str:
    """A name as the specification allows it: letters, digits and , . _ + - , a letter first.

    >>> node_name("led", "Pier red"), node_name("2nd bell")
    ('led-pier-red', 'n2nd-bell')
    """
    text = re.sub(r"[^a-z0-9]+", "-", "-".join(words).lower()).strip("-") or "node"
    return (text if text[0].isalpha() else f"n{text}")[:LONGEST_NAME].rstrip("-")


def unlike(name: str, taken: set[str]) -> str:
    """The name, or with a number behind it that makes it one of its own among those taken, and taken from now
    on."""
    number, text = 1, name
    while text in taken:
        number += 1
        tail = f"-{number}"
        text = name[: LONGEST_NAME - len(tail)] + tail
    taken.add(text)
    return text


def label_of(*words: str) -> str:
    """A label (6.2): letters, digits and underscores."""
    return "knot_" + re.sub(r"[^a-z0-9]+", "_", "_".join(words).lower()).strip("_")
