"""Which part hangs on which hub, and what of each part its card shows."""

from collections.abc import Iterable
from typing import NamedTuple

from msgspec import Struct

from knotplan.catalog.part.needs import Feed, Gives, Ground, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.cords import colour_of
from knotplan.core.circuit.having import ties_of
from knotplan.core.memory.question import each, question, table
from knotplan.core.plan.document import split

FEW = 6
"""a part with so few leads shows them all"""


def is_stub(circuit: Circuit, lead: str) -> bool:
    """Supply and ground ties are tags; signals have their cords."""
    tie = circuit.ties.of(lead)
    if tie is None:
        return False
    pin = circuit.contacts.pin(tie.to)
    if pin is not None:
        return pin.kind not in ("io", "contact")
    other = circuit.contacts.lead(tie.to)
    return other is None or isinstance(other.needs[0], Supply | Ground | Gives | Feed)


def is_tag(circuit: Circuit, lead: str) -> bool:
    """A lead of a supply or a ground, tied or not, that is shown as a tag."""
    if circuit.ties.of(lead) is not None:
        return is_stub(circuit, lead)
    spec = circuit.contacts.lead(lead)
    return spec is not None and isinstance(spec.needs[0], Supply | Ground | Gives | Feed)


class Strand(NamedTuple):
    """A tie that is drawn as a cord."""

    tie: str
    lead: str
    to: str
    colour: str


@question
def strands(circuit: Circuit, part: str) -> list[Strand]:
    """The cords of a part's leads, lead by lead."""
    ties = [tie for tie in ties_of(circuit, part) if not is_stub(circuit, tie.lead)]
    return [Strand(tie.id, tie.lead, tie.to, colour_of(circuit, tie)) for tie in ties]


class Showing(Struct, frozen=True):
    """The leads of a card: in rows those of signals, one towards the board and beside it one that offers
    something to other parts; as tags those of supplies and grounds."""

    rows: tuple[tuple[str, str], ...]
    """(contact at the inner edge, contact at the outer edge), either may be empty"""
    tags: tuple[str, ...]
    more: int
    """leads that are not shown"""
    inside: tuple[str, ...]
    """parts that are folded into it"""
    all_shown: bool = False
    """the maker has asked for leads that would not be shown else"""

    @property
    def foot(self) -> bool:
        """The card has a line that folds and unfolds it."""
        return bool(self.more or self.inside or self.all_shown)


class Tree(Struct, frozen=True):
    """Every part with the hub that it hangs on."""

    parent: dict[str, str]
    children: dict[str, tuple[str, ...]]
    inside: dict[str, str]
    """parts that are folded away, with the hub whose card stands for them"""
    after: dict[str, str]
    """the parts of a daisy chain, each with the one before it"""

    def head(self, part: str) -> str:
        """The first part of the chain that a part stands in."""
        for _ in self.after:
            part = self.after.get(part, part)
        return part

    def depth(self, part: str) -> int:
        """How many hubs lie between a part and the board."""
        return 1 + self.depth(self.parent[part]) if part in self.parent else 0

    def below(self, part: str) -> tuple[str, ...]:
        """All parts that hang on a hub, directly and over others."""
        own = self.children.get(part)
        return (*own, *(x for child in own for x in self.below(child))) if own else ()


@question
def tree_of(circuit: Circuit) -> Tree:
    """The hubs with what hangs on them; a part hangs on the hub that most of its signals go to."""
    parent: dict[str, str] = {}
    after: dict[str, str] = {}
    votes: dict[str, dict[str, int]] = {}
    for owner, ways in _ways_of.all(circuit).items():
        for hub, hands_on, is_pin in ways:
            if hands_on and not _above(after, hub, owner):
                after.setdefault(owner, hub)
            elif is_pin:
                votes.setdefault(owner, {}).setdefault(hub, 0)
                votes[owner][hub] += 1
    for owner, hubs in votes.items():
        best = max(hubs, key=lambda h: hubs[h])
        if not _above(parent, best, owner):
            parent[owner] = best
    children: dict[str, list[str]] = {}
    for part in circuit.parts:  # in the plan's order
        if part in parent:
            children.setdefault(parent[part], []).append(part)
    inside = _folded_in(circuit, parent)
    parent = {p: h for p, h in parent.items() if p not in after}
    return Tree(
        parent, {h: tuple(c for c in kids if c not in after) for h, kids in children.items()}, inside, after
    )


def _folded_in(circuit: Circuit, parent: dict[str, str]) -> dict[str, str]:
    """Each part that a folded hub hides: {part: the outermost such hub}."""
    inside = {}
    for part in circuit.parts:
        here, hub = part, ""
        while here in parent:
            here = parent[here]
            hub = here if circuit.placed[here].shows == "folded" else hub
        if hub:
            inside[part] = hub
    return inside


