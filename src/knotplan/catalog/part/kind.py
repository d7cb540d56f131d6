"""The model of a part file, and how its parameters make one definite part of it.

A part file is a base with variants: ``[variants.colour.red]`` holds what differs when the parameter
``colour`` is ``red``, laid over the base key by key; a value ``"=wish"`` stands for the parameter
``wish`` itself; what a part has several times over stands once in a ``[[repeat]]`` block, with "#" for its
number. Nothing in a file is ever computed or executed.
"""

from collections.abc import Iterator
from typing import Any

import msgspec

from knotplan.catalog.part.parameter import Parameter
from knotplan.catalog.part.part import Part


class PartKind(msgspec.Struct, frozen=True):
    """A part file as read: its tree, from which parameters make parts."""

    id: str
    title: str
    summary: str
    words: tuple[str, ...]
    common: int
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
        yield from (
            {name: value} for name, p in self.params.items() for value in p.choices if value != p.default
        )

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
        filled: dict[str, Any] = _filled(tree, values)
        return filled


MOST_REPEATED = 64


def _repeated(block: dict[str, Any], values: dict[str, str | float]) -> dict[str, Any]:
    """A block that a part has several times over: its channels. "#" stands for the channel's number."""
    first, count = int(block.get("first", 1)), int(float(_filled(block["count"], values)))
    if not 1 <= count <= MOST_REPEATED:
        raise ValueError(f"repeat.count is {count}; it has to be 1 to {MOST_REPEATED}")
    tree: dict[str, Any] = {}
    for number in range(first, first + count):
        tree = _laid_over(
            tree, _numbered({k: v for k, v in block.items() if k not in ("first", "count")}, str(number))
        )
    return tree


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
    """The part file that a tree is; raises msgspec.ValidationError,
    TypeError or KeyError where it is none."""
    params = msgspec.convert(tree.get("params", {}), dict[str, Parameter])
    words = msgspec.convert(tree.get("words", ()), tuple[str, ...])
    title, summary = msgspec.convert(tree["title"], str), msgspec.convert(tree["summary"], str)
    common = msgspec.convert(tree.get("common", 0), int)
    return PartKind(part_id, title, summary, words, common, params, tree)
