"""Rules about what feeds what."""

import math
from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from knotplan.catalog.part.elements import Load
from knotplan.catalog.part.needs import Feed, Supply
from knotplan.core.check.asked import from_facts, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import own_supply, untied
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, parts, poles_of_nets
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.joins import joining_ties
from knotplan.core.circuit.nets import rail_name
from knotplan.core.circuit.supplies import Origin, Pole
from knotplan.core.engine.solver.network import Samples, Topology
from knotplan.core.engine.solver.newton import solve
from knotplan.core.finders.fuse import RATINGS
from knotplan.core.match.exchanged import reversed_supplies
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Fuse
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.ids import slug
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.power.tree import feeding
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def sagged(origin: Origin, amps: float) -> float:
    """The least voltage of a supply behind its own resistance, while a load draws `amps`."""
    one = np.ones((1, 1))
    none = np.zeros((0, 1))
    topology = Topology(1, 1, ((-1, 0),), (), (0,))
    values = Samples(one * origin.volts.min, one / origin.source_ohm, none, none, one * amps)
    return float(solve(topology, values).volts[0, 0])


@rule(
    "short-circuit",
    "Short circuit",
    "stop",
    "A supply whose two ends are joined with nothing between drives all the current it can give through the "
    "cord: a fuse opens, or something melts.",
    "Kirchhoff's voltage law",
    each=poles_of_nets,
)
def short_circuit(facts: Facts, poles: list[Pole]) -> Iterator[Observation]:
    low = next((p for p in poles if p.volts.max == 0), None)
    for high in poles:
        if low and high.volts.max > 0 and split(high.id)[0] not in reversed_supplies(facts.circuit):
            yield _joined(facts, f"{high.title} and {low.title}", high, low)


@rule(
    "supplies-joined",
    "Two supplies on one net",
    "stop",
    "Two supplies never have quite the same voltage; joined, the higher one drives its current back into the "
    "lower one, which is not made for that.",
    "Kirchhoff's laws; voltages of the supplies by the catalogue",
    each=poles_of_nets,
)
def supplies_joined(facts: Facts, poles: list[Pole]) -> Iterator[Observation]:
    c = facts.circuit
    if any(p.volts.max == 0 for p in poles):  # a short circuit, which has a rule of its own
        return
    for one, other in pairwise(poles):
        if len(poles) == 2 and one.rail and c.supplies.taken_in(one.rail):
            continue  # the rail's pins are made for a supply
        text = f"{_with_volts(one)} and {_with_volts(other)}"
        draft = _joined(facts, text, one, other)
        if len(poles) == 2 and _feeds(c, one, other):
            ties = joining_ties(c, one.id, other.id)
            if any(isinstance(b, Fuse) for t in ties for b in t.beads):
                continue
            draft = replace(
                draft,
                severity="note",
                title="Board fed past its socket",
                message=f"{text}: the board is fed past its socket, and past the fuse there.",
                remedies=from_facts(_fused, ties, split(other.id)[0]),
            )
        yield draft


def _fused(facts: Facts, ties: list[Tie], supply: str) -> Iterator[Remedy]:
    """A fuse of its own in the feed, for what flows there."""
    drawn = max((b.worst_a for b in facts.budgets.values() if b.part == supply), default=0.0)
    rating = next((r for r in RATINGS if r * facts.circuit.assumed("fuse_load") >= drawn), None)
    if ties and rating is not None:
        yield remedy(f"Add a fuse of {show(rating, 'A')}", edits.add_bead, ties[0].id, Fuse(rating))


def _feeds(c: Circuit, rail: Pole, supply: Pole) -> bool:
    """The supply is all that feeds the board, over this rail, and within what the rail is made for."""
    within = rail.volts.min <= supply.volts.min and supply.volts.max <= rail.volts.max
    return rail.rail == c.supplies.fed_rail and split(supply.id)[0] == c.supplies.past_socket and within


def _with_volts(pole: Pole) -> str:
    return f"{pole.title} ({pole.volts.min:g} – {pole.volts.max:g} V)"


def _joined(facts: Facts, text: str, one: Pole, other: Pole) -> Observation:
    """The draft about two poles on one net; its remedies untie what alone joins them."""
    c = facts.circuit
    ties = joining_ties(c, one.id, other.id)
    own = [p.id for p in (one, other) if c.contacts.lead(p.id)]
    return Observation(
        f"{text} are joined with nothing between.",
        tuple(dict.fromkeys([*own, *(t.lead for t in ties)])),
        (Number(one.title, one.volts.typ, "V"), Number(other.title, other.volts.typ, "V")),
        given(*[untied(c, t) for t in ties]),
    )


