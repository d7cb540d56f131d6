"""The one way through: plan and catalogue -> circuit -> report."""

import gc
import logging
from collections.abc import Sequence
from dataclasses import replace

from msgspec import Struct
from msgspec.structs import replace as replaced

from knotplan.catalog.load import Catalog
from knotplan.core.check.acceptance import with_acceptance
from knotplan.core.check.asked import none
from knotplan.core.check.facts import Facts
from knotplan.core.check.finding import SEVERITIES, Finding
from knotplan.core.check.report import Report
from knotplan.core.check.rules import RULES
from knotplan.core.check.rules.rule import Rule
from knotplan.core.check.trials import Trials
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cache import EngineCache
from knotplan.core.engine.operating_points import operating_points
from knotplan.core.engine.readings import Points
from knotplan.core.plan.document import Plan
from knotplan.core.power.budgets import budgets
from knotplan.core.power.tree import tree

log = logging.getLogger(__name__)
REPORT = (
    "Please report this: the menu Help, Report a problem gathers what is needed (the log says where it "
    "failed)."
)


class AnalysisCache:
    """What is carried from one analysis to the next: solutions of nets, and the
    last report for edits of looks only."""

    def __init__(self) -> None:
        self.solved = EngineCache()
        self.report: Report | None = None
        self.rules: tuple[Rule, ...] = ()


def analyse(
    plan: Plan, catalog: Catalog, rules: tuple[Rule, ...] = RULES, kept: AnalysisCache | None = None
) -> Report:
    """The report of a plan; raises UnknownEntryError when the catalogue lacks its board or a part.

    `kept` carries solutions of nets from one analysis to the next."""
    collects = gc.isenabled()
    # an analysis makes many small values and no rings of them: looking for rings in between costs a third
    gc.disable()
    try:
        return _analysed(Circuit(plan, catalog), catalog, rules, kept)
    finally:
        if collects:
            gc.enable()


def _analysed(
    circuit: Circuit, catalog: Catalog, rules: tuple[Rule, ...], kept: AnalysisCache | None
) -> Report:
    plan = circuit.plan
    if (
        kept is not None
        and kept.report is not None
        and kept.rules is rules
        and _alike(kept.report.circuit, circuit)
    ):
        kept.report = _with_other_looks(kept.report, circuit)
        return kept.report
    solved = kept.solved if kept else EngineCache()
    trials = Trials(lambda plan: _trial(plan, catalog, rules, solved.branch()))
    facts, marked = looked_at(circuit, catalog, rules, solved, trials)
    trials.begin(marked)
    marked = trials.folded(plan, marked)
    marked.sort(key=lambda f: SEVERITIES.index(f.severity))
    marked = with_acceptance(marked, plan.accepted)
    report = Report(
        circuit,
        facts.points,
        facts.budgets,
        tuple(f for f in marked if not f.accepted),
        tuple(f for f in marked if f.accepted),
        facts.power,
    )
    if kept is not None:
        kept.report, kept.rules = report, rules
    return report


def looked_at(
    circuit: Circuit, catalog: Catalog, rules: tuple[Rule, ...], solved: EngineCache, trials: Trials | None
) -> tuple[Facts, list[Finding]]:
    """The facts of a circuit, and what the rules find in them, in their order."""
    points, marked = _points(circuit, solved)
    roots = tree(circuit, points)
    facts = Facts(circuit, points, budgets(circuit, points, roots), catalog, roots, trials)
    return facts, marked + [f for rule in rules for f in _findings(rule, facts)]


def _trial(
    plan: Plan, catalog: Catalog, rules: tuple[Rule, ...], solved: EngineCache
) -> tuple[Circuit, list[Finding]]:
    """What the rules find in a plan that somebody only tries."""
    circuit = Circuit(plan, catalog)
    return circuit, looked_at(circuit, catalog, rules, solved, None)[1]


def _with_other_looks(report: Report, circuit: Circuit) -> Report:
    """The same report of a plan that differs by looks only: its remedies are looked for in that plan."""
    known = next((f.facts for f in (*report.findings, *report.accepted) if f.facts is not None), None)
    if known is None:
        return replaced(report, circuit=circuit)
    facts = replace(known, circuit=circuit)
    findings, accepted = (tuple(f.about(facts) for f in fs) for fs in (report.findings, report.accepted))
    return replaced(report, circuit=circuit, findings=findings, accepted=accepted)


def _alike(one: Circuit, other: Circuit) -> bool:
    """Two plans differ by looks only: cords' colours, where cards lie, how the board is turned, which ties
    are fixed, what is done and measured at the bench."""
    return (
        one.parts == other.parts
        and one.board is other.board
        and _frame(one.plan) == _frame(other.plan)
        and _all_alike(one.plan.parts, other.plan.parts, side="", shows="")
        and _all_alike(one.plan.ties, other.plan.ties, cord="", fixed=False)
    )


def _frame(plan: Plan) -> Plan:
    """A plan without its parts and ties, without its looks, and without what is noted of the bench."""
    return replaced(plan, turned=0, flipped=False, parts=(), ties=(), wired=(), readings=())


def _all_alike(ones: Sequence[Struct], others: Sequence[Struct], **looks: str | bool) -> bool:
    """Pair by pair the same but for their looks; an edit leaves most of them the same objects."""
    return len(ones) == len(others) and all(
        a is b or replaced(a, **looks) == replaced(b, **looks) for a, b in zip(ones, others, strict=True)
    )


def _points(circuit: Circuit, kept: EngineCache | None) -> tuple[Points, list[Finding]]:
    """The operating points; where the engine fails there are none, and that is a finding."""
    try:
        return operating_points(circuit, kept), []
    except Exception as error:
        log.exception("the engine failed")
        return Points(), [
            Finding(
                "engine-failed",
                "stop",
                "Voltages and currents could not be computed",
                f"The engine failed: {type(error).__name__}: {error}. Nothing that follows from them is "
                "checked.",
                ("engine",),
                (),
                none,
                REPORT,
                "Kirchhoff's laws",
            )
        ]


def _findings(rule: Rule, facts: Facts) -> list[Finding]:
    """A rule's findings; a rule that fails is a finding of its own, never a silent pass."""
    try:
        return list(rule.findings(facts))
    except Exception as error:
        log.exception("the rule %s failed", rule.id)
        return [
            Finding(
                "rule-failed",
                "stop",
                "A check could not be made",
                f"The check {rule.title!r} ({rule.id}) failed: {type(error).__name__}: {error}.",
                (rule.id,),
                (),
                none,
                REPORT,
                rule.source,
            )
        ]
