"""What can be chosen: every contact that can take each lead, with everything that choosing it uses up."""

from collections.abc import Iterable

from msgspec import Struct

from knotplan.catalog.board.function import ANY, Function
from knotplan.catalog.derived import derived
from knotplan.catalog.part.needs import Bus, Need, Pulse, Stream, Switched
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import BusUnit, bus_instances, buses_at, pulse_use, remap_use
from knotplan.core.match.answers.together import goes_with
from knotplan.core.match.fit import Fit, Grade, fit
from knotplan.core.plan.document import BOARD, split

COST_ORDER = 1e-4
"""between equals the earlier contact: so that the answer is always the same one"""


class Option(Struct, frozen=True):
    """One lead on one contact."""

    lead: str
    contact: str
    cost: float
    alone: bool
    """nobody else can be on the contact"""
    shared: str = ""
    """the line of a bus that others can be on as well"""
    buses: tuple[BusUnit, ...] = ()
    """the buses of which the part's could be one; empty where that does not matter"""
    timer: UnitId | None = None
    """the unit whose channels have their frequency in common"""
    channel: str = ""
    hertz: float = 0.0
    remap: tuple[UnitId, str] | None = None
    """(unit, group of pins) to which the unit has to be led"""
    pool: str = ""


class Task(Struct):
    """The leads to be tied, their options, and what the plan's other ties leave of the board's units."""

    leads: tuple[str, ...]
    options: list[Option]
    hertz: dict[UnitId, float]
    """frequencies at which timers run already"""
    pools: dict[str, tuple[int, int]]
    """(channels, further frequencies) left of each pool"""
    pool_hertz: dict[str, set[float]]
    remaps: dict[UnitId, set[str]]
    _at: dict[str, list[int]] = {}

    def __post_init__(self) -> None:
        self._at = {lead: [] for lead in self.leads}
        for k, o in enumerate(self.options):
            self._at[o.lead].append(k)

    def at(self, lead: str) -> list[int]:
        """The places of a lead's options."""
        return self._at[lead]

    def of(self, lead: str) -> list[Option]:
        """The options of a lead."""
        return [self.options[k] for k in self._at[lead]]

    def only(self, leads: Iterable[str]) -> "Task":
        """The same task for some of its leads."""
        kept = set(leads)
        return Task(
            tuple(x for x in self.leads if x in kept),
            [o for o in self.options if o.lead in kept],
            self.hertz,
            self.pools,
            self.pool_hertz,
            self.remaps,
        )


def task(circuit: Circuit, leads: Iterable[str]) -> Task:
    """The task of tying some leads, none of which is tied in the circuit."""
    leads = tuple(leads)
    all_options = [o for lead in leads for o in options(circuit, lead)]
    pool = circuit.board.pool("pwm")
    used = pulse_use(circuit)
    of_pool = used.get(UnitId(BOARD, "pwm", ANY), [])
    hertz = {unit: uses[0][2] for unit, uses in used.items() if not unit.any_pin}
    taken = {(unit, channel) for unit, uses in used.items() for channel, _, _ in uses}
    all_options = [o for o in all_options if not (o.channel and (o.timer, o.channel) in taken)]
    at = {hz for _, _, hz in of_pool}
    pools = (
        {"pwm": (pool.channels - len(of_pool), max(0, (pool.frequencies or 99) - len(at)))} if pool else {}
    )
    remaps = {unit: set(groups) for unit, groups in remap_use(circuit).items()}
    return Task(leads, all_options, hertz, pools, {"pwm": at}, remaps)


def options(circuit: Circuit, lead: str) -> list[Option]:
    """Every contact that can take a lead; where a load has to be switched, only what switches it."""
    spec, part_id = circuit.contacts.lead(lead), split(lead)[0]
    assert spec is not None
    need = spec.needs[0]
    before = list(circuit.parts).index(part_id)
    others = bus_instances(circuit, part_id, need.bus, lead) if isinstance(need, Bus) else set()
    ways: list[Option] = []
    known = _on_board(circuit, lead)
    for k, contact in enumerate(circuit.contacts.offers):
        owner = split(contact)[0]
        answer = known[contact] if owner == BOARD else fit(circuit, lead, contact, alone=True, rows=[])
        if answer.grade == Grade.IMPOSSIBLE or _held(circuit, lead, spec.needs[answer.need], contact):
            continue
        met = spec.needs[answer.need]
        if isinstance(need, Switched) and not isinstance(met, Switched):
            continue
        if (
            isinstance(met, Stream | Bus)
            and owner in circuit.parts
            and list(circuit.parts).index(owner) > before
        ):
            continue  # a daisy chain runs in the order of the parts, so that it never bites its tail
        ways += _of(circuit, lead, met, answer, COST_ORDER * k, others)
    return ways


def _on_board(circuit: Circuit, lead: str) -> dict[str, Fit]:
    """The answers of the board's contacts to a lead: the same for all parts of
    one kind, so they are asked for once."""
    part_id, name = split(lead)
    known = _known(circuit)
    key = id(circuit.parts[part_id]), name
    if key not in known:
        ours = (c for c in circuit.contacts.offers if split(c)[0] == BOARD)
        known[key] = {c: fit(circuit, lead, c, alone=True, rows=[]) for c in ours}
    return known[key]


@derived
def _known(circuit: Circuit) -> dict[tuple[int, str], dict[str, Fit]]:
    return {}


def _held(circuit: Circuit, lead: str, need: Need, contact: str) -> bool:
    held = [t for t in circuit.ties.holders.get(contact, []) if t.lead != lead]
    return not all(goes_with(circuit, lead, need, t) for t in held)


def _of(
    circuit: Circuit, lead: str, need: Need, answer: Fit, order: float, others: set[BusUnit]
) -> list[Option]:
    """The options of one contact: one for each of its functions that can do the job."""
    contact, cost = answer.contact, answer.cost + order
    pin = circuit.contacts.pin(contact)
    if pin is None or pin.kind != "io":
        return [Option(lead, contact, cost, alone=pin is not None and pin.kind == "contact")]
    held = bool(circuit.ties.holders.get(contact))
    if isinstance(need, Pulse):
        return [_timed(circuit, lead, need, contact, job, cost) for job in pin.jobs("pwm")]
    if isinstance(need, Bus):
        buses = tuple(b for b in buses_at(circuit, need, contact) if not others or b in others or b.any_pin)
        if not buses and buses_at(circuit, need, contact):
            return []  # the part's other leads are on another bus
        if not buses and need.role != "select":
            return []  # a program could play the role, but nobody would suggest that
        shared = f"{need.bus}.{need.role}" if need.shared else ""
        led = (buses[0].unit, buses[0].remap) if len(buses) == 1 and buses[0].remap else None
        return [Option(lead, contact, cost, not shared, "" if held else shared, buses, remap=led)]
    if isinstance(need, Stream) and need.shared:
        return [Option(lead, contact, cost, False, "" if held else need.protocol)]
    return [Option(lead, contact, cost, True)]


def _timed(circuit: Circuit, lead: str, need: Pulse, contact: str, job: Function, cost: float) -> Option:
    if job.instance == ANY:
        return Option(lead, contact, cost, True, hertz=need.frequency_hz, pool="pwm")
    unit = circuit.hardware.unit_id(contact, job)
    return Option(
        lead,
        contact,
        cost,
        True,
        timer=unit,
        channel=job.channel,
        hertz=need.frequency_hz,
        remap=(unit, job.remap) if job.remap else None,
    )
