"""A plan file that was checked, or that cannot be read."""

import os
from collections.abc import Iterable, Iterator
from pathlib import Path
from urllib.parse import quote

from msgspec import Struct

from knotplan.core.check.finding import Finding
from knotplan.core.check.report import Report
from knotplan.core.plan.document import Plan
from knotplan.core.plan.validity.fault import Place
from knotplan.exchange.positions import START, Positions, Region


class Outcome(Struct, frozen=True):
    """What came out for one file: a report, or what is wrong with it."""

    path: Path
    name: str
    """as it is called"""
    report: Report | None = None
    error: str = ""
    wrong: tuple[tuple[str, str], ...] = ()
    """(place, words) of what makes it no plan"""
    text: str = ""
    """what the file has, where places in it are wanted"""

    @property
    def uri(self) -> str:
        """The file as a URI reference (RFC 3986): relative to the folder of the call where it lies below
        it."""
        path = Path(os.path.relpath(self.path)) if not self.path.is_absolute() else self.path
        written = quote(os.fsencode(path))
        return f"file://{written}" if path.is_absolute() else written


class Spots:
    """Where in a plan file things stand that findings are about."""

    def __init__(self, plan: Plan, text: str):
        self._positions = Positions(text)
        self._places: dict[str, Place] = {}
        for place, subject in _named(plan):
            self._places.setdefault(subject, place)

    def of(self, finding: Finding) -> Region:
        """The first of its subjects that the file names."""
        for subject in (*finding.subjects, *(s.partition(".")[0] for s in finding.subjects)):
            if subject in self._places:
                return self._positions.of(self._places[subject])
        return self._positions.of(("board",))


def _named(plan: Plan) -> Iterator[tuple[Place, str]]:
    """What the file gives a name to, or ties something to."""
    for k, tie in enumerate(plan.ties):
        yield ("ties", k, "lead"), tie.id
        yield ("ties", k, "lead"), tie.lead
    for k, part in enumerate(plan.parts):
        yield ("parts", k, "name"), part.id
    for k, activity in enumerate(plan.activities):
        yield ("activities", k, "title"), activity.id
    for k, tie in enumerate(plan.ties):
        yield ("ties", k, "to"), tie.to


def regions_of(wrong: Iterable[tuple[str, str]], text: str) -> Iterator[tuple[Region, str]]:
    """(where, what) of what is wrong with a file."""
    positions = Positions(text)
    for place, words in wrong:
        yield (positions.told(place) if place else START), f"{place}: {words}" if place else words
