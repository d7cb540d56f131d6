"""One definite part."""

from functools import cached_property
from typing import Annotated, Any, Literal

import msgspec
from msgspec.structs import force_setattr, replace

from knotplan.catalog.board.driver import Driver
from knotplan.catalog.board.supply import Bank
from knotplan.catalog.board.units import Converter, Peripheral
from knotplan.catalog.part.elements import Element, Fet
from knotplan.catalog.part.facts import PartFacts
from knotplan.catalog.part.item import Item
from knotplan.catalog.part.lead import Lead
from knotplan.catalog.part.needs import Ground, Supply
from knotplan.catalog.part.parameter import Parameter
from knotplan.catalog.part.source import Source

Category = Literal[
    "light", "relay", "motor", "input", "sensor", "display", "memory", "hub", "supply", "wiring"
]

Job = Literal[
    "analogue inputs",
    "pulse outputs",
    "lines",
    "load switch",
    "coil driver",
    "motor bridge",
    "bench supply",
    "USB supply",
    "bus branches",
    "switching converter",
]
"""what a remedy can bring a part in for"""


class Part(Item, eq=False, dict=True):
    """One definite part: a file with its parameters filled in. It is itself
    only: what is derived can be kept by it."""

    id: str
    """the file's name, in plans and commands"""
    title: str
    """what it is called"""
    summary: str
    """what it is, in a line"""
    category: Category
    """what it is among"""
    leads: dict[str, Lead]
    """its contacts, by a key"""
    either_way: tuple[tuple[str, str], ...] = ()
    """pairs of leads that nothing in the part tells apart, such as the ends of a coil: each takes what the
    other one takes"""
    words: tuple[str, ...] = ()
    """what people call it, for the search"""
    common: Annotated[int, msgspec.Meta(ge=0, le=3)] = 0
    """how common it is: 3 on most benches, 2 on many, 1 on some, 0 on few; of two parts that are meant
    equally well, the search offers the more common one first"""
    params: dict[str, Parameter] = {}
    """what can be chosen about it, by a key"""
    elements: dict[str, Element] = {}
    """its equivalent circuit, by a key"""
    source: Source | None = None
    """of a supply: what it gives"""
    drivers: dict[str, Driver] = {}
    """the electrical character of what a hub offers; their rails are leads of the part"""
    peripherals: dict[str, Peripheral] = {}
    """of a hub: its units, as boards have them"""
    converters: dict[str, Converter] = {}
    """of a hub: its analogue inputs"""
    banks: dict[str, Bank] = {}
    """leads that have a current limit in common"""
    facts: PartFacts = PartFacts()
    """buses, times, motion, and what it wants beside it"""
    note: str = ""
    """what else is worth knowing"""
    compatible: tuple[str, ...] = ()
    """the Devicetree bindings by which a Linux system drives it, such as gpio-leds; of a part on a bus the
    name of its driver, `vendor,device`"""
    proposed: tuple[Job, ...] = ()
    """what remedies bring it in for"""

    def __post_init__(self) -> None:
        """The leads of a pair that may be turned round: their own needs first, then the other one's."""
        leads = dict(self.leads)
        # a private count beside the fields: how many of the alternatives are the lead's own
        self.__dict__["_own"] = {name: len(lead.needs) for name, lead in leads.items()}
        for pair in self.either_way:
            for own, other in (pair, pair[::-1]):
                if own in leads and other in self.leads:
                    more = tuple(n for n in self.leads[other].needs if n not in self.leads[own].needs)
                    leads[own] = replace(self.leads[own], needs=self.leads[own].needs + more)
        force_setattr(self, "leads", leads)

    @cached_property
    def other_end(self) -> dict[str, str]:
        """Of leads that may be turned round: the other one."""
        return {own: other for one, two in self.either_way for own, other in ((one, two), (two, one))}

    def own_needs(self, lead: str) -> int:
        """So many of a lead's alternatives are its own; the others hold where the part is turned round."""
        own: int = self.__dict__["_own"][lead]
        return own

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

    @cached_property
    def channels(self) -> tuple[tuple[str, str], ...]:
        """Of a hub that switches: (the input that says so, the contact that is switched), in order."""
        return tuple(
            (lead.offers.driven_by, name)
            for name, lead in self.leads.items()
            if lead.offers is not None and lead.offers.driven_by
        )

    @cached_property
    def calling(self) -> dict[str, tuple[str, ...]]:
        """Of a hub: leads that have to be tied as soon as one of some contacts is in use, with these."""
        calling: dict[str, tuple[str, ...]] = {}
        for name, lead in self.leads.items():
            if lead.offers is None:
                continue
            for way in (lead.offers.driven_by, lead.offers.via if lead.offers.kind == "contact" else ""):
                if way:
                    calling[way] = (*calling.get(way, ()), name)
        return calling

    @cached_property
    def contacts_of(self) -> dict[str, tuple[str, ...]]:
        """Of a relay: each common contact, with those that it is joined to by turns."""
        offers = {name: lead.offers for name, lead in self.leads.items()}
        ways = {name: o.via for name, o in offers.items() if o is not None and o.kind == "contact"}
        return {via: tuple(n for n, at in ways.items() if at == via) for via in dict.fromkeys(ways.values())}

    @cached_property
    def gates(self) -> dict[str, float]:
        """Leads that are gates of field-effect transistors, with the most voltage that each bears."""
        fets = [e for e in self.elements.values() if isinstance(e, Fet)]
        return {e.a: min(x.most_gate_v for x in fets if x.a == e.a) for e in fets}

    @cached_property
    def load_supply(self) -> str:
        """Of a hub that switches: the lead that is fed from the loads' own supply; or nothing."""
        ways = (name for driver in self.drivers.values() for name in (driver.clamps, driver.rail) if name)
        return next(ways, "")

    @cached_property
    def supply_leads(self) -> tuple[str, ...]:
        """The leads that can be fed: a supply is among their needs."""
        fed = {name: any(isinstance(need, Supply) for need in x.needs) for name, x in self.leads.items()}
        return tuple(name for name in fed if fed[name])

    @cached_property
    def logic_supplies(self) -> tuple[str, ...]:
        """The leads that are fed from the rail of the signals."""
        needs = {name: lead.needs[0] for name, lead in self.leads.items()}
        return tuple(name for name, need in needs.items() if isinstance(need, Supply) and need.signal)

    def parameter(self, sets: str) -> str:
        """The parameter that says something that rules know; or nothing."""
        return next((name for name, p in self.params.items() if p.sets == sets), "")
