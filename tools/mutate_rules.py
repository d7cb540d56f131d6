"""Inverts every condition of every rule, one at a time, and counts how many of these the tests notice.

A condition is the test of an `if`, of a conditional expression or of a comprehension, and each operand of an
`and` or `or` in it. What notices is what the tests ask: the exact finding on each rule's bad plan and none
on its good twin, its remedies by title, the planted mistakes, the right plans, and what is kept word for
word of them. Run by ``python -m tools.mutate_rules`` from the project's folder; names of modules as
arguments look at these alone.
"""

import ast
import logging
import sys
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from pathlib import Path
from types import ModuleType

from tests.core.test_rules import EXPECTED, REMEDIES
from tests.planted.count import GRAVE, WRONG, laid, telling
from tests.planted.right import RIGHT
from tests.planted.said import KEPT, entries, said

from knotplan.catalog.load import shipped
from knotplan.core.check import analysis
from knotplan.core.check.facts import Facts
from knotplan.core.check.finding import Finding
from knotplan.core.check.looking import findings
from knotplan.core.check.rules import RULES
from knotplan.core.check.rules.rule import Rule
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Plan
from knotplan.examples import example

FOLDER = Path("src/knotplan/core/check/rules")


def conditions(tree: ast.Module) -> list[tuple[ast.AST, str, int | None]]:
    """(node, field, place in a list) of everything that decides."""
    found: list[tuple[ast.AST, str, int | None]] = []
    for node in ast.walk(tree):
        if isinstance(node, ast.If | ast.IfExp | ast.While):
            found.append((node, "test", None))
        elif isinstance(node, ast.comprehension):
            found += [(node, "ifs", k) for k in range(len(node.ifs))]
        elif isinstance(node, ast.BoolOp):
            found += [(node, "values", k) for k in range(len(node.values))]
    return found


def inverted(source: str, number: int) -> tuple[ast.Module, int]:
    """The module with one condition inverted, and the line that it stands in."""
    tree = ast.parse(source)
    node, field, at = conditions(tree)[number]
    old = getattr(node, field) if at is None else getattr(node, field)[at]
    new = ast.copy_location(ast.UnaryOp(ast.Not(), old), old)
    if at is None:
        setattr(node, field, new)
    else:
        getattr(node, field)[at] = new
    return ast.fix_missing_locations(tree), old.lineno


def rules_of(tree: ast.Module, name: str) -> dict[str, Rule]:
    """The rules that a mutated module makes."""
    module = ModuleType(f"mutated_{name}")
    exec(compile(tree, f"<{name}, mutated>", "exec"), module.__dict__)
    return {r.id: r for r in vars(module).values() if isinstance(r, Rule)}


@cache
def corpus() -> list[tuple[Plan, str, str, str]]:
    """(plan, kind, template or rule, about): each rule's plans, planted mistakes, right plans."""
    catalog = shipped()
    plans = [(example(f"rules/{r.id}.{k}", catalog), k, r.id, "") for r in RULES for k in ("bad", "good")]
    plans += [(p, "wrong", n, str(a)) for n, _, p, a in laid({n: m.lay for n, m in WRONG.items()})]
    return plans + [(p, "right", n, "") for n, _, p, _ in laid(RIGHT)]


@cache
def looked_at(case: int) -> tuple[Facts, list[Finding]]:
    """The facts of a plan of the corpus, and what the rules as they are find in it."""
    catalog = shipped()
    facts = Facts(Circuit(corpus()[case][0], catalog), catalog)
    return facts, findings(RULES, facts)


