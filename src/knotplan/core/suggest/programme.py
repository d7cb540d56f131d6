"""The 0/1 programme: which columns to choose so that every lead is tied once, and nothing is used twice.

A column is one option, or a *run*: a part's consecutive leads on neighbouring contacts, which cost less
together than one by one. Further variables say which bus each part is on, which contacts are lines of
a bus, and at which frequency and on which group of pins each unit works.

    minimise c·x  subject to  low <= A·x <= high,  x in {0, 1}
"""

from collections.abc import Callable, Hashable, Iterable, Mapping
from typing import TypeVar

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import BusUnit
from knotplan.core.plan.document import BOARD, split
from knotplan.core.suggest.options import Option, Task
from knotplan.core.suggest.quick import SHARING

Key = TypeVar("Key", bound=Hashable)

BESIDE = 1.5
"""what two of a part's consecutive leads on neighbouring contacts save"""
AGAINST = 1.4
"""the same where the contacts run the other way"""
LONGEST = 8


class Programme(Struct):
    """Costs and rows of the programme, the matrix by (row, column, value)."""

    cost: NDArray[np.float64]
    rows: NDArray[np.int64]
    columns: NDArray[np.int64]
    values: NDArray[np.float64]
    low: NDArray[np.float64]
    high: NDArray[np.float64]
    chosen: list[tuple[int, ...]]
    """the options that each of the first columns stands for"""

    def columns_on(self, x: NDArray[np.float64]) -> list[tuple[int, ...]]:
        """The options of each column that is chosen in a solution."""
        return [options for k, options in enumerate(self.chosen) if x[k] > 0.5]


class _Builder:
    """Collects variables and rows."""

    def __init__(self, counts: Mapping[str, int]) -> None:
        self._counts = counts
        self.cost: list[float] = []
        self.entries: list[tuple[int, int, float]] = []
        self.low: list[float] = []
        self.high: list[float] = []
        self.named: dict[Hashable, int] = {}

    def count(self, lead: str) -> int:
        """How many contacts a lead needs."""
        return self._counts.get(lead, 1)

    def variable(self, name: Hashable, cost: float) -> int:
        if name not in self.named:
            self.named[name] = len(self.cost)
            self.cost.append(cost)
        return self.named[name]

    def row(self, entries: dict[int, float], low: float, high: float) -> None:
        at = len(self.low)
        self.entries += [(at, column, value) for column, value in entries.items()]
        self.low.append(low)
        self.high.append(high)

    def at_most_one(self, columns: list[int]) -> None:
        if len(columns) > 1:
            self.row(dict.fromkeys(columns, 1.0), -np.inf, 1.0)

    def only_with(self, columns: list[int], allowed: list[int]) -> None:
        """If one of the columns is chosen, one of those that allow it has to be."""
        self.row({**dict.fromkeys(columns, 1.0), **dict.fromkeys(allowed, -1.0)}, -np.inf, 0.0)


Run = tuple[tuple[int, ...], float]
"""(options, what they save together)"""


def programme(task: Task, runs: Iterable[Run] = (), counts: Mapping[str, int] | None = None) -> Programme:
    """The programme of a task; without runs the neighbours count for nothing, which is much quicker to
    solve. `counts`: so many contacts a lead needs, where it stands for those of several parts."""
    b = _Builder({} if counts is None else counts)
    chosen: list[tuple[int, ...]] = [(k,) for k in range(len(task.options))]
    costs = [o.cost for o in task.options]
    for run, saved in runs:
        chosen.append(run)
        costs.append(sum(task.options[k].cost for k in run) - saved)
    for name, cost in enumerate(costs):
        b.variable(name, cost)
    within: dict[int, list[int]] = {k: [] for k in range(len(task.options))}
    for column, options in enumerate(chosen):
        for k in options:
            within[k].append(column)
    for lead in task.leads:
        columns = dict.fromkeys((c for k in task.at(lead) for c in within[k]), 1.0)
        b.row(columns, float(b.count(lead)), float(b.count(lead)))
    _contacts(b, task, within)
    _buses(b, task, within)
    _units(b, task, within)
    rows, columns_, values = (
        (np.array(x) for x in zip(*b.entries, strict=True)) if b.entries else ([], [], [])
    )
    return Programme(
        np.array(b.cost),
        np.asarray(rows, dtype=np.int64),
        np.asarray(columns_, dtype=np.int64),
        np.asarray(values, dtype=np.float64),
        np.array(b.low),
        np.array(b.high),
        chosen,
    )


