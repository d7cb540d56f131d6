"""What is kept of the engine's work from one analysis to the next."""

from msgspec import Struct

from knotplan.core.engine.keys import Key
from knotplan.core.engine.readings import Draw, Points, Sweep

Fingerprint = tuple[object, ...]
"""everything that the solution of a cluster depends on"""


class Record(Struct):
    """What is known of a cluster: readings by what they are of, and what it draws from each supplied net."""

    volts: dict[str, Sweep] = {}
    bars: dict[Key, Sweep] = {}
    junctions: dict[Key, Sweep] = {}
    pins: dict[str, Sweep] = {}
    draws: list[tuple[str, Draw]] = []


class EngineCache:
    """Solutions of clusters, kept from one analysis to the next: an edit touches few of them.

    A cluster's fingerprint is everything that its solution depends on, so a kept one is never out of date.
    """

    def __init__(self) -> None:
        self._last: dict[Fingerprint, Record] = {}
        self._now: dict[Fingerprint, Record] = {}
        self.electrics: object = None
        self.points: Points | None = None
        """those of the last plan, for edits that change no current"""

    def turn_over(self) -> None:
        """Begins a new analysis; what the one before the last knew is forgotten."""
        if self._now:
            self._last, self._now = self._now, {}

    def get(self, key: Fingerprint) -> Record | None:
        """What was kept of this or the last analysis; nothing where it is not known."""
        kept = self._now.get(key) or self._last.get(key)
        if kept is not None:
            self._now[key] = kept
        return kept

    def put(self, key: Fingerprint, record: Record) -> None:
        """Keeps the solution of this analysis."""
        self._now[key] = record

    def branch(self) -> "EngineCache":
        """A cache for trials: it knows what this one knows, and this one forgets nothing for it."""
        other = EngineCache()
        other._last = self._now
        return other
