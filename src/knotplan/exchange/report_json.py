"""A report for programs: the JSON that `knotplan check --format json` prints."""

from typing import Any

from knotplan.core.check.finding import SEVERITIES, Finding
from knotplan.core.check.remedy_search import within_budget
from knotplan.core.check.report import Report
from knotplan.core.names.book import NameBook
from knotplan.core.plan.document import BOARD, split
from knotplan.core.plan.remedy import Remedy
from knotplan.core.power.budget import Budget, pin_current
from knotplan.core.quantity.working import Number


def as_tree(report: Report) -> dict[str, Any]:
    """The report with currents in amperes and voltages in volts."""
    return {
        "plan": report.circuit.plan.title,
        "board": report.circuit.board.id,
        "summary": {s: report.count(s) for s in SEVERITIES},
        "assumes": {a.id: a.value for a in report.circuit.plan.assumes},
        "findings": [_finding(f, remedies) for f, remedies in within_budget(report.findings)],
        "accepted": [
            {**_finding(f, remedies), "accepted": f.accepted}
            for f, remedies in within_budget(report.accepted)
        ],
        "rails": [_budget(b) for b in report.budgets],
        "pins": _pins(report),
    }


def _finding(f: Finding, remedies: tuple[Remedy, ...] | None) -> dict[str, Any]:
    """A finding; `remedies` are nothing where they were not searched for,
    because there are too many findings."""
    return {
        "rule": f.rule,
        "severity": f.severity,
        "title": f.title,
        "message": f.message,
        "subjects": list(f.subjects),
        "with_it": [{"rule": x.rule, "message": x.message, "subjects": list(x.subjects)} for x in f.with_it],
        "numbers": [_number(n) for n in f.numbers],
        "remedies": [r.title for r in remedies or ()],
        "remedies_searched": remedies is not None,
        "reason": f.reason,
        "source": f.source,
    }


def _number(n: Number) -> dict[str, Any]:
    """A figure with its limit: what it may be at most, or has to be at least."""
    limit = {} if n.limit is None else {"limit": n.limit, "limit_is": "least" if n.lower else "most"}
    return {"name": n.name, "value": n.value, "unit": n.unit, **limit}


def _budget(b: Budget) -> dict[str, Any]:
    return {
        "id": b.id,
        "title": b.title,
        "kind": b.kind,
        "usual_a": b.usual_a,
        "worst_a": b.worst_a,
        "limit_a": b.limit_a,
    }


def _pins(report: Report) -> list[dict[str, Any]]:
    c, names, rows = report.circuit, NameBook(report.circuit.board), []
    for contact, ties in c.ties.holders.items():
        usual, worst = pin_current(report.points.pins.get(contact, []))
        volts = report.points.volts.get(c.nets.of(contact), [])
        owner, pin_id = split(contact)
        rows.append(
            {
                "pin": pin_id if owner == BOARD else contact,
                "names": names.all_names(pin_id) if owner == BOARD else c.contacts.pins[contact].names,
                "ties": [{"lead": t.lead, "role": t.role} for t in ties],
                "usual_a": usual,
                "worst_a": worst,
                "states": [
                    {"state": r.case.words(c), "min_v": r.min, "typical_v": r.typ, "max_v": r.max}
                    for r in volts
                ],
            }
        )
    return rows
