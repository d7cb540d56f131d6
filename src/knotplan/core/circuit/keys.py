"""What questions are asked about one by one: parts, ties, leads, pins in use."""

from collections.abc import Iterable

from knotplan.core.circuit.circuit import Circuit


def part_ids(c: Circuit) -> Iterable[str]:
    """Of every part."""
    return c.parts.keys()


def tie_ids(c: Circuit) -> Iterable[str]:
    """Of every tie."""
    return c.ties.by_id.keys()


def pins_in_use(c: Circuit) -> Iterable[str]:
    """Signal pins, of the board and of hubs, to which something is tied."""
    return c.ties.holders.keys()