@table
def _parents(circuit: Circuit) -> dict[str, str]:
    """Part by part, the hub that it hangs on."""
    return tree_of(circuit).parent


@table
def _folded_by_hub(circuit: Circuit) -> dict[str, list[str]]:
    """What each folded hub hides."""
    hidden: dict[str, list[str]] = {}
    for part, hub in tree_of(circuit).inside.items():
        hidden.setdefault(hub, []).append(part)
    return hidden


def _parts(circuit: Circuit) -> Iterable[str]:
    return circuit.parts


@each(_parts)
def _ways_of(circuit: Circuit, part: str) -> list[tuple[str, bool, bool]]:
    """(other part, whether a daisy chain goes on there, whether it is a hub's pin) of a part's ties to
    others."""
    ways = []
    for tie in ties_of(circuit, part):
        hub, pin = split(tie.to)[0], circuit.contacts.pin(tie.to)
        if hub in circuit.parts and hub != part:
            is_pin = pin is not None and pin.kind in ("io", "contact")
            ways.append((hub, _hands_on(circuit, tie.to), is_pin))
    return ways


def _hands_on(circuit: Circuit, contact: str) -> bool:
    """A contact over which a daisy chain goes on."""
    lead = circuit.contacts.lead(contact)
    return lead is not None and lead.offers is not None and lead.offers.kind == "io" and bool(lead.offers.via)


def _above(parent: dict[str, str], part: str, other: str) -> bool:
    """`other` is the part itself or one that it hangs on."""
    while part != other and part in parent:
        part = parent[part]
    return part == other


@question
def showing(circuit: Circuit, part_id: str, stacked: bool = False) -> Showing:
    """What a part's card shows: what is tied or has to be; all leads where they are few, or asked for.

    `stacked`: what hangs on a hub stands below it, so that their cords run from outer edge to outer edge.
    """
    part, shows = circuit.parts[part_id], circuit.placed[part_id].shows
    folded = tuple(_folded_by_hub(circuit).get(part_id, ()))
    inner: list[str] = []
    outer: list[str] = []
    tags: list[str] = []
    hub = _parents(circuit).get(part_id, "") if stacked else ""
    for name, lead in part.leads.items():
        contact = f"{part_id}.{name}"
        tie = circuit.ties.of(contact)
        # what comes from the part before in a chain comes in where that one's goes out: a short loop outside
        chained = tie is not None and (_hands_on(circuit, tie.to) or split(tie.to)[0] == hub)
        offers = chained or (lead.offers is not None and lead.offers.kind in ("io", "contact"))
        tied = contact in circuit.ties.at and not _to_folded(circuit, contact, folded)
        wanted = shows == "all" or len(part.leads) <= FEW or circuit.needs.required(contact)
        if tied or (wanted and shows != "folded") or (shows == "folded" and circuit.needs.required(contact)):
            (tags if is_tag(circuit, contact) else outer if offers else inner).append(contact)
    if hub:  # in the reverse order of the hub's, so that their cords lie one within another
        there = list(circuit.parts[hub].leads)
        outer.sort(key=lambda contact: -_place_on(circuit, contact, hub, there))
    return Showing(
        _rows(circuit, inner, outer),
        tuple(tags),
        len(part.leads) - len(inner) - len(outer) - len(tags),
        folded,
        shows == "all" and len(part.leads) > FEW,
    )


def _place_on(circuit: Circuit, contact: str, hub: str, there: list[str]) -> int:
    """Where on its hub a lead is tied, among the hub's leads; -1 for elsewhere."""
    tie = circuit.ties.of(contact)
    part, name = split(tie.to) if tie else ("", "")
    return there.index(name) if part == hub else -1


def _rows(circuit: Circuit, inner: list[str], outer: list[str]) -> tuple[tuple[str, str], ...]:
    """An output beside the input that drives it, then everything else side by side."""
    driven = {
        out: f"{split(out)[0]}.{lead.offers.driven_by}"
        for out in outer
        if (lead := circuit.contacts.lead(out)) and lead.offers and lead.offers.driven_by
    }
    pairs = [(given, out) for out, given in driven.items() if given in inner]
    near = [x for x in inner if x not in {a for a, _ in pairs}]
    far = [x for x in outer if x not in {b for _, b in pairs}]
    longer = max(len(near), len(far))
    return (*pairs, *zip(near + [""] * (longer - len(near)), far + [""] * (longer - len(far)), strict=True))


def _to_folded(circuit: Circuit, contact: str, folded: tuple[str, ...]) -> bool:
    """Everything tied to a contact is folded away."""
    ends = (circuit.ties.other_end(t, contact) for t in circuit.ties.at.get(contact, ()))
    return bool(folded) and all(split(end)[0] in folded for end in ends)
