"""Asking the rules: one subject after another, and after an edit only about those whose facts have
changed."""

import logging
from functools import lru_cache
from traceback import format_exc

from msgspec import Struct

from knotplan.core.check.asked import none
from knotplan.core.check.facts import Facts
from knotplan.core.check.finding import Finding
from knotplan.core.check.rules.rule import Observation, Rule
from knotplan.core.check.subjects import Keys, Subjects
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.clusters import element_count
from knotplan.core.engine.effort import EFFORT
from knotplan.core.engine.operating_points import failure
from knotplan.core.memory.question import Each

log = logging.getLogger(__name__)
REPORT = (
    "Please report this: the menu Help, Report a problem gathers what is needed (the log says where it "
    "failed)."
)
ELEMENTS_A_UNIT = 20
"""of a network: so many are looked at for one unit of effort"""


class Failed(Struct, frozen=True):
    """A rule that could not be asked."""

    error: str
    where: str
    """the way to it, for the log"""


Said = tuple[Observation | Failed, ...]
Heard = tuple[tuple[Rule, Said], ...]
"""what rules say about one subject; those that say nothing are left out"""


def _said(rule: Rule, *asked: object) -> Said:
    """What a rule says of a subject; one that fails says so, and is never silent."""
    try:
        return tuple(rule.check(*asked))
    except Exception as error:  # logged when it is told: that of a subject which is gone is no failure
        return (Failed(f"{type(error).__name__}: {error}", format_exc()),)


def _of_each(keys: Keys, asked: list[tuple[Subjects, tuple[Rule, ...]]]) -> Each[Facts, object, Heard]:
    """What some rules say about each of their subjects that have one key, such as a part, its leads and its
    ties: what one rule looks at is looked at by all of them together, for most look at the same."""

    def heard(facts: Facts, key: object) -> Heard:
        found = []
        for subjects, rules in asked:
            for subject in subjects.of(facts, key):
                for rule in rules:
                    said = _said(rule, facts, subject)
                    if said:
                        found.append((rule, said))
        return tuple(found)

    return Each(heard, keys)


def _of_the_whole(rule: Rule) -> Each[Facts, object, Heard]:
    def heard(facts: Facts, key: object) -> Heard:
        said = _said(rule, facts)
        return ((rule, said),) if said else ()

    return Each(heard, lambda facts: (rule.id,))


@lru_cache(64)
def _questions(rules: tuple[Rule, ...]) -> tuple[Each[Facts, object, Heard], ...]:
    """What is asked: rules whose subjects have the same keys are asked together."""
    together: dict[Keys, dict[Subjects, list[Rule]]] = {}
    for rule in rules:
        if rule.each is not None:
            together.setdefault(rule.each.keys, {}).setdefault(rule.each, []).append(rule)
    asked = [
        _of_each(keys, [(subjects, tuple(of)) for subjects, of in by_subjects.items()])
        for keys, by_subjects in together.items()
    ]
    return (*asked, *(_of_the_whole(rule) for rule in rules if rule.each is None))


def findings(rules: tuple[Rule, ...], facts: Facts) -> list[Finding]:
    """What the rules find in the facts, rule by rule, subject by subject."""
    said: dict[Rule, list[Observation | Failed]] = {}
    for asked in _questions(rules):
        for heard in asked.all(facts).values():
            for rule, observations in heard:
                said.setdefault(rule, []).extend(observations)
    spend(facts.circuit)
    found = [f for rule in rules if rule in said for f in _findings(rule, said[rule], facts)]
    return [*_engine(facts), *found]


def spend(circuit: Circuit) -> None:
    """Counts the work, as if nothing had been known before: so a search ends at the same place, whatever
    was asked before it."""
    EFFORT.spend(element_count(circuit) / ELEMENTS_A_UNIT)


def _findings(rule: Rule, said: list[Observation | Failed], facts: Facts) -> list[Finding]:
    failed = next((x for x in said if isinstance(x, Failed)), None)
    if failed is not None:
        log.error("the rule %s failed\n%s", rule.id, failed.where)
        return [
            Finding(
                "rule-failed",
                "stop",
                "A check could not be made",
                f"The check {rule.title!r} ({rule.id}) failed: {failed.error}.",
                (rule.id,),
                (),
                none,
                REPORT,
                rule.source,
            )
        ]
    return [rule.finding(x, facts) for x in said if isinstance(x, Observation)]


def _engine(facts: Facts) -> list[Finding]:
    """Where the engine fails there are no voltages, and that is a finding."""
    why = failure(facts.circuit)
    return (
        [
            Finding(
                "engine-failed",
                "stop",
                "Voltages and currents could not be computed",
                f"The engine failed: {why}. Nothing that follows from them is checked.",
                ("engine",),
                (),
                none,
                REPORT,
                "Kirchhoff's laws",
            )
        ]
        if why
        else []
    )
