"""The overlay of a plan, whole."""

from collections.abc import Iterator

from knotplan.catalog.board.devicetree import Devicetree
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.text.devicetree.buses import Buses
from knotplan.core.text.devicetree.devices import Devices
from knotplan.core.text.devicetree.lines import channels, on_pins
from knotplan.core.text.devicetree.node import Overlay, Target, properties
from knotplan.core.text.devicetree.settings import PinSettings


def overlay(c: Circuit, tree: Devicetree) -> Overlay:
    """Everything of a plan that a standard binding knows, and what is left to programs."""
    settings = PinSettings(c, tree)
    devices, buses = Devices(c, tree, settings), Buses(c, tree, settings)
    on_root = tuple(devices.nodes())
    on_buses = tuple(buses.targets())
    pulses = tuple(_pulses(c, tree, settings))
    found = [Target(tree.pinctrl, (), tuple(settings.nodes))] if settings.nodes else []
    found += [*on_buses, *pulses]
    if on_root:
        found.append(Target("", (), on_root))
    return Overlay(tree.compatible, tuple(found), tuple(_left(c, tree, devices.used | buses.used)))


def _pulses(c: Circuit, tree: Devicetree, settings: PinSettings) -> Iterator[Target]:
    """Controllers of pulses, on, with their pins led to them."""
    pins: dict[str, list[tuple[str, str]]] = {}
    for contact, channel in channels(c, tree).items():
        pins.setdefault(channel.label, []).append((contact, "none"))
    for label, held in pins.items():
        yield Target(label, properties(status="okay") + settings.of(label, label, held))


def _left(c: Circuit, tree: Devicetree, used: set[str]) -> Iterator[str]:
    """What programs go on with, since no standard binding has it."""
    pulsed = channels(c, tree)
    for contact, tie in on_pins(c):
        pin = c.contacts.pin(contact)
        if contact in used or pin is None or pin.kind != "io":
            continue
        where, what = c.titles.full(contact), c.titles.of(tie.lead)
        if contact in pulsed:
            channel = pulsed[contact]
            yield f"{what} on {where}: pulses from {channel.label}, channel {channel.channel}"
        else:
            yield f"{what} on {where}"
