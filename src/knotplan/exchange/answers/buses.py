"""What `knotplan buses --format json` prints."""

from msgspec import Struct

from knotplan.core.buses.addresses import named, trunk
from knotplan.core.buses.assign import Given
from knotplan.core.buses.i2c import I2cBus, i2c_buses
from knotplan.core.buses.numbers import called
from knotplan.core.buses.single import single_lines
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit


class DeviceAnswer(Struct, frozen=True):
    """Something that answers on an I2C bus."""

    part: str
    """the part, or empty: the board's own"""
    name: str
    """what it is called"""
    address: int
    """of 7 bits"""


class SectionAnswer(Struct, frozen=True):
    """One of the two lines of an I2C bus."""

    role: str
    """data or clock"""
    ohm: float | None
    """its pull-up, all of them together, Ω; nothing where there is none"""
    farad: float
    """its capacitance, F"""
    rise_s: float | None
    """how long it takes to rise at worst, s"""
    least_ohm: float
    """the least pull-up that drivers can hold low, Ω"""
    most_ohm: float
    """the largest with which it rises in time, Ω"""


class I2cAnswer(Struct, frozen=True):
    """An I2C bus, or a branch of one behind a switch."""

    id: str
    """of the bus"""
    title: str
    """what it is called"""
    hz: float
    """its clock, Hz"""
    number: str
    """what the board's system counts it by, or empty"""
    device: str
    """its device node, or empty"""
    group: str
    """the group that may use it, or empty"""
    devices: list[DeviceAnswer]
    """who answers"""
    lines: list[SectionAnswer]
    """data and clock"""


class SelectAnswer(Struct, frozen=True):
    """A select line of an SPI bus, with what it selects."""

    contact: str
    """where it is, or empty: nothing selects"""
    parts: list[str]
    """what is selected, in the order of the chain"""
    bits: int
    """of a whole transfer"""
    idle: str
    """its level at rest"""


class SpiAnswer(Struct, frozen=True):
    """An SPI bus."""

    id: str
    """of the bus"""
    hz: float
    """the clock that all on it bear, Hz"""
    limited_by: str
    """what bears no more"""
    modes: list[int]
    """clock polarity and phase as the trade counts them, 0 to 3"""
    selects: list[SelectAnswer]
    """its select lines"""


class UartAnswer(Struct, frozen=True):
    """A part on a UART."""

    part: str
    """the part"""
    unit: str
    """the board's UART"""
    baud: float
    """asked for, Bd"""
    made_baud: float | None
    """what the board can make of it, Bd"""
    error: float
    """how far both ends are apart at worst, as a share"""
    crossed: bool
    """each output goes to an input"""


class LineAnswer(Struct, frozen=True):
    """A protocol on a single line."""

    contact: str
    """where it is"""
    protocol: str
    """which one"""
    parts: list[str]
    """who is on it"""
    farad: float
    """its capacitance, F"""
    rise_s: float | None
    """how long it takes to rise, s"""


class BusesAnswer(Struct, frozen=True):
    """All buses of a plan."""

    i2c: list[I2cAnswer]
    """I2C, branches behind switches too"""
    spi: list[SpiAnswer]
    """SPI"""
    uart: list[UartAnswer]
    """UART"""
    lines: list[LineAnswer]
    """one-wire and other single lines"""


class GivenAnswer(Struct, frozen=True):
    """An address for a device, and how it gets it. (`buses --assign` prints a list of these.)"""

    part: str
    """the device"""
    address: int
    """of 7 bits"""
    params: dict[str, str | float]
    """the straps that give it"""


AssignAnswer = list[GivenAnswer]


def assigned(given: Given) -> AssignAnswer:
    """Addresses that were found for all."""
    return [GivenAnswer(p, s.address, dict(s.params)) for p, s in given.straps.items()]


def answer(c: Circuit) -> BusesAnswer:
    """All buses."""
    return BusesAnswer(
        i2c=[_i2c(c, b) for b in i2c_buses(c)],
        spi=[
            SpiAnswer(
                k.id,
                k.hz,
                k.limited_by,
                list(k.modes),
                [SelectAnswer(s.contact, [d.part for d in s.devices], s.bits, s.idle) for s in k.selects],
            )
            for k in controllers(c)
        ],
        uart=[
            UartAnswer(
                part=x.part,
                unit=str(x.unit or ""),
                baud=x.baud,
                made_baud=x.reached.hz if x.reached else None,
                error=x.error,
                crossed=all(line.crossed for line in x.lines),
            )
            for x in links(c)
        ],
        lines=[LineAnswer(x.contact, x.protocol, list(x.parts), x.farad, x.rise_s) for x in single_lines(c)],
    )


def _i2c(c: Circuit, b: I2cBus) -> I2cAnswer:
    says = called(c, trunk(c, b.bus)[-1].unit)
    return I2cAnswer(
        id=b.id,
        title=b.title,
        hz=b.hz,
        number=says.number,
        device=says.device,
        group=says.group,
        devices=[DeviceAnswer(p.part, named(c, p), p.address) for p in b.devices],
        lines=[
            SectionAnswer(
                role=s.role,
                ohm=s.ohm.typ if s.ohm else None,
                farad=s.farad,
                rise_s=s.rise.max if s.rise else None,
                least_ohm=s.least_ohm,
                most_ohm=s.most_ohm(b.mode),
            )
            for s in b.sections
        ],
    )
