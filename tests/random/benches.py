"""Benches on which nearly every lead is tied, mostly wrongly: what edits one by one seldom come to."""

import random

from knotplan.catalog.load import Catalog
from knotplan.core.plan import edits
from knotplan.core.plan.direction import all_consumers_first
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.changed import EditError

TALKING = (
    "shift-register",
    "led-grid",
    "input-register",
    "spi-adc",
    "spi-flash",
    "spi-display",
    "pixel-strip",
    "pixel-ring",
    "clip-pixel",
    "port-expander",
    "bus-switch",
    "i2c-thermometer",
    "one-wire-thermometer",
    "probe-thermometer",
    "humidity-sensor",
    "positioning-receiver",
    "pwm-hub",
    "step-driver",
    "bipolar-stepper",
    "geared-stepper",
    "coil-driver",
    "relay-module",
    "keypad",
    "encoder",
    "echo-ranger",
    "rc-receiver",
)
"""parts that share lines with others"""


def crowded(r: random.Random, catalog: Catalog) -> Plan:
    """Up to four parts, most of them on buses, their leads tied to few pins, to one
    another, and to supplies and grounds."""
    board = catalog.board(r.choice(catalog.board_ids()))
    plan = Plan(board.id)
    for number in range(r.randint(1, 4)):
        plan = edits.add_part(
            plan, r.choice(TALKING if r.random() < 0.8 else catalog.part_ids()), f"p{number}"
        )
    signals = [f"board.{p}" for p, pin in board.pins.items() if pin.kind == "io"]
    others = [f"board.{p}" for p, pin in board.pins.items() if pin.kind != "io"]
    few = r.sample(signals, min(len(signals), 5))
    leads = [f"{p.id}.{name}" for p in plan.parts for name in catalog.part(p.part, {}).leads]
    for lead in leads:
        if r.random() < 0.75:
            to = r.choice(r.choice([few, few, signals, leads, leads, others or signals]))
            try:
                plan = edits.tie(plan, lead, to)
            except EditError:
                continue
    return all_consumers_first(plan, catalog)
