"""One lane for each output of a plan: what it does, and when, as a wave."""

from collections.abc import Iterator
from functools import lru_cache
from typing import Literal

from msgspec import Struct

from knotplan.catalog.needs import Input, Output, Pulse
from knotplan.core.buses.spi import Controller, Device, controllers
from knotplan.core.buses.uart import links
from knotplan.core.circuit import Circuit
from knotplan.core.plan import BOARD, split
from knotplan.core.quantity import show
from knotplan.core.timing import grid, pixels, relay, servo, stepper
from knotplan.core.timing.pulses import phase_of, timer_of, wanted
from knotplan.core.timing.wave import Mark, Wave, bits_wave, pulses, steady

Kind = Literal["servo", "pulses", "coil", "step", "relay", "contact", "pixels", "spi", "uart", "row", "measured",
               "level"]
HALF = 0.5
"""brightness, or share of the time on, where nobody says"""
TEXT = "Hi!"
MOST_FRAME_BYTES = 12_000
"""of a pixel frame that are drawn one by one"""
RESET_HIGH = 2 / 3, 1 / 3
"""share of a pixel's bit for which a one and a zero are high"""


class Lane(Struct, frozen=True):
    """One output."""

    id: str
    """the lead, with what else tells it from the part's other lanes"""
    part: str
    """whose doing it shows: of a driver's inputs the motor behind it"""
    title: str
    where: str
    """the contact that does it"""
    kind: Kind
    about: str
    wave: Wave


Lanes = Iterator[Lane]


@lru_cache(4)
def lanes(c: Circuit) -> tuple[Lane, ...]:
    """Every output that is tied, in the order of the parts."""
    found: dict[str, list[Lane]] = {}
    for lane in (*_pulsed(c), *_steppers(c), *_outputs(c), *_pixels(c), *_spi(c), *_uart(c), *_scans(c), *_measured(c)):
        found.setdefault(lane.part, []).append(lane)
    return tuple(lane for part in c.parts for lane in found.get(part, ()))


def _lane(c: Circuit, lead: str, contact: str, kind: Kind, about: str, wave: Wave, tail: str = "", part: str = "") -> Lane:
    where = c.full_title(contact) if contact else ""
    title = f"{c.placed[split(lead)[0]].name} · {tail}" if tail else c.title(lead)
    return Lane(lead + (f"#{tail}" if tail else ""), part or split(lead)[0], title, where, kind, about, wave)


# --- pulses ------------------------------------------------------------------------------------------


def _pulsed(c: Circuit) -> Lanes:
    for contact, pin, tie in c.on_pins():
        need = wanted(c, tie.lead)
        if need is None or not pin.jobs("pwm"):
            continue
        part_id = split(tie.lead)[0]
        facts = c.parts[part_id].facts.servo
        shared = timer_of(c, tie.lead)
        if shared is None:
            continue
        t, late = shared.timer, phase_of(c, shared, tie.lead)
        low = need.active == "low"
        if facts is not None:
            at = c.placed[part_id].asked("at", servo.middle(facts))
            made = t.pulse_s(t.count(servo.pulse(facts, at)))
            says = servo.says(facts, at)
            yield _lane(c, tie.lead, contact, "servo", f"{says}: {show(made, 's', 4)} every {show(1 / t.hz, 's')}",
                        pulses(1 / t.hz, made, late, low))  # fmt: skip
        else:
            duty = c.placed[part_id].asked("duty", HALF)
            high = t.pulse_s(t.count(duty / t.hz))
            yield _lane(c, tie.lead, contact, "pulses", f"{show(duty, '%')} of {show(1 / t.hz, 's')}, {show(t.hz, 'Hz', 4)}",
                        pulses(1 / t.hz, high, late, low))  # fmt: skip


# --- steppers ----------------------------------------------------------------------------------------


def _steppers(c: Circuit) -> Lanes:
    for part_id, part in c.parts.items():
        if part.facts.stepper is None:
            continue
        driver = stepper.driver_of(c, part_id)
        if driver:
            yield from _step_and_direction(c, part_id, driver)
        elif (w := stepper.wired(c, part_id)) is not None:
            yield from _coils(c, part_id, w)


