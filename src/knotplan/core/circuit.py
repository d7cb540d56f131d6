"""The plan with everything resolved: contacts, what hangs on which rail, and who holds which pin."""

from collections.abc import Iterator
from functools import cached_property, lru_cache

from msgspec import Struct

from knotplan.catalog.boards import ANY, Board, Driver, Function, Peripheral, Pin, Pool, Reservation, parse_function
from knotplan.catalog.load import Catalog
from knotplan.catalog.needs import Driven, Feed, Gives, Ground, Need, Supply, Switched
from knotplan.catalog.parts import Lead, Part, Source
from knotplan.catalog.quantities import Range
from knotplan.core.names import LABEL, NameBook
from knotplan.core.plan import BOARD, PlacedPart, Plan, SeriesResistor, Tie, split

LEVELS = {"digital": "in and out", "input": "in only"}
"""the plain jobs, in words"""
SWITCHING = ("sink", "source", "bridge")
"""functions that switch the current of a load"""
GROUND = "ground"
"""the board's ground, as the name of a net"""


class Origin(Struct, frozen=True):
    """Where a supply voltage comes from: a rail of the board, or a supply on the bench."""

    id: str
    title: str
    volts: Range
    source_ohm: float
    limit_a: float


class Pole(Struct, frozen=True):
    """Something with a voltage of its own: ground, a rail of the board, an end of a supply."""

    id: str
    title: str
    volts: Range


