"""Operating points: the voltage of every net and the current through everything, in every case."""

import logging

import numpy as np

from knotplan.catalog.part.elements import Bipolar
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import TRANSISTORS, having
from knotplan.core.engine.keys import Key, of_part
from knotplan.core.engine.readings import Case, Draw, Points, Readings, Sweep
from knotplan.core.engine.records import records
from knotplan.core.memory.question import each, question, table
from knotplan.core.plan.document import BOARD, split

log = logging.getLogger(__name__)


def operating_points(c: Circuit) -> Points:
    """Everything that is resistive in a circuit, solved; raises SolveError."""
    return Points(
        Readings(volts(c)),
        Readings(junctions(c)),
        Readings(bars(c)),
        Readings(pins(c)),
        draws(c),
    )


@question
def failure(c: Circuit) -> str:
    """Why voltages and currents could not be computed; empty where they could."""
    try:
        len(records(c))
    except Exception as error:
        log.exception("the engine failed")
        return f"{type(error).__name__}: {error}"
    return ""


def known_points(c: Circuit) -> Points:
    """The operating points; none where the engine failed."""
    return Points() if failure(c) else operating_points(c)


@table
def volts(c: Circuit) -> dict[str, Sweep]:
    """By net."""
    found = {net: sweep for record in records(c).values() for net, sweep in record.volts.items()}
    given = volts.known(c)
    for net, origin in c.supplies.origins.items():
        r = origin.volts
        found[net] = _given(given.get(net), (r.typ, r.min, r.max))
    found[c.nets.ground] = _given(given.get(c.nets.ground), (0.0,))
    return found


def _given(before: Sweep | None, values: tuple[float, ...]) -> Sweep:
    """A given voltage as a sweep; the one before where it is the same."""
    if before is not None and before.values.tolist() == [list(values)] and before.cases == RUNNING:
        return before
    return Sweep(RUNNING, np.array([values]))


RUNNING = [Case("running")]


@table
def junctions(c: Circuit) -> dict[Key, Sweep]:
    """Current by element of a part or bead."""
    return {key: sweep for record in records(c).values() for key, sweep in record.junctions.items()}


@table
def bars(c: Circuit) -> dict[Key, Sweep]:
    """Current by element of a part or bead."""
    return {key: sweep for record in records(c).values() for key, sweep in record.bars.items()}


@table
def pins(c: Circuit) -> dict[str, Sweep]:
    """Current out of a pin (negative: into it), by its contact; into a hub's contact behind which the engine
    has a transistor, that of the transistor."""
    known = pins.known(c)
    found = {pin: sweep for record in records(c).values() for pin, sweep in record.pins.items()}
    for contact, at in _transistor_at.all(c).items():
        assert at is not None
        key, bipolar = at
        sweep = (bars(c) if bipolar else junctions(c)).get(key)
        if sweep is not None:
            before = known.get(contact)
            same = before is not None and before.negative_of is sweep
            found[contact] = (
                before if before is not None and same else Sweep(sweep.cases, -sweep.values, sweep)
            )
    return found


def _of_transistors(c: Circuit) -> list[str]:
    """The contacts in use of hubs that have transistors."""
    offered = [(part_id, name) for part_id in having(c, TRANSISTORS) for name in c.parts[part_id].leads]
    contacts = [f"{part_id}.{name}" for part_id, name in offered]
    return [contact for contact in contacts if contact in c.ties.holders]


@each(_of_transistors)
def _transistor_at(c: Circuit, contact: str) -> tuple[Key, bool] | None:
    """(the element whose current it is, it is a bipolar one) of a hub's contact in use."""
    part_id, element = split(contact)[0], c.hardware.driver(contact).element
    if part_id == BOARD or not element:
        return None
    bipolar = isinstance(c.parts[part_id].elements.get(element), Bipolar)
    return of_part(part_id, element).its("collector" if bipolar else ""), bipolar


@table
def draws(c: Circuit) -> dict[str, list[Draw]]:
    """Current out of a supplied net, by net: one for each cluster."""
    found: dict[str, list[Draw]] = {}
    for record in records(c).values():
        for net, draw in record.draws:
            found.setdefault(net, []).append(draw)
    return found