def _coils(c: Circuit, part_id: str, w: stepper.Wired) -> Lanes:
    facts = c.parts[part_id].facts.stepper
    assert facts is not None
    mode, rpm = stepper.asked_mode(c, part_id), stepper.asked_rpm(c, part_id)
    rows = stepper.SEQUENCES[mode]
    back = c.placed[part_id].asks.get("way") == "backwards"
    step_s = 1 / stepper.step_hz(facts, mode, rpm)
    marks = tuple(Mark(k * step_s, (k + 1) * step_s, str(k + 1)) for k in range(len(rows)))
    for k, tie in enumerate(stepper.input_ties(c, w)):
        row = [r[k] for r in (reversed(rows) if back else rows)]
        wave = _cyclic(row, step_s, marks)
        about = f"{mode} steps of {show(step_s, 's')}, {rpm:g} turns a minute"
        yield _lane(c, tie.lead, tie.to, "coil", about, wave, part=part_id)


def _cyclic(levels: list[int], step_s: float, marks: tuple[Mark, ...] = ()) -> Wave:
    """Levels of equal length, one after another, again and again."""
    times, kept, now = [], [], levels[-1]
    for k, level in enumerate(levels):
        if level != now:
            times.append(k * step_s)
            kept.append(level)
            now = level
    return Wave(step_s * len(levels), times, kept, rest=levels[0], marks=marks) if times else steady(levels[0])


def _step_and_direction(c: Circuit, part_id: str, driver: str) -> Lanes:
    facts = c.parts[part_id].facts.stepper
    assert facts is not None
    rpm, micro = stepper.asked_rpm(c, part_id), max(1.0, c.placed[driver].asked("microsteps", 1.0))
    hz = stepper.step_hz(facts, "full", rpm) * micro
    for name in ("step", "dir"):
        tie = c.tie_of(f"{driver}.{name}")
        if tie is None or (pin := c.pin(tie.to)) is None or pin.kind != "io":
            continue
        if name == "step":
            yield _lane(c, tie.lead, tie.to, "step", f"{show(hz, 'Hz')}: {rpm:g} turns a minute of {c.placed[part_id].name}",
                        pulses(1 / hz, min(0.5 / hz, 10e-6)), part=part_id)  # fmt: skip
        else:
            back = c.placed[part_id].asks.get("way") == "backwards"
            yield _lane(c, tie.lead, tie.to, "level", "backwards" if back else "forwards", steady(0 if back else 1),
                        part=part_id)  # fmt: skip


TRIGGER_S = 10e-6
"""of a sensor that is told to measure by a pulse"""


def on_off(c: Circuit, part_id: str) -> tuple[float, float]:
    """For how long the program has something on, and off: a sensor is triggered, everything else blinks slowly."""
    sensor = c.parts[part_id].facts.sensor
    on, off = (TRIGGER_S, sensor.seconds) if sensor is not None else (relay.USUAL_S, relay.USUAL_S)
    return relay.asked_s(c, part_id, "on_s", on), relay.asked_s(c, part_id, "off_s", off)


# --- levels: relays, lights and whatever else is switched on and off ------------------------------------


def _outputs(c: Circuit) -> Lanes:
    coils = {t.lead for p in c.parts if (w := stepper.wired(c, p)) for t in stepper.input_ties(c, w)}
    drivers = {stepper.driver_of(c, p) for p in c.parts if c.parts[p].facts.stepper}
    for contact, pin, tie in c.on_pins():
        need, part_id = c.need(tie.lead), split(tie.lead)[0]
        plain = isinstance(need, Output) or (isinstance(need, Pulse) and not pin.jobs("pwm"))
        if not plain or tie.lead in coils or part_id in drivers or not pin.drives:
            continue
        on, off = on_off(c, part_id)
        low = getattr(need, "active", "high") == "low"
        is_relay = c.parts[part_id].facts.relay is not None
        about = f"on for {show(on, 's')}, off for {show(off, 's')}"
        yield _lane(c, tie.lead, contact, "relay" if is_relay else "level", about, pulses(on + off, on, inverted=low))
        if is_relay:
            yield from _contact(c, tie.lead, on, off)


def _contact(c: Circuit, lead: str, on: float, off: float) -> Lanes:
    """The contact behind a relay's input: it follows later, and where it cannot follow it stays."""
    part_id, name = split(lead)
    facts = c.parts[part_id].facts.relay
    assert facts is not None
    outputs = [n for n, x in c.parts[part_id].leads.items() if x.offers and x.offers.driven_by == name and n.startswith("no")]
    if not outputs:
        return
    if on <= facts.operate_s:
        wave, about = steady(0), "never closes: it is switched off before"
    elif off <= facts.release_s:
        wave, about = Wave(0.0, [facts.operate_s], [1], rest=0), "never opens: it is switched on again before"
    else:
        wave = pulses(on + off, on - facts.operate_s + facts.release_s, facts.operate_s)
        about = f"closes {show(facts.operate_s, 's')} later, opens {show(facts.release_s, 's')} later"
    yield _lane(c, f"{part_id}.{outputs[0]}", "", "contact", about, wave)


