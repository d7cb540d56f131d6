"""Findings that the maker lives with: which of today's findings they are."""

from collections import Counter
from dataclasses import replace

from knotplan.core.check.finding import Finding
from knotplan.core.plan.document import Accepted
from knotplan.core.quantity.figures import figures


def with_acceptance(findings: list[Finding], accepted: tuple[Accepted, ...]) -> list[Finding]:
    """The findings, each with the reason for which the maker lives with it, if he does.

    An accepted finding returns when one of its figures changes. Other words for the same thing, or another
    name of a part, do not bring it back, as long as only one finding can be meant.
    """
    if not accepted:
        return findings
    exact = {(a.rule, a.subjects, a.message): a.reason for a in accepted}
    present = {(*f.key, f.message) for f in findings}
    reworded = {
        (a.rule, a.subjects, figures(a.message)): a.reason
        for a in accepted
        if (a.rule, a.subjects, a.message) not in present
    }
    alike = Counter((*f.key, figures(f.message)) for f in findings if (*f.key, f.message) not in exact)

    def reason(f: Finding) -> str:
        if (*f.key, f.message) in exact:
            return exact[*f.key, f.message]
        about = (*f.key, figures(f.message))
        return reworded.get(about, "") if alike[about] == 1 else ""

    return [replace(f, accepted=reason(f)) for f in findings]
