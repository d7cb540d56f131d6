"""A suggestion: ties for some leads, each with its reason and the cost of
the next best; or why there is none.

Power first, because everything else is measured against it; then all signals together.
"""

from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.catalog.part.elements import Load
from knotplan.catalog.part.needs import Coupled, Feed, Ground, Supply, Switched
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Fit, Grade, fit, fits
from knotplan.core.plan import edits
from knotplan.core.plan.direction import consumer_first
from knotplan.core.plan.document import BOARD, Plan, split
from knotplan.core.plan.remedy import Remedy, Step
from knotplan.core.suggest.asked import is_power, movable, wants_suggestion
from knotplan.core.suggest.conflict import Conflict, smallest
from knotplan.core.suggest.options import Task, task
from knotplan.core.suggest.quick import Pick, quick
from knotplan.core.suggest.solver import MOST_OPTIONS, plain

COST_BUSY, COST_CROWDED = 2.0, 0.2
"""a post of a header holds one cord: what each further one on it costs; on a supply or bar there is room"""
COST_HEAVY, HEAVY = 15.0, 0.4
"""a load that takes more than this share of a board's rail hangs better elsewhere"""


class Proposed(Struct, frozen=True):
    """One tie of a suggestion."""

    lead: str
    contact: str
    reason: str
    cost: float
    consequence: bool
    """it can be done, but costs something that the reason says"""
    next_contact: str = ""
    next_reason: str = ""
    next_costs: float = 0.0
    """how much more the next best would cost"""


class Suggestion(Struct, frozen=True):
    """What is proposed for some leads of a plan."""

    plan: Plan
    """the plan that it was made for"""
    ties: tuple[Proposed, ...]
    proven: bool
    """no cheaper choice exists"""
    conflict: Conflict | None = None

    @property
    def cost(self) -> float:
        """What all its ties cost together; only the order means something."""
        return sum(t.cost for t in self.ties)

    def remedy(self, leads: Iterable[str] | None = None) -> Remedy:
        """The edit that makes all of it, or some."""
        wanted = set(leads) if leads is not None else {t.lead for t in self.ties}
        steps = tuple(Step(_tie, (t.lead, t.contact)) for t in self.ties if t.lead in wanted)
        return Remedy(
            f"Tie {len(steps)} leads as suggested" if len(steps) != 1 else "Tie as suggested", steps
        )

    def without(self, leads: Iterable[str]) -> "Suggestion":
        """The same without some of its ties."""
        gone = set(leads)
        return replace(self, ties=tuple(t for t in self.ties if t.lead not in gone))


def _tie(plan: Plan, lead: str, contact: str) -> Plan:
    """A tie, unless an end is gone or these two are tied already, told from either end."""
    owners = {p.id for p in plan.parts} | {BOARD}
    if split(lead)[0] not in owners or split(contact)[0] not in owners:
        return plan
    if any({t.lead, t.to} == {lead, contact} for t in plan.ties):
        return plan
    return edits.tie(plan, lead, contact, extra=True)


class Ready(Struct):
    """What stands before the signals are chosen: power is settled, the task is stated."""

    plan: Plan
    circuit: Circuit
    """with power tied"""
    power: list[tuple[str, str]]
    unmet: list[str]
    """power leads that nothing can feed"""
    task: Task

    @property
    def provable(self) -> bool:
        """Small enough for the best answer to be sought."""
        return len(self.task.options) <= MOST_OPTIONS


def prepare(plan: Plan, catalog: Catalog, leads: Iterable[str] | None = None) -> Ready:
    """Power settled lead by lead, and the task of the signals stated."""
    circuit = Circuit(plan, catalog)
    asked = movable(circuit, leads)
    power, unmet = [], []
    now = plan
    for lead in sorted((x for x in asked if is_power(circuit, x)), key=lambda x: _power_rank(circuit, x)):
        here = Circuit(now, catalog)
        best = _power(here, lead)
        if best is None:
            unmet.append(lead)
            continue
        first, second = consumer_first(now, catalog, lead, best.contact)
        power.append((first, second))
        now = edits.tie(now, first, second, extra=True)
    loads = switched(Circuit(now, catalog), [x for x in asked if not is_power(circuit, x)])
    for lead, contact in loads.items():
        power.append((lead, contact))
        now = edits.tie(now, lead, contact)
    for lead, contact in _clamps(Circuit(now, catalog), loads).items():
        power.append((lead, contact))
        now = edits.tie(now, lead, contact)
    here = Circuit(now, catalog)
    called = [
        x
        for x in here.contacts.leads()
        if here.needs.called_for_by(x) in loads.values() and wants_suggestion(here, x)
    ]
    signals = dict.fromkeys([*(x for x in asked if not is_power(circuit, x) and x not in loads), *called])
    return Ready(plan, here, power, unmet, task(here, signals))


