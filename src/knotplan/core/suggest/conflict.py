"""When not everything can be had: the smallest set of leads that cannot
stand together, and what would free it.

Counting first (Hall's theorem: more leads than contacts for them), then a deletion filter: each lead is
left out in turn, and stays out where it is proven that the rest still cannot be tied.
"""

import numpy as np
from msgspec import Struct

from knotplan.catalog.board.function import ANY
from knotplan.catalog.part.needs import (
    Analog,
    Bus,
    Input,
    Need,
    Output,
    Pulse,
    Stream,
    Supply,
    Switched,
    words,
)
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan.document import BOARD
from knotplan.core.suggest.options import Task
from knotplan.core.suggest.solver import plain

NAMED = 6


class Conflict(Struct, frozen=True):
    """Leads that cannot all be tied, why, and what would help."""

    leads: tuple[str, ...]
    words: str
    frees: tuple[str, ...]


def smallest(circuit: Circuit, task: Task) -> Conflict:
    """The smallest set that this search finds: none of it can be left out. That the
    task cannot be met has to be proven."""
    leads = _crowded(task) or list(task.leads)
    for lead in list(leads):
        fewer = [x for x in leads if x != lead]
        _, impossible = plain(task.only(fewer)) if fewer else ({}, False)
        if impossible:
            leads = fewer
    return Conflict(tuple(leads), _sentence(circuit, task, leads), tuple(_frees(circuit, leads)))


def _crowded(task: Task) -> list[str]:
    """Leads with fewer contacts among them than they are: one that a largest matching leaves out, and all
    that compete with it. A contact for many never runs out, so leads that can go to one do not compete."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import maximum_bipartite_matching

    many = {o.contact for o in task.options if not o.alone}
    leads = [x for x in task.leads if many.isdisjoint(o.contact for o in task.of(x))]
    contacts: dict[str, int] = {}
    pairs = [
        (k, contacts.setdefault(o.contact, len(contacts))) for k, x in enumerate(leads) for o in task.of(x)
    ]
    rows, columns = zip(*pairs, strict=True) if pairs else ((), ())
    graph = coo_array((np.ones(len(pairs)), (rows, columns)), shape=(len(leads), len(contacts))).tocsr()
    held = maximum_bipartite_matching(graph, perm_type="column") if pairs else np.full(len(leads), -1)
    without = [k for k in range(len(leads)) if held[k] < 0]
    holder = {int(column): k for k, column in enumerate(held) if column >= 0}
    rivals, fresh = dict.fromkeys(without[:1]), without[:1]
    while fresh:
        # every contact within reach is held, or the matching could have been larger
        for rival in {holder[contacts[o.contact]] for o in task.of(leads[fresh.pop()])} - set(rivals):
            rivals[rival] = None
            fresh.append(rival)
    return [leads[k] for k in sorted(rivals)]


def _sentence(circuit: Circuit, task: Task, leads: list[str]) -> str:
    """The conflict in a sentence."""
    contacts = list(dict.fromkeys(o.contact for lead in leads for o in task.of(lead)))
    names = ", ".join(circuit.titles.of(x) for x in leads[:NAMED]) + (
        f" and {len(leads) - NAMED} more" if len(leads) > NAMED else ""
    )
    need = _need(circuit, leads[0])
    if len(leads) == 1:
        return f"{names} needs {words(need)}, and nothing that is free offers it."
    if not contacts:
        return f"{names}: nothing that is free offers what they need."
    pins = ", ".join(circuit.titles.full(c) for c in contacts[:NAMED])
    more = f" and {len(contacts) - NAMED} more" if len(contacts) > NAMED else ""
    if len(contacts) < len(leads):
        return f"{names} are {len(leads)} leads for {len(contacts)} contacts: {pins}{more}."
    shared = _shared(circuit, task, leads)
    return f"{names} cannot stand together on {pins}{more}{shared}."


def _shared(circuit: Circuit, task: Task, leads: list[str]) -> str:
    """The unit whose one frequency, or one group of pins, is what they quarrel about."""
    timers = [dict.fromkeys(o.timer for o in task.of(lead) if o.timer) for lead in leads]
    hertz = {o.hertz for lead in leads for o in task.of(lead) if o.hertz}
    common = [t for t in timers[0] if all(t in others for others in timers)] if timers else []
    if len(hertz) > 1 and common:
        unit = circuit.hardware.unit_named(common[0])
        return f", because {unit.title if unit else str(common[0])} has one frequency"
    return ""


def _need(circuit: Circuit, lead: str) -> Need:
    spec = circuit.contacts.lead(lead)
    assert spec is not None
    return spec.needs[0]


def _frees(circuit: Circuit, leads: list[str]) -> list[str]:
    """What would help, most useful first: pins that are held or spoken for, then a hub."""
    needs = [_need(circuit, x) for x in leads]
    return [*_held_pins(circuit, leads), *_hubs(needs), *_settings(circuit, leads)]


def _held_pins(circuit: Circuit, leads: list[str]) -> list[str]:
    """Able pins that another lead holds."""
    held = []
    for contact, ties in circuit.ties.holders.items():
        able = any(fit(circuit, x, contact, alone=True, rows=[]).grade < Grade.IMPOSSIBLE for x in leads)
        plain = isinstance(circuit.needs.of(ties[0].lead), Input | Output)
        if able and plain and not isinstance(_need(circuit, leads[0]), Input | Output):
            held.append(
                f"move {circuit.titles.of(ties[0].lead)}, which any pin could take, away from "
                f"{circuit.titles.full(contact)}"
            )
    return held[:2]


def _hubs(needs: list[Need]) -> list[str]:
    kinds: tuple[tuple[type, str], ...] = (
        (Pulse, "add a PWM hub: 16 channels on two lines of I2C"),
        (Analog, "add a converter: the four-channel ADC on I2C, or the SPI ADC with eight"),
        (
            Switched,
            "add what switches it: a coil driver, a MOSFET switch, or a motor bridge for both directions",
        ),
        (Input, "add a port expander: 16 lines on two lines of I2C"),
        (Output, "add a port expander or a shift register"),
        (Stream, "chain the parts: data out of one to data in of the next"),
        (Supply, "add a supply of its own: a brick, cells, or a converter"),
        (Bus, "add a bus switch, or take a board with another bus"),
    )
    return [text for kind, text in kinds if any(isinstance(n, kind) for n in needs)]


def _settings(circuit: Circuit, leads: list[str]) -> list[str]:
    """Reservations of the board that could be given up."""
    switched = {}
    for name, pin in circuit.board.pins.items():
        held = circuit.hardware.reservation(pin)
        if held is not None and held.severity != "stop":
            contact = f"{BOARD}.{name}"
            if any(fit(circuit, x, contact, alone=True, rows=[]).grade < Grade.IMPOSSIBLE for x in leads):
                switched[held.title] = f"give up the {held.title}: {held.lifted_by}"
    pool = circuit.board.pool("pwm")
    if pool is not None and any(isinstance(_need(circuit, x), Pulse) for x in leads):
        switched[ANY] = (
            f"use fewer of the {pool.title}: {pool.channels} channels, {pool.frequencies or 'any number of'} "
            "frequencies"
        )
    return list(switched.values())
