"""What a solution says: voltages, currents, and what is drawn from each supplied net."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Bipolar
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cache import Record
from knotplan.core.engine.cluster import Cluster
from knotplan.core.engine.keys import of_part, of_pin
from knotplan.core.engine.readings import Draw, Points, Sweep
from knotplan.core.engine.samples import supplied_nets
from knotplan.core.engine.solver.network import Floats, Solution
from knotplan.core.plan.document import BOARD, split


def record_of(circuit: Circuit, cluster: Cluster, found: Solution) -> Record:
    """Everything that a solution says, as it is kept from one analysis to the next."""
    cases, shape = cluster.cases, (len(cluster.cases), -1)

    def row(values: Floats) -> Sweep:
        return Sweep(cases, values.reshape(shape))

    bars = {bar.key: amps for bar, amps in zip(cluster.bars, found.resistor_a, strict=True)}
    drops = {drop.key: amps for drop, amps in zip(cluster.drops, found.junction_a, strict=True)}
    record = Record(
        {node: row(volts) for node, volts in zip(cluster.nodes, found.volts, strict=True)},
        {key: row(amps) for key, amps in bars.items()},
    )
    for drop in cluster.drops:
        back = drops.get(
            drop.key.its("back")
        )  # of a channel or a zener diode: what is left over of both directions
        both = back is not None and (drop.square or not drop.third)
        record.junctions[drop.key] = row(drops[drop.key] - back if both else drops[drop.key])
    for pin in cluster.pins:
        record.pins[pin] = row(bars[of_pin(pin).its("high")] - bars[of_pin(pin).its("low")])
    record.draws.extend(_draws(circuit, cluster, found))
    return record


def _draws(circuit: Circuit, cluster: Cluster, solution: Solution) -> Iterator[tuple[str, Draw]]:
    """What the cluster takes from each supplied net, in its hungriest running case."""
    homes = {
        n: home
        for n, home in zip(cluster.fixed, supplied_nets(cluster), strict=True)
        if home in circuit.supplies.origins
    }
    totals: dict[str, Floats] = {}
    for end, amps in _flows(cluster, solution) if homes else ():
        if end in homes:
            before = totals.get(end)
            totals[end] = amps if before is None else before + amps
    running = [k for k, case in enumerate(cluster.cases) if case.moment == "running"] or list(
        range(len(cluster.cases))
    )
    for node, total in totals.items():
        table = total.reshape(len(cluster.cases), -1)[running]
        yield (
            homes[node],
            Draw(cluster.loads, max(0.0, float(table[:, 0].max())), max(0.0, float(table.max()))),
        )


def put_record(points: Points, record: Record) -> None:
    """Puts what is known of a cluster among the points."""
    points.volts.rows.update(record.volts)
    points.bars.rows.update(record.bars)
    points.junctions.rows.update(record.junctions)
    points.pins.rows.update(record.pins)
    for net, draw in record.draws:
        points.draws[net].append(draw)


def put_transistor_currents(circuit: Circuit, points: Points) -> None:
    """The current into a hub's contact behind which the engine has a transistor."""
    for contact in circuit.ties.holders:
        part_id, element = split(contact)[0], circuit.hardware.driver(contact).element
        if part_id != BOARD and element:
            bipolar = isinstance(circuit.parts[part_id].elements.get(element), Bipolar)
            key = of_part(part_id, element).its("collector" if bipolar else "")
            points.pins.put_negative(contact, points.bars if bipolar else points.junctions, key)


def _flows(cluster: Cluster, solution: Solution) -> Iterator[tuple[str, Floats]]:
    """(node, current out of it) for each end of each element."""
    for bar, amps in zip(cluster.bars, solution.resistor_a, strict=True):
        yield bar.a, amps
        yield bar.b, -amps
    for k, (drop, amps) in enumerate(zip(cluster.drops, solution.junction_a, strict=True)):
        third = solution.third_a[k] if solution.third_a is not None and drop.third else 0.0 * amps
        sign = 1.0 if drop.at == "a" else -1.0
        yield drop.third, sign * third
        yield drop.a, amps - (third if drop.at == "a" else 0.0)
        yield drop.b, -amps + (third if drop.at == "b" else 0.0)
