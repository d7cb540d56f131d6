"""Rules about what gets hot: regulators, and transistors that are half open."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Bipolar, Fet
from knotplan.catalog.part.part import Part
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import lower_gate, own_supply, stronger_switch
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import pins, supply_nodes
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.readings import Reading
from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError
from knotplan.core.finders.in_plan import proposals
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.power.node import Node
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

KELVIN_PER_WATT = 65.0
"""junction to air, of a regulator in an upright package without a heat
sink, where the catalogue says nothing"""
MOST = 125.0
"""degrees Celsius inside, at which a regulator switches itself off"""
OPEN_V = 0.4
"""more than this across a switch that is on says that it is half open"""
HOT_W = 0.4
"""what a small transistor bears without a heat sink"""


@rule(
    "regulator-hot",
    "Regulator too hot",
    "care",
    "A linear regulator turns every volt that it takes away into heat; at its limit it switches itself "
    "off, again and again.",
    "P = (V_in - V_out) I; T = T_air + P R_th (65 K/W where the catalogue says nothing; T_air is an "
    "assumption of the plan)",
    each=supply_nodes,
)
def regulator_hot(facts: Facts, node: Node) -> Iterator[Observation]:
    c = facts.circuit
    theta, air = _theta(c, node), c.assumed("air")
    if theta is None or node.heat_w * theta + air <= MOST:
        return
    hot = node.heat_w * theta + air
    subject = node.rail or node.id
    yield Observation(
        f"{node.title} turns {show(node.heat_w, 'W', 2)} into heat at worst, at "
        f"{show(node.total.worst_a, 'A')}: it would reach {hot:.0f} °C and switches off at {MOST:.0f} °C.",
        (subject,),
        (Number("heat", node.heat_w, "W", (MOST - air) / theta), Number("temperature", hot, "°C", MOST)),
        from_facts(_cooler, node),
    )


def _theta(c: Circuit, node: Node) -> float | None:
    """Thermal resistance of a linear regulator; nothing for others."""
    if node.kind == "converter":
        source = c.parts[node.part].source
        return None if source is None or source.efficiency else source.kelvin_per_watt or KELVIN_PER_WATT
    rail = c.board.rails.get(node.rail)
    return (
        None
        if rail is None or rail.efficiency or not rail.fed_from
        else rail.kelvin_per_watt or KELVIN_PER_WATT
    )


def _cooler(facts: Facts, node: Node) -> Iterator[Remedy]:
    """A switching converter instead, or the largest load fed from elsewhere."""
    c = facts.circuit
    if node.part:
        for new in facts.catalog.proposed("switching converter"):
            params = _same_output(c, node.part, new)
            if params is not None and set(new.leads) == set(c.parts[node.part].leads):
                same = {n: n for n in new.leads}
                title = f"Exchange {node.title} for a {new.title[0].lower()}{new.title[1:]}"
                yield remedy(title, edits.exchange_part, node.part, new.id, params, same)
                return
    elif node.kind == "rail":
        largest = max((n for n in node.leaves() if n.lead), key=lambda n: n.total.worst_a, default=None)
        if largest is not None:
            yield from own_supply(facts, largest.lead)


@rule(
    "switch-half-open",
    "Transistor only half open",
    "care",
    "A transistor that gets too little at its base or gate stands between on and off: the load misses that "
    "voltage, and the transistor turns it into heat.",
    "Ebers and Moll's equations, square law of the channel, by nodal analysis; stop where it gets hot",
    each=pins,
)
def switch_half_open(facts: Facts, contact: str) -> Iterator[Observation]:
    c = facts.circuit
    part_id = split(contact)[0]
    if part_id == BOARD or not c.hardware.driver(contact).element:
        return
    e = c.parts[part_id].elements.get(c.hardware.driver(contact).element)
    if not isinstance(e, Bipolar | Fet) or (worst := _worst(facts, contact, f"{part_id}.{e.b}")) is None:
        return
    volts, amps = worst
    watt = volts * amps
    wanting = c.ties.of(f"{part_id}.{e.a}")
    yield Observation(
        f"{c.titles.of(contact)} keeps up to {show(volts, 'V')} for itself while it carries "
        f"{show(amps, 'A')}: {show(watt, 'W', 2)} of heat, and its {c.parts[part_id].leads[e.a].title} gets "
        "too little.",
        (contact,),
        (
            Number("voltage across it", volts, "V", OPEN_V),
            Number("current", amps, "A"),
            Number("heat", watt, "W", HOT_W),
        ),
        from_facts(_opened, contact, wanting),
        "stop" if watt > HOT_W else None,
    )


def _worst(facts: Facts, contact: str, foot: str) -> tuple[float, float] | None:
    """(volts above its foot, amperes) in the running case in which a switch that is on keeps most for
    itself, at the least favourable corner, if that is too much."""
    c = facts.circuit
    amps = [r for r in facts.points.pins.get(contact, []) if r.case.moment == "running"]
    volts: dict[object, Reading] = {r.case: r for r in facts.points.volts.get(c.nets.of(contact), [])}
    below = {
        r.case: r.min for r in facts.points.volts.get(c.nets.of(foot), [])
    }  # no case of its own: it is ground
    most = max((abs(r.typ) for r in amps), default=0.0)
    on = [
        (volts[r.case].max - below.get(r.case, 0.0), abs(r.typ))
        for r in amps
        if r.case in volts and abs(r.typ) > 0.2 * most and most > 1e-3
    ]
    worst = max(on, default=None, key=lambda x: x[0] * x[1])
    return worst if worst is not None and worst[0] > OPEN_V else None


def _same_output(c: Circuit, part_id: str, new: Part) -> dict[str, str | float] | None:
    """What of a converter's choices another one can be given too; nothing where it lacks one of them."""
    chosen = {k: v for k, v in c.placed[part_id].params.items() if k in new.params}
    return chosen if all(new.params[k].fault(v) is None for k, v in chosen.items()) else None


def _opened(facts: Facts, contact: str, tie: Tie | None) -> Iterator[Remedy]:
    """The base resistor that the value finder names; else a transistor that opens at what the pin gives."""
    c = facts.circuit
    if tie is None:
        return
    for p in (p for p in proposals(c, facts.points, tie) if p.finder == "base"):
        try:
            answer = BY_ID["base"](p.values)
        except FinderError:
            continue
        fix = p.remedy(answer)
        if fix is not None and not answer.chosen.fault and not answer.cautions:
            yield fix
            return
    # no resistor lets the pin give enough: a gate needs no current
    for load in c.ties.holders.get(contact, ()):
        yield from stronger_switch(facts, load)
    yield from lower_gate(facts, split(tie.lead)[0])
