"""A bus scan against the plan, address by address."""

from collections.abc import Iterator, Sequence
from typing import Literal

import numpy as np
from msgspec import Struct
from scipy.optimize import linear_sum_assignment

from knotplan.catalog.load import Catalog
from knotplan.catalog.part.facts import I2c
from knotplan.catalog.part.part import Part
from knotplan.core.bringup.difference import Difference, Spot
from knotplan.core.bringup.said import Answer, BusScan
from knotplan.core.buses.addresses import Place, Straps, can_be, named, positions, soldering
from knotplan.core.buses.i2c import Cell, I2cBus, cells, i2c_buses
from knotplan.core.buses.numbers import called, number_of
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import remedy
from knotplan.core.quantity.written import counted, listed
from knotplan.core.wiring.state import state_of

Verdict = Literal["as planned", "missing", "unexpected", "not tried", "driver"]
ALL_ANSWER = 0.9
"""a larger share of the addresses that were tried does not answer by itself"""
MOST_KINDS = 3
NEVER = 1e6
FAR = 50.0
"""what it costs to take one device for another one that only its eight-bit form explains"""


class SeenCell(Struct, frozen=True):
    """An address as planned and as heard."""

    planned: Cell
    answer: Answer
    verdict: Verdict


class ScannedBus(Struct, frozen=True):
    """A planned bus and what a scan of it says."""

    bus: I2cBus
    scan: BusScan
    cells: tuple[SeenCell, ...]
    """all 128"""
    differences: tuple[Difference, ...]


def on_board(c: Circuit) -> dict[int, I2cBus]:
    """The plan's buses that a system can scan, by its number: those of the board. What lies behind a bus
    switch is heard on the bus before it while that branch is joined."""
    found: dict[int, I2cBus] = {}
    for bus in i2c_buses(c):
        if bus.depth == 0 and (number := number_of(c, bus.bus.unit)) is not None:
            found.setdefault(number, bus)
    return found


def compared(
    c: Circuit, scans: Sequence[BusScan], catalog: Catalog
) -> tuple[list[ScannedBus], list[Difference]]:
    """Each scan beside the bus that it is of; and what concerns no planned bus. A scan that names no bus is
    taken for the only one in use."""
    known = on_board(c)
    used = [n for n, bus in known.items() if bus.devices]
    pairs: list[ScannedBus] = []
    loose: list[Difference] = []
    for scan in scans:
        number = scan.bus if scan.bus is not None else (used[0] if len(used) == 1 else None)
        if number in known:
            others = [s for s in scans if s is not scan]
            pairs.append(_Comparison(c, known[number], scan, others, catalog).made())
        elif number is None:
            loose.append(_nameless(c, scan, known))
        elif scan.heard:
            loose.append(_unplanned(c, scan, number))
    return pairs, loose


def _nameless(c: Circuit, scan: BusScan, known: dict[int, I2cBus]) -> Difference:
    numbers = listed([f"{n} ({bus.title})" for n, bus in known.items()]) or "none"
    return Difference(
        "bus-unknown",
        "note",
        "Which bus is this?",
        f"The scan does not say of which bus it is, and the plan has several: {numbers}. Say its number.",
        (),
        _spot(scan),
    )


def _unplanned(c: Circuit, scan: BusScan, number: int) -> Difference:
    return Difference(
        "bus-unplanned",
        "note",
        f"Bus {number} is in no plan",
        f"{counted(len(scan.heard), 'address')} {'answers' if len(scan.heard) == 1 else 'answer'} on bus "
        f"{number}, which {c.board.title} does not bring out: {_hex_list(scan.heard)}. Most likely the "
        "board's own.",
        (),
        _spot(scan),
    )


def _spot(scan: BusScan) -> Spot:
    return Spot(f"bus {scan.bus}" if scan.bus is not None else "scan", text=scan.place)


def _hex_list(addresses: Sequence[int]) -> str:
    return listed([f"0x{a:02X}" for a in addresses])


