"""Mending everything that is safe at once: remedies that change no decision of the maker's.

Safe is what only adds: a bead, a tie of a lead that has none, the program's pull where none was chosen,
a setting of a part that the maker has not touched. Never: another pin, another part, another value.
"""

from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import Report
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.remedy import Remedy, Step

MOST_ROUNDS = 6


class Mended(Struct, frozen=True):
    """What can be mended safely, as one remedy, and what it settles."""

    remedy: Remedy | None
    titles: tuple[str, ...]
    """of the remedies in it"""
    settled: int
    left: int
    """findings that remain, because only a decision of the maker's settles them"""


def is_safe(plan: Plan, remedy: Remedy) -> bool:
    """The remedy only adds, and undoes nothing that the maker has chosen."""
    now = plan
    for step in remedy.steps:
        if not _adds(now, step):
            return False
        try:
            now = step(now)
        except (EditError, KeyError):
            return False
    return True


def _adds(plan: Plan, step: Step) -> bool:
    if step.edit in (edits.add_bead, edits.put_bead):
        return True
    if step.edit is edits.tie:
        lead = step.arguments[0]
        return plan.tie_of(lead) is None
    if step.edit is edits.set_pull:
        return plan.tie(step.arguments[0]).pull == "none"
    if step.edit is edits.set_param:
        return step.arguments[1] not in plan.part(step.arguments[0]).params
    return False


def mend(report: Report, catalog: Catalog) -> Mended:
    """All safe remedies together, in rounds, because one may make another
    possible; none that makes anything worse."""
    steps: list[Step] = []
    titles: list[str] = []
    now = report
    for _ in range(MOST_ROUNDS):
        better = _round(now, catalog)
        if better is None:
            break
        attempt, text, now = better
        steps += attempt
        titles += text
    before = {f.key for f in report.findings}
    after = {f.key for f in now.findings}
    title = f"Mend {len(titles)} at once" if len(titles) != 1 else titles[0]
    return Mended(
        Remedy(title, tuple(steps)) if steps else None, tuple(titles), len(before - after), len(after)
    )


def _round(report: Report, catalog: Catalog) -> tuple[list[Step], list[str], Report] | None:
    """The first safe remedy of each finding; those that do harm together are tried one by one."""
    first = [next((r for r in f.remedies if is_safe(report.circuit.plan, r)), None) for f in report.findings]
    fixes = list({r.steps: r for r in first if r is not None}.values())  # two findings may ask for the same
    whole = _applied(report, fixes, catalog)
    if whole is not None and _better(report, whole[2]):
        return whole
    steps: list[Step] = []
    titles: list[str] = []
    now = report
    for remedy in fixes:
        one = _applied(now, [remedy], catalog)
        if one is not None and _better(now, one[2]):
            steps += one[0]
            titles += one[1]
            now = one[2]
    return (steps, titles, now) if steps else None


def _applied(
    report: Report, remedies: list[Remedy], catalog: Catalog
) -> tuple[list[Step], list[str], Report] | None:
    plan = report.circuit.plan
    steps: list[Step] = []
    titles: list[str] = []
    for remedy in remedies:
        if is_safe(plan, remedy):
            changed = remedy.apply(plan)
            if changed != plan:
                plan = changed
                steps += remedy.steps
                titles.append(remedy.title)
    return (steps, titles, analyse(plan, catalog)) if steps else None


def _better(before: Report, after: Report) -> bool:
    """Fewer findings, and no new one at stop."""
    known = {f.key for f in before.findings}
    fresh = [f for f in after.findings if f.key not in known and f.severity == "stop"]
    return not fresh and len(after.findings) < len(before.findings)
