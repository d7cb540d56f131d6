"""Budgets: what each rail, bank and supply has to carry, usually and at worst, against its limit."""


from collections.abc import Iterable

from msgspec import Struct

from knotplan.catalog.elements import Load
from knotplan.core.circuit import Circuit
from knotplan.core.plan import BOARD, split
from knotplan.core.readings import Points, Reading


class Item(Struct, frozen=True):
    """One contribution, amperes."""

    title: str
    usual_a: float
    worst_a: float
    why: str = ""


class Budget(Struct, frozen=True):
    """A sum of currents against a limit."""

    id: str
    title: str
    kind: str
    """"rail", "pins", "bank" or "supply" """
    limit_a: float
    items: tuple[Item, ...]
    note: str = ""

    @property
    def usual_a(self) -> float:
        return sum(i.usual_a for i in self.items)

    @property
    def worst_a(self) -> float:
        return sum(i.worst_a for i in self.items)


def load_items(circuit: Circuit, net: str) -> tuple[Item, ...]:
    """The loads of parts that hang on a net, directly or over hubs: one item for each part."""
    found: dict[str, Item] = {}
    for part_id, part in circuit.parts.items():
        for e in part.elements.values():
            if isinstance(e, Load) and circuit.fed_by(f"{part_id}.{e.a}") == net:
                before = found.get(part_id, Item(circuit.placed[part_id].name, 0.0, 0.0))
                found[part_id] = Item(before.title, before.usual_a + e.usual_a, before.worst_a + e.worst_a, e.reason)
    return tuple(found.values())


def _signals(circuit: Circuit, points: Points, net: str) -> tuple[Item, ...]:
    """What coils, motors and signals draw from a net: each cluster in its hungriest case."""
    found: dict[tuple[str, ...], tuple[float, float]] = {}
    for draw in points.draws[net]:
        running = [r for r in draw.readings if r.case.moment == "running"] or draw.readings
        usual, worst = found.get(draw.loads, (0.0, 0.0))
        found[draw.loads] = (usual + max(0.0, *(r.typ for r in running)), worst + max(0.0, *(r.max for r in running)))
    titles = {loads: ", ".join(circuit.placed[p].name for p in loads) or "signals and beads" for loads in found}
    return tuple(Item(titles[loads], *amps) for loads, amps in sorted(found.items(), key=lambda f: not f[0]) if amps[1] > 1e-6)


def pin_current(readings: list[Reading]) -> tuple[float, float]:
    """(usual, worst) magnitude of a pin's current over its running cases."""
    running = [r for r in readings if r.case.moment == "running"]
    return max((abs(r.typ) for r in running), default=0.0), max((r.most for r in running), default=0.0)


def _pin_items(circuit: Circuit, points: Points, pins: Iterable[str]) -> tuple[Item, ...]:
    made = ((p, pin_current(points.pins[p])) for p in pins if p in points.pins)
    return tuple(Item(f"{circuit.title(p)} {circuit.signal_name(circuit.holders[p][0])}", *amps)
                 for p, amps in made if amps[1] > 1e-7)  # fmt: skip


def budgets(circuit: Circuit, points: Points) -> tuple[Budget, ...]:
    """All budgets of a circuit, in the order in which they are shown."""
    rails = _rails(circuit, points)
    board = circuit.board
    pins = Budget("pins", "Pins together", "pins", board.all_pins_a,
                  _pin_items(circuit, points, (p for p in circuit.holders if split(p)[0] == BOARD)),
                  board.all_pins_note)  # fmt: skip
    banks = [Budget(b, bank.title, "bank", bank.limit_a, _pin_items(circuit, points, (f"{BOARD}.{p}" for p in bank.pins)))
             for b, bank in board.banks.items()]  # fmt: skip
    hubs = [Budget(f"{p}.{b}", circuit.placed[p].name + (f", {bank.title}" if len(part.banks) > 1 else ""), "bank",
                   bank.limit_a, _pin_items(circuit, points, (f"{p}.{lead}" for lead in bank.pins)), bank.title)
            for p, part in circuit.parts.items() for b, bank in part.banks.items()]  # fmt: skip
    return (*rails.values(), pins, *banks, *hubs, *_supplies(circuit, points, rails))


