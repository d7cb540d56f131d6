"""What the checks say about a plan."""

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy
from knotplan.core.quantity.working import Number

Severity = Literal["stop", "care", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "care", "note")
"""gravest first: will not work or will do damage; may misbehave; worth knowing"""


@dataclass(frozen=True)
class Finding:
    """Something that a rule has to say about a plan."""

    rule: str
    severity: Severity
    title: str
    message: str
    subjects: tuple[str, ...]
    numbers: tuple[Number, ...]
    find_remedies: Callable[[], Iterable[Remedy]] = field(compare=False, repr=False)
    reason: str
    source: str
    accepted: str = ""
    """why the maker lives with it"""

    @cached_property
    def remedies(self) -> tuple[Remedy, ...]:
        """The edits that would settle it, best first; searched for once, at the first look."""
        return tuple(self.find_remedies())

    @property
    def key(self) -> tuple[str, tuple[str, ...]]:
        return self.rule, self.subjects


def gravest(findings: Iterable[Finding], rules: Collection[str]) -> dict[str, Severity]:
    """How grave the gravest finding of some rules about each part is: {part id: severity}."""
    made: dict[str, Severity] = {}
    for f in findings:
        for part in {split(s)[0] for s in f.subjects} if f.rule in rules else ():
            made[part] = min(made.get(part, f.severity), f.severity, key=SEVERITIES.index)
    return made
