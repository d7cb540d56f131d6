"""A first good answer at once: assignment without neighbours, parted where it breaks a rule of the units.

Branch and bound over linear sum assignment (Crouse 2016, as in SciPy): each node forbids some options;
a bound is the assignment's cost, a leaf one that breaks nothing.
"""

import heapq
from collections.abc import Iterator
from itertools import count

import numpy as np

from knotplan.core.circuit.units import BusUnit
from knotplan.core.plan.document import split
from knotplan.core.suggest.options import Option, Task

MOST_NODES = 60
MOST_WAYS = 300
"""so many parts are tried on buses; the ways multiply with each part"""
FORBIDDEN = 1e7
SHARING = 3.0
"""what a further pin for a line of a bus costs, so that devices share one"""

Pick = dict[str, int]
"""option of each lead, by its place in the task"""


def quick(task: Task) -> Pick | None:
    """An assignment of every lead that breaks nothing, near the cheapest; nothing where none was found,
    which does not prove that there is none."""
    for fixed in _bus_picks(task):
        branch = _branch(task, fixed)
        if branch is not None:
            return branch
    return None


# --- buses: whole instances, before everything else ------------------------------------------------


def _bus_picks(task: Task) -> Iterator[Pick]:
    """Ways to put all leads with a bus on pins, cheapest instances first;
    without buses there is one, the empty one."""
    groups: dict[str, list[str]] = {}
    for lead in task.leads:
        if any(o.buses or o.shared for o in task.of(lead)):
            groups.setdefault(split(lead)[0], []).append(lead)
    yield from _put(task, list(groups.values()), {}, {}, set(), iter(range(MOST_WAYS)))


def _put(
    task: Task,
    groups: list[list[str]],
    pick: Pick,
    lines: dict[str, str],
    taken: set[str],
    left: Iterator[int],
) -> Iterator[Pick]:
    """The next part's leads on each bus that has room; `lines` are the contacts of shared lines, by
    contact; `left` counts down to the end of trying."""
    if not groups:
        yield pick
    if not groups or next(left, None) is None:
        return
    leads, rest = groups[0], groups[1:]
    kinds: dict[str, list[str]] = {}
    for lead in leads:
        kind = next((b.unit.kind for o in task.of(lead) for b in o.buses), "")
        kinds.setdefault(kind, []).append(lead)
    buses: list[BusUnit | None] = [
        *sorted({b for lead in leads for o in task.of(lead) for b in o.buses})
    ] or [None]
    ways = []
    led = dict(r for k in pick.values() if (r := task.options[k].remap))
    for bus in buses:
        if (
            bus is not None
            and bus.remap
            and ({bus.remap} | task.remaps.get(bus.unit, set())) != {led.get(bus.unit, bus.remap)}
        ):
            continue  # its controller is led to another group of pins already
        made, cost, busy, now = {}, 0.0, set(taken), dict(lines)
        for lead in leads:
            able = [
                (_line_cost(o, now), k)
                for k, o in _indexed(task, lead)
                if (not o.buses or bus in o.buses)
                and (o.contact not in busy or now.get(o.contact) == o.shared != "")
            ]
            if not able:
                break
            extra, k = min(able)
            made[lead], cost = k, cost + extra
            chosen = task.options[k]
            busy.add(chosen.contact)
            if chosen.shared:
                now[chosen.contact] = chosen.shared
        else:
            ways.append((cost, str(bus), made))
    for _, _, made in sorted(ways, key=lambda w: w[:2]):
        now = {
            task.options[k].contact: task.options[k].shared for k in made.values() if task.options[k].shared
        }
        alone = {task.options[k].contact for k in made.values() if task.options[k].alone}
        yield from _put(task, rest, {**pick, **made}, {**lines, **now}, taken | set(now) | alone, left)


def _line_cost(o: Option, lines: dict[str, str]) -> float:
    return o.cost + (SHARING if o.shared and o.contact not in lines else 0.0)


def _indexed(task: Task, lead: str) -> Iterator[tuple[int, Option]]:
    return ((k, task.options[k]) for k in task.at(lead))


# --- everything else ----------------------------------------------------------------------------------