class _Comparison:
    """One bus."""

    def __init__(self, c: Circuit, bus: I2cBus, scan: BusScan, others: Sequence[BusScan], catalog: Catalog):
        self.c, self.bus, self.scan, self.others, self.catalog = c, bus, scan, others, catalog
        self.cells = cells(c, bus)
        self.behind = [p for p in bus.heard if p.part]
        """behind switches: they answer while their branch is joined"""
        self.missing = [p for p in bus.devices if p.part and scan.answer(p.address) == "silent"]
        planned = {p.address for p in (*bus.devices, *bus.heard)}
        calls = {p.all_call for p in (*bus.devices, *bus.heard)}
        self.unexpected = [a for a in scan.heard if a not in planned | calls]
        self.notes_of_board = {
            p.address: p.resident for p in (*bus.devices, *bus.heard) if not p.part
        } | self._residents()

    def _residents(self) -> dict[int, str]:
        """What the board itself has on the bus, whether the plan uses it or not."""
        unit = self.c.hardware.unit_named(self.bus.bus.unit)
        return {address: what for what, address in unit.residents.items()} if unit is not None else {}

    def made(self) -> ScannedBus:
        differences = tuple(self._differences())
        seen = tuple(
            SeenCell(cell, self.scan.answer(cell.address), self._verdict(cell)) for cell in self.cells
        )
        return ScannedBus(self.bus, self.scan, seen, differences)

    def _verdict(self, cell: Cell) -> Verdict:
        answer = self.scan.answer(cell.address)
        if answer == "not tried":
            return "not tried"
        if answer == "driver":
            return "driver"
        if answer == "answers":
            return "unexpected" if cell.address in self.unexpected else "as planned"
        return "missing" if any(p.address == cell.address for p in self.missing) else "as planned"

    def _differences(self) -> Iterator[Difference]:
        if self.scan.trouble:
            yield self._not_asked()
            return
        tried = [a for a, answer in self.scan.cells.items() if answer != "not tried"]
        if tried and len(self.scan.heard) > ALL_ANSWER * len(tried) and len(tried) > 8:
            yield self._all_answer()
            return
        asked = [p for p in self.bus.devices if p.part and self.scan.answer(p.address) != "not tried"]
        if len(self.missing) > 1 and len(self.missing) == len(asked) and not self.unexpected:
            yield self._none_answers()
        else:
            yield from self._one_by_one()
        yield from self._notes()

    # --- the whole bus ------------------------------------------------------------------------------

    def _parts(self, places: Sequence[Place]) -> tuple[str, ...]:
        return tuple(p.part for p in places if p.part)

    def _cords(self, places: Sequence[Place]) -> tuple[str, ...]:
        """The cords of some devices: on the bus first."""
        parts = self._parts(places)
        ties = [t for t in self.c.plan.ties if split(t.lead)[0] in parts]
        return tuple(t.id for t in sorted(ties, key=lambda t: not self._on_bus(t.lead)))

    def _on_bus(self, lead: str) -> bool:
        return any(self.c.nets.of(lead) in s.nets for s in self.bus.sections)

    def _not_asked(self) -> Difference:
        how = called(self.c, self.bus.bus.unit).switch_on
        off = f"The board's system has it off at first: {how}" if how else "Look at it in the board's system"
        return Difference(
            "bus-off",
            "differs",
            f"{self.bus.title} could not be asked",
            f"{self.scan.trouble}. {off}; then scan again.",
            self._parts(self.bus.devices),
            _spot(self.scan),
        )

    def _all_answer(self) -> Difference:
        return Difference(
            "all-answer",
            "differs",
            f"Everything answers on {self.bus.title}",
            f"{len(self.scan.heard)} addresses answer. The data line is held low: every address then looks "
            "like one that answers. Most likely SDA touches ground, or a device without its supply pulls "
            "it down. Pull the devices out one after another.",
            self._parts(self.bus.devices),
            _spot(self.scan),
            look=self._cords(self.bus.devices),
        )

    def _none_answers(self) -> Difference:
        return Difference(
            "none-answers",
            "differs",
            f"Nothing answers on {self.bus.title}",
            f"{counted(len(self.missing), 'device')} are planned: {self._said(self.missing)}. "
            f"{self._elsewhere()}",
            self._parts(self.missing),
            _spot(self.scan),
            look=self._cords(self.missing),
        )

    def _elsewhere(self) -> str:
        """Whether another scanned bus has them; else what silences a whole bus."""
        wanted = {p.address for p in self.missing}
        for other in self.others:
            if wanted <= set(other.heard):
                return f"They answer on bus {other.bus}: their cords are on the pins of that bus."
        return (
            "What silences a whole bus: SDA and SCL exchanged, no ground or supply at the devices, no "
            "pull-up, a line held low."
        )

    def _said(self, places: Sequence[Place]) -> str:
        return listed([f"{named(self.c, p)} at 0x{p.address:02X}" for p in places])

    # --- one by one ---------------------------------------------------------------------------------

    def _one_by_one(self) -> Iterator[Difference]:
        pairs = self._paired()
        for place in self.missing:
            if place in pairs:
                yield self._moved(place, pairs[place])
            else:
                yield self._missing(place)
        taken = set(pairs.values())
        for address in self.unexpected:
            if address not in taken and address not in self.notes_of_board:
                yield self._unexpected(address)

    def _paired(self) -> dict[Place, int]:
        """Which missing device most likely is which unexpected one: an assignment of least changes."""
        free = [a for a in self.unexpected if a not in self.notes_of_board]
        if not self.missing or not free:
            return {}
        costs = np.array([[self._cost(p, a) for a in free] for p in self.missing])
        rows, columns = linear_sum_assignment(costs)
        return {
            self.missing[i]: free[j]
            for i, j in zip(rows.tolist(), columns.tolist(), strict=True)
            if costs[i, j] < NEVER
        }

    def _cost(self, place: Place, address: int) -> float:
        """How many settings would have to stand otherwise for a device to answer there."""
        if address == place.power_on_address:
            return 0.5
        straps = self._straps(place, address)
        if straps is not None:
            return float(len(straps.params))
        return FAR if address in (place.address >> 1, place.address << 1) else NEVER

    def _straps(self, place: Place, address: int) -> Straps | None:
        facts = self.c.parts[place.part].facts.i2c
        if facts is None or facts.by_command:
            return None
        return next((s for s in can_be(self.c, place.part) if s.address == address), None)

    def _moved(self, place: Place, address: int) -> Difference:
        c, name = self.c, named(self.c, place)
        title = f"{name} answers at 0x{address:02X}, planned is 0x{place.address:02X}"
        straps = self._straps(place, address)
        spot = _spot(self.scan)
        if address == place.power_on_address:
            text = f"No program has given it its address yet: until then it answers at 0x{address:02X}."
            return Difference("address-not-given", "note", title, text, (place.part,), spot)
        if straps is not None:
            params = dict(straps.params)
            text = (
                f"Its pads stand so: {soldering(c, place.part, params)}. Planned: "
                f"{soldering(c, place.part)}. Set "
                "them as planned, or let the plan follow."
            )
            follow = remedy(
                f"Let {name} be at 0x{address:02X} in the plan", edits.set_params, place.part, params
            )
            return Difference("address-strapped", "differs", title, text, (place.part,), spot, (follow,))
        text = (
            f"0x{max(address, place.address):02X} is 0x{min(address, place.address):02X} with the bit for "
            "reading and writing behind it. Addresses here have 7 bits: the part file has the eight-bit "
            "form, or another part is on the bench."
        )
        return Difference("address-eight-bit", "differs", title, text, (place.part,), spot)

    def _missing(self, place: Place) -> Difference:
        name = named(self.c, place)
        return Difference(
            "address-missing",
            "differs",
            f"{name} does not answer at 0x{place.address:02X}",
            self._why_missing(place),
            (place.part,),
            _spot(self.scan),
            look=self._cords([place]),
        )

    def _why_missing(self, place: Place) -> str:
        here = next((s for s in self.others if place.address in s.heard), None)
        if here is not None and here.bus is not None:
            return f"0x{place.address:02X} answers on bus {here.bus}: its cords are on the pins of that bus."
        state, names = state_of(self.c), []
        for tie in self.c.plan.ties:
            if split(tie.lead)[0] == place.part and state.done and state.mark(f"cord:{tie.id}") != "done":
                names.append(self.c.titles.own(tie.lead))
        if names:
            cords = "a cord that is" if len(names) == 1 else "cords that are"
            return f"It has {cords} not noted as wired: {listed(names)}."
        others = [p for p in self.bus.devices if p.part and p not in self.missing]
        if others:
            return (
                f"{listed([named(self.c, p) for p in others][:MOST_KINDS])} on the same bus "
                f"{'answers' if len(others) == 1 else 'answer'}: look at its own cords, SDA and SCL "
                "exchanged, supply and ground."
            )
        return "Look at its cords: SDA and SCL exchanged, supply and ground, and at the pull-ups of the bus."

    def _unexpected(self, address: int) -> Difference:
        kinds = self._kinds(address)
        who = f" At 0x{address:02X} there may be: {listed(kinds)}." if kinds else ""
        twin = next(
            (p for p in self.bus.devices if p.part and address in (p.address >> 1, p.address << 1)), None
        )
        if twin is not None:
            who += f" It is the eight-bit form of {named(self.c, twin)}'s address, or the other way round."
        return Difference(
            "address-unexpected",
            "differs",
            f"Something answers at 0x{address:02X}",
            f"Nothing is planned there on {self.bus.title}.{who}",
            (),
            _spot(self.scan),
        )

    def _kinds(self, address: int) -> list[str]:
        """Parts of the catalogue that are usually found at an address, by their titles."""
        titles = []
        for part in self.catalog.usual():
            facts = part.facts.i2c
            if facts is not None and address in _reach(part, facts):
                titles.append(part.title)
        return titles[:MOST_KINDS]

    # --- worth knowing ------------------------------------------------------------------------------

    def _notes(self) -> Iterator[Difference]:
        untried = [p for p in self.bus.devices if p.part and self.scan.answer(p.address) == "not tried"]
        if untried:
            yield Difference(
                "address-not-tried",
                "note",
                f"{counted(len(untried), 'planned address')} not tried",
                f"The scan left out {self._said(untried)}: scan the whole bus.",
                self._parts(untried),
                _spot(self.scan),
            )
        held = [p for p in self.bus.devices if p.part and self.scan.answer(p.address) == "driver"]
        if held:
            yield Difference(
                "address-driver",
                "note",
                f"A driver of the system has {listed([named(self.c, p) for p in held])}",
                "A program of yours cannot speak to it there while the driver is loaded; use what the "
                "driver offers, or unload it.",
                self._parts(held),
                _spot(self.scan),
            )


def _reach(part: Part, facts: I2c) -> set[int]:
    """Every address that pads make of one."""
    found = {facts.address}
    for pad in facts.pads:
        adds = positions(part.params[pad.param], pad).values()
        found = {a + add for a in found for add in adds}
    return found
