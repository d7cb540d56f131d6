"""Rules about what cords, fuses, capacitors and resistors have to bear."""

from collections.abc import Iterator

from msgspec.structs import replace

from knotplan.catalog.part.needs import Supply
from knotplan.core.check.asked import from_circuit, from_facts, on_demand
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.contacts import USUAL_OHM
from knotplan.core.check.rules.remedies import own_supply
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import leads, supply_nodes, ties
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import SIZES, bears, cord_of, cord_ohm, return_tie, size_words
from knotplan.core.circuit.supplies import Origin
from knotplan.core.engine.keys import of_bead
from knotplan.core.finders.bulk import RATINGS as CAPACITOR_VOLTS
from knotplan.core.finders.finder import RATINGS_W
from knotplan.core.finders.fuse import RATINGS as FUSES
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Bead, Capacitor, Diode, Fuse, PullDown, PullUp, SeriesResistor, bead_name
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.power.node import Node
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

FLAT = 0.8
"""of what a load needs: so little is worth no more than a note when cells are nearly empty"""


def _tied(facts: Facts, node: Node) -> Tie | None:
    """The tie on whose cord a node hangs."""
    return facts.circuit.ties.of(node.lead) if node.lead else None


@rule(
    "load-underfed",
    "Too little voltage arrives",
    "care",
    "What supplies and cords lose at worst is missing at the end: a servo hums, a display flickers, and it "
    "happens only when everything moves.",
    "Ohm's law along every cord, there and back; copper of 1.724e-8 ohm m (IACS)",
    each=supply_nodes,
)
def load_underfed(facts: Facts, node: Node) -> Iterator[Observation]:
    c, tie = facts.circuit, _tied(facts, node)
    if tie is None:
        return
    origin, slack = c.supplies.origin(node.lead), 1 - c.assumed("edge")
    least, usual = (
        (node.arrives_v, node.arrives_usual_v) if node.kind == "converter" else (node.least_v, node.usual_v)
    )
    if (
        node.needs_v is None
        or origin is None
        or origin.volts.typ < node.needs_v
        or least >= slack * node.needs_v
        or _drops_out(c, node, origin)
    ):
        return  # a supply that is too low by itself, and a regulator that drops out, have rules of their own
    grave = usual < slack * node.needs_v
    flat = not grave and c.supplies.runs_down(origin) and least >= FLAT * node.needs_v
    worst = show(least, "V") if least > 0 else "nothing"
    got = f"{show(max(usual, 0.0), 'V')} usually, {worst} at worst" if grave else f"{worst} at worst"
    lost, own = (min(v, origin.volts.min) for v in (origin.volts.min - least, node.drop_v))
    yield Observation(
        f"{c.titles.of(node.lead)} gets {got} and needs {show(node.needs_v, 'V')}: "
        f"{show(origin.volts.min, 'V')} are there, and {show(lost, 'V')} are lost on the "
        f"way, {show(own, 'V')} of that in {_own_way(c, tie)}."
        f"{' Its cells are nearly empty then.' if flat else ''}",
        (node.lead,),
        (
            Number("voltage that arrives", least, "V", node.needs_v, lower=True),
            Number("usually", usual, "V", node.needs_v, lower=True),
            Number("lost on its own way", node.drop_v, "V"),
            Number("worst current", node.drawn.worst_a, "A"),
        ),
        from_facts(_better_fed, node, tie, least),
        "stop" if grave else "note" if flat else None,
    )


def _drops_out(c: Circuit, node: Node, origin: Origin) -> bool:
    """A converter on a supply that may lie below what it needs, whatever the cords lose."""
    source = c.parts[node.part].source if node.kind == "converter" else None
    return source is not None and origin.volts.min < source.volts.typ + source.spare_v


def _own_way(c: Circuit, tie: Tie) -> str:
    """The cord, and what sits in it."""
    back = return_tie(c, split(tie.lead)[0])
    within = f" with its {_in_the_way(tie)}" if _in_the_way(tie) else ""
    beyond = (
        f" and the {_in_the_way(back)} in {c.titles.own(back.lead)}" if back and _in_the_way(back) else ""
    )
    cords = [cord_of(c, t).words for t in (tie, back) if t is not None]
    if len(set(cords)) > 1:
        return f"its own cords ({cords[0]} there, {cords[1]} back){within}{beyond}"
    return f"its own cord ({cords[0]}){within}{beyond}"


def _in_the_way(tie: Tie) -> str:
    beads = [bead_name(b) for b in tie.beads if isinstance(b, SeriesResistor | Diode)]
    return " and ".join(dict.fromkeys(beads))


