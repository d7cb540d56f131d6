"""Edits, undo and redo at random with what is known from one analysis to the next, held against each plan
as if it had just been opened."""

import json
import random
from collections.abc import Iterator
from typing import Any

import msgspec

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.check.report import Report
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.engine.readings import Readings
from knotplan.core.plan.document import Plan
from knotplan.core.plan.editing import edited
from knotplan.core.plan.edits.changed import EditError
from knotplan.exchange.answers.check import answer
from tests.random.edits_at_random import EDITS, Bench, an_edit

UNDO, REDO = 0.2, 0.15


def said(report: Report, with_remedies: bool = False) -> str:
    """Everything that a report says, to the last digit: findings and budgets, the whole tree of supplies, and
    every voltage and current in every case and corner."""
    if with_remedies:
        told = msgspec.to_builtins(answer(report))
    else:
        told = {
            "findings": [_finding(f) for f in (*report.findings, *report.accepted)],
            "budgets": _plain(report.budgets),
        }
    points = report.points
    return json.dumps(
        {
            **told,
            "power": _plain(report.power),
            "points": [_swept(x) for x in (points.volts, points.junctions, points.bars, points.pins)],
            "draws": [(net, _plain(draws)) for net, draws in points.draws.items()],
        }
    )


def _plain(value: object) -> object:
    """A set has no order: what is in it is told in one."""
    return msgspec.to_builtins(value, order="deterministic")


def _finding(f: Any) -> list[Any]:
    figures = [(n.name, n.value, n.unit, n.limit, n.lower) for n in f.numbers]
    below = [_finding(x) for x in f.with_it]
    return [f.rule, f.severity, f.title, f.message, f.subjects, figures, f.accepted, below]


def _swept(readings: Readings[Any]) -> list[tuple[str, str, list[float]]]:
    return [(str(key), repr(sweep.cases), sweep.values.tolist()) for key, sweep in readings.rows.items()]


def steps(plan: Plan, catalog: Catalog, r: random.Random) -> Iterator[tuple[str, Plan]]:
    """(what was done, the plan after it): edits of every kind, some taken back, some of those made again."""
    past, future = [plan], list[Plan]()
    while True:
        chance = r.random()
        if chance < UNDO and len(past) > 1:
            future.append(past.pop())
            yield "undo", past[-1]
        elif chance < UNDO + REDO and future:
            past.append(future.pop())
            yield "redo", past[-1]
        else:
            change = an_edit(Bench(past[-1], catalog, r.choice), r.choice(sorted(EDITS)))
            if change is None:
                continue
            try:
                after = edited(past[-1], catalog, change[1], *change[2], **change[3])
            except EditError:
                continue
            past.append(after)
            future.clear()
            yield change[0], after


def differences(
    plan: Plan, catalog: Catalog, r: random.Random, count: int, remedies: float = 0.0
) -> Iterator[str]:
    """What was done before each report, or each bench as it is laid out, that is not that of a fresh
    analysis; `remedies` is the share of the reports whose remedies are compared as well."""
    kept = AnalysisCache()
    analyse(plan, catalog, kept=kept, also=lay_out)
    walk = steps(plan, catalog, r)
    for number in range(count):
        what, now = next(walk)
        with_remedies = r.random() < remedies
        if _all_of_it(now, catalog, kept, with_remedies) != _all_of_it(
            now, catalog, AnalysisCache(), with_remedies
        ):
            yield f"{number}: {what}"


def _all_of_it(plan: Plan, catalog: Catalog, kept: AnalysisCache, remedies: bool) -> tuple[str, object]:
    """What is said of a plan, and where everything lies on its bench."""
    benches: list[object] = []
    report = analyse(plan, catalog, kept=kept, also=lambda c: benches.append(lay_out(c)))
    return said(report, remedies), benches
