"""The plan resolved against the catalogue, in parts with names.

Each part knows only those before it: contacts, ties, hardware, titles, nets, supplies, needs.
"""

from typing import Any

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import Catalog
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.circuit.hardware import Hardware
from knotplan.core.circuit.needs import Needs
from knotplan.core.circuit.nets import Nets
from knotplan.core.circuit.supplies import Supplies
from knotplan.core.circuit.ties import Ties
from knotplan.core.circuit.titles import Titles
from knotplan.core.memory.given import Given
from knotplan.core.memory.memory import Memory
from knotplan.core.plan.document import Activity, PlacedPart, Plan
from knotplan.core.plan.kinds import part_in

PLACED, PARTS = Given[str, PlacedPart]("placed"), Given[str, Part]("parts")
SAID = Given[str, Any]("said")
"""what a plan is made of: its parts as they are placed and as they are, its ties, and everything else"""


class Circuit:
    """A plan resolved. Everything is derived from the plan; nothing is ever changed."""

    def __init__(self, plan: Plan, catalog: Catalog, memory: Memory | None = None):
        """`memory`: what was known of the plan before an edit."""
        self.memory = Memory() if memory is None else memory
        self.memory.about(self)
        self._plan = plan
        self._derived: dict[tuple[Any, ...], Any] = {}
        self.board: Board = plan.carried or catalog.board(plan.board)
        self.scheme = plan.scheme if plan.scheme in self.board.schemes else self.board.spoken
        parts = _parts(plan, catalog, self.memory)
        self.placed = PLACED.give(self.memory, {p.id: p for p in plan.parts})
        self.parts = PARTS.give(self.memory, parts)
        self._said = SAID.give(self.memory, _said(plan))
        self.contacts = Contacts(self.memory, self.board, self.parts)
        self.ties = Ties(self.memory, plan.ties, self.contacts)
        self.hardware = Hardware(self.board, self.parts, self.contacts, plan.set_up)
        self.titles = Titles(self.board, self.placed, self.scheme, self.contacts, self.hardware)
        self.nets = Nets(self.memory, self.board, self.parts, self.ties, self.contacts, self.hardware)
        self.supplies = Supplies(
            self.memory,
            self.board,
            self.placed,
            self.parts,
            self.ties,
            self.contacts,
            self.hardware,
            self.titles,
            self.nets,
            self.assumed,
        )
        self.needs = Needs(self.memory, self.contacts, self.ties, self.nets, self.supplies)

    @property
    def plan(self) -> Plan:
        """The whole plan. An answer that looks here is asked again after every edit: what is looked at
        often has a way of its own."""
        self._said.values()
        self.placed.values()
        self.ties.by_id.values()
        return self._plan

    @property
    def derived(self) -> dict[tuple[Any, ...], Any]:
        """Answers about this circuit alone, see `knotplan.catalog.derived`. They are not noted: what the
        analysis asks is a question (`knotplan.core.memory.question`)."""
        assert self.memory.notes is None, "an answer that is noted may not depend on one that is not"
        return self._derived

    # --- what the plan says beside parts and ties ---------------------------------------------------

    def assumed(self, assumption: str) -> float:
        """A figure that is assumed, as `Plan.assumed`; raises KeyError."""
        self._said["assumes"]
        return self._plan.assumed(assumption)

    @property
    def activities(self) -> tuple[Activity, ...]:
        """What happens on the bench."""
        activities: tuple[Activity, ...] = self._said["activities"]
        return activities

    @property
    def cycle_s(self) -> float:
        """After which everything that happens begins anew, s."""
        cycle_s: float = self._said["cycle_s"]
        return cycle_s

    @property
    def series(self) -> str:
        """The preferred values that the maker has in the drawer."""
        series: str = self._said["series"]
        return series

    @property
    def resistor_tolerance(self) -> float:
        """Of resistors that are chosen."""
        self._said["series"], self._said["assumes"]
        return self._plan.resistor_tolerance

    def clock(self, unit: str) -> float:
        """The clock that the maker gives a bus, Hz; 0 for its usual one."""
        self._said["clocks"]
        return self._plan.clock(unit)


def _said(plan: Plan) -> dict[str, Any]:
    return {name: getattr(plan, name) for name in plan.__struct_fields__ if name not in ("parts", "ties")}


def _parts(plan: Plan, catalog: Catalog, memory: Memory) -> dict[str, Part]:
    """The definite part of each placed one; what was known before is not made again."""
    parts, placed = PARTS.known(memory), PLACED.known(memory)
    if SAID.known(memory).get("carried_parts") is not plan.carried_parts:
        placed = {}
    return {p.id: parts[p.id] if placed.get(p.id) is p else part_in(plan, catalog, p) for p in plan.parts}


def after(memory: Memory, plan: Plan, catalog: Catalog) -> Circuit:
    """The circuit of a plan after an edit, with what is known of the plan before. Another board, other names
    of its pins and other settings of its system touch everything: then nothing is known."""
    was = SAID.known(memory)
    alike = was["carried"] is plan.carried and all(
        was[x] == getattr(plan, x) for x in ("board", "scheme", "set_up")
    )
    return Circuit(plan, catalog, memory.next() if alike else Memory.first())
