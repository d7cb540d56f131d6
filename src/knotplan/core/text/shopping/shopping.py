"""The list of a plan."""

import math
from collections.abc import Iterator

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.beads import Bead
from knotplan.core.quantity.written import show
from knotplan.core.text.shopping.beads import bought, in_order, pack
from knotplan.core.text.shopping.cords import cord_lines
from knotplan.core.text.shopping.line import Shopping, ShoppingLine


def shopping(c: Circuit) -> Shopping:
    """Everything to buy: the board, the parts, the beads, the cords, equal things counted together."""
    spare = c.assumed("spare")
    lines = [ShoppingLine("board", 1, 1, c.board.title, c.board.summary, ""), *_parts(c), *_beads(c, spare)]
    return Shopping((*lines, *cord_lines(c, spare)), pack(c), spare)


def _parts(c: Circuit) -> Iterator[ShoppingLine]:
    users: dict[tuple[str, str], list[str]] = {}
    for part_id, part in c.parts.items():
        chosen = c.placed[part_id].params
        values = [(p, chosen.get(n, p.default)) for n, p in part.params.items() if p.bought]
        details = "; ".join(
            f"{p.title.lower()}: {v if isinstance(v, str) else show(v, p.unit)}" for p, v in values
        )
        what = part.summary[0].upper() + part.summary[1:]
        users.setdefault((what, details), []).append(c.placed[part_id].name)
    for (what, details), who in users.items():
        yield ShoppingLine("parts", len(who), len(who), what, details, ", ".join(who))


def _beads(c: Circuit, spare: float) -> Iterator[ShoppingLine]:
    users: dict[tuple[str, str], list[str]] = {}
    beads: list[tuple[Bead, str]] = [(b, c.titles.signal(t)) for t in c.plan.ties for b in t.beads]
    for bead, user in sorted(beads, key=lambda pair: in_order(pair[0])):
        users.setdefault(bought(bead), []).append(user)
    for (what, details), who in users.items():
        buy = math.ceil(len(who) * (1 + spare))
        yield ShoppingLine("small components", len(who), buy, what, details, ", ".join(filter(None, who)))
