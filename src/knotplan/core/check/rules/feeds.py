"""Rules about feeds: what feeds back while one supply is off, chains that are
fed too seldom, activities that meet."""

from collections.abc import Iterator
from typing import Literal

from msgspec.structs import replace

from knotplan.catalog.part.needs import Coupled, Ground, Input, Output, Pulse, Stream, Supply
from knotplan.core.check.asked import from_circuit, from_facts, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.finding import Severity
from knotplan.core.check.rules.remedies import own_supply, railed
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, supply_nodes, ties
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.engine.readings import pin_volts
from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError
from knotplan.core.finders.in_plan import proposals
from knotplan.core.match.exchanged import exchanged_supplies, is_unmet_lead, undriven_loads
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Diode, LevelShifter, SeriesResistor, lets_in
from knotplan.core.plan.document import Activity, Plan, Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.power.activities import overlaps
from knotplan.core.power.ladder import FEED_OHM, farthest_v, feeds_needed
from knotplan.core.power.node import Node
from knotplan.core.power.one_sided import Backfed, backfed
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

NOTICED_A, GRAVE_A = 1e-3, 20e-3
"""what an input's own diode is warranted for, and what destroys most of them"""


@rule(
    "drop-out",
    "Converter gets too little",
    "care",
    "A regulator makes its voltage only as long as what comes in lies above it by what it needs for "
    "itself; below that its output sinks along with its input.",
    "catalogue: how far the input has to lie above the output; the tree of supplies",
    each=supply_nodes,
)
def drop_out(facts: Facts, node: Node) -> Iterator[Observation]:
    c = facts.circuit
    source = c.parts[node.part].source if node.kind == "converter" else None
    if source is None:
        return
    needed = source.volts.typ + source.spare_v
    if node.arrives_v >= needed or is_unmet_lead(c, node.lead):
        return  # fed by a supply that could never do has a rule of its own
    grave, origin = node.arrives_usual_v < needed, c.supplies.origin(node.lead)
    flat = not grave and origin is not None and c.supplies.runs_down(origin)
    yield Observation(
        f"{c.titles.of(node.lead)} gets {show(node.arrives_usual_v, 'V')} usually, "
        f"{show(node.arrives_v, 'V')} at "
        f"worst; to make {show(source.volts.typ, 'V')} it needs {show(needed, 'V')}.",
        (node.lead,),
        (
            Number("arrives at worst", node.arrives_v, "V", needed, lower=True),
            Number("arrives usually", node.arrives_usual_v, "V", needed, lower=True),
        ),
        from_facts(_higher_supply, node.lead, needed),
        "stop" if grave else "note" if flat else None,
    )


def _higher_supply(facts: Facts, lead: str, least_v: float) -> Iterator[Remedy]:
    """From a supply of the bench that is high enough."""
    c = facts.circuit
    for contact, source in c.supplies.pluses.items():
        enough = source.volts.min >= least_v and split(contact)[0] != split(lead)[0]
        if enough and fit(c, lead, contact).grade <= Grade.GOOD:
            yield remedy(f"Feed it from {c.titles.full(contact)}", edits.tie, lead, contact)
    yield from own_supply(facts, lead, least_v)


