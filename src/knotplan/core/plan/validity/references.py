"""What refers to what, and to what is not there."""

import re
from collections.abc import Iterator

from knotplan.catalog.board.check import hint
from knotplan.catalog.board.function import ANY
from knotplan.core.plan.beads import rails_of
from knotplan.core.plan.document import BOARD, Activity, Plan, Tie, split
from knotplan.core.plan.validity.fault import Fault, Unread
from knotplan.core.plan.validity.known import Known


def ties(plan: Plan, known: "Known", sound: frozenset[int]) -> Iterator[Fault]:
    """Two of one name, two of one pair, and ends that are not there; `sound`
    are ties whose ends were there before, no two of one pair."""
    ends = {end for tie in plan.ties if id(tie) not in sound for end in (tie.lead, tie.to)}
    taken: set[str] = set()
    pairs: dict[tuple[str, str], str] = {}
    for k, tie in enumerate(plan.ties):
        if tie.id in taken:
            yield Fault(("ties", k, "id"), f"{tie.id!r} is given twice", ("ties", k))
        taken.add(tie.id)
        if tie.lead not in ends or tie.to not in ends:
            continue
        pair = (tie.lead, tie.to) if tie.lead < tie.to else (tie.to, tie.lead)
        if pair in pairs:
            yield Fault(
                ("ties", k), f"{tie.lead!r} and {tie.to!r} are tied already, by {pairs[pair]!r}", ("ties", k)
            )
        pairs.setdefault(pair, tie.id)
        if id(tie) not in sound:
            yield from _ends(k, tie, known)


def _ends(k: int, tie: Tie, known: "Known") -> Iterator[Fault]:
    if split(tie.lead)[0] == BOARD:
        yield Fault(
            ("ties", k, "lead"),
            f"{tie.lead!r} is a contact of the board; a tie begins at a part's lead",
            ("ties", k),
        )
        return
    if tie.lead == tie.to:
        yield Fault(("ties", k, "to"), f"{tie.lead!r} is tied to itself", ("ties", k))
    for field, contact in (("lead", tie.lead), ("to", tie.to)):
        if (why := known.fault(contact)) is not None:
            yield Fault(("ties", k, field), why, ("ties", k), True)
    for n, bead in enumerate(tie.beads):
        for field, rail in rails_of(bead):
            if rail and (why := known.fault(rail)) is not None:
                yield Fault(("ties", k, "beads", n, field), why, ("ties", k, "beads", n), True)


def roles(plan: Plan) -> Iterator[Fault]:
    """Two wires of one name would be two constants of one name in the program."""
    held: dict[str, str] = {}
    for k, tie in enumerate(plan.ties):
        if tie.role:
            other = held.setdefault(tie.role.lower(), tie.id)
            if other != tie.id:
                yield Fault(
                    ("ties", k, "role"), f"{tie.role!r} is the role of {other!r} already", ("ties", k, "role")
                )


def activities(plan: Plan, known: "Known", unread: Unread) -> Iterator[Fault]:
    """Activities that name parts or activities that are not there."""
    ids = [a.id for a in plan.activities]
    seen: set[str] = set()
    for k, activity in enumerate(plan.activities):
        if activity.id in seen:
            yield Fault(("activities", k, "id"), f"{activity.id!r} is given twice", ("activities", k))
        seen.add(activity.id)
        yield from _in_activity(k, activity, known, ids, unread)


def _in_activity(
    k: int, activity: Activity, known: "Known", ids: list[str], unread: Unread
) -> Iterator[Fault]:
    for n, part in enumerate(activity.parts):
        place = ("activities", k, "parts", n)
        if not known.has_part(part):
            yield Fault(place, f"there is no part {part!r} in the plan{hint(part, known.parts)}", place, True)
        elif part in activity.parts[:n]:
            yield Fault(place, f"{part!r} is given twice", place)
    for n, other in enumerate(activity.excludes):
        place = ("activities", k, "excludes", n)
        if other not in ids and other not in unread.activities:
            yield Fault(place, f"there is no activity {other!r}{hint(other, ids)}", place, True)
        elif other == activity.id:
            yield Fault(place, "an activity cannot exclude itself", place)


def clocks(plan: Plan, known: "Known") -> Iterator[Fault]:
    """Clocks of buses that are not there."""
    if known.board is None:
        return
    able = [f"{BOARD}.{name}" for name in known.board.peripherals if name.partition(":")[0] in ("i2c", "spi")]
    able += [
        f"{BOARD}.{pool.kind}:{ANY}" for pool in known.board.pools.values() if pool.kind in ("i2c", "spi")
    ]
    seen: set[str] = set()
    for k, clock in enumerate(plan.clocks):
        unit = re.split("[~@]", clock.unit)[0]
        if unit not in able and unit != "pins":
            why = f"{clock.unit!r} is no bus of {known.board.title}{hint(unit, able)}"
            yield Fault(("clocks", k, "unit"), why, ("clocks", k), True)
        elif clock.unit in seen:
            yield Fault(("clocks", k, "unit"), f"{clock.unit!r} is given twice", ("clocks", k))
        seen.add(clock.unit)


def bench(plan: Plan) -> Iterator[Fault]:
    """The same thing noted twice. What is noted stays whatever becomes of the plan, so nothing dangles."""
    for field, name in (("wired", "task"), ("readings", "point")):
        seen: set[str] = set()
        for k, noted in enumerate(getattr(plan, field)):
            key = getattr(noted, name)
            if key in seen:
                yield Fault((field, k, name), f"{key!r} is given twice", (field, k))
            seen.add(key)