def _grouped(task: Task, key: Callable[[Option], Key | None]) -> dict[Key, list[int]]:
    """Places of options by one of their fields, those without it left out."""
    grouped: dict[Key, list[int]] = {}
    for k, o in enumerate(task.options):
        if value := key(o):
            grouped.setdefault(value, []).append(k)
    return grouped


def _columns(within: dict[int, list[int]], options: list[int]) -> list[int]:
    return list(dict.fromkeys(c for k in options for c in within[k]))


def _contacts(b: _Builder, task: Task, within: dict[int, list[int]]) -> None:
    """One lead a contact, or one line of a bus."""
    for contact, options in _grouped(task, lambda o: o.contact).items():
        alone = [k for k in options if task.options[k].alone]
        lines = {task.options[k].shared for k in options if task.options[k].shared}
        held = []
        for line in sorted(lines):
            held.append(b.variable(("line", contact, line), SHARING))
            for k in options:
                if task.options[k].shared == line:
                    b.only_with(within[k], held[-1:])
        b.at_most_one([*_columns(within, alone), *held])


def _buses(b: _Builder, task: Task, within: dict[int, list[int]]) -> None:
    """All of a part's leads of one kind of bus on the same one."""
    ways: dict[tuple[str, str], list[BusUnit]] = {}
    for k, o in enumerate(task.options):
        part = split(o.lead)[0]
        kinds = {bus.unit.kind for bus in o.buses}
        for kind in sorted(kinds):
            names = [("bus", part, bus) for bus in o.buses]
            b.only_with(within[k], [b.variable(name, 0.0) for name in names])
            known = ways.setdefault((part, kind), [])
            known += [name[2] for name in names if name[2] not in known]
    for (part, _), buses in ways.items():
        b.at_most_one([b.variable(("bus", part, bus), 0.0) for bus in buses])


def _units(b: _Builder, task: Task, within: dict[int, list[int]]) -> None:
    """One frequency a timer, one lead a channel, one group of pins a
    unit, no more of a pool than there is."""
    for timer, options in _grouped(task, lambda o: o.timer).items():
        _one_frequency(b, task, within, timer, options)
        for channel in sorted({task.options[k].channel for k in options}):
            b.at_most_one(_columns(within, [k for k in options if task.options[k].channel == channel]))
    _one_group(b, task, within)
    for pool, options in _grouped(task, lambda o: o.pool).items():
        _within_pool(b, task, within, pool, options)


def _by_hertz(task: Task, options: list[int]) -> dict[float, list[int]]:
    columns: dict[float, list[int]] = {}
    for k in options:
        columns.setdefault(task.options[k].hertz, []).append(k)
    return columns


def _each_lead(
    b: _Builder, task: Task, within: dict[int, list[int]], options: list[int], allowed: int
) -> None:
    """Each lead's options among these only with what allows them: a row a lead, because a lead is on one
    contact only; that bounds the programme's relaxation better than a row a column. Of a lead that stands for
    several a row a contact, because a contact holds one of them."""
    rows: dict[str, list[int]] = {}
    for k in options:
        lead, contact = task.options[k].lead, task.options[k].contact
        rows.setdefault(lead if b.count(lead) == 1 else f"{lead} {contact}", []).append(k)
    for own in rows.values():
        b.only_with(_columns(within, own), [allowed])


