"""Words on SPI: the clock, data out and selects of every controller."""

from msgspec import Struct

from knotplan.catalog.part.facts import Spi
from knotplan.core.buses.spi import Controller, Device, Select, controllers
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD, split
from knotplan.core.quantity.written import show
from knotplan.core.timing.lanes.frames import rainbow
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.wave import Mark, Wave, changing

PAUSE_BITS = 4
"""between two transfers; the select goes on one bit before the data and off one bit after them"""


class Transfer(Struct, frozen=True):
    """One word to one select."""

    select: Select
    start_s: float
    word: int
    mode: int
    msb_first: bool

    def bit(self, n: int) -> int:
        """The n-th bit on the line."""
        return self.word >> (self.select.bits - 1 - n if self.msb_first else n) & 1


def transfers(c: Circuit) -> Lanes:
    """To each select in turn the words that are asked for, then a pause as long as all of them."""
    for k in controllers(c):
        bit_s, at, sent = 1 / k.hz, 0.0, []
        for select in k.selects:
            spec = _spec(c, select.devices[0])
            mode = next((m for m in k.modes if m in spec.modes), spec.modes[0])
            for word in _words(c, select):
                sent.append(Transfer(select, at + 2 * bit_s, word, mode, spec.msb_first))
                at += (select.bits + PAUSE_BITS) * bit_s
        yield from _lines(c, k, sent, 2 * at, bit_s)


def _spec(c: Circuit, d: Device) -> Spi:
    spec = c.parts[d.part].facts.spi
    assert spec is not None, d.part
    return spec


def _words(c: Circuit, select: Select) -> list[int]:
    """What is asked of the select's first device, else something to look at."""
    asked = words_of(str(c.placed[select.devices[0].part].settings.get("words", "")), select.bits)
    return asked or [int.from_bytes(rainbow(select.bits // 8 or 1, 1))]


def words_of(text: str, bits: int) -> list[int]:
    """Words in hex, parted by spaces; what is too long is cut to its last bits.

    >>> words_of("1FF A5 x", 8)
    [255, 165]
    """
    made = []
    for word in text.split():
        try:
            made.append(int(word, 16) & ((1 << bits) - 1))
        except ValueError:
            continue
    return made


def _lines(c: Circuit, k: Controller, sent: list[Transfer], period: float, bit_s: float) -> Lanes:
    first = k.devices[0]
    modes = sorted({t.mode for t in sent})
    about = f"mode {' or '.join(map(str, modes))}, {show(k.hz, 'Hz')}"
    if lead := _lead(c, first, "sclk"):
        yield made(c, lead, first.ties["sclk"], "spi", about, _clock(sent, period, bit_s))
    sending = next((d for d in k.devices if _lead(c, d, "mosi") and split(d.ties["mosi"])[0] == BOARD), None)
    if sending is not None:
        yield made(
            c, _lead(c, sending, "mosi"), sending.ties["mosi"], "spi", about, _data(sent, period, bit_s)
        )
    for select in k.selects:
        if lead := _lead(c, select.devices[0], "select"):
            length = show(select.bits * bit_s, "s")
            yield made(
                c,
                lead,
                select.devices[0].ties["select"],
                "spi",
                f"{select.bits} bits, {length}",
                _chosen(c, select, sent, period, bit_s),
            )


def _lead(c: Circuit, d: Device, role: str) -> str:
    """The lead of a device that is tied in a role."""
    return next(
        (
            t.lead
            for n in c.parts[d.part].leads
            if (t := c.ties.of(f"{d.part}.{n}")) and t.to == d.ties.get(role)
        ),
        "",
    )


def _clock(sent: list[Transfer], period: float, bit_s: float) -> Wave:
    """Two edges a bit. In modes 0 and 2 data are taken at the first of them, which then comes half a
    bit after the data; in modes 2 and 3 the clock rests high. A mode that rests otherwise than the
    one before is set before the select."""
    edges = []
    for t in sent:
        rest, late = t.mode >> 1, 0.5 * (t.mode in (0, 2))
        edges.append((t.start_s - 1.5 * bit_s, rest))
        for n in range(t.select.bits):
            edges += [
                (t.start_s + (n + late) * bit_s, 1 - rest),
                (t.start_s + (n + late + 0.5) * bit_s, rest),
            ]
    return changing(edges, period, sent[-1].mode >> 1)


def _data(sent: list[Transfer], period: float, bit_s: float) -> Wave:
    edges = []
    marks = []
    for t in sent:
        bits = t.select.bits
        edges += [(t.start_s + n * bit_s, t.bit(n)) for n in range(bits)] + [(t.start_s + bits * bit_s, 0)]
        marks.append(Mark(t.start_s, t.start_s + bits * bit_s, f"{t.word:0{bits // 4}X}"))
    return changing(edges, period, 0, tuple(marks))


def _chosen(c: Circuit, select: Select, sent: list[Transfer], period: float, bit_s: float) -> Wave:
    on = int(_spec(c, select.devices[0]).select_high)
    edges = []
    for t in sent:
        if t.select is select:
            edges += [(t.start_s - bit_s, on), (t.start_s + (select.bits + 1) * bit_s, 1 - on)]
    return changing(edges, period, 1 - on)