@rule(
    "feed-blocked",
    "Diode the wrong way round in a feed",
    "stop",
    "A diode lets current through one way only: turned round, nothing arrives behind it.",
    "Shockley's junction law",
    each=ties,
)
def feed_blocked(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    spec, name = c.contacts.lead(tie.lead), c.placed[split(tie.lead)[0]].name
    if not tie.beads or spec is None or not isinstance(spec.needs[0], Supply | Coupled | Ground):
        return
    returns = isinstance(spec.needs[0], Ground)
    diodes = [(k, b) for k, b in enumerate(tie.beads) if isinstance(b, Diode) and lets_in(b) == returns]
    if diodes:
        right: Literal["lead", "pin"] = "pin" if returns else "lead"
        turned = tuple(Step(edits.change_bead, (tie.id, k, replace(b, towards=right))) for k, b in diodes)
        towards = name if returns else c.titles.full(tie.to)
        nothing = "nothing comes back from it" if returns else f"{name} gets nothing"
        yield Observation(
            f"The diode in {c.titles.of(tie.lead)} lets current through towards {towards} only: {nothing}.",
            (tie.lead,),
            remedies=given(Remedy("Turn the diode round", turned)),
        )


@rule(
    "back-fed",
    "Feeds what is switched off",
    "care",
    "While one supply is off, whatever is driven high from another one feeds it through the input's own "
    "diode: the dead side half wakes, and the diode or the driver may not survive it.",
    "nodal analysis with one supply off, each input with the diode to its supply; stop above 20 mA",
    each=of_circuit(backfed),
)
def back_fed(facts: Facts, b: Backfed) -> Iterator[Observation]:
    c = facts.circuit
    if b.amps < NOTICED_A or _has_rule_of_its_own(facts, b):
        return
    rail = c.supplies.origins[b.net].title
    off = facts.nodes[b.off].title
    over = "" if rail == off else f" over the {rail}"
    yield Observation(
        f"While {off} is off, {show(b.amps, 'A')} flow through {c.titles.full(b.contact)} into it{over}, "
        f"which rises to {show(b.volts, 'V')}.",
        (b.contact,),
        (Number("current", b.amps, "A", NOTICED_A), Number("dead supply rises to", b.volts, "V")),
        from_facts(_kept_out, b),
        _grave(c, b),
    )


def _grave(c: Circuit, b: Backfed) -> Severity | None:
    """A resistor on the way keeps it to what the diode bears: then it is worth knowing only."""
    if b.amps > GRAVE_A:
        return "stop"
    net = c.nets.members.get(c.nets.of(b.contact), [b.contact])
    held = any(isinstance(x, SeriesResistor) for m in net for t in c.ties.at.get(m, ()) for x in t.beads)
    return "note" if held else None


def _has_rule_of_its_own(facts: Facts, b: Backfed) -> bool:
    """A pin that bears no such voltage, a load straight on pins, or supplies exchanged: that is told
    already, and its remedy settles this too."""
    c = facts.circuit
    held = c.ties.holders.get(b.contact, []) or [t for t in (c.ties.of(b.contact),) if t is not None]
    parts = {split(t.lead)[0] for t in held}
    pin = c.contacts.pin(b.contact)
    over = pin is not None and any(
        r.max > as_fed(c, b.contact).max_v for r in pin_volts(c, facts.points, b.contact)
    )
    swapped = {split(lead)[0] for pair in exchanged_supplies(c) for lead in pair}
    return over or bool(parts & (set(undriven_loads(c)) | swapped))


def _kept_out(facts: Facts, b: Backfed) -> Iterator[Remedy]:
    """A buffer fed from the far side, or a divider, where that keeps the current small."""
    c = facts.circuit
    held = (
        c.ties.holders.get(b.contact, [])
        if c.contacts.pin(b.contact)
        else [t for t in (c.ties.of(b.contact),) if t is not None]
    )
    for tie in held:
        need = c.needs.of(tie.lead)
        tried = []
        if isinstance(need, Output | Pulse | Stream):
            buffer = railed(c, tie, LevelShifter("buffer"))
            tried.append(remedy("Put a buffer in, fed from the far side", edits.add_bead, tie.id, buffer))
        if isinstance(need, Input):
            for p in proposals(c, facts.points, tie):
                if p.finder == "divider":
                    try:
                        divider = p.remedy(BY_ID["divider"](p.values))
                    except FinderError:
                        continue
                    tried += [Remedy("Put a divider in", divider.steps)] if divider else []
        yield from (r for r in tried if _keeps_out(facts, r, b))


def _keeps_out(facts: Facts, wanted: Remedy, b: Backfed) -> bool:
    circuit = Circuit(wanted.apply(facts.circuit.plan), facts.catalog)
    return not any(x.contact == b.contact and x.amps >= NOTICED_A for x in backfed(circuit, b.off))


@rule(
    "chain-dim",
    "Chain fed at too few places",
    "care",
    "Every pixel's current flows past those before it; towards the end too little voltage is left, the far "
    "pixels turn reddish and then do nonsense.",
    "ladder network, every pixel at full current; catalogue: resistance from pixel to pixel",
    each=supply_nodes,
)
def chain_dim(facts: Facts, node: Node) -> Iterator[Observation]:
    c = facts.circuit
    px = c.parts[node.part].facts.pixels if node.kind in ("load", "hub") and node.lead else None
    volts = farthest_v(px, node.least_v)
    if px is None or volts is None or volts >= px.least_v:
        return
    feeds = int(px.feeds)
    wanted = feeds_needed(node.least_v, int(px.count), px.full_a, px.step_ohm, FEED_OHM, px.least_v)
    where = f"fed at {feeds} places" if feeds > 1 else "fed at its beginning"
    yield Observation(
        f"{c.placed[node.part].name}, {where}, has {_left(volts)} left at its farthest pixel when all "
        f"are white; it needs {show(px.least_v, 'V')}" + (f", which {wanted} feeds give." if wanted else "."),
        (node.part,),
        (Number("lowest voltage", max(0.0, volts), "V", px.least_v, lower=True), Number("feeds", feeds, "")),
        from_circuit(_fed, node.part, wanted),
        "stop" if volts <= 0 else None,
    )


def _left(volts: float) -> str:
    """Pixels that would be given less than nothing draw less instead: then nothing is left to speak of."""
    return show(volts, "V") if volts > 0 else "hardly anything"


def _fed(c: Circuit, part_id: str, wanted: int | None) -> Iterator[Remedy]:
    part = c.parts[part_id]
    name = part.parameter("feed points")
    if wanted is not None and name and part.params[name].fault(float(wanted)) is None:
        yield remedy(f"Feed it at {wanted} places", edits.set_param, part_id, name, float(wanted))


@rule(
    "activities-meet",
    "Activities that exclude one another meet",
    "care",
    "The worst case counts with only one of them; where both go on after all, the supply carries both.",
    "activities of the plan",
    each=lambda facts: overlaps(facts.circuit.activities, facts.circuit.cycle_s),
)
def activities_meet(facts: Facts, meeting: tuple[Activity, Activity, float]) -> Iterator[Observation]:
    one, other, at = meeting
    if not one.parts or not other.parts:
        return  # what has no loads draws nothing
    yield Observation(
        f"{one.title} and {other.title} exclude one another, and both go on at {show(at, 's')} of the cycle.",
        tuple(dict.fromkeys((*one.parts, *other.parts))),
        (Number("both at", at, "s"),),
        from_facts(_apart, one.id, other.id),
    )


def _apart(facts: Facts, one: str, other: str) -> Iterator[Remedy]:
    """The later one begins where the earlier one ends, if that is all that is needed."""
    plan = facts.circuit.plan
    for first, second in ((one, other), (other, one)):
        a = plan.activity(first)
        starts = (a.starts_s + a.lasts_s) % plan.cycle_s
        moved = edits.change_activity(plan, second, starts_s=starts)
        if not any({x.id, y.id} == {one, other} for x, y, _ in overlaps(moved.activities, moved.cycle_s)):
            title = f"Let {plan.activity(second).title} begin at {show(starts, 's')}"
            yield Remedy(title, (Step(_begins, (second, starts)),))
            return


def _begins(plan: Plan, activity: str, starts_s: float) -> Plan:
    return edits.change_activity(plan, activity, starts_s=starts_s)