def noticed(own: dict[str, Rule]) -> bool:
    """Whether any test would fail with these rules in the place of their namesakes."""
    rules = tuple(own.get(r.id, r) for r in RULES)
    for case, (plan, kind, name, about) in enumerate(corpus()):
        if kind in ("bad", "good"):
            if name in own and amiss(kind, name, analysis.analyse(plan, shipped(), rules).findings):
                return True
        elif kind == "right" or own.keys() & set(WRONG[name].rules):
            facts, before = looked_at(case)
            now = findings(tuple(own.values()), facts)
            if kind == "right" and any(f.severity in GRAVE for f in now):
                return True
            others = [f for f in before if f.rule not in own]
            if kind == "wrong" and not told(name, about, (*others, *now)):
                return True
    return any(says_otherwise(own, rules, case) for case in range(len(corpus())))


def says_otherwise(own: dict[str, Rule], rules: tuple[Rule, ...], case: int) -> bool:
    """Of a plan whose findings are kept word for word, something is said or offered that is not kept."""
    plan, kind, name, _ = corpus()[case]
    if kind not in ("wrong", "right") or case != first_of(name):
        return False
    facts, before = looked_at(case)
    was = [f for f in before if f.rule in own]
    now = findings(tuple(own.values()), facts)
    if [words(f) for f in was] != [words(f) for f in now]:
        return True
    if all(offered(a) == offered(b) for a, b in zip(was, now, strict=True)):
        return False
    entry = said(name, plan.board, analysis.analyse(plan, shipped(), rules).findings)
    return entry.strip() != kept()[name]


@cache
def kept() -> dict[str, str]:
    return entries(KEPT.read_text("utf-8"))


@cache
def first_of(name: str) -> int:
    """The first plan of a template, which is the one that is kept."""
    return next(k for k, case in enumerate(corpus()) if case[1] in ("wrong", "right") and case[2] == name)


def words(f: Finding) -> tuple[str, str, str]:
    return f.rule, f.severity, f.message


def offered(f: Finding) -> list[str]:
    """The titles of what a rule offers, before it is tried."""
    assert f.facts is not None
    return [r.title for r in f.search(f.facts)]


def told(name: str, about: str, findings: tuple[Finding, ...]) -> bool:
    """A planted mistake is told at the right severity."""
    return any(f.severity in WRONG[name].severities for f in telling(WRONG[name], about, findings))


def amiss(kind: str, name: str, findings: Sequence[Finding]) -> bool:
    """Whether the test of a rule's own plan would fail with these findings."""
    if kind == "good":
        return bool(findings)
    mine = [f for f in findings if f.rule == name]
    if [(f.severity, f.subjects, f.message) for f in mine] != [EXPECTED[name]]:
        return True
    return [r.title for r in mine[0].remedies] != REMEDIES[name]


def tried(job: tuple[str, int]) -> tuple[str, int, bool]:
    """(module, line, whether the tests notice) of one condition inverted."""
    name, number = job
    tree, line = inverted((FOLDER / f"{name}.py").read_text("utf-8"), number)
    try:
        own = rules_of(tree, name)
    except Exception:
        return name, line, True  # the program does not start
    try:
        return name, line, noticed(own)
    except Exception:
        return name, line, True  # a rule or a remedy that raises


def jobs(names: list[str]) -> Iterator[tuple[str, int]]:
    for path in sorted(FOLDER.glob("*.py")):
        if path.stem not in ("__init__", "rule") and (not names or path.stem in names):
            source = path.read_text("utf-8")
            if "@rule(" in source:
                yield from ((path.stem, k) for k in range(len(conditions(ast.parse(source)))))


def main(names: list[str]) -> None:
    logging.disable(logging.CRITICAL)
    total = seen = 0
    with ProcessPoolExecutor(2) as pool:
        for name, line, was_noticed in pool.map(tried, jobs(names), chunksize=4):
            total, seen = total + 1, seen + was_noticed
            if not was_noticed:
                text = (FOLDER / f"{name}.py").read_text("utf-8").splitlines()[line - 1].strip()
                print(f"not noticed: {name}.py:{line}: {text}", flush=True)
    print(f"{total} conditions inverted, {seen} noticed ({seen / total:.1%})")


if __name__ == "__main__":
    main(sys.argv[1:])
