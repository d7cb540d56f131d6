"""The forms in which `knotplan check` says what it found. Each makes a piece of every file, in whatever
process, and then one whole of the pieces."""

import json
from collections import Counter
from collections.abc import Iterator, Sequence
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct

from knotplan.cli.common import UnreadableError, json_text, read_report
from knotplan.cli.streams import shown
from knotplan.core.check.analysis import AnalysisCache
from knotplan.core.check.finding import SAID, SEVERITIES, Finding, Severity
from knotplan.core.check.remedy_search import within_budget
from knotplan.core.check.report import Report
from knotplan.core.plan.remedy import Remedy
from knotplan.core.quantity.written import counted, show

if TYPE_CHECKING:
    from knotplan.exchange.results.outcome import Outcome

COLOURS: dict[Severity, str] = {"stop": "red", "care": "yellow", "to-do": "cyan", "note": "blue"}
MOST_TEXT = 20_000_000


class Piece(Struct, frozen=True):
    """What is kept of a file that was checked: small, since it comes from another process."""

    name: str
    status: int
    """0, 1 or 2, as the command's"""
    error: str = ""
    summary: dict[Severity, int] = {}
    said: Any = ""
    """of the form's own kind"""


class Form:
    """A form. `one` runs anywhere, `whole` at the end."""

    streams = False
    """pieces are said as they come, and the whole is what follows them"""
    wants_text = False
    """it says where in a file things stand"""

    def __init__(self, *, complete: bool, single: bool, quiet: bool, loud: bool, streamed: bool):
        self.counted: tuple[Severity, ...] = ("stop", "to-do") if complete else ("stop",)
        self.single, self.quiet, self.loud = single, quiet, loud
        self.streams = self.streams and streamed
        _last.cache_clear()  # of another call in this process, with another catalogue perhaps

    def one(self, path: Path) -> Piece:
        """Checks a file."""
        outcome = _outcome(path, self.wants_text, self.single)
        if outcome.report is None:
            return Piece(outcome.name, 2, outcome.error, said=self.unread(outcome))
        summary = {s: outcome.report.count(s) for s in SEVERITIES}
        status = 1 if any(summary[s] for s in self.counted) else 0
        return Piece(outcome.name, status, summary=summary, said=self.piece(outcome, outcome.report))

    def piece(self, outcome: "Outcome", report: Report) -> Any:
        raise NotImplementedError

    def unread(self, outcome: "Outcome") -> Any:
        return ""

    def whole(self, pieces: Sequence[Piece]) -> str:
        raise NotImplementedError


@cache
def _last() -> AnalysisCache:
    """What this process knows of the plan that it checked last."""
    return AnalysisCache()


def _outcome(path: Path, with_text: bool, single: bool) -> "Outcome":
    from knotplan.exchange.files import read_whole
    from knotplan.exchange.results.outcome import Outcome

    text = ""
    if with_text:
        try:
            text = read_whole(path, MOST_TEXT).decode("utf-8-sig", "replace")
        except OSError:
            text = ""  # what is wrong is told by the reader
    try:
        report = read_report(path, None if single else _last())
    except UnreadableError as error:
        return Outcome(path, shown(path), error=error.said, wrong=error.wrong, text=text)
    return Outcome(path, shown(path), report, text=text)


class TextForm(Form):
    """For people."""

    streams = True

    def piece(self, outcome: "Outcome", report: Report) -> str:
        lines = list(_at_stop(report, self.counted) if self.quiet else _lines(report, self.loud))
        if self.single or not lines:
            return "".join(f"{line}\n" for line in lines)
        return "".join(f"{line}\n" for line in (click.style(outcome.name, bold=True), *lines, ""))

    def whole(self, pieces: Sequence[Piece]) -> str:
        said = "" if self.streams else "".join(p.said for p in pieces)
        return said if self.single or self.quiet else f"{said}{_summary(pieces)}\n"


def _summary(pieces: Sequence[Piece]) -> str:
    """All of them in two lines at most."""
    status = Counter(p.status for p in pieces)
    found: Counter[Severity] = Counter()
    for p in pieces:
        found.update(p.summary)
    parts = [f"{status[1]} at stop" if status[1] else "none at stop"]
    if status[2]:
        parts.append(f"{status[2]} cannot be read")
    severities = ", ".join(f"{found[s]} {SAID[s]}" for s in SEVERITIES)
    return f"{counted(len(pieces), 'plan')}: {', '.join(parts)}\nfindings in all: {severities}"


