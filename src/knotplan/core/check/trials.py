"""What would an edit do: tried in a copy of the plan, before it is offered.

A remedy that leaves its finding, that adds a stop, or that only silences because it takes a load's switch away,
is none. And what goes away with one cause is said under it.
"""

from collections.abc import Callable, Iterable
from dataclasses import replace

from knotplan.catalog.derived import derived
from knotplan.catalog.part.needs import Switched
from knotplan.core.check.finding import SEVERITIES, Finding
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.effort import EFFORT
from knotplan.core.plan.document import BOARD, Plan, split
from knotplan.core.plan.edits import EditError
from knotplan.core.plan.remedy import Remedy

Look = Callable[[Plan], tuple[Circuit, list[Finding]]]
"""the analysis of a plan, without what is folded or accepted"""
ONE_CAUSE = frozenset(
    {
        "leads-exchanged",
        "supplies-exchanged",
        "supply-reversed",
        "led-reversed",
        "uart-crossed",
        "shifter-turned",
        "feed-blocked",
        "nothing-reads",
    }
)
"""rules whose findings cause others: an exchange, something turned round, a contact across a supply"""
MOST_FOLDED = 4
"""so many causes of one plan are tried; looking costs an analysis each"""
TIES_A_UNIT = 6.5
"""of a plan: so many are analysed for one unit of effort"""
COST_PART, COST_CARE = 3, 5
"""what bringing a part in, and what a new care counts against a remedy, in edits"""


def alike(f: Finding) -> tuple[str, frozenset[str]]:
    """What makes it the same finding when something has moved: its rule and its leads and parts."""
    own = frozenset(s for s in f.subjects if split(s)[0] != BOARD)
    return f.rule, own or frozenset(f.subjects)


class Trials:
    """Tries edits of one plan."""

    def __init__(self, look: Look):
        self._look = look
        self.findings: list[Finding] = []
        """of the plan as it is; known once the analysis is made"""

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
        for remedy in offered:
            if any(remedy == other for _, other in good):
                continue
            after = self.of(circuit.plan, remedy)
            if after is None or not self._settles(finding, after[1]):
                continue
            if switched_loads(circuit) & set(after[0].parts) - switched_loads(after[0]):
                continue
            good.append((self._cost(remedy, after[1]), remedy))
        return tuple(remedy for _, remedy in sorted(good, key=lambda g: g[0]))

    def _settles(self, finding: Finding, after: list[Finding]) -> bool:
        grave = SEVERITIES.index(finding.severity)
        stays = any(alike(f) == alike(finding) and SEVERITIES.index(f.severity) <= grave for f in after)
        return not stays and not self._new(after, "stop")

    def _new(self, after: list[Finding], severity: str) -> set[tuple[str, frozenset[str]]]:
        before = {alike(f) for f in self.findings if f.severity == severity}
        return {alike(f) for f in after if f.severity == severity} - before

    def _cost(self, remedy: Remedy, after: list[Finding]) -> int:
        parts = sum(step.edit.__name__ == "add_part" for step in remedy.steps)
        return len(remedy.steps) + COST_PART * parts + COST_CARE * len(self._new(after, "care"))

    def folded(self, plan: Plan, findings: list[Finding]) -> list[Finding]:
        """The findings, with those that have one cause under it."""
        causes = [f for f in findings if f.rule in ONE_CAUSE][:MOST_FOLDED]
        under: dict[int, tuple[Finding, ...]] = {}
        gone: set[int] = set()
        for cause in causes:
            assert cause.facts is not None
            remedy = next(iter(cause.search(cause.facts)), None)
            after = self.of(plan, remedy) if remedy is not None else None
            if after is None or self._new(after[1], "stop"):
                continue
            left = {alike(f) for f in after[1]}
            goes = [
                f
                for f in findings
                if f.rule not in ONE_CAUSE and id(f) not in gone and alike(f) not in left
            ]
            under[id(cause)] = tuple(goes)
            gone |= {id(f) for f in goes}
        return [
            replace(f, with_it=under[id(f)]) if under.get(id(f)) else f for f in findings if id(f) not in gone
        ]


@derived
def switched_loads(circuit: Circuit) -> frozenset[str]:
    """Parts with a load that something switches: not those that are on whenever they are fed."""
    return frozenset(
        part_id
        for part_id, part in circuit.parts.items()
        for name, lead in part.leads.items()
        if any(isinstance(n, Switched) for n in lead.needs) and _switches(circuit, f"{part_id}.{name}")
    )


def _switches(circuit: Circuit, lead: str) -> bool:
    tie = circuit.ties.of(lead)
    if tie is None:
        return False
    pin = circuit.contacts.pin(tie.to)
    by_contact = pin is not None and pin.kind == "contact"
    return by_contact or isinstance(circuit.needs.of(lead), Switched)
