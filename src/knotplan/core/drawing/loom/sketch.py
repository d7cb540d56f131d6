"""The bench from far away: cards as boxes with a name that can be read,
cords bundled into one line a card."""

from collections import Counter
from collections.abc import Callable, Iterator
from functools import partial
from math import ceil
from typing import NamedTuple

from knotplan.core.check.finding import Severity
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.cords import colour_of
from knotplan.core.drawing.extent import Rect
from knotplan.core.drawing.loom.bench import Bench, Card
from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.loom.tree import showing, signals
from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.drawing.shapes import Box, Curve, Shape, Text, shortened, text_width
from knotplan.core.plan.document import split

FAR = 9.0 / 11
"""below this scale the smallest words on a bench cannot be read"""
READABLE, LEAST, LEAST_WIDE = 11.5, 11.0, 44.0
"""size of a name on the screen, and of what is said below it; a card narrower than this there has none"""
BESIDE = 3.0
"""what is written on a card, and its mark, stay within so many pixels of it"""
PALE = (CORDS["white"], CORDS["yellow"])


class _Bundle(NamedTuple):
    """One line for all signal cords between two things, in the colour of most of them."""

    ends: tuple[str, str]
    start: tuple[float, float]
    end: tuple[float, float]
    ink: str
    cords: int


class _Label(NamedTuple):
    """A card with what is written on it from afar."""

    card: Card
    name: str
    below: str
    worst: Severity | None


class Sketch:
    """What does not depend on the scale, gathered once for a plan; what is as it was `before` stays the same
    shapes."""

    def __init__(self, report: Report, bench: Bench, p: Palette, before: "Sketch | None" = None):
        self.p = p
        self._made: dict[object, tuple[object, float, tuple[Shape, ...]]] = (
            before._made if before is not None and before.p == p else {}
        )
        """{card or bundle: what it says, the scale, its shapes}"""
        worst = report.worst_by_part()
        for part, hub in bench.inside.items():  # what is wrong inside shows at the hub
            if part in worst and (hub not in worst or worst[part] == "stop"):
                worst[hub] = worst[part]
        c = report.circuit
        self._bench, self._title = bench, c.board.title
        self._labels = [
            _Label(card, c.placed[card.part].name, _below(c, card), worst.get(card.part))
            for card in bench.cards
        ]
        self._bundles = list(_bundles(c, bench))

    def groups(self, scale: float) -> list[Group]:
        """Board, cords, then names; everything in sizes that can be seen at this scale."""
        box = self._bench.bounds()
        named = float(ceil(READABLE / scale))  # whole sizes, so that their letters can be kept
        made = self._made
        self._made = {}
        groups = [Group(*box, tuple(self._board()), keep=False)]
        for bundle in self._bundles:
            cords = self._kept(made, bundle.ends, bundle, scale, partial(self._bundle, bundle, scale))
            groups.append(Group(*_round(bundle, scale), cords, keep=False))
        groups.append(Group(*box, tuple(self._board_name(scale)), keep=False))
        for label in self._labels:
            card = label.card
            shapes = self._kept(made, card.part, label, scale, partial(self._card, label, named, scale))
            around = BESIDE / scale
            area = (card.x - around, card.y - around, card.w + 2 * around, card.h + 2 * around)
            groups.append(Group(*area, shapes, keep=False))
        return groups

    def _kept(
        self,
        made: dict[object, tuple[object, float, tuple[Shape, ...]]],
        what: object,
        says: object,
        scale: float,
        draw: Callable[[], Iterator[Shape]],
    ) -> tuple[Shape, ...]:
        """The shapes of a card or a bundle: the same ones while it says the same at the same scale."""
        known = made.get(what)
        same = known is not None and known[1] == scale and known[0] == says
        shapes = known[2] if same and known is not None else tuple(draw())
        self._made[what] = (says, scale, shapes)
        return shapes

    def _bundle(self, bundle: "_Bundle", scale: float) -> Iterator[Shape]:
        (x1, y1), (x2, y2) = bundle.start, bundle.end
        wide = _wide(bundle, scale)
        way = ((x1, y1, x2, y2, x2, y2),)
        if bundle.ink in PALE:  # a dark edge, so that white and yellow stay visible
            yield Curve((x1, y1), way, self.p.cord_edge, wide + 1.6 / scale)
        yield Curve((x1, y1), way, bundle.ink, wide)

    def _board(self) -> Iterator[Shape]:
        x, y, w, h = self._bench.board
        yield Box(x, y, w, h, 10, self.p.board, self.p.board_edge, 1.5)
        for spot in self._bench.pins.values():
            if not spot.socket:
                yield Box(spot.x - 5, spot.y - 5, 10, 10, 0, self.p.board_faint + "66")

    def _board_name(self, scale: float) -> Iterator[Shape]:
        """What the board is called, along its longer side."""
        _, _, w, h = self._bench.board
        named = float(ceil(READABLE / scale))
        text = shortened(self._title, named, max(w, h) - named, True)
        if text.rstrip("…"):
            upright = h > w
            long, high = text_width(text, named, True) + named, 1.5 * named
            wide, tall = (high, long) if upright else (long, high)
            yield Box(-wide / 2, -tall / 2, wide, tall, high / 2, self.p.board)
            yield Text(
                named * 0.35 if upright else 0.0,
                0.0 if upright else named * 0.35,
                text,
                named,
                self.p.board_text,
                True,
                "middle",
                -90 if upright else 0,
            )

    def _card(self, label: _Label, named: float, scale: float) -> Iterator[Shape]:
        card, p = label.card, self.p
        yield Box(card.x, card.y, card.w, card.h, 0, p.card, p.edge, 0)
        if card.w * scale >= LEAST_WIDE:
            two = bool(label.below) and card.h > 3 * named
            middle, room, x = (
                card.y + card.h / 2 + (-0.2 if two else 0.35) * named,
                card.w - 16,
                card.x + card.w / 2,
            )
            yield Text(x, middle, shortened(label.name, named, room, True), named, p.ink, True, "middle")
            if two:
                small = float(ceil(LEAST / scale))
                yield Text(
                    x,
                    middle + 1.2 * named,
                    shortened(label.below, small, room),
                    small,
                    p.faint,
                    False,
                    "middle",
                )
        if label.worst:
            yield from severity(card.x + card.w - 8 / scale, card.y + 8 / scale, label.worst, p, 6 / scale)


