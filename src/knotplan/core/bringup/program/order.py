"""What a program does one after another: waits that are shorter than a relay or motor bears, coils in another
order."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.core.bringup.difference import Difference, Spot
from knotplan.core.bringup.program.compare import Meant, PinComparison
from knotplan.core.bringup.program.values import Many, Value, numbers
from knotplan.core.plan.document import Tie, split
from knotplan.core.quantity.written import show
from knotplan.core.timing import stepper

LONG_S = 1e9
"""what is counted for a wait whose length is not known"""
SLACK = 0.98
"""of a time that is asked for: what is a little shorter counts as that"""


def of_order(comparison: PinComparison) -> Iterator[Difference]:
    """Waits and coil lists."""
    yield from _waits(comparison)
    yield from _coils(comparison)


class _Since(Struct, frozen=True):
    """The last level of a tie or of a motor's coils."""

    level: int
    seconds: float
    """that the program has waited since"""
    waited: Spot
    """where it did"""


def _waits(k: PinComparison) -> Iterator[Difference]:
    """Between two levels of one relay lies less than it bears; the same of a stepper's coils."""
    meant: dict[int, list[Meant]] = {}
    for m in k.meant:
        meant.setdefault(id(m.use), []).append(m)
    last: dict[str, _Since] = {}
    coils = {tie.id: motor for motor, ties in _motors(k).items() for tie in ties}
    run = None
    for use in k.told.uses:
        if use.run != run:  # another beginning: any time may have passed
            run, last = use.run, {}
        if use.call.does == "wait":
            value = use.one("seconds")
            known = value is not None and isinstance(value.value, int | float)
            seconds = float(value.value) * use.call.times if value is not None and known else LONG_S
            last = {key: _Since(s.level, s.seconds + seconds, use.at) for key, s in last.items()}
        level = k.level(use) if use.call.does == "write" else None
        for m in meant.get(id(use), ()) if level is not None else ():
            if m.tie is not None and level is not None:
                yield from _switched(k, m.tie, level, last, coils)


def _switched(
    k: PinComparison, tie: Tie, level: int, last: dict[str, _Since], coils: dict[str, str]
) -> Iterator[Difference]:
    """A tie gets a level; `last` is kept."""
    motor = coils.get(tie.id, "")
    key = motor or tie.id
    least, words = _bears(k, tie, coils)
    before = last.get(key)
    if before is not None and 0 < before.seconds < least * SLACK and (motor or before.level != level):
        title = f"{k.c.titles.part(motor or split(tie.lead)[0])} cannot follow"
        text = f"The program waits {show(before.seconds, 's')}; {words} {show(least, 's')}."
        yield k.difference("program-wait", before.waited, title, text, tie)
    if before is None or before.seconds > 0 or not motor:
        last[key] = _Since(level, 0.0, Spot(""))


def _motors(k: PinComparison) -> dict[str, list[Tie]]:
    """Steppers whose coils the program switches, with the ties of their coils in order."""
    found = {}
    for part_id, part in k.c.parts.items():
        if part.facts.stepper is not None and (w := stepper.wired(k.c, part_id)) is not None:
            found[part_id] = list(stepper.input_ties(k.c, w))
    return found


def _bears(k: PinComparison, tie: Tie, coils: dict[str, str]) -> tuple[float, str]:
    """The least time between two switchings, and who wants it."""
    motor = coils.get(tie.id)
    if motor is not None:
        facts = k.c.parts[motor].facts.stepper
        assert facts is not None
        fastest = facts.most_hz or facts.start_stop_hz
        return (1 / fastest / 2 if fastest else 0.0), f"{k.c.titles.part(motor)} follows a step every"
    relay = k.c.parts[split(tie.lead)[0]].facts.relay
    return (relay.least_interval_s, "between two switchings it needs") if relay is not None else (0.0, "")


def _coils(k: PinComparison) -> Iterator[Difference]:
    """A list of the four coil pins in another order than planned."""
    motors = _motors(k)
    for constant in k.told.constants:
        for one in constant.known:
            if not isinstance(one, Many) or len(one.items) != 4:
                continue
            values = [numbers(item) for item in one.items]
            if any(len(v) != 1 for v in values):
                continue
            yield from _coil_list(k, motors, [v[0] for v in values], constant.at)


def _coil_list(
    k: PinComparison, motors: dict[str, list[Tie]], values: list[Value], at: Spot
) -> Iterator[Difference]:
    ties = [_tie_of(k, v) for v in values]
    for motor, planned in motors.items():
        ids = [t.id for t in planned]
        mine = [t.id if t is not None else "" for t in ties]
        if sorted(mine) != sorted(ids) or mine == ids:
            continue
        turns = [ids[n:] + ids[:n] for n in range(4)]
        name = k.c.titles.part(motor)
        order = ", ".join(k.c.titles.own(t.lead) for t in planned)
        if mine in turns:
            continue  # the sequence only begins elsewhere
        if mine in [t[::-1] for t in turns]:
            text = f"With this list it turns the other way round. In the plan the order is {order}."
            yield k.difference(
                "program-coils-backwards", at, f"{name} turns backwards", text, planned[0], "note"
            )
        else:
            text = f"It will hum and not turn. In the plan the order is {order}."
            yield k.difference("program-coils", at, f"{name}: coils in another order", text, planned[0])


def _tie_of(k: PinComparison, value: Value) -> Tie | None:
    found = [m.tie for m in k.meant if m.value.at == value.at and m.tie is not None]
    if found:
        return found[0]
    for m in k.meant:
        scheme = k.scheme(m.use.dialect)
        if isinstance(value.value, int | str) and (pin := k.numbers.pin(scheme, value.value)):
            return k.at.get(f"board.{pin}")
    return None
