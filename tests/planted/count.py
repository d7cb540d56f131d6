"""How many planted mistakes are told, and how many right plans pass: ``python -m tests.planted.count``."""

import sys
from collections import Counter
from collections.abc import Callable, Iterator, Mapping

from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.check.finding import Finding
from knotplan.core.check.report import Report
from knotplan.core.plan.document import Plan, split
from tests.planted import (  # noqa: F401  (they put their templates on the lists)
    right_more,
    right_parts,
    wrong_again,
    wrong_boards,
    wrong_more,
    wrong_parts,
)
from tests.planted.bench import CATALOG, Bench, Cannot
from tests.planted.right import RIGHT
from tests.planted.wrong import WRONG, Mistake

GRAVE = ("stop", "care")


def laid(
    templates: Mapping[str, Callable[[Bench], object]], seed: int = 0
) -> Iterator[tuple[str, str, Plan, object]]:
    """(template, board, plan, what the template returns) for every board that can have it."""
    for name, template in templates.items():
        for board, plan, about in on_boards(template, seed):
            yield name, board, plan, about


def on_boards(template: Callable[[Bench], object], seed: int = 0) -> Iterator[tuple[str, Plan, object]]:
    """(board, plan, what the template returns) for every board that can have it."""
    for board in CATALOG.board_ids():
        bench = Bench(board, seed)
        try:
            about = template(bench)
        except Cannot:
            continue
        yield board, bench.plan, about


def look(plan: Plan, kept: AnalysisCache | None = None) -> Report:
    """The report of a plan; with what is kept of one that lies near."""
    return analyse(plan, CATALOG, kept=kept)


def alarms(report: Report) -> list[Finding]:
    """What is said of a plan that is more than a note."""
    return [f for f in report.findings if f.severity in GRAVE]


def telling(mistake: Mistake, about: str, findings: tuple[Finding, ...]) -> list[Finding]:
    """The findings that tell a planted mistake for its cause, whatever their severity."""
    return [
        f
        for f in findings
        if f.rule in mistake.rules
        and (not about or about in {split(s)[0] for s in f.subjects} | {f.subjects[0]} or _names(f, about))
    ]


def _names(f: Finding, about: str) -> bool:
    """Of a budget the subject is the rail: there the message names the part."""
    return f.rule in ("rail-over", "supply-over") and about.replace("-", " ") in f.message


def _alike(f: Finding) -> tuple[str, frozenset[str]]:
    """The same finding, also when a cord has moved to another pin."""
    return f.rule, frozenset(s for s in f.subjects if not s.startswith("board."))


def harms(report: Report, kept: AnalysisCache) -> Iterator[tuple[Finding, str]]:
    """What is wrong with each remedy of a finding: it stays, or there is a stop that was not there. `kept` is
    of the plan itself, or of one near it."""
    there = [y for x in report.findings for y in (x, *x.with_it)]
    before = {_alike(x) for x in there if x.severity == "stop"}
    for f in alarms(report):
        for remedy in f.remedies:
            after = look(remedy.apply(report.circuit.plan), kept).findings
            new = [x for x in after if x.severity == "stop" and _alike(x) not in before]
            if any(_alike(x) == _alike(f) and x.severity in GRAVE for x in after):
                yield f, f"{remedy.title}: leaves it"
            elif new:
                yield f, f"{remedy.title}: adds {new[0].rule}: {new[0].message}"


def count(seed: int = 0) -> None:
    """Prints what is missed, cried and harmful, and the sums by family."""
    total, told, severe = Counter[str](), Counter[str](), Counter[str]()
    remedies, harmful, without = 0, 0, 0
    for name, board, plan, about in laid({n: m.lay for n, m in WRONG.items()}, seed):
        mistake = WRONG[name]
        kept = AnalysisCache()
        report = look(plan, kept)
        findings = report.findings
        total[mistake.family] += 1
        cause = telling(mistake, str(about), findings)
        right = [f for f in cause if f.severity in mistake.severities]
        told[mistake.family] += bool(cause)
        severe[mistake.family] += bool(right)
        if not right:
            said = "; ".join(f"{f.severity} {f.rule}" for f in findings if f.severity != "note" or f in cause)
            print(f"MISSED {name} on {board}: {'wrong severity, ' if cause else ''}{said}")
        for f in findings:
            if f.severity in GRAVE:
                remedies += len(f.remedies)
                without += not f.remedies and f in cause
        for f, text in harms(report, kept):
            harmful += 1
            print(f"HARM {name} on {board}: {f.rule}: {text}"[:300])
    cried = 0
    rights = 0
    for name, board, plan, _ in laid(RIGHT, seed):
        rights += 1
        false = alarms(look(plan))
        cried += bool(false)
        for f in false:
            print(f"CRIED {name} on {board}: {f.severity} {f.rule}: {f.message}"[:300])
    for family in total:
        print(
            f"{family:10} {total[family]:4} planted, {told[family]:4} told, {severe[family]:4} at the right "
            "severity"
        )
    print(
        f"all        {total.total():4} planted, {told.total():4} told, {severe.total():4} at the right "
        "severity"
    )
    print(
        f"{remedies} remedies, {harmful} leave their finding or add a stop; {without} findings of the cause "
        "have none"
    )
    print(f"{rights} right plans, {cried} with a false alarm")


if __name__ == "__main__":
    count(int(sys.argv[1]) if len(sys.argv) > 1 else 0)