def _power_rank(circuit: Circuit, lead: str) -> tuple[int, int]:
    """Feeds, returns of supplies, converters' inputs, bars, supplies,
    grounds: each after what it may hang on."""
    part_id = split(lead)[0]
    spec = circuit.contacts.lead(lead)
    assert spec is not None
    need, source = spec.needs[0], circuit.parts[part_id].source
    if isinstance(need, Feed):
        rank = 0
    elif source is not None:
        rank = 1 if isinstance(need, Ground) else 2
    elif isinstance(need, Coupled):
        rank = 3
    else:
        rank = 4 if isinstance(need, Supply) else 5
    return rank, list(circuit.parts).index(part_id)


def _power(circuit: Circuit, lead: str) -> Fit | None:
    """The best contact for a supply or ground lead; one post of a header for
    one cord, as long as there are any."""
    part_id = split(lead)[0]
    able = [
        f
        for c in circuit.contacts.power_contacts
        if (f := fit(circuit, lead, c, rows=[])).grade < Grade.IMPOSSIBLE
    ]
    worst = sum(
        e.worst_a
        for e in circuit.parts[part_id].elements.values()
        if isinstance(e, Load) and e.a == split(lead)[1]
    )
    spec = circuit.contacts.lead(lead)
    if spec is not None and isinstance(spec.needs[0], Ground):
        able = [f for f in able if circuit.nets.is_ground(f.contact)]
    return min(
        able,
        key=lambda f: (
            f.cost
            + _crowd(circuit, f.contact)
            + _heavy(circuit, f.contact, worst)
            + _far(circuit, part_id, f.contact),
            f.contact,
        ),
        default=None,
    )


def _crowd(circuit: Circuit, contact: str) -> float:
    each = COST_BUSY if split(contact)[0] == BOARD else COST_CROWDED
    return each * len(circuit.ties.at.get(contact, ()))


def _heavy(circuit: Circuit, contact: str, worst_a: float) -> float:
    origin = circuit.supplies.origin(contact)
    on_board = origin is not None and origin.on_board
    return COST_HEAVY if on_board and origin is not None and worst_a > HEAVY * origin.limit_a else 0.0


def switched(circuit: Circuit, leads: Iterable[str]) -> dict[str, str]:
    """Loads on hubs' outputs, before everything else, because the inputs behind those outputs
    want pins then: a part's leads in their order on consecutive outputs where that can be,
    else each on the cheapest that is free."""
    by_part: dict[str, list[str]] = {}
    for lead in leads:
        spec = circuit.contacts.lead(lead)
        if spec is not None and isinstance(spec.needs[0], Switched):
            by_part.setdefault(split(lead)[0], []).append(lead)
    settings: dict[str, str] = {}
    for mine in by_part.values():
        able = [
            {
                f.contact: f.cost
                for f in fits(circuit, x)
                if f.grade < Grade.IMPOSSIBLE
                and f.contact not in settings.values()
                and isinstance(_met(circuit, x, f), Switched)
            }
            for x in mine
        ]
        run = _run(circuit, able)
        for lead, costs in zip(mine, able, strict=True):
            free = {c: v for c, v in costs.items() if c not in settings.values()}
            choice = run[mine.index(lead)] if run else min(free, key=lambda c: (free[c], c), default="")
            if choice:
                settings[lead] = choice
    return settings


def _clamps(circuit: Circuit, loads: dict[str, str]) -> dict[str, str]:
    """The common ends of hubs' clamp diodes, on the supply of the loads that they are for."""
    clamps: dict[str, str] = {}
    for lead, contact in loads.items():
        driver = circuit.hardware.driver_at(contact)
        common = driver.clamps if driver is not None else ""
        end = f"{split(contact)[0]}.{common}"
        part_id = split(lead)[0]
        feeds = (
            t.to
            for name in circuit.parts[part_id].leads
            if (t := circuit.ties.of(f"{part_id}.{name}"))
            and t.lead != lead
            and circuit.supplies.origin(t.to)
            and circuit.contacts.pin(t.to) is None
        )
        supply = next(feeds, "")
        if (
            common
            and supply
            and end not in circuit.ties.at
            and fit(circuit, end, supply).grade < Grade.IMPOSSIBLE
        ):
            clamps.setdefault(end, supply)
    return clamps


