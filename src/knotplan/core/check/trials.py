"""What would an edit do: tried in a copy of the plan, before it is offered.

A remedy that leaves its finding, that adds a stop, or that only silences because it takes a load's switch
away, is none. And what goes away with one cause is said under it.
"""

from collections.abc import Callable, Iterable
from dataclasses import replace
from itertools import islice

from msgspec import Struct

from knotplan.catalog.part.needs import Switched
from knotplan.core.check.finding import SEVERITIES, Finding
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.effort import EFFORT
from knotplan.core.memory.question import question
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, Plan, split
from knotplan.core.plan.edits import EditError
from knotplan.core.plan.remedy import Remedy

Look = Callable[[Plan], tuple[Circuit, list[Finding]]]
"""the analysis of a plan, without what is folded or accepted"""
ONE_CAUSE = frozenset(
    {
        "short-circuit",
        "leads-exchanged",
        "output-for-input",
        "supplies-exchanged",
        "supply-reversed",
        "led-reversed",
        "uart-crossed",
        "shifter-turned",
        "feed-blocked",
        "nothing-reads",
        "ends-alike",
        "clamp-missing",
        "component-missing",
    }
)
"""rules whose findings cause others: an exchange, something turned round, a contact across a supply, what is
missing; a second finding of the same rule may go along as well"""
NEARER = frozenset({"need-unmet", "driver-missing"})
"""rules whose findings cause others too, and may themselves follow from one of those"""
MOST_ADDED, MOST_WAYS = 2, 2
"""so many edits more may complete a remedy, and so many ways are tried for each"""
MOST_FOLDED = 4
"""so many causes of one plan are tried; looking costs an analysis each"""
TIES_A_UNIT = 6.5
"""of a plan: so many are analysed for one unit of effort"""
COST_PART, COST_CARE, COST_STOP = 3, 5, 4
"""what bringing a part in, a new care, and a stop that is left count against a remedy, in edits"""


Alike = tuple[str, frozenset[str]]


def alike(f: Finding) -> Alike:
    """What makes it the same finding when something has moved: its rule and its leads and parts."""
    own = frozenset(s for s in f.subjects if split(s)[0] != BOARD)
    return f.rule, own or frozenset(f.subjects)


Wrong = dict[str, list[Alike]]
"""what is wrong with a plan, by severity"""


def wrong_with(findings: Iterable[Finding]) -> Wrong:
    """What findings tell, without the facts that they were found in."""
    wrong: Wrong = {}
    for f in findings:
        wrong.setdefault(f.severity, []).append(alike(f))
    return wrong


class _Whole(Struct, frozen=True):
    """A remedy with what it leads to."""

    remedy: Remedy
    circuit: Circuit
    findings: list[Finding]


def _and(remedy: Remedy, then: Remedy) -> Remedy:
    title = f"{remedy.title}, and {then.title[0].lower()}{then.title[1:]}"
    return Remedy(title, remedy.steps + then.steps)


_Tried = tuple[Remedy, tuple[Circuit, list[Finding]] | None]
"""a remedy, and what it leads to; nothing where it cannot be applied"""


