"""One definite part."""

from functools import cached_property
from typing import Any, Literal

from knotplan.catalog.board.driver import Driver
from knotplan.catalog.board.supply import Bank
from knotplan.catalog.board.units import Converter, Peripheral
from knotplan.catalog.part.elements import Element
from knotplan.catalog.part.facts import PartFacts
from knotplan.catalog.part.item import Item
from knotplan.catalog.part.lead import Lead
from knotplan.catalog.part.needs import Ground, Need
from knotplan.catalog.part.parameter import Parameter
from knotplan.catalog.part.source import Source

Category = Literal[
    "light", "relay", "motor", "input", "sensor", "display", "memory", "hub", "supply", "wiring"
]


class Part(Item, eq=False, dict=True):
    """One definite part: a file with its parameters filled in. It is itself
    only: what is derived can be kept by it."""

    id: str
    title: str
    summary: str
    category: Category
    leads: dict[str, Lead]
    words: tuple[str, ...] = ()
    """what people call it, for the search"""
    params: dict[str, Parameter] = {}
    elements: dict[str, Element] = {}
    source: Source | None = None
    drivers: dict[str, Driver] = {}
    """the electrical character of what a hub offers; their rails are leads of the part"""
    peripherals: dict[str, Peripheral] = {}
    converters: dict[str, Converter] = {}
    banks: dict[str, Bank] = {}
    """leads that have a current limit in common"""
    facts: PartFacts = PartFacts()
    note: str = ""

    @cached_property
    def derived(self) -> dict[tuple[Any, ...], Any]:
        """Answers worked out from this part, see `knotplan.catalog.derived`."""
        return {}

    @cached_property
    def is_hub(self) -> bool:
        """It offers contacts of its own to other parts."""
        return any(lead.offers for lead in self.leads.values())

    @cached_property
    def ground(self) -> str:
        """Its ground lead, or nothing."""
        return next((n for n, lead in self.leads.items() if isinstance(lead.needs[0], Ground)), "")

    def lead_need(self, lead: str) -> Need:
        """The first alternative of a lead."""
        return self.leads[lead].needs[0]