def _met(circuit: Circuit, lead: str, f: Fit) -> object:
    spec = circuit.contacts.lead(lead)
    return spec.needs[f.need] if spec else None


def _run(circuit: Circuit, able: list[dict[str, float]]) -> list[str]:
    """The first consecutive outputs of one hub that can take all leads in their order."""
    for part_id, part in circuit.parts.items():
        line = [
            f"{part_id}.{n}" for n, lead in part.leads.items() if lead.offers and lead.offers.kind == "io"
        ]
        for start in range(len(line) - len(able) + 1):
            window = line[start : start + len(able)]
            if all(contact in costs for contact, costs in zip(window, able, strict=True)):
                return window
    return []


def _far(circuit: Circuit, part_id: str, contact: str) -> float:
    """A bar or hub that feeds the part's signals feeds it best."""
    owner = split(contact)[0]
    if owner in (BOARD, part_id):
        return 0.0
    near = any(
        split(t.to)[0] == owner
        for name in circuit.parts[part_id].leads
        if (t := circuit.ties.of(f"{part_id}.{name}"))
    )
    return -1.5 if near else 0.0


def first_pick(ready: Ready) -> tuple[Pick | None, bool]:
    """A good pick at once, or nothing; and whether it is proven that there is none."""
    pick = quick(ready.task)
    return (pick, False) if pick is not None else plain(ready.task)


def first_answer(ready: Ready, catalog: Catalog) -> Suggestion:
    """A good answer at once, or the conflict that stands against any."""
    pick, impossible = first_pick(ready)
    return made(ready, catalog, pick, proven=impossible, brief=True)


UNFOUND = Conflict(
    (),
    "No answer was found in the time that a search has, and no proof that there is none.",
    ("ask for one part after another",),
)


def made(
    ready: Ready, catalog: Catalog, pick: Pick | None, *, proven: bool, brief: bool = False
) -> Suggestion:
    """The suggestion that a pick makes; `proven` says that nothing costs less, or without a pick that
    there is none: then the smallest conflict is sought. A brief one leaves out what would be next best,
    which takes as long as everything else."""
    if ready.unmet:
        return Suggestion(ready.plan, (), False, _unfed(ready))
    if pick is None:
        return Suggestion(ready.plan, (), False, smallest(ready.circuit, ready.task) if proven else UNFOUND)
    plan = ready.circuit.plan
    for lead in ready.task.leads:
        plan = edits.tie(plan, lead, ready.task.options[pick[lead]].contact)
    after = Circuit(plan, catalog)
    cheapest = {lead: ready.task.options[k].cost for lead, k in pick.items()}
    ties = [_proposed(after, lead, contact, None, brief) for lead, contact in ready.power]
    ties += [
        _proposed(after, x, ready.task.options[pick[x]].contact, cheapest[x], brief) for x in ready.task.leads
    ]
    return Suggestion(ready.plan, tuple(ties), proven)


def _unfed(ready: Ready) -> Conflict:
    c = ready.circuit
    names = ", ".join(c.titles.of(x) for x in ready.unmet)
    why = fits(c, ready.unmet[0])
    text = f" ({why[0].reason})" if len(ready.unmet) == 1 and why else ""
    spec = c.contacts.lead(ready.unmet[0])
    grounded = spec is not None and isinstance(spec.needs[0], Ground)
    return Conflict(
        tuple(ready.unmet),
        f"{names}: no {'ground' if grounded else 'supply on the bench that fits'}{text}.",
        ("add a ground bar",) if grounded else ("add a supply: a brick, cells, or a converter",),
    )


def _proposed(after: Circuit, lead: str, contact: str, cost: float | None, brief: bool) -> Proposed:
    """One tie with its reason, and what would be next best with everything else as suggested."""
    answer = fit(after, lead, contact)
    if brief:
        return Proposed(
            lead,
            contact,
            answer.reason,
            answer.cost if cost is None else cost,
            answer.grade >= Grade.POSSIBLE,
        )
    others = (f for f in fits(after, lead) if f.contact != contact and f.grade < Grade.IMPOSSIBLE)
    following = next((f for f in others if not _same(after, f, contact)), None)
    return Proposed(
        lead,
        contact,
        answer.reason,
        answer.cost if cost is None else cost,
        answer.grade >= Grade.POSSIBLE,
        following.contact if following else "",
        following.reason if following else "",
        max(0.0, following.cost - answer.cost) if following else 0.0,
    )


def _same(circuit: Circuit, f: Fit, contact: str) -> bool:
    """Another post of the same rail or ground is no other choice."""
    return circuit.nets.of(f.contact) == circuit.nets.of(contact)
