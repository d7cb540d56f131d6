"""A bench to lay plans out on: parts, cords and pins of one board, in a few words."""

import random
from collections.abc import Callable, Iterator

from knotplan.catalog.board.pin import Pin
from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Bead, PullUp
from knotplan.core.plan.document import BOARD, Plan

CATALOG = shipped()
SAFE = {
    "off when low": ("pull-down", "low", "floating"),
    "off when high": ("pull-up", "high", "floating"),
    "": ("pull-down", "low", "floating", "pull-up", "high"),
}
"""states at power-on that leave a load off"""


class Cannot(Exception):  # noqa: N818  (no fault: this board has no such pins)
    """The board has not what the plan takes."""


class Bench:
    """One plan while it is laid out. `seed` says which of the pins that would do are taken."""

    def __init__(self, board_id: str, seed: int = 0):
        self.board = CATALOG.board(board_id)
        self.plan = Plan(board_id)
        self._taken: set[str] = set()
        self._random = random.Random(seed)

    # --- laying out ----------------------------------------------------------------------------

    def part(self, kind: str, name: str = "", **params: str | float) -> str:
        """A part put on the bench; gives its id."""
        self.plan = edits.add_part(self.plan, kind, name or kind.replace("-", " "), params)
        return self.plan.parts[-1].id

    def tie(self, lead: str, to: str, *beads: Bead, pull: str = "none") -> str:
        """A cord from a lead to a contact, with its beads from the lead on; gives the tie's id."""
        self.plan = edits.tie(self.plan, lead, to)
        tie = next(t.id for t in self.plan.ties if t.lead == lead and t.to == to)
        for bead in beads:
            self.plan = edits.add_bead(self.plan, tie, bead)
        if pull != "none":
            self.plan = edits.set_pull(self.plan, tie, pull)
        return tie

    def ties(self, part: str, **leads: str) -> None:
        """Several cords of one part, by its leads."""
        for lead, to in leads.items():
            self.tie(f"{part}.{lead}", to)

    def cord(self, lead: str, metres: float | None = None, mm2: float | None = None) -> None:
        """Another length or cross-section for a lead's cord."""
        tie = self.plan.tie_of(lead)
        assert tie is not None
        self.plan = edits.set_cord(self.plan, tie.id, metres, mm2)

    def hertz(self, lead: str, hz: float) -> None:
        """The frequency of a lead's pulses."""
        tie = self.plan.tie_of(lead)
        assert tie is not None
        self.plan = edits.set_hertz(self.plan, tie.id, hz)

    def asks(self, part: str, what: str, value: str | float) -> None:
        """What the program has a part do."""
        self.plan = edits.set_program_setting(self.plan, part, what, value)

    # --- the board -----------------------------------------------------------------------------

    @property
    def is_5v(self) -> bool:
        """Its pins work with 5 V."""
        return self.board.logic_v > 4

    @property
    def is_linux(self) -> bool:
        """A system interrupts its programs."""
        return "digital" not in self.board.keeps_time

    def rail(self, least: float, most: float) -> str:
        """A supply pin whose voltage always lies between two values."""
        for name, pin in self.board.pins.items():
            if pin.kind != "supply":
                continue
            rail = self.board.rails[pin.rail]
            feed = self.board.sockets[next(iter(self.board.sockets))].rail
            live = self._below(pin.rail, feed)
            if live and least <= rail.volts.min and rail.volts.max <= most:
                return f"{BOARD}.{name}"
        raise Cannot(f"a rail of {least:g} to {most:g} V")

    def _below(self, rail: str, feed: str) -> bool:
        while rail:
            if rail == feed:
                return True
            rail = self.board.rails[rail].fed_from
        return False

    @property
    def logic(self) -> str:
        """A supply pin of the rail that its signal pins use."""
        return self.rail(self.board.logic_v - 0.3, self.board.logic_v + 0.35)

    @property
    def five(self) -> str:
        """A supply pin with 5 V."""
        return self.rail(4.5, 5.3)

    @property
    def three(self) -> str:
        """A supply pin with 3.3 V."""
        return self.rail(3.0, 3.5)

    @property
    def ground(self) -> str:
        """A ground pin."""
        return f"{BOARD}.{next(n for n, p in self.board.pins.items() if p.kind == 'ground')}"

    def feed(self, amps: float = 2.5) -> str:
        """A USB brick that feeds the board, where it has such a socket."""
        socket = next((n for n, s in self.board.sockets.items() if s.plug == "USB"), None)
        if socket is None:
            raise Cannot("a USB socket")
        brick = self.part("usb-brick", amperes=amps)
        self.tie(f"{brick}.plug", f"{BOARD}.{socket}")
        return brick

    # --- pins ----------------------------------------------------------------------------------

    def _usable(self, name: str, pin: Pin) -> bool:
        return (
            pin.kind == "io"
            and not pin.reserved
            and not pin.strap
            and name not in self._taken
            and self.board.drivers[pin.driver].rail in self._logic_rails
        )

    @property
    def _logic_rails(self) -> set[str]:
        """Rails of the usual pins: not those of core pins at 1.8 V."""
        return {r for r, rail in self.board.rails.items() if abs(rail.volts.typ - self.board.logic_v) < 0.2}

    def take(self, wanted: Callable[[str, Pin], bool], what: str) -> str:
        """A free pin for which something holds, plain ones first."""
        able = [n for n, p in self.board.pins.items() if self._usable(n, p) and wanted(n, p)]
        if not able:
            raise Cannot(what)
        fewest = min(self._special(n) for n in able)
        name = self._random.choice([n for n in able if self._special(n) == fewest])
        self._taken.add(name)
        return f"{BOARD}.{name}"

    def _special(self, name: str) -> int:
        """What is given up by taking a pin for a plain job."""
        jobs = [f for f in self.board.pins[name].functions if not f.endswith(":any")]
        fitted = self.board.pins[name].fitted_pull_ohm is not None
        return len(jobs) + 4 * fitted

    def pin(self, amps: float = 0.0, safe: str = "", pulls: str = "") -> str:
        """A plain pin that drives and reads, gives so many amperes, and is safe at power-on."""

        def able(name: str, pin: Pin) -> bool:
            driver = self.board.drivers[pin.driver]
            return (
                pin.drives
                and pin.reads
                and not pin.fitted_pull_ohm
                and driver.recommended_a >= amps
                and all(s in SAFE[safe] for s in pin.power_on_states)
                and (pulls != "up" or driver.pull_up_ohm is not None)
                and (pulls != "down" or driver.pull_down_ohm is not None)
            )

        return self.take(able, f"a pin of {amps:g} A, {safe}, pull {pulls}")

    def with_job(self, kind: str, **wanted: float) -> str:
        """A pin with a function of a kind: "pwm", "adc"."""
        amps = wanted.get("amps", 0.0)

        def able(name: str, pin: Pin) -> bool:
            rated = self.board.drivers[pin.driver].recommended_a >= amps
            units = [self.board.peripherals.get(j.unit) for j in pin.jobs(kind)]
            base = any(u is not None and u.time_base for u in units)
            blocked = any(
                (c := self.board.converters.get(j.unit)) is not None and c.blocked_by for j in pin.jobs(kind)
            )
            fine = kind != "pwm" or all(u is None or u.counter is None or u.counter.bits > 8 for u in units)
            return bool(pin.jobs(kind)) and rated and not base and not blocked and fine

        if kind == "adc":  # converters may measure against a rail of their own
            names = [
                n
                for n, p in self.board.pins.items()
                if p.kind == "io" and n not in self._taken and not p.reserved and not p.strap and able(n, p)
            ]
            if not names:
                raise Cannot("an analogue input")
            name = self._random.choice(names)
            self._taken.add(name)
            contact = f"{BOARD}.{name}"
        else:
            contact = self.take(able, f"a pin with {kind}")
        self._switch_on(contact, kind)
        return contact

    @property
    def reference(self) -> str:
        """A supply pin of the rail that the board's converter measures against."""
        unit = next(iter(self.board.converters.values()), None)
        if unit is None:
            raise Cannot("a converter")
        return f"{BOARD}.{next(n for n, p in self.board.pins.items() if p.rail == unit.reference)}"

    def pwm_pair(self, same: bool) -> tuple[str, str]:
        """Two pins with pulses, on channels of one timer or of two."""
        pairs = [
            (a, b)
            for a, unit_a, channel_a in self._timed()
            for b, unit_b, channel_b in self._timed()
            if a != b and (unit_a == unit_b) == same and (not same or channel_a != channel_b)
        ]
        if not pairs:
            raise Cannot("two such pulse outputs")
        one, other = self._random.choice(pairs)
        self._taken |= {one, other}
        for name in (one, other):
            self._switch_on(f"{BOARD}.{name}", "pwm")
        return f"{BOARD}.{one}", f"{BOARD}.{other}"

    def _timed(self) -> Iterator[tuple[str, str, str]]:
        for name, pin in self.board.pins.items():
            jobs = pin.jobs("pwm")
            if self._usable(name, pin) and len(jobs) == 1 and jobs[0].instance != "any":
                unit = self.board.peripherals[jobs[0].unit]
                if not unit.time_base and "frequency" in unit.shares:
                    yield name, jobs[0].unit + jobs[0].remap, jobs[0].channel

    def bus(self, kind: str, *roles: str) -> dict[str, str]:
        """Pins of one instance of a bus: {"sda": contact, "scl": contact}; a select where no pin has the
        role is any pin."""
        usable = [(n, p) for n, p in self.board.pins.items() if self._bus_usable(n, p)]
        groups: dict[tuple[str, str], dict[str, str]] = {}
        for name, pin in usable:
            for job in pin.jobs(kind):
                if job.instance == "any":
                    groups.setdefault(("any", ""), {})
                    continue
                role = "select" if job.channel.startswith("select") else job.channel
                groups.setdefault((job.instance, job.remap), {}).setdefault(role, name)
        for (instance, _), found in groups.items():
            pins = dict(found)
            if instance == "any":
                free = [n for n, p in usable if p.jobs(kind)]
                pins = dict(zip(roles, free, strict=False))
            if "select" in roles and "select" not in pins:
                spare = self.pin()
                pins["select"] = spare.removeprefix(f"{BOARD}.")
            if all(role in pins for role in roles):
                self._taken |= {pins[role] for role in roles}
                for role in roles:
                    self._switch_on(f"{BOARD}.{pins[role]}", kind)
                return {role: f"{BOARD}.{pins[role]}" for role in roles}
        raise Cannot(f"a bus of {kind}")

    def _bus_usable(self, name: str, pin: Pin) -> bool:
        note = not pin.reserved or self.board.reservations[pin.reserved].severity == "note"
        return pin.kind == "io" and not pin.strap and name not in self._taken and note

    def _switch_on(self, contact: str, kind: str) -> None:
        """The settings of the board's system that a pin's function takes."""
        for job in self.board.pins[contact.removeprefix(f"{BOARD}.")].jobs(kind):
            unit = self.board.peripherals.get(job.unit)
            if unit is not None and unit.setting:
                setting = self.board.settings[unit.setting]
                if setting.starts == "off" and unit.setting not in self.plan.set_up:
                    self.plan = edits.set_up(self.plan, unit.setting)

    def stream(self) -> str:
        """A pin that keeps time for pixels, in hardware where a system interrupts programs."""
        if not self.is_linux:
            return self.pin()
        try:
            return self.bus("spi", "mosi")["mosi"]
        except Cannot:
            return self.with_job("pwm")

    def holds(self, contact: str, least: float) -> str:
        """The contact, where its rail never falls below what a part takes."""
        rail = self.board.rails[self.board.pins[contact.removeprefix(f"{BOARD}.")].rail]
        if rail.volts.min < least:
            raise Cannot(f"{least:g} V at all times")
        return contact

    def fitted(self, contact: str) -> bool:
        """The board has a pull-up of its own at a pin."""
        return bool(self.board.pins[contact.removeprefix(f"{BOARD}.")].fitted_pull_ohm)

    def driver(self, contact: str):
        """The electrical character of a pin."""
        return self.board.drivers[self.board.pins[contact.removeprefix(f"{BOARD}.")].driver]

    # --- what many plans have -------------------------------------------------------------------

    def brick(self, kind: str = "brick-5v", amps: float = 3.0, grounded: bool = True) -> str:
        """A supply on the bench, its 0 V on the board's ground."""
        brick = self.part(kind, amperes=amps)
        if grounded:
            self.tie(f"{brick}.zero", self.ground)
        return brick

    def i2c(self, part: str, pins: dict[str, str] | None = None) -> dict[str, str]:
        """A part's data and clock on an I2C bus; a pull-up on each line where neither the board nor the
        part has one."""
        pins = pins or self.bus("i2c", "sda", "scl")
        for line in ("sda", "scl"):
            self.tie(f"{part}.{line}", pins[line])
        return pins


def pull_up(bench: Bench, ohm: float = 4.7e3) -> PullUp:
    """A pull-up to the logic's own rail."""
    return PullUp(ohm, rail=bench.logic)
