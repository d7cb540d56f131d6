"""What a slip by one hole would do: the tie moved to each neighbour, through the engine and the rules.

Only what does harm is told. A cord in a wrong hole that merely does not work is found by the checks.
"""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import looked_at
from knotplan.core.check.finding import Finding
from knotplan.core.check.rules import RULES
from knotplan.core.check.rules.ends import ACROSS, nothing_reads
from knotplan.core.check.trials import alike
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cache import EngineCache
from knotplan.core.plan.editing import edited
from knotplan.core.plan.edits import EditError
from knotplan.core.plan.edits.changed import tie_changed

DAMAGING = (
    "short-circuit",
    "supplies-joined",
    "supply-reversed",
    "supplies-exchanged",
    "driver-missing",
    "output-for-input",
    "data-held",
    "contact-shorts",
    "nothing-reads",
    "input-over-voltage",
    "lead-over-voltage",
    "led-no-resistor",
    "pin-over-absolute",
)
"""rules whose stops mean that something is damaged as soon as it is switched on; of what nothing reads only a
contact across a supply"""
RULES_ASKED = tuple(r for r in RULES if r.id in DAMAGING)


class Slip(Struct, frozen=True):
    """A neighbouring hole that must not be hit, and why."""

    contact: str
    title: str
    """what would happen, in a few words"""
    why: str
    """with its figures"""


class Slips:
    """Looks for slips that do harm, in one plan; what is found is kept."""

    def __init__(self, circuit: Circuit, catalog: Catalog, solved: EngineCache | None = None):
        self._circuit, self._catalog = circuit, catalog
        self._solved = solved or EngineCache()
        self._known: dict[tuple[str, tuple[str, ...]], tuple[Slip, ...]] = {}
        self._before: set[object] | None = None

    def of(self, tie_id: str, neighbours: tuple[str, ...]) -> tuple[Slip, ...]:
        """Those neighbours of a tie's pin that would do harm."""
        key = tie_id, neighbours
        if key not in self._known:
            self._known[key] = tuple(self._found(tie_id, neighbours))
        return self._known[key]

    def _found(self, tie_id: str, neighbours: tuple[str, ...]) -> Iterator[Slip]:
        plan = self._circuit.plan
        tie = plan.tie(tie_id)
        for contact in neighbours:
            if contact in (tie.lead, tie.to):
                continue
            try:
                moved = edited(plan, self._catalog, tie_changed, tie_id, to=contact)
            except EditError:  # the lead is tied there as well: the cord would only lie twice
                continue
            worst = next(iter(self._new_stops(Circuit(moved, self._catalog))), None)
            if worst is not None:
                yield Slip(contact, worst.title, worst.message)

    def _new_stops(self, circuit: Circuit) -> list[Finding]:
        if self._before is None:
            self._before = {alike(f) for f in self._stops(self._circuit)}
        before = self._before
        return [f for f in self._stops(circuit) if alike(f) not in before]

    def _stops(self, circuit: Circuit) -> list[Finding]:
        found = looked_at(circuit, self._catalog, RULES_ASKED, self._solved.branch(), None)[1]
        return [
            f for f in found if f.severity == "stop" and (f.rule != nothing_reads.id or f.title == ACROSS)
        ]
