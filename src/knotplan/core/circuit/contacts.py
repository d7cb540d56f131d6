"""Every contact of a plan: what it is called, what it offers, and what stands behind it."""

from functools import cached_property, lru_cache
from typing import Any

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.driver import Driver
from knotplan.catalog.board.function import ANY, Function, parse_function
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.board.system import Reservation
from knotplan.catalog.board.units import Peripheral, Pool
from knotplan.catalog.load import Catalog
from knotplan.catalog.part.lead import Lead
from knotplan.catalog.part.part import Part
from knotplan.core.names.book import LABEL, NameBook
from knotplan.core.plan.document import BOARD, PlacedPart, Plan, Tie, split
from knotplan.core.plan.kinds import part_in

LEVELS = {"digital": "in and out", "input": "in only", "output": "out only"}
"""the plain jobs, in words"""


class Contacts:
    """A plan's parts and board resolved against the catalogue."""

    def __init__(self, plan: Plan, catalog: Catalog):
        self.plan = plan
        self.derived: dict[tuple[Any, ...], Any] = {}
        """answers worked out from this circuit, see `knotplan.core.circuit.derived`"""
        self.board: Board = plan.carried or catalog.board(plan.board)
        self.scheme = plan.scheme if plan.scheme in self.board.schemes else self.board.spoken
        self.placed: dict[str, PlacedPart] = {p.id: p for p in plan.parts}
        self.parts: dict[str, Part] = {p.id: part_in(plan, catalog, p) for p in plan.parts}
        self.ties_at: dict[str, list[Tie]] = {}
        for tie in plan.ties:
            for end in (tie.lead, tie.to):
                self.ties_at.setdefault(end, []).append(tie)
        self._tie_of: dict[str, Tie] = {}
        for tie in plan.ties:
            self._tie_of.setdefault(tie.lead, tie)

    def tie_of(self, lead: str) -> Tie | None:
        """The first tie of a lead."""
        return self._tie_of.get(lead)

    @cached_property
    def names(self) -> NameBook:
        return NameBook(self.board)

    def pin(self, contact: str) -> Pin | None:
        """What a contact offers: the board's pin, or that of a hub; nothing for other leads and for sockets."""
        return self.pins.get(contact)

    @cached_property
    def pins(self) -> dict[str, Pin]:
        """Everything that parts can be tied to, by contact: the board's pins, then those of hubs."""
        found = {f"{BOARD}.{name}": pin for name, pin in self.board.pins.items()}
        for part_id, part in self.parts.items():
            found |= {f"{part_id}.{name}": pin for name, pin in hub_pins(part).items()}
        return found

    def lead(self, contact: str) -> Lead | None:
        """The lead of a contact, or nothing for a contact of the board."""
        return self._leads.get(contact)

    @cached_property
    def _leads(self) -> dict[str, Lead]:
        return {f"{p}.{name}": lead for p, part in self.parts.items() for name, lead in part.leads.items()}

    def exists(self, contact: str) -> bool:
        owner, name = split(contact)
        if owner == BOARD:
            return name in self.board.pins or name in self.board.sockets
        return self.lead(contact) is not None

    def part_name(self, part_id: str) -> str:
        """What a part is called on the bench; its id where it is not there (any more)."""
        placed = self.placed.get(part_id)
        return placed.name if placed else part_id

    def title(self, contact: str, scheme: str = "") -> str:
        """What people call a contact: "L12" or "Lamp · anode"; its id where it is not there (any more)."""
        owner, name = split(contact)
        if owner != BOARD:
            lead = self.lead(contact)
            return f"{self.part_name(owner)} · {lead.title if lead else name}"
        if name in self.board.sockets:
            return self.board.sockets[name].title
        return self.board.name(name, scheme or self.scheme) if name in self.board.pins else contact

    def place(self, contact: str) -> str:
        """A pin's place in the words of the position scheme: "pos 12", or nothing."""
        pin = self.pin(contact)
        return f"pos {pin.names['position']}" if pin and "position" in pin.names else ""

    def full_title(self, contact: str) -> str:
        """A contact so that nobody can mistake it: "L12 (pos 4)"."""
        place, title = self.place(contact), self.title(contact)
        return f"{title} ({place})" if place and self.scheme != "position" else place or title

    @cached_property
    def offers(self) -> dict[str, None]:
        """Every contact that offers something, in order: pins, sockets, supplies' leads."""
        found = [f"{BOARD}.{p}" for p in self.board.pins] + [f"{BOARD}.{s}" for s in self.board.sockets]
        for part_id, part in self.parts.items():
            source = part.source
            if source and source.plus != source.minus:
                found += [f"{part_id}.{source.plus}", f"{part_id}.{source.minus}"]
            found += [f"{part_id}.{name}" for name, lead in part.leads.items() if lead.offers]
        return dict.fromkeys(found)

    @cached_property
    def power_contacts(self) -> list[str]:
        """Those among the offers that are not signal pins."""
        return [c for c in self.offers if (pin := self.pin(c)) is None or pin.kind in ("supply", "ground", "contact")]

    def does(self, contact: str) -> str:
        """What a pin can do, in words: "in and out, UART 0 tx, pulse pair A"."""
        pin = self.pin(contact)
        said = []
        for job in map(parse_function, pin.functions if pin else ()):
            if job.kind in LEVELS:
                said.append(LEVELS[job.kind])
            elif job.instance == ANY:
                pool = self.pool(contact, job.kind)
                said.append(f"any of the {pool.title}" if pool else job.kind)
            else:
                unit = self.unit(contact, job)
                # the channels of buses have names that people know; those of timers and converters are mere numbers
                channel = f" {job.channel}" if job.channel and job.kind in ("uart", "i2c", "spi") else ""
                said.append(f"{unit.title if unit else job}{channel}")
        return ", ".join(dict.fromkeys(said))

    def leads(self) -> list[str]:
        """Every lead of every part, in order."""
        return list(self._leads)

    def other_end(self, tie: Tie, contact: str) -> str:
        return tie.to if contact == tie.lead else tie.lead

    def signal_name(self, tie: Tie) -> str:
        """What a tie is called in messages: its role, or its lead."""
        return tie.role or self.title(tie.lead)

    def supply_contact(self, rail: str) -> str:
        """A contact that is on a rail of the board."""
        for pin_id, pin in self.board.pins.items():
            if pin.rail == rail:
                return f"{BOARD}.{pin_id}"
        return ""

    def owner(self, contact: str) -> Board | Part:
        """The board or the part that a contact belongs to."""
        part_id = split(contact)[0]
        return self.board if part_id == BOARD else self.parts[part_id]

    def driver(self, contact: str) -> Driver:
        """The electrical character of a signal pin; raises KeyError for other contacts."""
        return self.owner(contact).drivers[self.pins[contact].driver]

    def driver_at(self, contact: str) -> Driver | None:
        """The same of any contact; nothing where it is no signal pin."""
        pin = self.pins.get(contact)
        return self.owner(contact).drivers.get(pin.driver) if pin is not None and pin.kind == "io" else None

    def unit(self, contact: str, job: Function) -> Peripheral | None:
        """The instance of a peripheral that does a pin's job."""
        return self.owner(contact).peripherals.get(job.unit)

    def unit_id(self, contact: str, job: Function) -> str:
        """The instance, unique on the whole bench: ``board.pwm:A``, ``shutters.pwm:0``."""
        return f"{split(contact)[0]}.{job.kind}:{job.instance}"

    def unit_named(self, unit_id: str) -> Peripheral | None:
        """The instance of a `unit_id`."""
        owner, unit = split(unit_id)
        holder = self.board if owner == BOARD else self.parts.get(owner)
        return holder.peripherals.get(unit) if holder else None  # plain pins are nobody's unit

    def unit_spec(self, unit_id: str) -> Peripheral | Pool | None:
        """What the catalogue says of a unit, or of the pool that it comes from: `board.spi:0`, `board.pwm:any`; what stands
        behind an `@`, to tell sets of pins apart, does not matter. Nothing where there is no such unit."""
        owner, unit = split(unit_id.partition("@")[0])
        if owner == BOARD and unit.endswith(f":{ANY}"):
            return self.board.pool(unit.partition(":")[0])
        return self.unit_named(f"{owner}.{unit}") if owner == BOARD or owner in self.parts else None

    def pool(self, contact: str, kind: str) -> Pool | None:
        """The pool of one kind of function behind a pin."""
        return self.board.pool(kind) if split(contact)[0] == BOARD else None

    def is_on(self, setting: str) -> bool:
        """Whether a setting of the board is on, as the maker means to have it; one that is not there always is."""
        found = self.board.settings.get(setting)
        return found is None or (found.starts == "on") != (setting in self.plan.set_up)

    def system_changes(self) -> list[str]:
        """What has to be done to the board's system before the plan works, in words."""
        return [f"Switch {spec.title} {'on' if self.is_on(name) else 'off'}: {spec.how}."
                for name, spec in self.board.settings.items() if name in self.plan.set_up]  # fmt: skip

    def reservation(self, pin: Pin) -> Reservation | None:
        """What already uses a pin, unless the maker has switched that off."""
        held = self.board.reservations.get(pin.reserved)
        return None if held is None or (held.setting and not self.is_on(held.setting)) else held


@lru_cache(1024)
def hub_pins(part: Part) -> dict[str, Pin]:
    """What a part's leads offer to other parts, as pins."""
    return {name: Pin(0, 0, {LABEL: lead.title}, "", o.kind, "", o.functions, o.driver, o.power_on, note=o.note)
            for name, lead in part.leads.items() if (o := lead.offers) is not None}  # fmt: skip
