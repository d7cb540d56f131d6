"""Parts that are alike for a task: which of them takes which contacts makes no difference, so they are chosen
for as one, with as many of each lead.

Where everybody may exchange places with everybody, a search meets each choice once for each order of them.
"""

from msgspec import Struct

from knotplan.core.plan.document import split
from knotplan.core.suggest.options import Task
from knotplan.core.suggest.quick import Pick


class Alike(Struct, frozen=True):
    """Parts with the same leads and the same options for each: of the first one's the task is made."""

    parts: tuple[tuple[str, ...], ...]
    """the leads of each"""

    @property
    def leads(self) -> tuple[str, ...]:
        """Those of the first."""
        return self.parts[0]


def alike_in(task: Task) -> list[Alike]:
    """All parts of a task, those together that are alike. What is on a bus is by itself: its leads
    belong together in another way."""
    leads_of: dict[str, list[str]] = {}
    for lead in task.leads:
        leads_of.setdefault(split(lead)[0], []).append(lead)
    groups: dict[object, list[tuple[str, ...]]] = {}
    for part_id, leads in leads_of.items():
        options = [o for lead in leads for o in task.of(lead)]
        loose = all(o.alone and not o.buses for o in options)
        key = tuple(_ways(task, lead) for lead in leads) if loose else part_id
        groups.setdefault(key, []).append(tuple(leads))
    return [Alike(tuple(parts)) for parts in groups.values()]


def _ways(task: Task, lead: str) -> tuple[object, ...]:
    """What a lead can have, without its name."""
    return tuple(
        (o.contact, o.cost, o.shared, o.timer, o.channel, o.hertz, o.remap, o.pool) for o in task.of(lead)
    )


def reduced(task: Task, groups: list[Alike]) -> tuple[Task, dict[str, int]]:
    """The task for the first part of each group, and how many there are of each of its leads."""
    counts = {lead: len(group.parts) for group in groups for lead in group.leads}
    return task.only(counts), counts


def given_out(task: Task, groups: list[Alike], first: Task, columns: list[tuple[int, ...]]) -> Pick:
    """The contacts of all parts from what was chosen for the first ones. A column is a run of consecutive
    leads on neighbouring contacts: where one ends another begins, so they make up whole parts."""
    pick: Pick = {}
    place = {(o.lead, o.contact, o.timer, o.channel, o.remap): k for k, o in enumerate(task.options)}
    by_start: dict[str, list[tuple[int, ...]]] = {}
    for column in sorted(columns):
        by_start.setdefault(first.options[column[0]].lead, []).append(column)
    for group in groups:
        reached = [0] * len(group.parts)
        for at, lead in enumerate(group.leads):
            free = [number for number, end in enumerate(reached) if end == at]
            for number, column in zip(free, by_start.get(lead, ()), strict=True):
                for k, own in zip(column, group.parts[number][at:], strict=False):
                    o = first.options[k]
                    pick[own] = place[own, o.contact, o.timer, o.channel, o.remap]
                reached[number] = at + len(column)
    return pick
