"""The model of a part file, and how its parameters make one definite part of it.

A part file is a base with variants: ``[variants.colour.red]`` holds what differs when the parameter
``colour`` is ``red``, laid over the base key by key; a value ``"=wish"`` stands for the parameter
``wish`` itself; what a part has several times over stands once in a ``[[repeat]]`` block, with "#" for its
number. Nothing in a file is ever computed or executed.
"""

import math
from collections.abc import Iterator
from functools import lru_cache
from typing import Any, Literal

import msgspec

from knotplan.catalog.boards import Bank, Converter, Driver, Peripheral, PowerOn
from knotplan.catalog.elements import Element
from knotplan.catalog.needs import Ground, Need
from knotplan.catalog.part_facts import Facts
from knotplan.catalog.quantities import Range


class _Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    pass


class Parameter(_Item):
    """Something that the maker chooses about a part."""

    title: str
    default: str | float
    choices: tuple[str, ...] = ()
    unit: str = ""
    least: float | None = None
    most: float | None = None
    whole: bool = False
    """only whole numbers make sense"""
    named: bool = False
    """each of its choices is offered when a part is added"""
    bought: bool = True
    """it has to be known to buy the part; false for wishes, and for what the summary says already"""

    def fault(self, value: object) -> str | None:
        """What is wrong with a value, or nothing."""
        if self.choices:
            return None if value in self.choices else f"is none of {', '.join(self.choices)}"
        if isinstance(value, bool) or not isinstance(value, int | float):
            return "is not a number"
        if not math.isfinite(value):
            return "is no quantity"
        if self.whole and value != round(value):
            return "is not a whole number"
        if self.least is not None and value < self.least:
            return f"is below {self.least:g} {self.unit}".rstrip()
        if self.most is not None and value > self.most:
            return f"is above {self.most:g} {self.unit}".rstrip()
        return None


class Offer(_Item):
    """What a lead of a hub does for other parts, in the words in which boards' pins say it."""

    kind: Literal["io", "supply", "ground", "contact"] = "io"
    """a contact passes on what comes in at the lead `via`"""
    functions: tuple[str, ...] = ()
    driver: str = ""
    power_on: PowerOn = "floating"
    driven_by: str = ""
    """the lead that says what this contact does: in use, that one has to be tied too"""
    via: str = ""
    """the lead over which a daisy chain or a contact continues"""
    note: str = ""


class Lead(_Item):
    """A contact of a part, as it is printed there."""

    title: str
    needs: tuple[Need, ...]
    cord: str
    """usual colour of its cord"""
    required: bool = True
    offers: Offer | None = None
    note: str = ""


class Source(_Item):
    """A supply's offer between its leads."""

    plus: str
    minus: str
    volts: Range
    limit_a: float
    source_ohm: float
    fed_from: str = ""
    """the lead through which a converter is fed"""
    efficiency: float | None = None
    """of a switching converter; a linear one passes its current on"""
    spare_v: float = 0.0
    """how far its input has to lie above its output"""
    kelvin_per_watt: float = 0.0
    """thermal resistance of a linear regulator, junction to air; 0 where nobody says"""
    watt_hours: float = 0.0
    """what a battery holds"""


Category = Literal["light", "relay", "motor", "input", "sensor", "display", "memory", "hub", "supply", "wiring"]


class Part(_Item, eq=False):
    """One definite part: a file with its parameters filled in. It is itself only: what is derived can be kept by it."""

    id: str
    title: str
    summary: str
    category: Category
    leads: dict[str, Lead]
    words: tuple[str, ...] = ()
    """what people call it, for the search"""
    params: dict[str, Parameter] = {}
    elements: dict[str, Element] = {}
    source: Source | None = None
    drivers: dict[str, Driver] = {}
    """the electrical character of what a hub offers; their rails are leads of the part"""
    peripherals: dict[str, Peripheral] = {}
    converters: dict[str, Converter] = {}
    banks: dict[str, Bank] = {}
    """leads that have a current limit in common"""
    facts: Facts = Facts()
    note: str = ""

    @property
    def is_hub(self) -> bool:
        """It offers contacts of its own to other parts."""
        return _is_hub(self)

    @property
    def ground(self) -> str:
        """Its ground lead, or nothing."""
        return _ground_of(self)

    def lead_need(self, lead: str) -> Need:
        """The first alternative of a lead."""
        return self.leads[lead].needs[0]


