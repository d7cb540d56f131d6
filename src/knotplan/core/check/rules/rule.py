"""What a rule is, what it sees, and what it finds."""

from collections.abc import Callable, Iterable, Iterator
from inspect import signature

from msgspec import Struct

from knotplan.core.check.asked import Search, none
from knotplan.core.check.facts import Facts
from knotplan.core.check.finding import Finding, Severity
from knotplan.core.check.subjects import Subjects, listed
from knotplan.core.quantity.working import Number


class Observation(Struct, frozen=True):
    """What a check yields; the rule adds its own words."""

    message: str
    subjects: tuple[str, ...]
    numbers: tuple[Number, ...] = ()
    remedies: Search = none
    """how they are looked for, when somebody looks at the finding"""
    severity: Severity | None = None
    title: str = ""


Check = Callable[..., Iterator[Observation]]
"""of the facts and one subject; of the facts alone where a rule looks at the plan as a whole"""


class Rule(Struct, frozen=True, eq=False):
    """One thing that goes wrong in practice, and what it goes through."""

    id: str
    title: str
    severity: Severity
    reason: str
    source: str
    check: Check
    each: Subjects | None
    """the subjects that it is asked about, one at a time; nothing where it looks at the plan as a whole"""

    def finding(self, d: Observation, facts: Facts) -> Finding:
        """What it says, with its own words."""
        severity, title = d.severity or self.severity, d.title or self.title
        return Finding(
            self.id,
            severity,
            title,
            d.message,
            d.subjects,
            d.numbers,
            d.remedies,
            self.reason,
            self.source,
            facts,
        )


def rule(
    id: str,
    title: str,
    severity: Severity,
    reason: str,
    source: str,
    each: Subjects | Callable[[Facts], Iterable[object]] | None = None,
) -> Callable[[Check], Rule]:
    """Makes a rule of a check; `each` names what it goes through (`knotplan.core.check.subjects`), or gives
    it."""

    def made(check: Check) -> Rule:
        takes = len(signature(check).parameters)
        assert takes == (1 if each is None else 2), (
            f"the rule {id} takes {takes} arguments: the facts, and one subject of each"
        )
        subjects = each if each is None or isinstance(each, Subjects) else listed(each)
        return Rule(id, title, severity, reason, source, check, subjects)

    return made
