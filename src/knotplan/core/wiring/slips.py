"""What a slip by one hole would do: the tie moved to each neighbour, through the engine and the rules.

Only what does harm is told. A cord in a wrong hole that merely does not work is found by the checks.
"""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import looked_at
from knotplan.core.check.facts import Facts
from knotplan.core.check.finding import Finding
from knotplan.core.check.rules import RULES
from knotplan.core.check.rules.ends import ACROSS, nothing_reads
from knotplan.core.check.trials import alike
from knotplan.core.circuit.circuit import Circuit, after
from knotplan.core.memory.memory import Memory
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

    def __init__(self, circuit: Circuit, catalog: Catalog):
        # a line of circuits of its own: slips are looked for beside the interface
        self._circuit, self._catalog = Circuit(circuit.plan, catalog, Memory.first()), catalog
        self._known: dict[tuple[str, tuple[str, ...]], tuple[Slip, ...]] = {}
        self._before: set[object] | None = None
        """what is wrong with the plan as it is"""

    def of(self, tie_id: str, neighbours: tuple[str, ...]) -> tuple[Slip, ...]:
        """Those neighbours of a tie's pin that would do harm."""
        key = tie_id, neighbours
        if key not in self._known:
            self._known[key] = tuple(self._found(tie_id, neighbours))
        return self._known[key]

    def _found(self, tie_id: str, neighbours: tuple[str, ...]) -> Iterator[Slip]:
        plan, before = self._circuit.plan, self._wrong_anyway()
        tie = plan.tie(tie_id)
        for contact in neighbours:
            if contact in (tie.lead, tie.to):
                continue
            try:
                moved = edited(plan, self._catalog, tie_changed, tie_id, to=contact)
            except EditError:  # the lead is tied there as well: the cord would only lie twice
                continue
            stops = self._stops(after(self._circuit.memory, moved, self._catalog))
            worst = next((f for f in stops if alike(f) not in before), None)
            if worst is not None:
                yield Slip(contact, worst.title, worst.message)

    def _wrong_anyway(self) -> set[object]:
        if self._before is None:
            self._before = {alike(f) for f in self._stops(self._circuit)}
        return self._before

    def _stops(self, circuit: Circuit) -> list[Finding]:
        found = looked_at(Facts(circuit, self._catalog), RULES_ASKED)
        circuit.memory.close()
        return [
            f for f in found if f.severity == "stop" and (f.rule != nothing_reads.id or f.title == ACROSS)
        ]