def _one_frequency(
    b: _Builder, task: Task, within: dict[int, list[int]], timer: UnitId, options: list[int]
) -> None:
    runs_at = []
    for hz, those in _by_hertz(task, options).items():
        columns = _columns(within, those)
        runs_at.append(b.variable(("hertz", timer, hz), 0.0))
        _each_lead(b, task, within, those, runs_at[-1])
        if task.hertz.get(timer, hz) != hz:
            b.row(dict.fromkeys(columns, 1.0), 0.0, 0.0)
    b.at_most_one(runs_at)


def _one_group(b: _Builder, task: Task, within: dict[int, list[int]]) -> None:
    """A unit is led to its pins as a whole."""
    led: dict[UnitId, list[int]] = {}
    for (unit, group), options in _grouped(task, lambda o: o.remap).items():
        columns = _columns(within, options)
        led.setdefault(unit, []).append(b.variable(("remap", unit, group), 0.0))
        _each_lead(b, task, within, options, led[unit][-1])
        if task.remaps.get(unit, {group}) != {group}:
            b.row(dict.fromkeys(columns, 1.0), 0.0, 0.0)
    for groups in led.values():
        b.at_most_one(groups)


def _within_pool(
    b: _Builder, task: Task, within: dict[int, list[int]], pool: str, options: list[int]
) -> None:
    channels, further = task.pools.get(pool, (0, 0))
    used: dict[int, float] = {}
    for k in options:  # a run takes as many channels as it has leads
        for column in within[k]:
            used[column] = used.get(column, 0.0) + 1.0
    b.row(used, -np.inf, float(channels))
    fresh = []
    for hz, those in _by_hertz(task, options).items():
        if hz not in task.pool_hertz.get(pool, set()):
            fresh.append(b.variable(("pool", pool, hz), 0.0))
            _each_lead(b, task, within, those, fresh[-1])
    if fresh:
        b.row(dict.fromkeys(fresh, 1.0), -np.inf, float(further))


# --- runs -------------------------------------------------------------------------------------------


def runs_of(lines: list[list[str]], task: Task) -> list[Run]:
    """The runs of a part's consecutive leads on neighbouring contacts, which lie in lines."""
    at = {(o.lead, o.contact): k for k, o in reversed(list(enumerate(task.options))) if o.alone}
    ways = [way for line in lines for way in ((line, True), (line[::-1], False))]
    saved: dict[tuple[int, ...], float] = {}
    for part_leads in _consecutive(task):
        for way, forward in ways:
            for start in range(len(part_leads)):
                for place in range(len(way)):
                    run: list[int] = []
                    for lead, contact in zip(part_leads[start : start + LONGEST], way[place:], strict=False):
                        k = at.get((lead, contact))
                        if k is None:
                            break
                        run.append(k)
                        if len(run) > 1:
                            saved[tuple(run)] = (BESIDE if forward else AGAINST) * (len(run) - 1)
    return list(saved.items())


def _consecutive(task: Task) -> list[list[str]]:
    """The leads of each part that want a contact of their own, in their order."""
    found: dict[str, list[str]] = {}
    for lead in task.leads:
        if any(o.alone for o in task.of(lead)):
            found.setdefault(split(lead)[0], []).append(lead)
    return [leads for leads in found.values() if len(leads) > 1]


def lines_of(circuit: Circuit) -> list[list[str]]:
    """Contacts that lie one beside another: the columns of the board's headers, and each hub's outputs."""
    columns: dict[tuple[str, int], list[tuple[int, str]]] = {}
    for name, pin in circuit.board.pins.items():
        across = circuit.board.headers[pin.header].across
        line, place = (pin.row, pin.col) if across else (pin.col, pin.row)
        columns.setdefault((pin.header, line), []).append((place, f"{BOARD}.{name}"))
    lines = [[contact for _, contact in sorted(line)] for line in columns.values()]
    for part_id, part in circuit.parts.items():
        lines.append(
            [
                f"{part_id}.{name}"
                for name, lead in part.leads.items()
                if lead.offers and lead.offers.kind == "io"
            ]
        )
    return [line for line in lines if len(line) > 1]
