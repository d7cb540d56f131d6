"""The one way through: plan and catalogue -> circuit -> report."""

import gc
from collections.abc import Callable, Sequence

from msgspec.structs import replace as replaced

from knotplan.catalog.load import Catalog
from knotplan.core.check.acceptance import with_acceptance
from knotplan.core.check.facts import Facts
from knotplan.core.check.finding import SEVERITIES, Finding
from knotplan.core.check.looking import findings
from knotplan.core.check.report import Report
from knotplan.core.check.rules import RULES
from knotplan.core.check.rules.rule import Rule
from knotplan.core.check.trials import Trials, Wrong, wrong_with
from knotplan.core.circuit.circuit import Circuit, after
from knotplan.core.memory.memory import Memory
from knotplan.core.plan.document import PlacedPart, Plan, Tie


class AnalysisCache:
    """What is carried from one analysis to the next: the last report, and all that was worked out for it."""

    def __init__(self) -> None:
        self.forget()

    def forget(self) -> None:
        """Begins anew."""
        self.report: Report | None = None
        self.memory: Memory | None = None
        self.rules: tuple[Rule, ...] = ()
        self.wrong: Wrong = {}

    def near(self, plan: Plan) -> bool:
        """Whether most of a plan is as in the last report: to follow it costs less than to begin anew."""
        if self.report is None:
            return False
        was = self.report.circuit.plan
        return _mostly(was.parts, plan.parts) and _mostly(was.ties, plan.ties)

    def get_ready(self) -> None:
        """Does what the first edit would have to wait for."""
        if self.memory is not None:
            self.memory.get_ready()


def _mostly(was: Sequence[PlacedPart | Tie], now: Sequence[PlacedPart | Tie]) -> bool:
    known = {x.id: x for x in was}
    return 2 * sum(known.get(x.id) == x for x in now) >= len(now)


def analyse(
    plan: Plan,
    catalog: Catalog,
    rules: tuple[Rule, ...] = RULES,
    kept: AnalysisCache | None = None,
    also: Callable[[Circuit], object] = lambda circuit: None,
) -> Report:
    """The report of a plan; raises UnknownEntryError when the catalogue lacks its board or a part.

    `kept` carries what is known from one analysis to the next. What `also` asks of the circuit is known then
    as well."""
    collects = gc.isenabled()
    # an analysis makes many small values and no rings of them: looking for rings in between costs a third
    gc.disable()
    try:
        return _analysed(plan, catalog, rules, AnalysisCache() if kept is None else kept, also)
    finally:
        if collects:
            gc.enable()


def _analysed(
    plan: Plan,
    catalog: Catalog,
    rules: tuple[Rule, ...],
    kept: AnalysisCache,
    also: Callable[[Circuit], object],
) -> Report:
    before, known = kept.report, kept.memory
    circuit = Circuit(plan, catalog, Memory.first()) if known is None else after(known, plan, catalog)
    memory = circuit.memory
    if before is not None and kept.rules is rules and _alike(before.circuit, circuit):
        report = _with_other_looks(
            before, Facts(circuit, catalog, _trials(memory, catalog, rules, kept.wrong))
        )
        memory.settle()
        also(circuit)
        memory.close()
        kept.memory, kept.report = memory, report
        return report
    wrong: Wrong = {}
    trials = _trials(memory, catalog, rules, wrong)
    facts = Facts(circuit, catalog, trials)
    found = looked_at(facts, rules)
    wrong |= wrong_with(found)
    points, budgets, power = facts.points, tuple(facts.budgets.values()), facts.power
    also(circuit)
    memory.close()
    marked = trials.folded(plan, found)
    marked.sort(key=lambda f: SEVERITIES.index(f.severity))
    marked = with_acceptance(marked, plan.accepted)
    # all at the end: what fails before leaves everything as it was
    kept.memory, kept.rules, kept.wrong = memory, rules, wrong
    kept.report = Report(
        circuit,
        points,
        budgets,
        tuple(f for f in marked if not f.accepted),
        tuple(f for f in marked if f.accepted),
        power,
    )
    return kept.report


def looked_at(facts: Facts, rules: tuple[Rule, ...]) -> list[Finding]:
    """What the rules find in the facts of a circuit, in their order; what an edit has touched is asked again
    before."""
    facts.memory.settle()
    return findings(rules, facts)


def _trials(memory: Memory, catalog: Catalog, rules: tuple[Rule, ...], wrong: Wrong) -> Trials:
    """Tries edits of the plan of which so much is known."""

    def look(plan: Plan) -> tuple[Circuit, list[Finding]]:
        circuit = after(memory, plan, catalog)
        found = looked_at(Facts(circuit, catalog), rules)
        circuit.memory.close()
        return circuit, found

    return Trials(look, wrong)


def _with_other_looks(report: Report, facts: Facts) -> Report:
    """The same report of a plan that differs by looks only: its remedies are looked for in that plan."""
    findings, accepted = (tuple(f.about(facts) for f in fs) for fs in (report.findings, report.accepted))
    return replaced(report, circuit=facts.circuit, findings=findings, accepted=accepted)


def _alike(one: Circuit, other: Circuit) -> bool:
    """Two plans differ by looks only, and by none of a tie, which remedies are about: where cards lie, how
    the board is turned, what is done and measured at the bench."""
    return (
        one.parts == other.parts
        and one.board is other.board
        and _frame(one.plan) == _frame(other.plan)
        and _all_alike(one.plan.parts, other.plan.parts)
    )


def _frame(plan: Plan) -> Plan:
    """A plan without its parts, without its looks, and without what is noted of the bench."""
    return replaced(plan, turned=0, flipped=False, parts=(), wired=(), readings=())


def _all_alike(ones: Sequence[PlacedPart], others: Sequence[PlacedPart]) -> bool:
    """Pair by pair the same but for their places; an edit leaves most of them the same objects."""
    return len(ones) == len(others) and all(
        a is b or replaced(a, side="", shows="") == replaced(b, side="", shows="")
        for a, b in zip(ones, others, strict=True)
    )
