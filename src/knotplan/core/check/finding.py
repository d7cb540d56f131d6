"""What the checks say about a plan."""

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING, Literal

from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy
from knotplan.core.quantity.working import Number

if TYPE_CHECKING:
    from knotplan.core.check.asked import Search
    from knotplan.core.check.facts import Facts

Severity = Literal["stop", "care", "to-do", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "care", "to-do", "note")
"""gravest first: will not work or will do damage; may misbehave; not finished yet; worth knowing"""


SAID: dict[Severity, str] = {"stop": "stop", "care": "care", "to-do": "to do", "note": "note"}
"""as people read them"""


@dataclass(frozen=True)
class Finding:
    """Something that a rule has to say about a plan."""

    rule: str
    severity: Severity
    title: str
    message: str
    subjects: tuple[str, ...]
    numbers: tuple[Number, ...]
    search: "Search" = field(compare=False, repr=False)
    """how its remedies are looked for"""
    reason: str
    source: str
    facts: "Facts | None" = field(default=None, compare=False, repr=False)
    """in which its remedies are looked for: those of the plan on the screen"""
    accepted: str = ""
    """why the maker lives with it"""
    with_it: tuple["Finding", ...] = field(default=(), compare=False, repr=False)
    """what follows from it, and goes when it is mended"""

    @cached_property
    def remedies(self) -> tuple[Remedy, ...]:
        """The edits that settle it and add no stop, best first; searched for once, at the first look."""
        if self.facts is None:
            return ()
        offered = self.search(self.facts)
        trials = self.facts.trials
        return tuple(offered) if trials is None else trials.proven(self, offered)

    def about(self, facts: "Facts") -> "Finding":
        """The same finding of a plan that differs by looks only; remedies that were found stay."""
        same = replace(self, facts=facts, with_it=tuple(f.about(facts) for f in self.with_it))
        if "remedies" in self.__dict__:
            same.__dict__["remedies"] = self.remedies
        return same

    @property
    def with_it_words(self) -> str:
        """What follows from it, in a sentence; empty where nothing does.

        Two of a kind are named once."""
        titles = list(dict.fromkeys(f.title for f in self.with_it))
        return f"From it follows: {'; '.join(titles)}. The first remedy settles that too." if titles else ""

    @property
    def key(self) -> tuple[str, tuple[str, ...]]:
        """What makes it the same finding after an edit: its rule and its subjects."""
        return self.rule, self.subjects


def gravest(findings: Iterable[Finding], rules: Collection[str]) -> dict[str, Severity]:
    """How grave the gravest finding of some rules about each part is: {part id: severity}."""
    levels: dict[str, Severity] = {}
    for f in findings:
        for part in {split(s)[0] for s in f.subjects} if f.rule in rules else ():
            levels[part] = min(levels.get(part, f.severity), f.severity, key=SEVERITIES.index)
    return levels