class Trials:
    """Tries edits of one plan."""

    def __init__(self, look: Look, wrong: Wrong):
        """`wrong`: what is wrong with the plan as it is."""
        self._look, self._before = look, wrong

    def of(self, plan: Plan, remedy: Remedy) -> tuple[Circuit, list[Finding]] | None:
        """The circuit and the findings after a remedy; nothing where it cannot be applied."""
        try:
            after = remedy.apply(plan)
        except (EditError, KeyError):  # what it is about is not there any more
            return None
        EFFORT.spend(len(after.ties) / TIES_A_UNIT)
        return self._look(after)

    def proven(self, finding: Finding, offered: Iterable[Remedy]) -> tuple[Remedy, ...]:
        """Those that settle a finding and add no stop, the one with the fewest edits first."""
        assert finding.facts is not None
        circuit = finding.facts.circuit
        good: list[tuple[int, Remedy]] = []
        outcomes: list[Plan] = []
        for remedy in offered:
            if any(remedy.title == other.title for _, other in good):
                continue
            whole = self._completed(circuit.plan, finding, remedy, MOST_ADDED)
            if whole is None or (
                switched_loads(circuit) & set(whole.circuit.parts) - switched_loads(whole.circuit)
            ):
                continue
            if whole.circuit.plan in outcomes:
                continue  # the same under another name
            outcomes.append(whole.circuit.plan)
            good.append((self._cost(whole.remedy, whole.findings), whole.remedy))
        return tuple(remedy for _, remedy in sorted(good, key=lambda g: g[0]))

    def _completed(self, plan: Plan, finding: Finding, remedy: Remedy, more: int) -> "_Whole | None":
        """A remedy that settles a finding and adds no stop; where it adds one, together with what settles
        that
        (a part that moves to a higher supply wants a level shifter then)."""
        return self._whole(plan, finding, (remedy, self.of(plan, remedy)), more)

    def _whole(self, plan: Plan, finding: Finding, tried: _Tried, more: int) -> "_Whole | None":
        """The same of a remedy that was tried; of several ways to complete it, one with the fewest edits."""
        remedy, after = tried
        if after is None or self._stays(finding, after[1]):
            return None
        new = self._new(after[1], "stop")
        if not new:
            return _Whole(remedy, *after)
        added = next(f for f in after[1] if f.severity == "stop" and alike(f) in new)
        ways = [_and(remedy, then) for then in islice(added.remedies, MOST_WAYS if more else 0)]
        longer = [(way, self.of(plan, way)) for way in ways]
        wholes = (self._whole(plan, finding, way, further) for further in range(more) for way in longer)
        return next((whole for whole in wholes if whole is not None), None)

    def _stays(self, finding: Finding, after: list[Finding]) -> bool:
        grave = SEVERITIES.index(finding.severity)
        return any(alike(f) == alike(finding) and SEVERITIES.index(f.severity) <= grave for f in after)

    def _new(self, after: list[Finding], severity: str) -> set[Alike]:
        """Those that were not there: a finding that only has one lead more is the same."""
        before = self._before.get(severity, [])
        now = {alike(f) for f in after if f.severity == severity}
        return {x for x in now if not any(x[0] == b[0] and b[1] <= x[1] for b in before)}

    def _cost(self, remedy: Remedy, after: list[Finding]) -> int:
        parts = sum(step.edit is edits.add_part for step in remedy.steps)
        stops = sum(f.severity == "stop" for f in after)
        worse = COST_CARE * len(self._new(after, "care")) + COST_STOP * stops
        return len(remedy.steps) + COST_PART * parts + worse

    def folded(self, plan: Plan, findings: list[Finding]) -> list[Finding]:
        """The findings, with those that have one cause under it."""
        stops = [f for f in findings if f.severity == "stop"]
        deep, near = ([f for f in stops if f.rule in rules] for rules in (ONE_CAUSE, NEARER))
        under: dict[int, tuple[Finding, ...]] = {}
        gone: set[int] = set()
        for cause in [*deep, *near][:MOST_FOLDED]:
            if id(cause) in gone:
                continue
            assert cause.facts is not None
            remedy = next(iter(cause.search(cause.facts)), None)
            after = self.of(plan, remedy) if remedy is not None else None
            if after is None or self._new(after[1], "stop"):
                continue
            left = {alike(f) for f in after[1]}
            if alike(cause) in left:
                continue
            goes = [
                f for f in findings if _may_follow(f, cause) and id(f) not in gone and alike(f) not in left
            ]
            under[id(cause)] = tuple(goes)
            gone |= {id(f) for f in goes}
        return [
            replace(f, with_it=under[id(f)]) if under.get(id(f)) else f for f in findings if id(f) not in gone
        ]


def _may_follow(f: Finding, cause: Finding) -> bool:
    """From a cause follows what is none itself, what lies nearer, and more of the same. From a nearer one
    follows only what was measured: that the same pin is taken as well is another mistake."""
    if f.rule == cause.rule:
        return f is not cause
    if cause.rule in NEARER:
        return f.rule not in ONE_CAUSE | NEARER and bool(f.numbers)
    return f.rule not in ONE_CAUSE


@question
def switched_loads(circuit: Circuit) -> frozenset[str]:
    """Parts with a load that something switches: not those that are on whenever they are fed."""
    return frozenset(
        part_id
        for part_id, part in circuit.parts.items()
        if any(isinstance(n, Switched) for lead in part.leads.values() for n in lead.needs)
        and any(_switches(circuit, f"{part_id}.{name}") for name in part.leads)
    )


def _switches(circuit: Circuit, lead: str) -> bool:
    """A lead is on a relay's contact, or on the output of a driver or a pin."""
    tie = circuit.ties.of(lead)
    pin = circuit.contacts.pin(tie.to) if tie is not None else None
    by_contact = pin is not None and pin.kind == "contact"
    return by_contact or (
        pin is not None and pin.kind == "io" and isinstance(circuit.needs.of(lead), Switched)
    )