class Circuit:
    """A plan resolved against the catalogue. Everything is derived; nothing is ever changed."""

    def __init__(self, plan: Plan, catalog: Catalog):
        self.plan = plan
        self.board: Board = plan.carried or catalog.board(plan.board)
        self.scheme = plan.scheme if plan.scheme in self.board.schemes else self.board.spoken
        self.placed: dict[str, PlacedPart] = {p.id: p for p in plan.parts}
        self.parts: dict[str, Part] = {p.id: catalog.part(p.part, p.params) for p in plan.parts}
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

    # --- contacts ---------------------------------------------------------------------------

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
        owner, name = split(contact)
        return self.parts[owner].leads.get(name) if owner in self.parts else None

    def exists(self, contact: str) -> bool:
        owner, name = split(contact)
        if owner == BOARD:
            return name in self.board.pins or name in self.board.sockets
        return self.lead(contact) is not None

    def title(self, contact: str, scheme: str = "") -> str:
        """What people call a contact: "L12" or "Lamp · anode"."""
        owner, name = split(contact)
        if owner != BOARD:
            lead = self.lead(contact)
            return f"{self.placed[owner].name} · {lead.title if lead else name}"
        if name in self.board.sockets:
            return self.board.sockets[name].title
        return self.board.name(name, scheme or self.scheme)

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
        return [f"{p}.{name}" for p, part in self.parts.items() for name in part.leads]

    def other_end(self, tie: Tie, contact: str) -> str:
        return tie.to if contact == tie.lead else tie.lead

    # --- what stands behind a pin: the board, or the hub that it belongs to ----------------------

    def owner(self, contact: str) -> Board | Part:
        """The board or the part that a contact belongs to."""
        part_id = split(contact)[0]
        return self.board if part_id == BOARD else self.parts[part_id]

    def driver(self, contact: str) -> Driver:
        """The electrical character of a signal pin; raises KeyError for other contacts."""
        return self.owner(contact).drivers[self.pins[contact].driver]

    def unit(self, contact: str, job: Function) -> Peripheral | None:
        """The instance of a peripheral that does a pin's job."""
        return self.owner(contact).peripherals.get(job.unit)

    def unit_id(self, contact: str, job: Function) -> str:
        """The instance, unique on the whole bench: ``board.pwm:A``, ``shutters.pwm:0``."""
        return f"{split(contact)[0]}.{job.kind}:{job.instance}"

    def unit_named(self, unit_id: str) -> Peripheral | None:
        """The instance of a `unit_id`."""
        owner, unit = split(unit_id)
        return (self.board if owner == BOARD else self.parts[owner]).peripherals.get(unit)

    def pool(self, contact: str, kind: str) -> Pool | None:
        """The pool of one kind of function behind a pin."""
        return self.board.pool(kind) if split(contact)[0] == BOARD else None

    def high_net(self, contact: str) -> str:
        """The net that a pin's high comes from."""
        driver, part_id = self.driver(contact), split(contact)[0]
        return self.net(f"rail:{driver.rail}" if part_id == BOARD else f"{part_id}.{driver.rail}")

    def low_net(self, contact: str) -> str:
        """The net that a pin's low goes to."""
        part_id = split(contact)[0]
        return self.ground if part_id == BOARD else self.net(f"{part_id}.{self.parts[part_id].ground}")

    def rail_volts(self, contact: str) -> Range | None:
        """The voltage of a pin's high side; nothing for a hub that has no supply."""
        if split(contact)[0] == BOARD:
            return self.board.rails[self.driver(contact).rail].volts
        origin = self.origins.get(self.high_net(contact))
        return origin.volts if origin else None

    def rail_title(self, contact: str) -> str:
        """What a pin's high side is called."""
        if split(contact)[0] == BOARD:
            return self.board.rails[self.driver(contact).rail].title
        origin = self.origins.get(self.high_net(contact))
        return origin.title if origin else f"supply of {self.placed[split(contact)[0]].name}"

    def rail_contact(self, contact: str) -> str:
        """A contact on the rail of a pin's high side, to which a pull-up can lead."""
        driver, part_id = self.driver(contact), split(contact)[0]
        return self.supply_contact(driver.rail) if part_id == BOARD else f"{part_id}.{driver.rail}"

    # --- what the board's system has on or off ------------------------------------------------

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

    # --- needs ------------------------------------------------------------------------------

    def need(self, lead: str) -> Need:
        """The alternative of a lead's needs that its tie is meant to meet (the first when untied)."""
        spec = self.lead(lead)
        assert spec is not None, lead
        tie = self.tie_of(lead)
        if tie is None:
            return spec.needs[0]
        pin = self.pin(tie.to)
        if pin is not None and pin.kind != "contact":
            kind = {"supply": Supply, "ground": Ground}.get(pin.kind)
            if kind is None:
                switched = any(f in SWITCHING for f in pin.functions)
                signals = [n for n in spec.needs if not isinstance(n, Supply | Ground)]
                return next((n for n in signals if isinstance(n, Switched) == switched), (signals or spec.needs)[0])
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        if pin is not None:
            kind = Ground if self.is_ground(f"{split(tie.to)[0]}.{self._via(tie.to)}") else Supply
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        given = self.lead(tie.to)
        if given is not None:
            kind = Supply if isinstance(given.needs[0], Gives) else type(given.needs[0])
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        return next((n for n in spec.needs if isinstance(n, Feed)), spec.needs[0])

    def drives(self, lead: str) -> bool:
        """The lead is driven by what it is tied to."""
        return isinstance(self.need(lead), Driven)

    @cached_property
    def holders(self) -> dict[str, list[Tie]]:
        """The ties on each signal pin, of the board or of a hub: {contact: ties}."""
        found: dict[str, list[Tie]] = {}
        for tie in self.plan.ties:
            pin = self.pin(tie.to)
            if pin is not None and pin.kind == "io":
                found.setdefault(tie.to, []).append(tie)
        return found

    def on_pins(self) -> Iterator[tuple[str, Pin, Tie]]:
        """(contact, pin, tie) of every tie on a signal pin."""
        for contact, ties in self.holders.items():
            for tie in ties:
                yield contact, self.pins[contact], tie

    # --- nets: contacts joined without a bead between ---------------------------------------

    def joints(self) -> Iterator[tuple[str, str, Tie | None]]:
        """Every pair that is joined with nothing between, with the tie that joins it (nothing: the board itself)."""
        for pin_id, pin in self.board.pins.items():
            if pin.kind == "ground":
                yield f"{BOARD}.{pin_id}", GROUND, None
            elif pin.kind == "supply":
                yield f"{BOARD}.{pin_id}", f"rail:{pin.rail}", None
        for tie in self.plan.ties:
            if not any(isinstance(b, SeriesResistor) for b in tie.beads):
                yield tie.lead, tie.to, tie

    @cached_property
    def _roots(self) -> dict[str, str]:
        root: dict[str, str] = {}

        def find(c: str) -> str:
            while root.setdefault(c, c) != c:
                c = root[c]
            return c

        def join(a: str, b: str) -> None:
            root[find(a)] = find(b)

        for a, b, _ in self.joints():
            join(a, b)
        for part_id, part in self.parts.items():
            if part.source and part.source.plus == part.source.minus:  # its cable carries ground along
                find(f"{part_id}.{part.source.plus}")
        return {c: find(c) for c in root}

    def net(self, contact: str) -> str:
        """The name of the net that a contact is on; a contact without ties is a net of its own."""
        return self._roots.get(contact, contact)

    @cached_property
    def members(self) -> dict[str, list[str]]:
        """The contacts of each net."""
        found: dict[str, list[str]] = {}
        for contact, root in self._roots.items():
            found.setdefault(root, []).append(contact)
        return found

    @cached_property
    def ground(self) -> str:
        return self.net(GROUND)

    # --- power ------------------------------------------------------------------------------

    @cached_property
    def bench_sources(self) -> dict[str, Source]:
        """The supplies among the parts: {part id: what it gives}."""
        return {p: part.source for p, part in self.parts.items() if part.source}

    @cached_property
    def feeds(self) -> dict[str, str]:
        """Sockets that a supply is plugged into: {socket id: part id}."""
        found = {}
        for tie in self.plan.ties:
            owner, name = split(tie.to)
            lead = self.lead(tie.lead)
            plug = lead is not None and any(isinstance(n, Feed) for n in lead.needs)
            if plug and owner == BOARD and name in self.board.sockets:
                found[name] = split(tie.lead)[0]
        return found

    @cached_property
    def socket(self) -> str:
        """The socket that feeds the board: the first one plugged in, else the first there is."""
        return next(iter(self.feeds), next(iter(self.board.sockets)))

    @cached_property
    def past_socket(self) -> str:
        """The supply that feeds the board over a supply pin, past its sockets, where none is plugged in."""
        if self.feeds:
            return ""
        rails = {self.net(f"rail:{name}") for name in self._ways_in}
        return next((p for p, s in self.bench_sources.items() if self.net(f"{p}.{s.plus}") in rails), "")

    @cached_property
    def fed_rail(self) -> str:
        """The rail through which the board is fed."""
        if self.past_socket:
            net = self.net(f"{self.past_socket}.{self.bench_sources[self.past_socket].plus}")
            return next(r for r in self.board.rails if self.net(f"rail:{r}") == net)
        return self.board.sockets[self.socket].rail

    @cached_property
    def _ways_in(self) -> set[str]:
        """The rails over which the board as a whole can be fed: those of its sockets, and those that accept a supply
        and from which its signal pins' rails are made. (A clock's cell feeds the clock alone.)"""
        made_from: set[str] = set()
        for driver in self.board.drivers.values():
            rail = driver.rail
            while rail and rail not in made_from:
                made_from.add(rail)
                rail = self.board.rails[rail].fed_from
        accepting = {name for name in made_from if self.board.rails[name].accepts}
        return accepting | {socket.rail for socket in self.board.sockets.values()}

    def taken_in(self, rail_id: str) -> Source | None:
        """The supply that feeds a rail over the rail's own pins, where the rail is made for that, bears it, and gets
        its voltage from nowhere else."""
        accepts, net = self.board.rails[rail_id].accepts, self.net(f"rail:{rail_id}")
        if accepts is None:
            return None
        for part_id, source in self.bench_sources.items():
            alone = rail_id not in self.live_rails or (part_id == self.past_socket and rail_id == self.fed_rail)
            if alone and self.net(f"{part_id}.{source.plus}") == net:
                return source if accepts.min <= source.volts.min and source.volts.max <= accepts.max else None
        return None

    @cached_property
    def live_rails(self) -> tuple[str, ...]:
        """The board's rails that carry a voltage, each after the one it is made from."""
        live = [self.fed_rail]
        for _ in self.board.rails:
            live += [r for r, rail in self.board.rails.items() if r not in live and rail.fed_from in live]
        return tuple(live)

    @cached_property
    def origins(self) -> dict[str, Origin]:
        """Where each supplied net gets its voltage: {net: origin}."""
        found: dict[str, Origin] = {}
        for rail_id in self.live_rails:
            rail = self.board.rails[rail_id]
            taken = self.taken_in(rail_id)
            found[self.net(f"rail:{rail_id}")] = Origin(
                rail_id, rail.title, taken.volts if taken else rail.volts, rail.source_ohm, rail.limit_a)  # fmt: skip
        for part_id, source in self.bench_sources.items():
            if source.plus != source.minus:
                found.setdefault(self.net(f"{part_id}.{source.plus}"), Origin(
                    part_id, self.placed[part_id].name, source.volts, source.source_ohm, source.limit_a))  # fmt: skip
        found.pop(self.ground, None)  # what is short-circuited supplies nothing
        return found

    @cached_property
    def poles(self) -> dict[str, list[Pole]]:
        """What has a voltage of its own, by net; more than one on a net are joined without anything between."""
        found: dict[str, list[Pole]] = {self.ground: [Pole(GROUND, "ground", Range.exactly(0.0))]}
        for rail_id, rail in self.board.rails.items():
            found.setdefault(self.net(f"rail:{rail_id}"), []).append(Pole(f"rail:{rail_id}", rail.title, rail.volts))
        for part_id, source in self.bench_sources.items():
            if source.plus == source.minus:
                continue
            plus, minus = f"{part_id}.{source.plus}", f"{part_id}.{source.minus}"
            found.setdefault(self.net(plus), []).append(Pole(plus, self.title(plus), source.volts))
            if self.net(minus) == self.net(plus) != self.ground:
                found[self.net(plus)].append(Pole(minus, self.title(minus), Range.exactly(0.0)))
        return found

    def origin(self, contact: str) -> Origin | None:
        """The supply that a contact hangs on, if any, directly or over a hub's contact."""
        return self.origins.get(self.fed_by(contact))

    def is_ground(self, contact: str) -> bool:
        return self.net(contact) == self.ground

    def _via(self, contact: str) -> str:
        lead = self.lead(contact)
        return lead.offers.via if lead and lead.offers else ""

    @cached_property
    def passed_on(self) -> dict[str, str]:
        """Nets that get what they have from another one over a hub: {net: the net that it comes from}."""
        found: dict[str, str] = {}
        for contact, pin in self.pins.items():
            part_id = split(contact)[0]
            if part_id == BOARD:
                continue
            if pin.kind == "contact":
                found.setdefault(self.net(contact), self.net(f"{part_id}.{self._via(contact)}"))
            elif "bridge" in pin.functions or "source" in pin.functions:
                found.setdefault(self.net(contact), self.high_net(contact))
        return found

    def fed_by(self, contact: str) -> str:
        """The net of the supply that a contact's current comes from, over whatever hubs lie between."""
        net = self.net(contact)
        for _ in range(len(self.parts) + 1):
            if net in self.origins or net not in self.passed_on:
                break
            net = self.passed_on[net]
        return net

    def signal_name(self, tie: Tie) -> str:
        """What a tie is called in messages: its role, or its lead."""
        return tie.role or self.title(tie.lead)

    def supply_contact(self, rail: str) -> str:
        """A contact that is on a rail of the board."""
        for pin_id, pin in self.board.pins.items():
            if pin.rail == rail:
                return f"{BOARD}.{pin_id}"
        return ""


@lru_cache(1024)
def hub_pins(part: Part) -> dict[str, Pin]:
    """What a part's leads offer to other parts, as pins."""
    return {name: Pin(0, 0, {LABEL: lead.title}, "", o.kind, "", o.functions, o.driver, o.power_on, note=o.note)
            for name, lead in part.leads.items() if (o := lead.offers) is not None}  # fmt: skip
