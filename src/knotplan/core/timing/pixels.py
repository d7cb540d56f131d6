"""Chains of pixels on one data line: how long a frame takes, what it needs, and how long a chain can be."""

from msgspec import Struct

from knotplan.catalog.part.facts import Pixels
from knotplan.catalog.part.needs import Stream
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having, ties_of
from knotplan.core.memory.question import question
from knotplan.core.plan.document import BOARD, split
from knotplan.core.power.node import Node

SMOOTH_HZ = 25.0
"""frames a second from which movement looks smooth"""
MEMORY_SHARE = 0.75
"""of a controller's memory that pixels may have; the program needs the rest"""


class Chain(Struct, frozen=True):
    """Everything behind one pin."""

    contact: str
    parts: tuple[str, ...]
    """in the order in which the data go through them"""
    count: int
    bits: int
    """of one pixel; of the first part"""
    bit_s: float
    latch_s: float
    full_a: float

    @property
    def frame_s(self) -> float:
        """Time of a frame: pixels * bits * bit time, then the gap in which they take it over."""
        return self.count * self.bits * self.bit_s + self.latch_s

    @property
    def most_hz(self) -> float:
        """Frames a second that the chain can be given."""
        return 1 / self.frame_s

    @property
    def bytes(self) -> int:
        """Of memory for one picture."""
        return self.count * self.bits // 8

    def longest_by_time(self, hz: float) -> int:
        """Pixels at a refresh rate: (1/f - latch) / (bits * bit time).

        >>> Chain("", (), 1, 24, 1.25e-6, 280e-6, 0.036).longest_by_time(25)
        1324
        """
        return max(0, int((1 / hz - self.latch_s) / (self.bits * self.bit_s) + 1e-9))

    def longest_by_memory(self, memory: int) -> int | None:
        """Pixels that fit the memory, beside the program's own; nothing where memory does not matter."""
        return int(memory * MEMORY_SHARE / (self.bits / 8)) if memory else None


@question
def chains(c: Circuit) -> tuple[Chain, ...]:
    """Every chain that begins at a pin of the board."""
    ties = [t for p in having(c, "pixels") for t in ties_of(c, p) if _pixels(c, t.lead)]
    behind = {split(t.to)[0]: split(t.lead)[0] for t in ties if split(t.to)[0] in c.parts}
    all_chains = []
    for tie in ties:
        contact = tie.to
        if split(contact)[0] != BOARD or contact not in c.ties.holders:
            continue
        parts = [split(tie.lead)[0]]
        while parts[-1] in behind and behind[parts[-1]] not in parts:
            parts.append(behind[parts[-1]])
        facts = [f for p in parts if (f := c.parts[p].facts.pixels) is not None]
        if facts:
            first = facts[0]
            count = sum(int(f.count) for f in facts)
            full = sum(int(f.count) * f.full_a for f in facts) / max(1, count)
            all_chains.append(
                Chain(
                    contact, tuple(parts), count, first.bits, first.bit_s, max(f.latch_s for f in facts), full
                )
            )
    return tuple(all_chains)


def _pixels(c: Circuit, lead: str) -> Pixels | None:
    need = c.needs.of(lead)
    return (
        c.parts[split(lead)[0]].facts.pixels
        if isinstance(need, Stream) and need.protocol == "pixels"
        else None
    )


def chain_of(c: Circuit, part_id: str) -> Chain | None:
    """The chain that a part is in; nothing where it is in none."""
    return next((x for x in chains(c) if part_id in x.parts), None)


def longest_by_supply(roots: tuple[Node, ...], part_id: str, full_a: float) -> tuple[int, str] | None:
    """(pixels, which supply) that can still be full on: what is left of the tightest limit above the part.
    Behind a converter an ampere counts there as much as the converter draws for it."""
    limited, ratio = [], 1.0
    way = _way(roots, part_id)
    for n in reversed(way):
        if n.margin_a is not None:
            limited.append((n.margin_a / ratio, n.title))
        if n.intake is not None and n.total.worst_a:
            ratio *= n.intake.worst_a / n.total.worst_a
    if not limited:
        return None
    margin, title = min(limited)
    return max(0, int((way[-1].total.worst_a + margin) / full_a + 1e-9)), title


def _way(roots: tuple[Node, ...], part_id: str) -> list[Node]:
    """From a supply down to a part's own load."""
    for root in roots:
        if root.part == part_id and root.lead:
            return [root]
        below = _way(root.children, part_id)
        if below:
            return [root, *below]
    return []


def asked_hz(c: Circuit, part_id: str) -> float:
    """The refresh that the program wants."""
    return c.placed[part_id].setting("refresh", SMOOTH_HZ, 0.0)
