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
from knotplan.core.drawing.extent import extent
from knotplan.core.drawing.loom.bench import Bench, Card
from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.loom.tree import Strand, strands
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

    start: tuple[float, float]
    end: tuple[float, float]
    ink: str
    cords: int


class _Label(NamedTuple):
    """A card, and the gravest finding about it."""

    card: Card
    worst: Severity | None


_Known = tuple[object, float, list[Group]]
"""what a part's cords or its card show, at which scale, and that as it is drawn"""


class Sketch:
    """What does not depend on the scale, gathered once for a plan; what is as it was `before` is not drawn
    anew."""

    def __init__(self, report: Report, bench: Bench, p: Palette, before: "Sketch | None" = None):
        self.p = p
        worst = report.worst_by_part()
        for part, hub in bench.inside.items():  # what is wrong inside shows at the hub
            if part in worst and (hub not in worst or worst[part] == "stop"):
                worst[hub] = worst[part]
        self._bench, self._title = bench, report.circuit.board.title
        self._labels = [_Label(card, worst.get(card.part)) for card in bench.cards]
        self._bundles = _bundles(report.circuit, bench)
        self._drawn: dict[tuple[str, str], _Known] = (
            before._drawn if before is not None and before.p == p else {}
        )

    def groups(self, scale: float) -> list[Group]:
        """Board, cords, then names; everything in sizes that can be seen at this scale."""
        box = self._bench.bounds()
        named = float(ceil(READABLE / scale))  # whole sizes, so that their letters can be kept
        drawn: dict[tuple[str, str], _Known] = {}

        def known(key: tuple[str, str], shows: object, draw: Callable[[], Iterator[Group]]) -> list[Group]:
            was = self._drawn.get(key)
            same = was is not None and was[1] == scale and was[0] == shows
            drawn[key] = was if same and was is not None else (shows, scale, list(draw()))
            return drawn[key][2]

        groups = [Group(*box, tuple(self._board()), keep=False)]
        for part, bundles in self._bundles.items():
            groups += known(("cords", part), bundles, partial(self._cords, bundles, scale))
        groups.append(Group(*box, tuple(self._board_name(scale)), keep=False))
        for label in self._labels:
            groups += known(("card", label.card.part), label, partial(self._named, label, named, scale))
        self._drawn = drawn
        return groups

    def _cords(self, bundles: list[_Bundle], scale: float) -> Iterator[Group]:
        for bundle in bundles:
            (x1, y1), (x2, y2) = bundle.start, bundle.end
            wide, edge = (1.2 + 0.4 * min(bundle.cords, 8)) / scale, 1.6 / scale
            way = ((x1, y1, x2, y2, x2, y2),)
            cords = [Curve((x1, y1), way, bundle.ink, wide)]
            if bundle.ink in PALE:  # a dark edge, so that white and yellow stay visible
                cords.insert(0, Curve((x1, y1), way, self.p.cord_edge, wide + edge))
            yield Group(*extent(Curve((x1, y1), way, "", wide + edge)), tuple(cords), keep=False)

    def _named(self, label: _Label, named: float, scale: float) -> Iterator[Group]:
        card, around = label.card, BESIDE / scale
        box = (card.x - around, card.y - around, card.w + 2 * around, card.h + 2 * around)
        yield Group(*box, tuple(self._card(label, named, scale)), keep=False)

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
            below = _below(card)
            two = bool(below) and card.h > 3 * named
            middle, room, x = (
                card.y + card.h / 2 + (-0.2 if two else 0.35) * named,
                card.w - 16,
                card.x + card.w / 2,
            )
            yield Text(
                x,
                middle,
                shortened(label.card.form.face.name, named, room, True),
                named,
                p.ink,
                True,
                "middle",
            )
            if two:
                small = float(ceil(LEAST / scale))
                yield Text(
                    x,
                    middle + 1.2 * named,
                    shortened(below, small, room),
                    small,
                    p.faint,
                    False,
                    "middle",
                )
        if label.worst:
            yield from severity(card.x + card.w - 8 / scale, card.y + 8 / scale, label.worst, p, 6 / scale)


def _below(card: Card) -> str:
    face = card.form.face
    return f"{face.inside} parts" if face.inside else face.title


def _bundles(c: Circuit, bench: Bench) -> dict[str, list[_Bundle]]:
    """The lines that begin at each part."""
    bundles: dict[str, list[_Bundle]] = {}
    for part in c.parts:
        cords = strands(c, part) if part not in bench.inside else []
        ways: dict[str, list[Strand]] = {}
        for strand in cords:
            ways.setdefault(split(strand.to)[0], []).append(strand)
        made = [bundle for together in ways.values() if (bundle := _bundle(bench, together)) is not None]
        if made:
            bundles[part] = made
    return bundles


def _bundle(bench: Bench, cords: list[Strand]) -> _Bundle | None:
    """One line for some cords from one thing to another, as far as both are shown."""
    ends = []
    for strand in cords:
        lead, end = bench.spot(strand.lead), bench.pins.get(strand.to) or bench.spot(strand.to)
        if lead is not None and end is not None:
            ends.append((lead.x, lead.y, end.x, end.y))
    if not ends:
        return None
    x1, y1, x2, y2 = (sum(v) / len(ends) for v in zip(*ends, strict=True))
    colour = Counter(strand.colour for strand in cords).most_common(1)[0][0]
    return _Bundle((x1, y1), (x2, y2), CORDS.get(colour, CORDS["grey"]), len(ends))
