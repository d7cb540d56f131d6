"""The practice bench: a plan with hidden troubles, asked as a bench is asked."""

from collections.abc import Iterable, Sequence
from random import Random

from knotplan.catalog.board.pin import KERNEL
from knotplan.catalog.load import Catalog
from knotplan.catalog.part.needs import Bus, Ground, Input, Output, Supply
from knotplan.core.bringup.said import Answer, Bias, BusScan, Direction, LineState
from knotplan.core.bringup.scan import on_board
from knotplan.core.buses.addresses import FREE, Place
from knotplan.core.buses.i2c import I2cBus
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.nets import GROUND
from knotplan.core.meter.faults import Fault
from knotplan.core.meter.network import ALIVE_V, Bench, Change, Fed, Network, fed
from knotplan.core.meter.pieces import lead_end, pin_end
from knotplan.core.meter.points import Point
from knotplan.core.meter.table import Meter
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Diode
from knotplan.core.plan.document import BOARD, split
from knotplan.core.practice.troubles import Trouble
from knotplan.core.text.program import word

DRIVER = "system"
"""who has a line that was taken"""
BIASES: dict[str, Bias] = {"up": "pull-up", "down": "pull-down", "none": ""}
"""what a program asks for, by a tie's pull"""


class PracticeBench:
    """Answers as a bench would that has these troubles; `seed` decides what specimens its parts are."""

    def __init__(self, circuit: Circuit, catalog: Catalog, troubles: Iterable[Trouble] = (), seed: int = 0):
        self.planned, self.troubles, self.seed = circuit, tuple(troubles), seed
        plan = circuit.plan
        for t in self.troubles:
            for part, param, value in t.params:
                plan = edits.set_param(plan, part, param, value)
        self.c = Circuit(plan, catalog) if plan is not circuit.plan else circuit
        self.change = _together([t.change for t in self.troubles])
        self.network = Network(self.c)
        self.bench = Bench(self.network, self.change)
        on = frozenset(p for p, s in self.c.supplies.on_bench.items() if not s.fed_from)
        self.fed: Fed = fed(self.bench, on)

    # --- bus scan -------------------------------------------------------------------------------------

    def scans(self) -> list[BusScan]:
        """What a scan of each bus of the board shows, with everything switched on."""
        return [self._scan(number, bus) for number, bus in on_board(self.c).items() if bus.devices]

    def _scan(self, number: int, bus: I2cBus) -> BusScan:
        if any(t.bus_off == str(bus.bus) for t in self.troubles):
            return BusScan(
                number, {}, "", "There is no such device: the bus is switched off, or has another number"
            )
        lines = {role: self._line(bus, role) for role in ("sda", "scl")}
        low = {role: self._held_low(group) for role, group in lines.items()}
        if low["scl"] or any(not self._pulled(bus, role) for role in lines):
            return BusScan(number, dict.fromkeys(FREE, "silent"))
        if low["sda"]:
            return BusScan(number, dict.fromkeys(FREE, "answers"))
        cells: dict[int, Answer] = dict.fromkeys(FREE, "silent")
        for place in bus.devices:
            if not place.part or self._answers(place, lines):
                cells[place.address] = "answers"
                if place.all_call is not None:
                    cells[place.all_call] = "answers"
        return BusScan(number, cells)

    def _line(self, bus: I2cBus, role: str) -> frozenset[int]:
        """The groups that a line of a bus is made of: what hangs together with the controller's pin, over
        beads in its cords."""
        contacts = {
            tie.to
            for tie in self.c.plan.ties
            if split(tie.to)[0] == BOARD
            and self._role(tie.lead) == role
            and split(tie.lead)[0] in _parts(bus)
        }
        found = {self.bench.group(x) for x in contacts}
        waiting = list(found)
        while waiting:
            group = waiting.pop()
            for other in self._past_beads(group):
                if other not in found and other not in self.fed.volts:
                    found.add(other)
                    waiting.append(other)
        return frozenset(found)

    def _past_beads(self, group: int) -> Iterable[int]:
        for tie in self.c.plan.ties:
            turned = any(isinstance(b, Diode) for b in tie.beads)
            ends = {self.bench.group(lead_end(tie.id)), self.bench.group(pin_end(tie.id))}
            if group in ends and not turned:
                yield from ends - {group}

    def _role(self, lead: str) -> str:
        spec = self.c.contacts.lead(lead)
        for need in spec.needs if spec is not None else ():
            if isinstance(need, Bus) and need.bus == "i2c":
                return need.role
        return ""

    def _held_low(self, line: frozenset[int]) -> bool:
        return any(group == self.bench.group(GROUND) for group in line)

    def _pulled(self, bus: I2cBus, role: str) -> bool:
        """Something makes the line high: a pull-up of a part that is fed, of the board, or in a cord."""
        section = bus.line(role)
        if section is None:
            return False
        return any(not p.tie or self._bead_is_there(p.tie) for p in section.pulls)

    def _bead_is_there(self, tie: str) -> bool:
        return not any(t == tie and not times for (t, _), times in self.change.beads.items())

    def _answers(self, place: Place, lines: dict[str, frozenset[int]]) -> bool:
        part = self.c.parts[place.part]
        for name, lead in part.leads.items():
            contact = f"{place.part}.{name}"
            group = self.bench.group(contact)
            for need in lead.needs[:1]:
                if isinstance(need, Ground) and group != self.bench.group(GROUND):
                    return False
                if isinstance(need, Supply) and contact in self.c.ties.at and not self._alive(group):
                    return False
                if (
                    isinstance(need, Bus)
                    and need.bus == "i2c"
                    and need.role in lines
                    and group not in lines[need.role]
                ):
                    return False
        return True

    def _alive(self, group: int) -> bool:
        volts = self.fed.volts.get(group)
        return volts is not None and volts.typ > ALIVE_V

    # --- lines ----------------------------------------------------------------------------------------

    def lines(self, *, program: bool = True) -> list[LineState]:
        """The lines of the board as its system lists them, with the plan's program running or not."""
        c = self.planned
        users = self._users() if program else {}
        found = []
        for pin_id, pin in c.board.pins.items():
            number = pin.names.get(KERNEL, "")
            if pin.kind != "io" or not number:
                continue
            contact = f"{BOARD}.{pin_id}"
            chip, _, offset = number.rpartition(" ")
            line = LineState(
                chip if chip.startswith("gpiochip") else "gpiochip0", int(offset), direction="input"
            )
            found.append(_used(line, users[contact]) if contact in users else line)
        return sorted(found, key=lambda one: (one.chip, one.offset))

    def _users(self) -> dict[str, LineState]:
        """What the program has asked for, by contact; and what a driver has."""
        c = self.planned
        users: dict[str, LineState] = {}
        moved = {lead: t.to for t in self.troubles if t.does == "pin" for lead in t.leads}
        taken = {t.taken for t in self.troubles}
        unset = {t.bias for t in self.troubles}
        inverted = {lead for t in self.troubles if t.does == "inverted" for lead in t.leads}
        # of two that ask for one line the one that is wrong there comes first, and keeps it
        for contact, _, tie in sorted(c.ties.on_pins(), key=lambda found: found[2].lead in moved):
            need = c.needs.of(tie.lead)
            if split(contact)[0] != BOARD or not isinstance(need, Output | Input):
                continue
            here = moved.get(tie.lead, contact)
            name = word(tie.role or c.titles.of(tie.lead)).lower().replace("_", "-")
            if contact in taken:
                wrong: Direction = "input" if isinstance(need, Output) else "output"
                users[contact] = LineState("", -1, used_by=DRIVER, direction=wrong)
                continue
            bias = "disabled" if contact in unset else BIASES[tie.pull]
            direction: Direction = "output" if isinstance(need, Output) else "input"
            low = isinstance(need, Output) and (need.active == "low") != (tie.lead in inverted)
            users[here] = LineState("", -1, "", name, direction, bias, low)
        return users

    # --- meter ----------------------------------------------------------------------------------------

    def read(self, points: Sequence[Point], meter: Meter | None = None) -> dict[Point, float]:
        """What an ideal meter shows at some points: ohm or volts; the same each time for one seed."""
        meter = meter or Meter(self.c)
        fault = Fault("cord open", "", self.change)
        return meter.specimen(fault, points, Random(self.seed))


def _used(line: LineState, user: LineState) -> LineState:
    return LineState(
        line.chip,
        line.offset,
        line.name,
        user.used_by,
        user.direction,
        user.bias,
        user.active_low,
        user.drive,
    )


def _parts(bus: I2cBus) -> set[str]:
    return {p.part for p in (*bus.devices, *bus.heard)}


def _together(changes: Sequence[Change]) -> Change:
    """Several changes as one."""
    ends: dict[str, str] = {}
    beads: dict[tuple[str, int], float] = {}
    supplies: dict[str, str] = {}
    joints: tuple[tuple[str, str], ...] = ()
    for change in changes:
        ends |= change.ends
        beads |= change.beads
        supplies |= change.supplies
        joints += change.joints
    return Change(ends, joints, beads, supplies)
