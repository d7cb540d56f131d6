"""What a program has to know of a plan; a mutant differs in one fact."""

from dataclasses import dataclass, field, replace

from knotplan.catalog.part.needs import Input, Output
from knotplan.core.bringup.otherwise import Numbers
from knotplan.core.buses.addresses import places, trunk
from knotplan.core.buses.numbers import number_of
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD, split
from knotplan.core.text.program import word
from knotplan.core.timing import stepper


@dataclass(frozen=True)
class Line:
    """One tie that a program works."""

    name: str
    number: int
    output: bool
    active_low: bool
    pull: str
    tie: str
    least_s: float = 0.0


@dataclass(frozen=True)
class Device:
    name: str
    address: int
    bus: int
    part: str


@dataclass(frozen=True)
class Facts:
    scheme: str
    lines: tuple[Line, ...]
    devices: tuple[Device, ...] = ()
    coils: tuple[str, ...] = ()
    """names of the lines of a stepper's coils in order"""
    steps: dict[str, int] = field(default_factory=dict)
    """by the name of the motor"""
    baud: int = 0
    wait_s: float = 0.5

    def line(self, name: str) -> Line:
        return next(x for x in self.lines if x.name == name)

    def with_line(self, name: str, **changed: object) -> "Facts":
        return replace(self, lines=tuple(replace(x, **changed) if x.name == name else x for x in self.lines))

    @property
    def outputs(self) -> list[Line]:
        return [x for x in self.lines if x.output]

    @property
    def inputs(self) -> list[Line]:
        return [x for x in self.lines if not x.output]


def facts_of(c: Circuit, scheme: str) -> Facts:
    numbers = Numbers(c.board)
    lines = []
    for contact, _, tie in c.ties.on_pins():
        need = c.needs.of(tie.lead)
        number = numbers.number(scheme, split(contact)[1])
        if split(contact)[0] != BOARD or not isinstance(need, Output | Input) or number is None:
            continue
        if numbers.pin(scheme, number) != split(contact)[1]:
            continue  # a bare number that means two pins
        name = word(tie.role or c.titles.of(tie.lead), "N")
        low = isinstance(need, Output) and need.active == "low"
        relay = c.parts[split(tie.lead)[0]].facts.relay
        least = relay.least_interval_s if relay is not None else 0.0
        lines.append(Line(name, number, isinstance(need, Output), low, tie.pull, tie.id, least))
    devices = [
        Device(word(c.titles.part(p.part)), p.address, number_of(c, trunk(c, p.bus)[-1].unit) or 0, p.part)
        for p in places(c)
        if p.part
    ]
    coils: tuple[str, ...] = ()
    steps = {}
    for part_id, part in c.parts.items():
        if part.facts.stepper is None:
            continue
        driver = stepper.driver_of(c, part_id)
        micro = stepper.microsteps(c, driver) if driver else 1
        mode = "full" if driver else stepper.asked_mode(c, part_id)
        steps[word(c.titles.part(part_id))] = stepper.rounding(part.facts.stepper, mode, micro=micro).whole
        if (w := stepper.wired(c, part_id)) is not None:
            ids = [t.id for t in stepper.input_ties(c, w)]
            names = {x.tie: x.name for x in lines}
            if all(i in names for i in ids):
                coils = tuple(names[i] for i in ids)
    baud = next((round(k.baud) for k in links(c)), 0)
    return Facts(scheme, tuple(lines), tuple(devices), coils, steps, baud)