def _branch(task: Task, fixed: Pick) -> Pick | None:
    leads = [x for x in task.leads if x not in fixed]
    busy = {task.options[k].contact for k in fixed.values()}
    able = [
        k
        for k, o in enumerate(task.options)
        if o.lead not in fixed and not (o.alone and o.contact in busy) and not _against(task, o)
    ]
    ties = count()
    first = _assigned(task, leads, able, frozenset())
    queue = [(first[0], next(ties), frozenset[int](), first[1])] if first else []
    for _ in range(MOST_NODES):
        if not queue:
            return None
        _, _, without, pick = heapq.heappop(queue)
        broken = _broken(task, pick)
        if broken is None:
            return {**fixed, **pick}
        for group in broken:
            further = without | group
            assigned = _assigned(task, leads, able, further)
            if assigned:
                heapq.heappush(queue, (assigned[0], next(ties), further, assigned[1]))
    return None


def _against(task: Task, o: Option) -> bool:
    """The plan's other ties rule an option out."""
    if o.timer and task.hertz.get(o.timer, o.hertz) != o.hertz:
        return True
    if o.remap and task.remaps.get(o.remap[0], {o.remap[1]}) != {o.remap[1]}:
        return True
    if o.pool:
        channels, further = task.pools.get(o.pool, (0, 0))
        return channels <= 0 or (o.hertz not in task.pool_hertz.get(o.pool, set()) and further <= 0)
    return False


def _assigned(
    task: Task, leads: list[str], able: list[int], without: frozenset[int]
) -> tuple[float, Pick] | None:
    """The cheapest assignment, one lead a contact where that matters; (cost, pick)."""
    from scipy.optimize import linear_sum_assignment  # brought in when a suggestion is asked for, not before

    if not leads:
        return 0.0, {}
    rows = {lead: k for k, lead in enumerate(leads)}
    columns: dict[str, int] = {}
    best: dict[tuple[int, int], tuple[float, int]] = {}
    for k in able:
        o = task.options[k]
        if k in without:
            continue
        # a contact for many has a column of its own for each lead
        column = columns.setdefault(o.contact if o.alone else f"{o.contact} {o.lead}", len(columns))
        at = rows[o.lead], column
        if at not in best or (o.cost, k) < best[at]:
            best[at] = o.cost, k
    if len(columns) < len(leads):
        return None
    costs = np.full((len(leads), len(columns)), FORBIDDEN)
    for at, (cost, _) in best.items():
        costs[at] = cost
    i, j = linear_sum_assignment(costs)
    total = float(costs[i, j].sum())
    if total >= FORBIDDEN:
        return None
    return total, {leads[a]: best[int(a), int(b)][1] for a, b in zip(i, j, strict=True)}


def _broken(task: Task, pick: Pick) -> list[frozenset[int]] | None:
    """A rule of the units that a pick breaks, as the sets of options of which one has to
    be given up; nothing where all hold."""
    chosen = [(lead, task.options[k]) for lead, k in pick.items()]
    for a, (one, o) in enumerate(chosen):
        for other, p in chosen[a + 1 :]:
            if o.timer and o.timer == p.timer and (o.hertz != p.hertz or o.channel == p.channel):
                same = o.channel == p.channel and o.hertz == p.hertz
                return [_unit_options(task, one, o, same), _unit_options(task, other, p, same)]
            if o.remap and p.remap and o.remap[0] == p.remap[0] and o.remap[1] != p.remap[1]:
                return [frozenset({pick[one]}), frozenset({pick[other]})]
    for pool, (channels, further) in task.pools.items():
        users = [lead for lead, o in chosen if o.pool == pool]
        hertz = {o.hertz for _, o in chosen if o.pool == pool} - task.pool_hertz.get(pool, set())
        if len(users) > channels or len(hertz) > further:
            return [frozenset(k for k, o in _indexed(task, lead) if o.pool == pool) for lead in users]
    return None


def _unit_options(task: Task, lead: str, o: Option, channel_only: bool) -> frozenset[int]:
    return frozenset(
        k
        for k, x in _indexed(task, lead)
        if x.timer == o.timer and (not channel_only or x.channel == o.channel)
    )