# --- pixels ------------------------------------------------------------------------------------------


def _pixels(c: Circuit) -> Lanes:
    for chain in pixels.chains(c):
        hz = min(pixels.asked_hz(c, chain.parts[0]), chain.most_hz)
        lead = next(t.lead for t in c.holders[chain.contact] if split(t.lead)[0] == chain.parts[0])
        about = f"{chain.count} pixels in {show(chain.frame_s, 's')}, {hz:.3g} frames a second"
        yield _lane(c, lead, chain.contact, "pixels", about, _frame(chain, 1 / hz))


def rainbow(count: int, size: int) -> bytes:
    """Bytes to look at: every pixel another, the three or four colours one after another."""
    return bytes((37 * k + 85 * n) % 256 if n < 3 else 0 for k in range(count) for n in range(size))


def _frame(chain: pixels.Chain, period_s: float) -> Wave:
    """A frame bit by bit: each begins with a rise, and how long it stays high says whether it is a one."""
    size = chain.bits // 8
    data = rainbow(min(chain.count, MOST_FRAME_BYTES // size), size)
    times: list[float] = []
    levels: list[int] = []
    marks = []
    for k, byte in enumerate(data):
        start = k * 8 * chain.bit_s
        if k % size == 0:
            colour = " ".join(f"{b:02X}" for b in data[k : k + size])
            marks.append(Mark(start, start + chain.bits * chain.bit_s, f"{k // size + 1}: {colour}"))
        for n in range(8):
            at = start + n * chain.bit_s
            times += [at, at + chain.bit_s * RESET_HIGH[not byte >> (7 - n) & 1]]
            levels += [1, 0]
    return Wave(period_s, times, levels, marks=tuple(marks))


# --- buses -------------------------------------------------------------------------------------------


def words_of(text: str, bits: int) -> list[int]:
    """Words in hex, parted by spaces; what is too long is cut to its last bits."""
    made = []
    for word in text.split():
        try:
            made.append(int(word, 16) & ((1 << bits) - 1))
        except ValueError:
            continue
    return made


def _spi(c: Circuit) -> Lanes:
    """A transfer to each select in turn, then a pause as long."""
    for k in controllers(c):
        turns = [(select, d) for select in k.selects for d in select.devices[:1]]
        bit_s = 1 / k.hz
        at, spans = 0.0, []
        for select, d in turns:
            length = select.bits * bit_s
            spans.append((d, at + bit_s, length, select.bits))
            at += length + 4 * bit_s
        period = 2 * at or 1.0
        yield from _spi_lines(c, k, spans, period, bit_s)


def _spi_lines(c: Circuit, k: Controller, spans: list[tuple[Device, float, float, int]], period: float, bit_s: float) -> Lanes:
    def lead(d: Device, role: str) -> str:
        return next((t.lead for n in c.parts[d.part].leads if (t := c.tie_of(f"{d.part}.{n}")) and t.to == d.ties.get(role)), "")

    ticks: list[float] = []
    data: list[tuple[float, int]] = []
    marks = []
    mode = (k.modes or (0,))[0]
    for d, start, _, bits in spans:
        word = sum(b << (8 * n) for n, b in enumerate(reversed(rainbow(bits // 8 or 1, 1))))
        asks = words_of(str(c.placed[d.part].asks.get("words", "")), bits)
        word = asks[0] if asks else word
        marks.append(Mark(start, start + bits * bit_s, f"{word:0{bits // 4}X}"))
        for n in range(bits):
            ticks += [start + (n + 0.5 * (mode in (0, 2))) * bit_s, start + (n + 0.5 + 0.5 * (mode in (0, 2))) * bit_s]
            data.append((start + n * bit_s, word >> (bits - 1 - n) & 1))
        data.append((start + bits * bit_s, 0))
    first = spans[0][0]
    idle = mode >> 1
    clock = Wave(period, ticks, [1 - idle, idle] * (len(ticks) // 2), rest=idle)
    about = f"mode {mode}, {show(k.hz, 'Hz')}"
    if lead(first, "sclk"):
        yield _lane(c, lead(first, "sclk"), first.ties["sclk"], "spi", about, clock)
    sending = next((d for d, *_ in spans if lead(d, "mosi") and split(d.ties["mosi"])[0] == BOARD), None)
    if sending is not None:
        yield _lane(c, lead(sending, "mosi"), sending.ties["mosi"], "spi", about, _changes(data, period, tuple(marks)))
    for d, start, length, bits in spans:
        if lead(d, "select"):
            facts = c.parts[d.part].facts.spi
            high = facts is not None and facts.select_high
            chosen = Wave(period, [start - bit_s, start + length + bit_s], [int(high), int(not high)], rest=int(not high))
            yield _lane(c, lead(d, "select"), d.ties["select"], "spi", f"{bits} bits, {show(length, 's')}", chosen)


def _changes(data: list[tuple[float, int]], period: float, marks: tuple[Mark, ...]) -> Wave:
    """Only where the level is another one."""
    times, levels, now = [], [], 0
    for at, level in data:
        if level != now:
            times.append(at)
            levels.append(level)
            now = level
    return Wave(period, times, levels, marks=marks)


def uart_bits(data: bytes, frame: str) -> list[int]:
    """Start, data with the least significant bit first, parity, stop.

    >>> uart_bits(b"U", "8N1")
    [0, 1, 0, 1, 0, 1, 0, 1, 0, 1]
    """
    size, parity, stop = int(frame[0]), frame[1].upper(), int(float(frame[2:]))
    made: list[int] = []
    for byte in data:
        bits = [byte >> n & 1 for n in range(size)]
        odd = sum(bits) % 2
        made += [0, *bits, *([odd] if parity == "E" else [1 - odd] if parity == "O" else []), *[1] * stop]
    return made


def _uart(c: Circuit) -> Lanes:
    for link in links(c):
        text = str(c.placed[link.part].asks.get("text", TEXT)) or TEXT
        data = text.encode("utf-8")[:64]
        for line in link.lines:
            bit_s = 1 / (link.reached.hz if link.reached and not line.sends else link.baud)
            length = link.bits * bit_s
            marks = tuple(Mark(k * length, (k + 1) * length, _letter(b)) for k, b in enumerate(data))
            wave = bits_wave(uart_bits(data, link.frame), bit_s, length * len(data) * 2, marks=marks)
            yield _lane(c, line.lead, line.contact, "uart", f"{link.baud:g} baud, {link.frame}: {show(length, 's')} a byte", wave)


def _letter(byte: int) -> str:
    return f"{chr(byte)} {byte:02X}" if 32 <= byte < 127 else f"{byte:02X}"


# --- what comes in and is measured ---


SOUND_M_PER_S = 343.0
"""in air of 20 °C"""
USUAL_M = 1.0


def _measured(c: Circuit) -> Lanes:
    """Pulses that a part gives and that are measured: a radio-control channel, an echo."""
    for contact, _, tie in c.on_pins():
        need, part_id = c.need(tie.lead), split(tie.lead)[0]
        facts = c.parts[part_id].facts
        if not isinstance(need, Input) or need.measured_s is None:
            continue
        if facts.radio is not None:
            long = c.placed[part_id].asked("pulse", facts.radio.middle_s, 0.0)
            yield _lane(c, tie.lead, contact, "measured", f"{show(long, 's')} every {show(facts.radio.frame_s, 's')}",
                        pulses(facts.radio.frame_s, long))  # fmt: skip
        elif facts.sensor is not None and facts.sensor.measures == "distance":
            metres = c.placed[part_id].asked("metres", USUAL_M, 0.0)
            long = 2 * metres / SOUND_M_PER_S
            yield _lane(c, tie.lead, contact, "measured", f"{show(long, 's')}: there and back over {metres:g} m",
                        pulses(facts.sensor.seconds, min(long, 0.9 * facts.sensor.seconds), ECHO_AFTER_S))  # fmt: skip


ECHO_AFTER_S = 0.5e-3
"""from the trigger until the echo's pulse begins"""


# --- what hardware does by itself ------------------------------------------------------------------------


def _scans(c: Circuit) -> Lanes:
    """The rows of a light grid, each shown in its turn."""
    for sign in grid.signs(c):
        for part_id, g in zip(sign.parts, sign.grids, strict=True):
            slot = grid.row_s(g)
            for k in range(g.rows):
                wave = pulses(g.rows * slot, slot, k * slot)
                lead = next(iter(c.parts[part_id].leads))
                yield _lane(c, f"{part_id}.{split(f'{part_id}.{lead}')[1]}", "", "row",
                            f"shown for {show(slot, 's')}, {g.scan_hz:g} times a second", wave, f"row {k + 1}")  # fmt: skip


