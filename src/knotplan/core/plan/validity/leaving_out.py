"""The plan without what makes it invalid."""

from collections.abc import Iterable
from typing import Any

import msgspec
from msgspec.structs import replace

from knotplan.core.plan.document import Plan
from knotplan.core.plan.validity.fault import Fault, Place


def without(plan: Plan, found: Iterable[Fault]) -> Plan:
    """The plan without what the faults ask to be left out."""
    outs = {f.out for f in found}
    if not outs:
        return plan
    tree = _copied(msgspec.to_builtins(replace(plan, carried=None)))
    for out in sorted(outs, key=_backwards, reverse=True):
        leave_out(tree, out)
    return replace(msgspec.convert(tree, Plan), carried=plan.carried)


def _backwards(place: Place) -> list[tuple[int, str]]:
    """Sorts so that what is left out first does not move what is left out later."""
    return [(p, "") if isinstance(p, int) else (-1, p) for p in place]


def leave_out(tree: Any, place: Place) -> None:
    """Takes one value out of a tree of dictionaries and lists, where it is there."""
    *way, last = place
    try:
        for step in way:
            tree = tree[step]
        del tree[last]
    except (KeyError, IndexError, TypeError):
        return  # something that holds it has been left out


def _copied(tree: Any) -> Any:
    if isinstance(tree, dict):
        return {k: _copied(v) for k, v in tree.items()}
    return [_copied(v) for v in tree] if isinstance(tree, list | tuple) else tree
