"""A line of the list."""

from typing import Literal

from msgspec import Struct

Group = Literal["board", "parts", "small components", "cords"]
GROUPS: tuple[Group, ...] = ("board", "parts", "small components", "cords")


class ShoppingLine(Struct, frozen=True):
    """One kind of thing to buy or take from the drawer."""

    group: Group
    count: int
    """how many are used"""
    buy: int
    """how many to buy: with spare ones, where small things get lost; pieces of wire are cut from one
    length"""
    what: str
    details: str
    users: str
    """the parts or ties that it is for"""


class Pack(Struct, frozen=True):
    """A pack of resistors that does instead of several lines."""

    series: str
    tolerance: float
    values: int
    """so many lines it stands for"""
    each: int
    """so many of each value it has to have"""


class Shopping(Struct, frozen=True):
    """The whole list."""

    lines: tuple[ShoppingLine, ...]
    pack: Pack | None
    spare: float
    """share of spare ones that is reckoned with"""
