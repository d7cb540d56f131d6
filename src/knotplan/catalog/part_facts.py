"""What is known of a part beyond its leads and its circuit: buses, times, motion, and what it wants beside it."""

from typing import Literal

import msgspec


class _Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    pass


class Component(_Item):
    """A small component that a lead wants, and what happens without it."""

    lead: str
    kind: Literal["series", "pull-up", "pull-down", "capacitor", "clamp"]
    value: float
    """ohm, or farad; for a clamp the current that it has to carry, A"""
    least: float
    most: float
    """what will do as well"""
    reason: str
    severity: Literal["stop", "care", "note"] = "care"
    from_count: float = 0
    """only from so many on (pixels of a chain)"""


class Pad(_Item):
    """A strap that is left open or closed; closed it adds to the address."""

    param: str
    adds: int


class I2c(_Item):
    """How a part answers on an I2C bus (addresses are of 7 bits)."""

    address: int
    """with every pad open"""
    pads: tuple[Pad, ...] = ()
    all_call: int | None = None
    """an address at which every part of this kind answers"""
    passes_all: bool = False
    """it is a switch: what hangs behind it is on buses of its own"""
    most_hz: float = 400e3
    farad: float = 10e-12
    stretches: bool = False
    """it may hold the clock low while it is busy"""


class Spi(_Item):
    """How a part speaks SPI."""

    modes: tuple[int, ...]
    """polarity and phase as the usual number 0 to 3"""
    most_hz: float
    bits: int = 8
    msb_first: bool = True
    chains: bool = False
    """several stand one behind another on one select"""


class Uart(_Item):
    """How a part speaks over a UART."""

    baud: int
    most_baud: int
    frame: str = "8N1"
    rate_error: float = 0.01


class Servo(_Item):
    """Pulse ends and what they mean."""

    frame_s: float
    least_s: float
    most_s: float
    degrees: float
    """angle between the two ends; 0 for one that turns on and on"""
    seconds_for_60: float = 0.0


class Stepper(_Item):
    """A stepping motor; its gear as an exact fraction of tooth counts."""

    step_degrees: float
    gear_teeth: tuple[int, int] = (1, 1)
    """driving teeth multiplied, driven teeth multiplied"""
    start_stop_hz: float = 0.0
    """fastest rate of full steps that it follows without a ramp"""
    order: tuple[str, ...] = ()
    """its leads in the order in which wave drive energises them"""
    holding_nm: float = 0.0


class Relay(_Item):
    """Times and ratings of contacts."""

    operate_s: float
    release_s: float
    least_interval_s: float
    contact_v: float
    contact_a: float
    life: float


class Pixels(_Item):
    """A chain of lights on one data line."""

    count: float
    bits: int
    bit_s: float
    latch_s: float
    full_a: float
    """one pixel, all of its colours full on"""
    dark_a: float
    least_v: float
    step_ohm: float = 0.0
    """from one pixel to the next, there and back; 0 where each has cords of its own"""
    feeds: float = 1.0
    """at how many places the chain is fed, evenly spread"""


class PulseHub(_Item):
    """A hub that makes pulses by a counter of its own."""

    bits: int
    oscillator_hz: float
    oscillator_error: float
    least_prescale: int
    most_prescale: int


class CurrentSet(_Item):
    """The resistor that sets the current of a grid's lights."""

    param: str
    """the parameter that it is"""
    volts: float
    """at the set pin"""
    gain: float
    """light current over set current"""
    least_ohm: float
    most_a: float
    """peak current that the lights bear"""
    lights: float = 8.0
    """that can be on at once"""
    rows: float = 8.0


class Sensor(_Item):
    """What is measured, between which ends, how finely, and how long that takes."""

    measures: str
    unit: str
    least: float
    most: float
    finest: float
    accuracy: float
    seconds: float


class Facts(_Item):
    """Everything of this kind about one part; most parts have few of them."""

    wants: tuple[Component, ...] = ()
    i2c: I2c | None = None
    spi: Spi | None = None
    uart: Uart | None = None
    servo: Servo | None = None
    stepper: Stepper | None = None
    relay: Relay | None = None
    pixels: Pixels | None = None
    pulses: PulseHub | None = None
    sensor: Sensor | None = None
    current_set: CurrentSet | None = None