def _without_diodes(tie: Tie) -> Iterator[Remedy]:
    """Of several in a row, all exchanged at once; or none."""
    diodes = [(k, b) for k, b in enumerate(tie.beads) if isinstance(b, Diode)]
    if len(diodes) > 1:
        better = (Step(edits.change_bead, (tie.id, k, replace(b, style="schottky"))) for k, b in diodes)
        yield Remedy(f"Take {len(diodes)} Schottky diodes", tuple(better))
    if diodes:
        out = tuple(Step(edits.remove_bead, (tie.id, k)) for k, _ in reversed(diodes))
        yield Remedy("Take the diodes out" if len(diodes) > 1 else "Take the diode out", out)


def _better_fed(facts: Facts, node: Node, tie: Tie, least: float) -> Iterator[Remedy]:
    """Without a resistor in the feed, or with a diode that takes less; else the next cords, there and back,
    that lose little enough; else another supply."""
    c, part_id = facts.circuit, split(node.lead)[0]
    there_and_back = [t for t in (tie, return_tie(c, split(tie.lead)[0])) if t is not None]
    for own in there_and_back:
        for at, bead in enumerate(own.beads):
            if isinstance(bead, SeriesResistor):
                yield remedy(f"Take out the {show(bead.ohm, 'Ω')} resistor", edits.remove_bead, own.id, at)
            if isinstance(bead, Diode) and bead.style == "silicon":
                better = replace(bead, style="schottky")
                yield remedy("Take a Schottky diode", edits.change_bead, own.id, at, better)
        yield from _without_diodes(own)
    cords = [(t, cord_of(c, t)) for t in there_and_back]
    missing = (1 - c.assumed("edge")) * (node.needs_v or 0.0) - least
    for mm2 in (size for size in SIZES if bears(size) >= node.drawn.worst_a):
        thinner = [(t, cord) for t, cord in cords if cord.mm2 < mm2]
        saved = (
            sum(cord_ohm(cord.length_m, cord.mm2) - cord_ohm(cord.length_m, mm2) for _, cord in thinner)
            * node.drawn.worst_a
        )
        if saved > missing:
            ways = "there and back" if len(thinner) > 1 else f"in {c.titles.own(thinner[0][0].lead)}"
            yield Remedy(
                f"Take {size_words(mm2)} for {c.placed[part_id].name}, {ways}",
                tuple(Step(edits.set_cord, (t.id, None, mm2)) for t, _ in thinner),
            )
            return
    yield from (r for r in own_supply(facts, node.lead) if r.apply(c.plan) != c.plan)


@rule(
    "supply-high",
    "More voltage than the part is made for",
    "care",
    "Fresh cells, and supplies at the upper end of their tolerance, give more than they usually do. Beyond "
    "its range a part wears out early, or fails.",
    "catalogue: range of the part's supply, greatest voltage of what feeds it; the assumption about edges",
    each=leads,
)
def supply_high(facts: Facts, lead: str) -> Iterator[Observation]:
    c = facts.circuit
    tie, need = c.ties.of(lead), c.needs.of(lead)
    if tie is None or not isinstance(need, Supply):
        return
    origin = c.supplies.origin(lead)
    if origin is None:
        return
    if need.most_v * (1 + c.assumed("edge")) < origin.volts.max and origin.volts.typ <= need.most_v:
        yield Observation(
            f"{c.titles.of(lead)} gets {show(origin.volts.typ, 'V')} usually and up to "
            f"{show(origin.volts.max, 'V')} from {origin.title}; it is made for {show(need.most_v, 'V')} at "
            "most.",
            (lead, tie.to),
            (Number("most voltage", origin.volts.max, "V", need.most_v),),
            from_facts(own_supply, lead),
        )


@rule(
    "cord-hot",
    "Cord carries more than it bears",
    "stop",
    "A cord that is too thin gets hot, its insulation softens, and the fuse of the supply never notices.",
    "usual figures for cords in free air, on the safe side of IEC 60364-5-52, which begins at 1.5 mm²",
    each=supply_nodes,
)
def cord_hot(facts: Facts, node: Node) -> Iterator[Observation]:
    c, there = facts.circuit, _tied(facts, node)
    if there is None:
        return
    amps, back = node.drawn.worst_a, return_tie(c, split(there.lead)[0])
    for tie in (there, back) if back is not None else (there,):
        mm2 = cord_of(c, tie).mm2
        limit = bears(mm2)
        if amps > limit:
            yield Observation(
                f"The cord of {c.titles.of(tie.lead)} ({mm2:g} mm²) carries {show(amps, 'A')} at worst and "
                f"bears {show(limit, 'A')}.",
                (tie.lead,),
                (Number("worst current", amps, "A", limit),),
                from_circuit(_thicker, tie, amps),
            )


def _thicker(c: Circuit, tie: Tie, amps: float) -> Iterator[Remedy]:
    size = next((s for s in SIZES if bears(s) >= amps), None)
    if size is not None:
        yield remedy(
            f"Take {size_words(size)} for {c.titles.of(tie.lead)}", edits.set_cord, tie.id, None, size
        )