def _below(c: Circuit, card: Card) -> str:
    inside = showing(c, card.part).inside
    return f"{len(inside)} parts" if inside else c.parts[card.part].title


def _wide(bundle: _Bundle, scale: float) -> float:
    return (1.2 + 0.4 * min(bundle.cords, 8)) / scale


def _round(bundle: _Bundle, scale: float) -> Rect:
    (x1, y1), (x2, y2) = bundle.start, bundle.end
    beyond = _wide(bundle, scale) + 1.6 / scale
    return min(x1, x2) - beyond, min(y1, y2) - beyond, abs(x2 - x1) + 2 * beyond, abs(y2 - y1) + 2 * beyond


def _bundles(c: Circuit, bench: Bench) -> Iterator[_Bundle]:
    """Those of all cords that are shown."""
    strands: dict[tuple[str, str], list[tuple[float, float, float, float]]] = {}
    colours: dict[tuple[str, str], Counter[str]] = {}
    shown = [part for part in c.parts if part not in bench.inside]
    for tie in (tie for part in shown for tie in signals(c, part)):
        pair = split(tie.lead)[0], split(tie.to)[0]
        lead, end = bench.spot(tie.lead), bench.pins.get(tie.to) or bench.spot(tie.to)
        if lead is None or end is None:
            continue
        strands.setdefault(pair, []).append((lead.x, lead.y, end.x, end.y))
        colours.setdefault(pair, Counter())[colour_of(c, tie)] += 1
    for pair, ends in strands.items():
        x1, y1, x2, y2 = (sum(v) / len(ends) for v in zip(*ends, strict=True))
        ink = CORDS.get(colours[pair].most_common(1)[0][0], CORDS["grey"])
        yield _Bundle(pair, (x1, y1), (x2, y2), ink, len(ends))
