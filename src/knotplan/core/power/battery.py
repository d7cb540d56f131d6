"""Average power over the cycle, and how long a battery lasts.

``hours = watt-hours * usable share / average power``: the average over the
plan's activities, at usual currents.
"""

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.power.activities import on_share
from knotplan.core.power.node import Node


class Life(Struct, frozen=True):
    """What a supply gives on average, and how long it does."""

    average_a: float
    average_w: float
    hours: float | None
    """nothing for what is no battery"""
    hours_flat_out: float | None
    """with every load on all the time"""


def average_a(circuit: Circuit, node: Node) -> float:
    """The mean current of a supply over the cycle, each load at its usual current while it goes on."""
    return sum(usual * on_share(circuit.plan, part) for part, (usual, _) in node.loads.items())


def life(circuit: Circuit, root: Node) -> Life:
    """Of a supply at the root of the tree."""
    source = circuit.parts[root.part].source if root.part else None
    amps = average_a(circuit, root)
    volts = source.volts.typ if source else root.volts
    held = source.watt_hours * circuit.assumed("battery_share") if source else 0.0
    flat_out = sum(usual for usual, _ in root.loads.values()) * volts

    def lasts(watts: float) -> float | None:
        return held / watts if held and watts > 0 else None

    return Life(amps, amps * volts, lasts(amps * volts), lasts(flat_out))
