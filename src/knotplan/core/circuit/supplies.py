"""Supplies: what feeds the board and its rails, and where each net gets its voltage."""

from collections.abc import Callable, Mapping

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.catalog.part.needs import Feed
from knotplan.catalog.part.part import Part
from knotplan.catalog.part.source import Source
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.circuit.hardware import Hardware
from knotplan.core.circuit.nets import GROUND, Nets, rail_name
from knotplan.core.circuit.ranges import suits
from knotplan.core.circuit.ties import Ties
from knotplan.core.circuit.titles import Titles
from knotplan.core.memory.memory import Memory
from knotplan.core.memory.question import fact, question, table
from knotplan.core.plan.document import BOARD, PlacedPart, Tie, split


class Origin(Struct, frozen=True):
    """Where a supply voltage comes from: a rail of the board, or a supply on the bench."""

    id: str
    title: str
    volts: Range
    source_ohm: float
    limit_a: float
    on_board: bool = False
    """a rail of the board; else a part's own"""


class Pole(Struct, frozen=True):
    """Something with a voltage of its own: ground, a rail of the board, an end of a supply."""

    id: str
    title: str
    volts: Range
    rail: str = ""
    """the rail of the board that it is"""


class Supplies:
    """Where voltages come from."""

    def __init__(
        self,
        memory: Memory,
        board: Board,
        placed: Mapping[str, PlacedPart],
        parts: Mapping[str, Part],
        ties: Ties,
        contacts: Contacts,
        hardware: Hardware,
        titles: Titles,
        nets: Nets,
        assumed: Callable[[str], float],
    ):
        """`assumed`: figures that are taken for granted, by their ids."""
        self.memory, self._assumed = memory, assumed
        memory.about(self)
        self._board, self._placed, self._parts, self._ties = board, placed, parts, ties
        self._contacts, self._hardware, self._titles, self._nets = contacts, hardware, titles, nets

    @table
    def on_bench(self) -> dict[str, Source]:
        """The supplies among the parts: {part id: what it gives}."""
        return {p: part.source for p, part in self._parts.items() if part.source}

    @fact
    def _with_two_leads(self) -> list[tuple[str, Source]]:
        """The supplies that can feed over pins: one with a plug feeds what it is plugged into, and nothing
        else, also where a careless plan ties the plug to a pin."""
        return [(p, s) for p, s in self.on_bench.items() if s.plus != s.minus]

    @table
    def feeds(self) -> dict[str, str]:
        """Sockets that a supply is plugged into: {socket id: part id}."""
        sockets = (f"{BOARD}.{socket}" for socket in self._board.sockets)
        plugs = [t for at in sockets for t in self._ties.at.get(at, ()) if self.is_plug(t)]
        if len(plugs) > 1:
            order = {tie_id: k for k, tie_id in enumerate(self._ties.by_id)}
            plugs.sort(key=lambda tie: order[tie.id])
        return {split(t.to)[1]: split(t.lead)[0] for t in plugs}

    def is_plug(self, tie: Tie) -> bool:
        """The cable with which a supply is plugged into a socket: the supply is on as soon as it is in."""
        lead = self._contacts.lead(tie.lead)
        plug = lead is not None and any(isinstance(n, Feed) for n in lead.needs)
        return plug and self._contacts.is_socket(tie.to)

    @fact
    def feeding(self) -> frozenset[str]:
        """The supplies that feed the board, over a socket or past it."""
        return frozenset({*self.feeds.values(), self.past_socket} - {""})

    @fact
    def socket(self) -> str:
        """The socket that feeds the board: the first one plugged in, else the first there is."""
        return next(iter(self.feeds), next(iter(self._board.sockets)))

    @fact
    def past_socket(self) -> str:
        """The supply that feeds the board over a supply pin, past its sockets, where none is plugged in."""
        if self.feeds:
            return ""
        rails = {self._nets.of(rail_name(name)) for name in self._ways_in}
        return next((p for p, s in self._with_two_leads if self._nets.of(f"{p}.{s.plus}") in rails), "")

    @fact
    def fed_rail(self) -> str:
        """The rail through which the board is fed."""
        if self.past_socket:
            net = self._nets.of(f"{self.past_socket}.{self.on_bench[self.past_socket].plus}")
            return next(r for r in self._board.rails if self._nets.of(rail_name(r)) == net)
        return self._board.sockets[self.socket].rail

    @fact
    def _ways_in(self) -> set[str]:
        """The rails over which the board as a whole can be fed: those of its sockets, and
        those that accept a supply and from which its signal pins' rails are made. (A
        clock's cell feeds the clock alone.)"""
        made_from: set[str] = set()
        for driver in self._board.drivers.values():
            rail = driver.rail
            while rail and rail not in made_from:
                made_from.add(rail)
                rail = self._board.rails[rail].fed_from
        accepting = {name for name in made_from if self._board.rails[name].accepts}
        return accepting | {socket.rail for socket in self._board.sockets.values()}

    def taken_in(self, rail_id: str) -> Source | None:
        """The supply that feeds a rail over the rail's own pins, where the rail is made for that, bears
        it, and gets its voltage from nowhere else."""
        accepts, net = self._board.rails[rail_id].accepts, self._nets.of(rail_name(rail_id))
        if accepts is None:
            return None
        for part_id, source in self._with_two_leads:
            alone = rail_id not in self.live_rails or (
                part_id == self.past_socket and rail_id == self.fed_rail
            )
            if alone and self._nets.of(f"{part_id}.{source.plus}") == net:
                return source if suits(source, accepts, self._assumed("edge")) else None
        return None

    @fact
    def live_rails(self) -> tuple[str, ...]:
        """The board's rails that carry a voltage, each after the one it is made from."""
        live = [self.fed_rail]
        for _ in self._board.rails:
            live += [r for r, rail in self._board.rails.items() if r not in live and rail.fed_from in live]
        return tuple(live)

    @table
    def origins(self) -> dict[str, Origin]:
        """Where each supplied net gets its voltage: {net: origin}."""
        origins: dict[str, Origin] = {}
        for rail_id in self.live_rails:
            rail = self._board.rails[rail_id]
            taken = self.taken_in(rail_id)
            origins[self._nets.of(rail_name(rail_id))] = Origin(
                rail_id,
                rail.title,
                taken.volts if taken else rail.volts,
                rail.source_ohm,
                rail.limit_a,
                on_board=True,
            )
        sources = [(p, s) for p, s in self.on_bench.items() if s.plus != s.minus]
        for part_id, source in sources:
            if not source.fed_from:
                origins.setdefault(
                    self._nets.of(f"{part_id}.{source.plus}"), self._origin_of(part_id, source)
                )
        origins.pop(self._nets.ground, None)  # what is short-circuited supplies nothing
        for _ in sources:  # converters, one behind another
            for part_id, source in sources:
                out = self._nets.of(f"{part_id}.{source.plus}")
                lead = f"{part_id}.{source.fed_from}"
                fed = self._source_net(self._nets.of(lead), origins) if source.fed_from else ""
                if fed in origins and out not in (fed, self._nets.ground):
                    origins.setdefault(out, self._origin_of(part_id, source))
        return origins

    def _origin_of(self, part_id: str, source: Source) -> Origin:
        return Origin(part_id, self._placed[part_id].name, source.volts, source.source_ohm, source.limit_a)

    def _source_net(self, net: str, origins: Mapping[str, Origin]) -> str:
        """The net that a net's current comes from, over whatever hubs lie
        between, among nets that have a supply."""
        passed: set[str] = set()
        while net not in passed and net not in origins and net in self._nets.passed_on:
            passed.add(net)
            net = self._nets.passed_on[net]
        return net

    def fed_by(self, contact: str) -> str:
        """The net of the supply that a contact's current comes from, over whatever hubs lie between."""
        return self._fed_from(self._nets.of(contact))

    @question
    def _fed_from(self, net: str) -> str:
        """The same of a net."""
        return self._source_net(net, self.origins)

    def origin(self, contact: str) -> Origin | None:
        """The supply that a contact hangs on, if any, directly or over a hub's contact."""
        return self.origins.get(self.fed_by(contact))

    @table
    def pluses(self) -> dict[str, Source]:
        """What other parts can be fed from on the bench: {contact: the supply}."""
        return {f"{p}.{s.plus}": s for p, s in self.on_bench.items() if s.plus != s.minus}

    @fact
    def minuses(self) -> set[str]:
        """The nets to which the supplies' currents come back."""
        return {self._nets.of(f"{p}.{s.minus}") for p, s in self.on_bench.items()}

    def runs_down(self, origin: Origin) -> bool:
        """A supply of cells: its least voltage is that of its last minutes."""
        source = self.on_bench.get(origin.id)
        return source is not None and bool(source.watt_hours)

    @table
    def poles(self) -> dict[str, list[Pole]]:
        """What has a voltage of its own, by net; more than one on a net
        are joined without anything between."""
        poles: dict[str, list[Pole]] = {self._nets.ground: [Pole(GROUND, "ground", Range.exactly(0.0))]}
        for rail_id, rail in self._board.rails.items():
            poles.setdefault(self._nets.of(rail_name(rail_id)), []).append(
                Pole(rail_name(rail_id), rail.title, rail.volts, rail_id)
            )
        for part_id, source in self.on_bench.items():
            if source.plus == source.minus:
                continue
            plus, minus = f"{part_id}.{source.plus}", f"{part_id}.{source.minus}"
            poles.setdefault(self._nets.of(plus), []).append(Pole(plus, self._titles.of(plus), source.volts))
            if self._nets.of(minus) == self._nets.of(plus) != self._nets.ground:
                poles[self._nets.of(plus)].append(Pole(minus, self._titles.of(minus), Range.exactly(0.0)))
        return poles

    def rail_volts(self, contact: str) -> Range | None:
        """The voltage of a pin's high side; nothing for a hub that has no supply."""
        if split(contact)[0] == BOARD:
            return self._board.rails[self._hardware.driver(contact).rail].volts
        origin = self.origins.get(self._nets.high(contact))
        return origin.volts if origin else None

    def rail_title(self, contact: str) -> str:
        """What a pin's high side is called."""
        if split(contact)[0] == BOARD:
            return self._board.rails[self._hardware.driver(contact).rail].title
        origin = self.origins.get(self._nets.high(contact))
        return origin.title if origin else f"supply of {self._placed[split(contact)[0]].name}"

    def rail_contact(self, contact: str) -> str:
        """A contact on the rail of a pin's high side, to which a pull-up can lead."""
        driver, part_id = self._hardware.driver(contact), split(contact)[0]
        return self._contacts.supply_contact(driver.rail) if part_id == BOARD else f"{part_id}.{driver.rail}"
