"""What is known of a part beyond its leads and its circuit: buses, times,
motion, and what it wants beside it."""

from typing import Literal

import msgspec


class _Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    pass


class Component(_Item):
    """A small component that a lead wants, and what happens without it."""

    lead: str
    """the lead that wants it"""
    kind: Literal["series", "pull-up", "pull-down", "capacitor", "clamp"]
    """what it is"""
    value: float
    """ohm, or farad; for a clamp the current that it has to carry, A"""
    least: float
    """the least value that will do as well"""
    most: float
    """what will do as well"""
    reason: str
    """what happens without it"""
    severity: Literal["stop", "care", "note"] = "care"
    """how grave that is"""
    from_count: float = 0
    """only from so many on (pixels of a chain)"""


class Pad(_Item):
    """A strap: in each of its positions it adds something to the address."""

    param: str
    """the parameter that says its position"""
    adds: int = 0
    """in the position that is not the usual one, of pads with two"""
    positions: dict[str, int] = {}
    """what each choice adds, of pads with more than two"""
    at_mm: tuple[float, float] | None = None
    """where it lies on the part's own board, from the corner at the left end of its leads"""


class I2c(_Item):
    """How a part answers on an I2C bus (addresses are of 7 bits)."""

    address: int
    """with every pad as it comes"""
    pads: tuple[Pad, ...] = ()
    """its straps for addresses"""
    board_mm: tuple[float, float] = (25.0, 18.0)
    """width along the leads and height of the part's own board"""
    by_command: str = ""
    """the parameter with the address that a program gives it; lost when it is switched off"""
    power_on_address: int | None = msgspec.field(default=None, name="wakes_at")
    """where it answers before that command"""
    held_by: str = ""
    """the lead that keeps it off the bus meanwhile"""
    sinks_a: float = 3e-3
    """current that it still pulls to 0.4 V"""
    no_stop: bool = False
    """between the register's number and the reading no stop may come: a repeated start"""
    all_call: int | None = None
    """an address at which every part of this kind answers"""
    passes_all: bool = False
    """it is a switch: what hangs behind it is on buses of its own"""
    most_hz: float = 400e3
    """the fastest clock that it follows, Hz"""
    farad: float = 10e-12
    """what it adds to each line, F"""
    stretches: bool = False
    """it may hold the clock low while it is busy"""


class Spi(_Item):
    """How a part speaks SPI."""

    modes: tuple[int, ...]
    """polarity and phase as the usual number 0 to 3"""
    most_hz: float
    """the fastest clock that it follows, Hz"""
    bits: int = 8
    """of a word"""
    msb_first: bool = True
    """the highest bit comes first"""
    chains: bool = False
    """several stand one behind another on one select"""
    out_s: float = 30e-9
    """from the clock's edge until its data out is valid"""
    three_wire: bool = False
    """data go in and out on one line"""
    holds_out: bool = False
    """it drives its data out whether selected or not"""
    select_high: bool = False
    """its select is active high"""
    latches: bool = False
    """its select only takes over what was shifted in: shifting goes on whatever its level"""


class Uart(_Item):
    """How a part speaks over a UART."""

    baud: int
    """its usual rate, Bd"""
    most_baud: int
    """its fastest rate, Bd"""
    frame: str = "8N1"
    """data bits, parity, stop bits"""
    rate_error: float = 0.01
    """how far its rate may be off, as a share"""


class Servo(_Item):
    """Pulse ends and what they mean."""

    frame_s: float
    """from pulse to pulse, s"""
    least_s: float
    """the shortest pulse that means something, s"""
    most_s: float
    """the longest, s"""
    degrees: float
    """angle between the two ends; 0 for one that turns on and on"""
    seconds_for_60: float = 0.0
    """how long it takes for 60 degrees, s; 0 where nobody says"""


class Stepper(_Item):
    """A stepping motor; its gear as an exact fraction of tooth counts."""

    step_degrees: float
    """a full step of the motor itself, degrees"""
    gear_teeth: tuple[int, int] = (1, 1)
    """driving teeth multiplied, driven teeth multiplied"""
    start_stop_hz: float = 0.0
    """fastest rate of full steps that it follows without a ramp"""
    most_hz: float = 0.0
    """fastest rate of full steps that it follows at all; 0 where nobody says"""
    ramp_hz_per_s: float = 0.0
    """how fast that rate may rise, full steps/s²"""
    order: tuple[str, ...] = ()
    """its leads in the order in which wave drive energises them"""
    holding_nm: float = 0.0
    """its holding torque, N·m; 0 where nobody says"""
    phase_a: float = 0.0
    """the current that each of its windings is made for; 0 where nobody says"""


