"""Findings as JUnit XML, the form of test results that build servers read: a suite for each plan, a case for
each finding. No standard describes it; elements and attributes are those that readers have in common."""

from collections.abc import Collection, Iterable
from xml.etree import ElementTree as ET

from knotplan.core.check.finding import Finding, Severity
from knotplan.exchange.plain_text import writable
from knotplan.exchange.results.outcome import Outcome, Spots


def suite(outcome: Outcome, counted: Collection[Severity]) -> bytes:
    """The suite of one file."""
    if outcome.report is None:
        made = ET.Element("testsuite", name=_text(outcome.name), tests="1", failures="0", errors="1")
        case = ET.SubElement(made, "testcase", name="can be read", classname=_text(outcome.name))
        ET.SubElement(case, "error", message="cannot be read").text = _text(outcome.error)
        return bytes(ET.tostring(made, encoding="utf-8"))
    report = outcome.report
    spots = Spots(report.circuit.plan, outcome.text)
    failed = sum(f.severity in counted for f in report.findings)
    count = str(len(report.findings) + len(report.accepted) or 1)
    made = ET.Element(
        "testsuite",
        name=_text(outcome.name),
        tests=count,
        failures=str(failed),
        errors="0",
        skipped=str(len(report.accepted)),
    )
    for f in (*report.findings, *report.accepted):
        _case(made, outcome, f, f.severity in counted, spots.of(f).line)
    if not len(made):
        ET.SubElement(made, "testcase", name="nothing is found", classname=_text(outcome.name))
    return bytes(ET.tostring(made, encoding="utf-8"))


def _case(made: ET.Element, outcome: Outcome, f: Finding, fails: bool, line: int) -> None:
    name = f"{f.rule}: {', '.join(f.subjects)}" if f.subjects else f.rule
    case = ET.SubElement(
        made,
        "testcase",
        name=_text(name),
        classname=_text(outcome.name),
        file=_text(outcome.name),
        line=str(line),
    )
    said = _text(f"{outcome.name}:{line}: {f.message}\n{f.reason}\n{f.source}")
    if f.accepted:
        ET.SubElement(case, "skipped", message=_text(f.accepted))
    elif fails:
        ET.SubElement(case, "failure", message=_text(f"{f.title}: {f.message}"), type=f.severity).text = said
    else:
        ET.SubElement(case, "system-out").text = said


def document(suites: Iterable[bytes]) -> bytes:
    """The whole document."""
    root = ET.Element("testsuites", name="Knot Plan")
    root.extend(ET.fromstring(one) for one in suites)
    for key in ("tests", "failures", "errors"):
        root.set(key, str(sum(int(one.get(key, "0")) for one in root)))
    ET.indent(root)
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + bytes(ET.tostring(root, encoding="utf-8")) + b"\n"


def _text(text: str) -> str:
    return writable(text)
