"""The pins of a plan as the kernel counts them: GPIO lines and pulse channels."""

import re
from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.board.devicetree import Devicetree
from knotplan.catalog.board.pin import KERNEL
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.text.devicetree.node import Cells, Hex, Ref
from knotplan.core.timing.pulses import timers

ACTIVE_LOW, OPEN_DRAIN, PULL_UP, PULL_DOWN = 0x1, 0x6, 0x10, 0x20
"""flags of a GPIO specifier (dt-bindings/gpio/gpio.h)"""
PULLS = {"up": PULL_UP, "down": PULL_DOWN, "none": 0}
INVERTED = 0x1
"""flag of a pulse specifier (dt-bindings/pwm/pwm.h)"""
NANO = 1e9


class PulseChannel(Struct, frozen=True):
    """Where the pulses of a pin are made."""

    label: str
    channel: int
    period_ns: int

    def cells(self, inverted: bool = False) -> Cells:
        """The pulse specifier: controller, channel, period, flags."""
        return (Ref(self.label), self.channel, self.period_ns, INVERTED if inverted else 0)


def gpio(c: Circuit, tree: Devicetree, contact: str, flags: int = 0) -> Cells | None:
    """The GPIO specifier of a pin: controller, line, flags; nothing where the kernel has no line of it."""
    pin = c.contacts.pin(contact)
    number = re.search(r"(\d+)$", pin.names.get(KERNEL, "")) if pin is not None else None
    if number is None:
        return None
    which, line = divmod(int(number[1]), tree.lines) if tree.lines else (0, int(number[1]))
    return (Ref(tree.gpio[which]), line, Hex(flags)) if which < len(tree.gpio) else None


def pin_name(c: Circuit, tree: Devicetree, contact: str) -> str:
    """What the pin controller calls a pin; empty where it does not know it."""
    pin = c.contacts.pin(contact)
    return pin.names.get(tree.pins, "") if pin is not None else ""


def channels(c: Circuit, tree: Devicetree) -> dict[str, PulseChannel]:
    """By pin: the board's own pulse channel that makes its pulses."""
    found = {}
    for shared in timers(c):
        label = tree.units.get(shared.unit.name) if shared.unit.on_board else None
        for use in shared.uses if label else ():
            number = re.search(r"\d+$", use.channel)
            found[use.contact] = PulseChannel(
                label or "", int(number[0]) if number else 0, round(NANO / shared.timer.wanted_hz)
            )
    return found


def on_pins(c: Circuit) -> Iterator[tuple[str, Tie]]:
    """(pin of the board, tie), every pin once."""
    seen: set[str] = set()
    for contact, _, tie in c.ties.on_pins():
        if split(contact)[0] == BOARD and contact not in seen:
            seen.add(contact)
            yield contact, tie