@rule(
    "fuse-wrong",
    "Fuse that opens too soon or too late",
    "care",
    "A fuse below the load's current opens in use; one above what its cord bears opens after the cord has "
    "burnt.",
    "makers' usual advice: three quarters of a fuse's rating for ever; what cords bear in free air",
    each=supply_nodes,
)
def fuse_wrong(facts: Facts, node: Node) -> Iterator[Observation]:
    c, tie = facts.circuit, _tied(facts, node)
    for at, bead in enumerate(tie.beads if tie is not None else ()):
        if tie is None or not isinstance(bead, Fuse):
            continue
        usual, limit = node.drawn.usual_a, bears(cord_of(c, tie).mm2)
        load = c.assumed("fuse_load")
        soon, late = usual > load * bead.amps, bead.amps > limit
        if soon or late:
            why = (
                f"carries {show(usual, 'A')} for ever, and lasts with {show(load * bead.amps, 'A')}"
                if soon
                else f"is above the {show(limit, 'A')} that its cord bears"
            )
            yield Observation(
                f"The {show(bead.amps, 'A')} fuse of {c.titles.of(node.lead)} {why}.",
                (node.lead,),
                (Number("usual current", usual, "A", load * bead.amps), Number("cord bears", limit, "A")),
                on_demand(_fitting, tie, at, usual / load, limit),
            )


def _fitting(tie: Tie, at: int, wanted_a: float, limit: float) -> Iterator[Remedy]:
    rating = next((r for r in FUSES if wanted_a <= r <= limit), None)
    if rating is not None:
        yield remedy(f"Take a fuse of {show(rating, 'A')}", edits.change_bead, tie.id, at, Fuse(rating))


@rule(
    "capacitor-rating",
    "Capacitor below its voltage",
    "stop",
    "An electrolytic capacitor above its voltage swells and bursts; a ceramic one loses most of what it "
    "holds.",
    "ratings of capacitors; half as much again over the supply's most",
    each=ties,
)
def capacitor_rating(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    for at, bead in enumerate(tie.beads):
        origin = c.supplies.origin(tie.lead) or c.supplies.origin(tie.to)
        if isinstance(bead, Capacitor) and origin is not None and bead.volts < origin.volts.max:
            yield Observation(
                f"The {show(bead.farad, 'F')} capacitor at {c.titles.of(tie.lead)} is made for "
                f"{show(bead.volts, 'V')} and sees {show(origin.volts.max, 'V')}.",
                (tie.lead,),
                (Number("most voltage", origin.volts.max, "V", bead.volts),),
                on_demand(_rated, tie, at, bead, origin.volts.max),
            )


def _rated(tie: Tie, at: int, bead: Capacitor, volts: float) -> Iterator[Remedy]:
    rating = next((r for r in CAPACITOR_VOLTS if r >= 1.5 * volts), None)
    if rating is not None:
        yield remedy(
            f"Take one for {show(rating, 'V')}", edits.change_bead, tie.id, at, replace(bead, volts=rating)
        )


@rule(
    "resistor-hot",
    "Resistor above its rating",
    "care",
    "A resistor at its rating is too hot to touch and drifts; beyond it, it burns. Half of the rating is "
    "what lasts.",
    "power I²R by nodal analysis; rating of the resistor; stop above the rating",
    each=ties,
)
def resistor_hot(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    for at, bead in enumerate(tie.beads):
        if not isinstance(bead, SeriesResistor | PullUp | PullDown):
            continue
        amps = max(
            (r.most for r in facts.points.bars.get(of_bead(tie.id, at), []) if r.case.moment == "running"),
            default=0.0,
        )
        watt, rating = (
            amps * amps * bead.ohm,
            bead.rating_w if isinstance(bead, SeriesResistor) else RATINGS_W[0],
        )
        share = c.assumed("resistor_load")
        if watt > rating * share:
            yield Observation(
                f"The {show(bead.ohm, 'Ω')} resistor in {c.titles.of(tie.lead)} turns {show(watt, 'W', 2)} "
                f"into heat; it is made for {show(rating, 'W')}, and lasts with {show(share, '%')} of that.",
                (tie.lead,),
                (Number("power", watt, "W", rating * share), Number("most current", amps, "A")),
                on_demand(_larger, tie, at, bead, watt / share),
                "stop" if watt > rating else None,
            )


def _larger(tie: Tie, at: int, bead: Bead, wanted_w: float) -> Iterator[Remedy]:
    if isinstance(bead, PullUp | PullDown):
        wanted = replace(bead, ohm=USUAL_OHM)
        yield remedy(f"Take {show(USUAL_OHM, 'Ω')}", edits.change_bead, tie.id, at, wanted)
    rating = next((w for w in RATINGS_W if w >= wanted_w), None)
    if rating is not None and isinstance(bead, SeriesResistor):
        yield remedy(
            f"Take one of {show(rating, 'W')}", edits.change_bead, tie.id, at, replace(bead, rating_w=rating)
        )
