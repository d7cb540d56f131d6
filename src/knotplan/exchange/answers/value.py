"""What `knotplan value --format json` prints."""

from msgspec import Struct

from knotplan.core.finders.finder import Finder, Found, Trial
from knotplan.exchange.answers.check import FoundNumber, number


class TrialAnswer(Struct, frozen=True):
    """A value of the series, and what follows from it."""

    value: float
    """in the unit of the answer"""
    fault: str
    """why it does not do, or empty"""
    results: list[FoundNumber]
    """what it leads to"""


class AlsoAnswer(Struct, frozen=True):
    """A second component that goes with the first."""

    what: str
    """what it is the value of"""
    value: float
    """in the unit beside it"""
    unit: str
    """an SI unit"""


class ValueAnswer(Struct, frozen=True):
    """A component value, with its neighbours in the series."""

    finder: str
    """which question was asked"""
    what: str
    """what it is the value of"""
    unit: str
    """the SI unit of all values"""
    exact: float
    """what was computed, before a value of the series was taken"""
    value: float
    """the value of the series that is proposed"""
    fault: str
    """why it does not do, or empty"""
    results: list[FoundNumber]
    """what it leads to"""
    marks: list[str]
    """what is printed on the component: letter code, colour bands"""
    also: list[AlsoAnswer]
    """further components"""
    neighbours: list[TrialAnswer]
    """the values below and above in the series"""
    cautions: list[str]
    """what to mind"""
    lines: list[str]
    """what a program or a table needs, as text"""
    inputs: dict[str, float | str]
    """what was asked with, in SI units"""
    formula: str
    """how it is computed"""
    source: str
    """the standard or the data that says so"""


def answer(finder: Finder, found: Found, given: dict[str, float | str]) -> ValueAnswer:
    """The answer for a program."""
    return ValueAnswer(
        finder=finder.id,
        what=found.what,
        unit=found.unit,
        exact=found.exact,
        value=found.chosen.value,
        fault=found.chosen.fault,
        results=[number(n) for n in found.chosen.results],
        marks=list(found.marks),
        also=[AlsoAnswer(w, v, u) for w, v, u in found.also],
        neighbours=[_trial(t) for t in (found.lower, found.higher) if t is not None],
        cautions=list(found.cautions),
        lines=list(found.lines),
        inputs=given,
        formula=found.formula,
        source=found.source,
    )


def _trial(t: Trial) -> TrialAnswer:
    return TrialAnswer(t.value, t.fault, [number(n) for n in t.results])