class Relay(_Item):
    """Times and ratings of contacts."""

    operate_s: float
    """until it has closed, s"""
    release_s: float
    """until it has opened, s"""
    least_interval_s: float
    """least time between two switchings, s"""
    contact_v: float
    """what its contacts bear, V"""
    contact_a: float
    """what its contacts bear, A"""
    life: float
    """how often it switches in its life"""


class Pixels(_Item):
    """A chain of lights on one data line."""

    count: float
    """how many there are"""
    bits: int
    """for each"""
    bit_s: float
    """how long a bit takes, s"""
    latch_s: float
    """the pause after which they show what they got, s"""
    full_a: float
    """one pixel, all of its colours full on"""
    dark_a: float
    """what one draws dark, A"""
    least_v: float
    """below this colours are off, V"""
    step_ohm: float = 0.0
    """from one pixel to the next, there and back; 0 where each has cords of its own"""
    feeds: float = 1.0
    """at how many places the chain is fed, evenly spread"""


class Grid(_Item):
    """Rows and columns of lights behind a driver that shows the rows one after another."""

    rows: int
    """how many rows"""
    columns: int
    """how many columns"""
    scan_hz: float
    """how often each row is shown in a second"""
    turned: str = "as printed"
    """which way a module lies: a quarter turn, a half, three quarters"""


class RadioChannel(_Item):
    """The pulses of a radio-control receiver's channels."""

    least_s: float
    """the shortest pulse, s"""
    middle_s: float
    """the stick in the middle, s"""
    most_s: float
    """the longest pulse, s"""
    frame_s: float
    """from pulse to pulse, s"""


class OneWire(_Item):
    """A part on a one-wire bus."""

    supply: str
    """the lead that may lie on ground: then it lives on the data line alone"""
    convert_a: float
    """what it draws while it measures"""
    least_v: float
    """below this it does not answer, V"""
    farad: float = 30e-12
    """what it adds to the line, F"""


class CurrentSet(_Item):
    """The resistor that sets the current of a grid's lights."""

    param: str
    """the parameter that it is"""
    volts: float
    """at the set pin"""
    gain: float
    """light current over set current"""
    least_ohm: float
    """the least resistor, Ω"""
    most_a: float
    """peak current that the lights bear"""
    lights: float = 8.0
    """that can be on at once"""
    rows: float = 8.0
    """rows that are shown one after another"""


class Sensor(_Item):
    """What is measured, between which ends, how finely, and how long that takes."""

    measures: str
    """what is measured"""
    unit: str
    """of what is measured"""
    least: float
    """the least that it measures"""
    most: float
    """the most that it measures"""
    finest: float
    """the least difference that it tells"""
    accuracy: float
    """how far a reading may be off"""
    seconds: float
    """how long a reading takes, s"""
    echo: bool = False
    """it answers by a pulse as long as sound takes there and back"""
    law: Literal["", "thermistor", "power law", "straight in the logarithm"] = ""
    """how its resistance follows what it measures; empty where it is no resistor"""
    falls: bool = False
    """the more there is of it, the less its resistance"""


class PartFacts(_Item):
    """Everything of this kind about one part; most parts have few of them."""

    wants: tuple[Component, ...] = ()
    """small components beside it"""
    i2c: I2c | None = None
    """how it answers on I2C"""
    spi: Spi | None = None
    """how it speaks SPI"""
    uart: Uart | None = None
    """how it speaks over a UART"""
    servo: Servo | None = None
    """its pulses, of a servo"""
    stepper: Stepper | None = None
    """its steps, of a stepping motor"""
    relay: Relay | None = None
    """its times and ratings, of a relay"""
    pixels: Pixels | None = None
    """its lights, of a chain"""
    grid: Grid | None = None
    """its rows and columns, of a grid of lights"""
    radio: RadioChannel | None = None
    """its pulses, of a radio-control receiver"""
    one_wire: OneWire | None = None
    """how it lives on a one-wire bus"""
    sensor: Sensor | None = None
    """what it measures"""
    current_set: CurrentSet | None = None
    """the resistor that sets the current of its lights"""
    most_on_s: float = 0.0
    """so long it may be on at a time; 0 where that does not matter"""
    staggered: bool = False
    """of a hub: the frames of its channels begin one after another"""
