"""Findings as SARIF (Static Analysis Results Interchange Format 2.1.0, OASIS): for code hosts and editors."""

import hashlib
from collections.abc import Iterable
from typing import Any

from knotplan import __version__
from knotplan.core.check.finding import Finding, Severity
from knotplan.core.check.remedy_search import within_budget
from knotplan.core.check.report import Report
from knotplan.core.check.rules import RULES
from knotplan.core.plan.remedy import Remedy
from knotplan.exchange.answers.check import number
from knotplan.exchange.positions import Region
from knotplan.exchange.results.outcome import Outcome, Spots, regions_of

SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
LEVELS: dict[Severity, str] = {"stop": "error", "care": "warning", "to-do": "note", "note": "note"}
INDICES = {rule.id: k for k, rule in enumerate(RULES)}
Json = dict[str, Any]


def results(outcome: Outcome) -> list[Json]:
    """The findings of one file, or the notifications of one that cannot be read (`notifications`)."""
    if outcome.report is None:
        return []
    report, spots = outcome.report, Spots(outcome.report.circuit.plan, outcome.text)
    told = within_budget((*report.findings, *report.accepted))
    return [_result(report, outcome, f, remedies, spots) for f, remedies in told]


def notifications(outcome: Outcome) -> list[Json]:
    """What is wrong with a file that cannot be read."""
    if outcome.report is not None:
        return []
    wrong = list(regions_of(outcome.wrong, outcome.text))
    if not wrong:
        return [{"level": "error", "message": {"text": outcome.error}, "locations": [_file(outcome)]}]
    return [
        {"level": "error", "message": {"text": words}, "locations": [_place(outcome, region)]}
        for region, words in wrong
    ]


def log(found: Iterable[Json], unread: Iterable[Json], counted: Iterable[Severity]) -> Json:
    """The whole log: one run of one tool."""
    levels = LEVELS | dict.fromkeys(counted, "error")
    unread = list(unread)
    driver = {
        "name": "Knot Plan",
        "semanticVersion": __version__,
        "rules": [
            {
                "id": rule.id,
                "name": rule.id,
                "shortDescription": {"text": rule.title},
                "fullDescription": {"text": rule.reason},
                "help": {"text": f"{rule.reason} Source: {rule.source}."},
                "defaultConfiguration": {"level": levels[rule.severity]},
            }
            for rule in RULES
        ],
    }
    run = {
        "tool": {"driver": driver},
        "columnKind": "unicodeCodePoints",
        "invocations": [{"executionSuccessful": not unread, "toolExecutionNotifications": unread}],
        "results": [{**r, "level": levels[r["properties"]["severity"]]} for r in found],
    }
    return {"$schema": SCHEMA, "version": "2.1.0", "runs": [run]}


def _result(
    report: Report, outcome: Outcome, f: Finding, remedies: tuple[Remedy, ...] | None, spots: Spots
) -> Json:
    logical = [{"fullyQualifiedName": s, "kind": "resource"} for s in f.subjects]
    result: Json = {
        "ruleId": f.rule,
        "message": {"text": f.message},
        "locations": [{**_place(outcome, spots.of(f)), "logicalLocations": logical}],
        "partialFingerprints": {"subjects/v1": _fingerprint(f)},
        "properties": {
            "severity": f.severity,
            "plan": report.circuit.plan.title,
            "numbers": [_number(n) for n in f.numbers],
            "remedies": [r.title for r in remedies or ()],
        },
    }
    if f.rule in INDICES:
        result["ruleIndex"] = INDICES[f.rule]
    if f.accepted:
        result["suppressions"] = [{"kind": "inSource", "justification": f.accepted}]
    return result


def _number(n: Any) -> Json:
    import msgspec

    tree: Json = msgspec.to_builtins(number(n))
    return tree


def _fingerprint(f: Finding) -> str:
    """The same as long as it is about the same things, whatever its figures are."""
    return hashlib.sha256("\n".join((f.rule, *f.subjects)).encode("utf-8")).hexdigest()[:32]


def _file(outcome: Outcome) -> Json:
    return {"physicalLocation": {"artifactLocation": {"uri": outcome.uri}}}


def _place(outcome: Outcome, region: Region) -> Json:
    end = {} if region.end_column <= 1 else {"endLine": region.end_line, "endColumn": region.end_column}
    return {
        "physicalLocation": {
            "artifactLocation": {"uri": outcome.uri},
            "region": {"startLine": region.line, "startColumn": region.column, **end},
        }
    }