def _at_stop(report: Report, severities: Sequence[Severity]) -> Iterator[str]:
    for f in report.findings:
        if f.severity in severities:
            yield f"{_mark(f)}  {f.title}: {f.message}"


def _lines(report: Report, loud: bool) -> Iterator[str]:
    left = 0
    for f, remedies in within_budget(report.findings):
        left += remedies is None
        yield from _about(f, remedies, loud)
    if left:
        yield (
            f"The remedies of {left} findings were not searched for: these are too many at once. Mend some "
            "first."
        )
    for f in report.accepted:
        yield f"accepted  {f.title}: {f.message}\n          because: {f.accepted}"
    yield f"{'':28}{'usually':>10}{'at worst':>10}{'limit':>10}"
    for b in report.budgets:
        over = click.style("  over", fg="red") if b.worst_a > b.limit_a else ""
        yield (
            f"{b.title:28}{show(b.usual_a, 'A'):>10}{show(b.worst_a, 'A'):>10}"
            f"{show(b.limit_a, 'A'):>10}{over}"
        )
    yield report.counted


def _mark(f: Finding) -> str:
    return click.style(f"{SAID[f.severity]:8}", fg=COLOURS[f.severity], bold=True)


def _about(f: Finding, remedies: tuple[Remedy, ...] | None, loud: bool) -> Iterator[str]:
    yield f"{_mark(f)}  {f.title}: {f.message}"
    yield f"          {f.reason} [{f.rule}]"
    if loud:
        yield from (f"          {n.words()}" for n in f.numbers)
        yield f"          source: {f.source}"
    if f.with_it:
        yield f"          {f.with_it_words}"
    for r in remedies or ():
        yield f"          remedy: {r.title}"
    if remedies is None:
        yield "          remedy: not searched for"


class JsonForm(Form):
    """For programs: the answer of one plan, or a list."""

    def piece(self, outcome: "Outcome", report: Report) -> Any:
        from knotplan.exchange.answers.check import answer

        return answer(report)

    def whole(self, pieces: Sequence[Piece]) -> str:
        from knotplan.exchange.answers.check import ChecksAnswer, UnreadFile, of_file

        if self.single:
            return "" if pieces[0].status == 2 else json_text(pieces[0].said) + "\n"
        plans = [of_file(p.name, p.said) for p in pieces if p.status < 2]
        unread = [UnreadFile(p.name, p.error) for p in pieces if p.status == 2]
        return json_text(ChecksAnswer(plans, unread)) + "\n"


class SarifForm(Form):
    """For code hosts and editors."""

    wants_text = True

    def piece(self, outcome: "Outcome", report: Report) -> Any:
        from knotplan.exchange.results.sarif import results

        return results(outcome)

    def unread(self, outcome: "Outcome") -> Any:
        from knotplan.exchange.results.sarif import notifications

        return notifications(outcome)

    def whole(self, pieces: Sequence[Piece]) -> str:
        from knotplan.exchange.results.sarif import log

        found = [r for p in pieces if p.status < 2 for r in p.said]
        unread = [n for p in pieces if p.status == 2 for n in p.said]
        return json.dumps(log(found, unread, self.counted), indent=1, ensure_ascii=False) + "\n"


class JunitForm(Form):
    """For build servers."""

    wants_text = True

    def piece(self, outcome: "Outcome", report: Report) -> Any:
        from knotplan.exchange.results.junit import suite

        return suite(outcome, self.counted)

    def unread(self, outcome: "Outcome") -> Any:
        from knotplan.exchange.results.junit import suite

        return suite(outcome, self.counted)

    def whole(self, pieces: Sequence[Piece]) -> str:
        from knotplan.exchange.results.junit import document

        return document(p.said for p in pieces).decode("utf-8")


FORMS: dict[str, type[Form]] = {
    "text": TextForm,
    "json": JsonForm,
    "sarif": SarifForm,
    "junit": JunitForm,
}