@rule(
    "supply-reversed",
    "Supply the wrong way round",
    "stop",
    "With plus on ground and minus on a rail everything on that rail is fed backwards, which most parts do "
    "not survive.",
    "Kirchhoff's voltage law",
    each=of_circuit(reversed_supplies),
)
def supply_reversed(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    source = c.supplies.on_bench[part_id]
    plus, minus = f"{part_id}.{source.plus}", f"{part_id}.{source.minus}"
    yield Observation(
        f"{c.titles.of(plus)} is joined to ground and {c.titles.of(minus)} to what has to be fed: the "
        "supply is the wrong way round.",
        (plus, minus),
        (Number("voltage", -source.volts.typ, "V"),),
        given(remedy(f"Turn {c.placed[part_id].name} round", edits.turn_round, plus, minus)),
    )


@rule(
    "jerky-load-on-board",
    "Motor or servo on a board rail",
    "care",
    "A motor draws its stall current at every start; on the board's own rail that pulls the voltage down, "
    "and the board resets in the middle of its work.",
    "catalogue: stall current of the load, source resistance of the rail",
    each=parts,
)
def jerky_load_on_board(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    part = c.parts[part_id]
    for e in part.elements.values():
        lead = f"{part_id}.{e.a}"
        if not isinstance(e, Load) or c.ties.of(lead) is None:
            continue
        need, origin = c.needs.of(lead), c.supplies.origin(lead)
        if not (isinstance(need, Supply) and need.jerks and origin and origin.on_board):
            continue
        above = feeding(c).get(lead)
        if above is not None and above.kind in ("supply", "converter"):
            continue  # at the supply itself, beside the board
        rail = c.board.rails[origin.id]
        in_all, node = facts.budgets.get(f"rail:{origin.id}"), facts.nodes.get(rail_name(origin.id))
        all_a = max(e.worst_a, in_all.worst_a if in_all is not None else 0.0)
        volts = min(
            sagged(origin, all_a), node.least_v if node else math.inf
        )  # what feeds the board sags as well
        grave = rail.holds_v is not None and volts < rail.holds_v
        tail = f"; the board resets below {show(rail.holds_v, 'V')}" if rail.holds_v else ""
        yield Observation(
            f"{c.placed[part_id].name} draws {show(e.worst_a, 'A')} when it starts or stalls. With "
            f"{show(all_a, 'A')} in all, the {origin.title} falls to {show(volts, 'V')}{tail}.",
            (lead,),
            (
                Number("stall current", e.worst_a, "A"),
                Number("rail's worst current", all_a, "A"),
                Number("rail at the least", volts, "V", rail.holds_v, lower=True),
            ),
            from_facts(own_supply, lead),
            "stop" if grave else None,
        )


@rule(
    "board-unfed",
    "Nothing feeds the board yet",
    "to-do",
    "Without a supply in the plan the budgets count with the limit of the socket itself.",
    "catalogue: sockets of the board",
)
def board_unfed(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    if c.supplies.feeds or c.supplies.past_socket or not c.parts:
        return
    socket = c.board.sockets[c.supplies.socket]
    budget = facts.budgets.get(f"supply:{c.supplies.socket}")
    worst = budget.worst_a if budget is not None else 0.0
    able = [s for s in c.board.sockets.values() if s.limit_a >= worst]
    enough = (
        f"{' or '.join(s.title for s in able)} can give that" if able else "none of its sockets gives that"
    )
    yield Observation(
        f"No supply is planned. Board and parts draw up to {show(worst, 'A')}: {enough}. Until then the "
        f"budgets count as if {socket.title} gave {show(socket.limit_a, 'A')}.",
        (f"{BOARD}.{c.supplies.socket}",),
        (Number("drawn at worst", worst, "A"), Number("assumed limit", socket.limit_a, "A")),
        from_facts(_usb),
    )


def _usb(facts: Facts) -> tuple[Remedy, ...]:
    ways = []
    for part in facts.catalog.proposed("USB supply"):
        brick = slug(part.title, set(facts.circuit.placed))
        plug = next(name for name, lead in part.leads.items() if isinstance(lead.needs[0], Feed))
        added = Step(edits.add_part, (part.id, part.title))
        plugged = Step(edits.tie, (f"{brick}.{plug}", f"{BOARD}.{facts.circuit.supplies.socket}"))
        ways.append(Remedy(f"Add a {part.title}", (added, plugged)))
    return tuple(ways)
