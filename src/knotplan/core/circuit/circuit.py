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
from knotplan.core.plan.document import PlacedPart, Plan
from knotplan.core.plan.kinds import part_in


class Circuit:
    """A plan resolved. Everything is derived from the plan; nothing is ever changed."""

    def __init__(self, plan: Plan, catalog: Catalog):
        self.plan = plan
        self.derived: dict[tuple[Any, ...], Any] = {}
        """answers worked out from this circuit, see `knotplan.catalog.derived`"""
        self.board: Board = plan.carried or catalog.board(plan.board)
        self.scheme = plan.scheme if plan.scheme in self.board.schemes else self.board.spoken
        self.placed: dict[str, PlacedPart] = {p.id: p for p in plan.parts}
        self.parts: dict[str, Part] = {p.id: part_in(plan, catalog, p) for p in plan.parts}
        self.contacts = Contacts(self.board, self.parts)
        self.ties = Ties(plan.ties, self.contacts)
        self.hardware = Hardware(self.board, self.parts, self.contacts, plan.set_up)
        self.titles = Titles(self.board, self.placed, self.scheme, self.contacts, self.hardware)
        self.nets = Nets(self.board, self.parts, plan.ties, self.contacts, self.hardware)
        self.supplies = Supplies(
            self.board,
            self.placed,
            self.parts,
            plan.ties,
            self.contacts,
            self.hardware,
            self.titles,
            self.nets,
            plan.assumed("edge"),
        )
        self.needs = Needs(self.contacts, self.ties, self.nets, self.supplies)