def _rails(circuit: Circuit, points: Points) -> dict[str, Budget]:
    """The board's live rails; what a rail made from another draws there stands among its items."""
    board = circuit.board
    found: dict[str, Budget] = {}
    for rail_id in reversed(circuit.live_rails):
        rail = board.rails[rail_id]
        items = on_net(circuit, points, circuit.net(f"rail:{rail_id}"))
        for below in found.values():
            lower = board.rails[below.id]
            if lower.fed_from == rail_id:
                ratio = lower.volts.typ / (rail.volts.typ * lower.efficiency) if lower.efficiency else 1.0
                items += (Item(f"for the {below.title}", (below.usual_a + lower.own_usual_a) * ratio,
                               (below.worst_a + lower.own_worst_a) * ratio),)  # fmt: skip
        found[rail_id] = Budget(rail_id, rail.title, "rail", rail.limit_a, items, rail.note)
    return {r: found[r] for r in circuit.live_rails}


def on_net(circuit: Circuit, points: Points, net: str) -> tuple[Item, ...]:
    """Everything that a supplied net carries: loads, coils and motors, signals, and converters with what hangs on them."""
    return (*load_items(circuit, net), *_signals(circuit, points, net), *_converters(circuit, points, net))


def _converters(circuit: Circuit, points: Points, net: str) -> tuple[Item, ...]:
    """What converters draw at their inputs: I_in = I_out * V_out / (V_in * efficiency); a linear one passes it on."""
    items = []
    for part_id, source in circuit.bench_sources.items():
        out = circuit.net(f"{part_id}.{source.plus}")
        if source.fed_from and circuit.fed_by(f"{part_id}.{source.fed_from}") == net != out:
            below = on_net(circuit, points, out)
            ratio, volts = 1.0, circuit.origins[net].volts if net in circuit.origins else None
            if source.efficiency and volts and volts.min > 0:
                ratio = source.volts.typ / (volts.min * source.efficiency)
            usual, worst = sum(i.usual_a for i in below), sum(i.worst_a for i in below)
            items.append(Item(f"{circuit.placed[part_id].name} and what hangs on it", usual * ratio, worst * ratio))
    return tuple(items)


def _supplies(circuit: Circuit, points: Points, rails: dict[str, Budget]) -> list[Budget]:
    """What feeds the board, and every other supply on the bench."""
    socket = circuit.board.sockets[circuit.socket]
    rail = circuit.board.rails[circuit.fed_rail]
    carried = rails[circuit.fed_rail]
    items = (Item(circuit.board.title, rail.own_usual_a, rail.own_worst_a, "the board itself"), *carried.items)
    brick, past = circuit.feeds.get(circuit.socket), circuit.past_socket
    if past:
        limit = circuit.bench_sources[past].limit_a
        made = [Budget(past, circuit.placed[past].name, "supply", limit, items, "feeds the board past its sockets")]
    elif brick:
        limit = min(socket.limit_a, circuit.parts[brick].source.limit_a)  # type: ignore[union-attr]
        made = [Budget(brick, circuit.placed[brick].name, "supply", limit, items, socket.note)]
    else:
        made = [Budget(circuit.socket, f"{socket.title} (assumed)", "supply", socket.limit_a, items, socket.note)]
    for part_id, source in circuit.bench_sources.items():
        if source.plus != source.minus and part_id != past:
            net = circuit.net(f"{part_id}.{source.plus}")
            made.append(Budget(part_id, circuit.placed[part_id].name, "supply", source.limit_a, on_net(circuit, points, net)))
    return made