@lru_cache(4096)
def _ground_of(part: Part) -> str:
    return next((n for n, lead in part.leads.items() if isinstance(lead.needs[0], Ground)), "")


@lru_cache(4096)
def _is_hub(part: Part) -> bool:
    return any(lead.offers for lead in part.leads.values())


class PartKind(msgspec.Struct, frozen=True):
    """A part file as read: its tree, from which parameters make parts."""

    id: str
    title: str
    summary: str
    words: tuple[str, ...]
    params: dict[str, Parameter]
    tree: dict[str, Any]

    def values(self, chosen: dict[str, str | float]) -> dict[str, str | float]:
        """All parameters: the chosen ones over the defaults."""
        return {name: chosen.get(name, p.default) for name, p in self.params.items()}

    def faults(self, chosen: dict[str, str | float]) -> list[tuple[str, str]]:
        """(parameter, what is wrong with it) of a choice of parameters."""
        unknown = [(n, f"is no parameter of {self.id}") for n in chosen if n not in self.params]
        wrong = [(n, p.fault(chosen[n])) for n, p in self.params.items() if n in chosen]
        return unknown + [(n, why) for n, why in wrong if why]

    def choices(self) -> Iterator[dict[str, str | float]]:
        """What can be chosen: nothing, and each choice of each parameter by itself."""
        yield {}
        yield from ({name: value} for name, p in self.params.items() for value in p.choices if value != p.default)

    def make(self, chosen: dict[str, str | float]) -> Part:
        """The part that these parameters make."""
        return msgspec.convert(self.filled(chosen), Part)

    def filled(self, chosen: dict[str, str | float]) -> dict[str, Any]:
        """The tree of the part that these parameters make."""
        values = self.values(chosen)
        tree = {k: v for k, v in self.tree.items() if k != "repeat"}
        for block in self.tree.get("repeat", ()):
            tree = _laid_over(tree, _repeated(block, values))
        for name, choices in tree.pop("variants", {}).items():
            tree = _laid_over(tree, choices.get(str(values[name]), {}))
        made: dict[str, Any] = _filled(tree, values)
        return made


MOST_REPEATED = 64


def _repeated(block: dict[str, Any], values: dict[str, str | float]) -> dict[str, Any]:
    """A block that a part has several times over: its channels. "#" stands for the channel's number."""
    first, count = int(block.get("first", 1)), int(float(_filled(block["count"], values)))
    if not 1 <= count <= MOST_REPEATED:
        raise ValueError(f"repeat.count is {count}; it has to be 1 to {MOST_REPEATED}")
    made: dict[str, Any] = {}
    for number in range(first, first + count):
        made = _laid_over(made, _numbered({k: v for k, v in block.items() if k not in ("first", "count")}, str(number)))
    return made


def _numbered(tree: Any, number: str) -> Any:
    """The tree with each "#" replaced by a number, in keys and texts."""
    if isinstance(tree, dict):
        return {k.replace("#", number): _numbered(v, number) for k, v in tree.items()}
    if isinstance(tree, list):
        return [_numbered(v, number) for v in tree]
    return tree.replace("#", number) if isinstance(tree, str) else tree


def _laid_over(base: Any, over: Any) -> Any:
    """`over` on top of `base`: tables key by key, everything else replaced."""
    if isinstance(base, dict) and isinstance(over, dict):
        return {**base, **{k: _laid_over(base[k], v) if k in base else v for k, v in over.items()}}
    return over


def _filled(tree: Any, values: dict[str, str | float]) -> Any:
    """The tree with each ``"=name"`` replaced by the parameter of that name."""
    if isinstance(tree, dict):
        return {k: _filled(v, values) for k, v in tree.items()}
    if isinstance(tree, list):
        return [_filled(v, values) for v in tree]
    if isinstance(tree, str) and tree.startswith("="):
        value = values[tree[1:]]
        return int(value) if isinstance(value, float) and value.is_integer() else value  # a count stays one
    return tree


def kind_from(part_id: str, tree: dict[str, Any]) -> PartKind:
    """The part file that a tree is; raises msgspec.ValidationError, TypeError or KeyError where it is none."""
    params = msgspec.convert(tree.get("params", {}), dict[str, Parameter])
    words = msgspec.convert(tree.get("words", ()), tuple[str, ...])
    title, summary = msgspec.convert(tree["title"], str), msgspec.convert(tree["summary"], str)
    return PartKind(part_id, title, summary, words, params, tree)
