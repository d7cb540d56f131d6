"""What hangs on plain pins and pulse channels, by the standard bindings: lights, keys, fans, encoders,
one-wire, switched supplies."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.board.devicetree import Devicetree
from knotplan.catalog.part.needs import Input, Output, Pulse, Stream
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.switches import switched_by
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.text.devicetree.lines import (
    ACTIVE_LOW,
    OPEN_DRAIN,
    PULLS,
    PulseChannel,
    channels,
    gpio,
    on_pins,
)
from knotplan.core.text.devicetree.node import (
    Cells,
    Hex,
    Node,
    Property,
    node_name,
    properties,
    unlike,
)
from knotplan.core.text.devicetree.settings import GPIO, PinSettings

FIRST_KEY = 0x2C0
"""BTN_TRIGGER_HAPPY1 (linux/input-event-codes.h): forty codes that no keyboard has"""
BOUNCE_MS = 10
"""contacts settle in 1 to 10 ms; ours is the longer"""
PWM_STEPS = 255
COOLING = (0, 102, 170, 255)
"""shares of 255 for the four steps of a fan"""
MICRO = 1e6


class Load(Struct, frozen=True):
    """Something that a pin switches."""

    part: str
    tie: Tie
    """that of the pin"""
    contact: str
    active_low: bool
    pulses: PulseChannel | None


def loads(c: Circuit, tree: Devicetree) -> Iterator[tuple[str, Load]]:
    """(binding, load) of everything that a pin switches and a standard binding knows; a pin once."""
    pulsed = channels(c, tree)
    taken: set[str] = set()
    # what is driven in the end comes before what drives it: a pump before its relay
    for part_id in sorted(c.parts, key=lambda p: c.parts[p].category in ("relay", "hub")):
        bindings = c.parts[part_id].compatible
        for tie in switched_by(c, part_id) if bindings else ():
            need = c.needs.of(tie.lead)
            if split(tie.to)[0] != BOARD or tie.to in taken or not isinstance(need, Output | Pulse):
                continue
            pulses = pulsed.get(tie.to)
            binding = _fitting(bindings, pulses is not None)
            if binding:
                taken.add(tie.to)
                yield binding, Load(part_id, tie, tie.to, need.active == "low", pulses)


def _fitting(bindings: tuple[str, ...], pulsed: bool) -> str:
    """The binding for a pin with pulses, or without."""
    for binding in bindings:
        if binding in ("pwm-leds", "pwm-fan") and pulsed:
            return binding
        if binding in ("gpio-leds", "gpio-fan", "regulator-fixed") and not pulsed:
            return binding
    return ""


class Devices:
    """The nodes below the root."""

    def __init__(self, c: Circuit, tree: Devicetree, settings: PinSettings):
        self._c, self._tree, self._settings = c, tree, settings
        self.used: set[str] = set()
        """pins that have a driver"""

    def nodes(self) -> Iterator[Node]:
        """Every node."""
        by_binding: dict[str, list[Load]] = {}
        for binding, load in loads(self._c, self._tree):
            by_binding.setdefault(binding, []).append(load)
        yield from self._leds(by_binding.get("gpio-leds", []))
        yield from self._pulsed_leds(by_binding.get("pwm-leds", []))
        yield from self._fans(by_binding.get("gpio-fan", []) + by_binding.get("pwm-fan", []))
        yield from self._regulators(by_binding.get("regulator-fixed", []))
        yield from self._encoders()
        yield from self._keys()
        yield from self._one_wire()

    def _leds(self, found: list[Load]) -> Iterator[Node]:
        names: set[str] = set()
        children = []
        for load in found:
            cells = gpio(self._c, self._tree, load.contact, ACTIVE_LOW if load.active_low else 0)
            if cells is not None:
                said = properties(label=self._title(load), gpios=cells, default_state="off")
                children.append(Node(unlike(node_name("led", load.part), names), said))
                self.used.add(load.contact)
        if children:
            shared = self._settings.of("leds", GPIO, [(x.contact, "none") for x in found])
            yield Node("leds", (*properties(compatible="gpio-leds"), *shared), tuple(children))

    def _pulsed_leds(self, found: list[Load]) -> Iterator[Node]:
        names: set[str] = set()
        children = []
        for load in found:
            assert load.pulses is not None
            said = properties(
                label=self._title(load), pwms=load.pulses.cells(), max_brightness=(PWM_STEPS,)
            ) + ((Property("active-low", True),) if load.active_low else ())
            lead = split(load.tie.lead)[1]
            several = sum(x.part == load.part for x in found) > 1
            words = ("led", load.part, lead) if several else ("led", load.part)
            children.append(Node(unlike(node_name(*words), names), said))
            self.used.add(load.contact)
        if children:
            yield Node("pulsed-leds", properties(compatible="pwm-leds"), tuple(children))

    def _fans(self, found: list[Load]) -> Iterator[Node]:
        names: set[str] = set()
        for load in found:
            name = unlike(node_name("fan", load.part), names)
            if load.pulses is not None:
                levels = properties(cooling_levels=COOLING)
                yield Node(
                    name, properties(compatible="pwm-fan", pwms=load.pulses.cells(load.active_low)) + levels
                )
            elif (cells := self._output(load)) is not None:
                said = properties(compatible="gpio-fan", gpios=cells)
                said += (Property("gpio-fan,speed-map", ((0, 0), (1, 1))),)
                pins = self._settings.of(name, GPIO, [(load.contact, "none")])
                remark = "speed-map: turns a minute, setting; put in your fan's"
                yield Node(name, said + pins, remark=remark)
            else:
                continue
            self.used.add(load.contact)

    def _regulators(self, found: list[Load]) -> Iterator[Node]:
        """What is switched as a whole: relays, pumps, valves."""
        names: set[str] = set()
        for load in found:
            cells = self._output(load)
            if cells is None:
                continue
            name = unlike(node_name("regulator", load.part), names)
            relay = self._c.parts[load.part].facts.relay
            delay = round(relay.operate_s * MICRO) if relay is not None else 0
            said = properties(compatible="regulator-fixed", regulator_name=self._title(load), gpio=cells)
            if not load.active_low:
                said += (Property("enable-active-high", True),)
            if delay:
                said += properties(startup_delay_us=(delay,))
            yield Node(name, said + self._settings.of(name, GPIO, [(load.contact, "none")]))
            self.used.add(load.contact)

    def _output(self, load: Load) -> Cells | None:
        return gpio(self._c, self._tree, load.contact, ACTIVE_LOW if load.active_low else 0)

    def _encoders(self) -> Iterator[Node]:
        names: set[str] = set()
        for axis, part_id in enumerate(
            p for p, part in self._c.parts.items() if "rotary-encoder" in part.compatible
        ):
            ties = [self._c.ties.of(f"{part_id}.{lead}") for lead in ("a", "b")]
            held = [t for t in ties if t is not None]
            cells = [self._contact(t) for t in held]
            if len(held) < 2 or any(x is None for x in cells):
                continue
            name = unlike(node_name("rotary", part_id), names)
            lines = tuple(x for x in cells if x is not None)
            said = properties(compatible="rotary-encoder", gpios=lines)
            said += (
                Property("linux,axis", (axis,)),
                Property("rotary-encoder,encoding", "gray"),
                Property("rotary-encoder,relative-axis", True),
            )
            pins = self._settings.of(name, GPIO, [(t.to, t.pull) for t in held])
            yield Node(name, said + pins)
            self.used |= {t.to for t in held}

    def _keys(self) -> Iterator[Node]:
        """Every contact that a pin reads and nothing else has."""
        names: set[str] = set()
        children: list[Node] = []
        held: list[Tie] = []
        for contact, tie in on_pins(self._c):
            need = self._c.needs.of(tie.lead)
            cells = self._contact(tie) if isinstance(need, Input) and need.contact else None
            if cells is None or contact in self.used:
                continue
            said = properties(label=self._c.titles.of(tie.lead), gpios=cells)
            said += (
                Property("linux,code", (Hex(FIRST_KEY + len(children)),)),
                Property("debounce-interval", (BOUNCE_MS,)),
            )
            children.append(Node(unlike(node_name("key", *split(tie.lead)), names), said))
            held.append(tie)
            self.used.add(contact)
        if children:
            shared = self._settings.of("keys", GPIO, [(t.to, t.pull) for t in held])
            yield Node("keys", (*properties(compatible="gpio-keys"), *shared), tuple(children))

    def _contact(self, tie: Tie) -> Cells | None:
        """The line of a contact: closed is active, whichever side its other end lies on."""
        flags = PULLS[tie.pull] | (ACTIVE_LOW if self._closes_to_ground(tie) else 0)
        return gpio(self._c, self._tree, tie.to, flags)

    def _closes_to_ground(self, tie: Tie) -> bool:
        part_id, lead = split(tie.lead)
        part = self._c.parts[part_id]
        ends = [
            {e.a: e.b, e.b: e.a}[lead]
            for e in part.elements.values()
            if lead in (e.a, e.b) and {e.a, e.b} <= part.leads.keys()
        ]
        return any(self._c.nets.of(f"{part_id}.{end}") == self._c.nets.ground for end in ends)

    def _one_wire(self) -> Iterator[Node]:
        names: set[str] = set()
        for contact, tie in on_pins(self._c):
            need = self._c.needs.of(tie.lead)
            cells = gpio(self._c, self._tree, contact, OPEN_DRAIN)
            if not isinstance(need, Stream) or need.protocol != "one-wire" or cells is None:
                continue
            name = unlike(node_name("onewire"), names)
            pins = self._settings.of(name, GPIO, [(contact, tie.pull)])
            yield Node(name, properties(compatible="w1-gpio", gpios=cells) + pins)
            self.used.add(contact)

    def _title(self, load: Load) -> str:
        return load.tie.role or self._c.titles.part(load.part)
