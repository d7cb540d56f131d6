"""Buses, serial lines and pixels in a capture."""

from collections.abc import Iterator, Sequence

from knotplan.core.bringup.captured import decoders
from knotplan.core.bringup.captured.differ import Differ
from knotplan.core.bringup.captured.pulses import without_glitches
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.difference import Difference
from knotplan.core.buses.spi import Controller, Select, controllers
from knotplan.core.buses.uart import Link, links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import counted, listed, show
from knotplan.core.timing import pixels
from knotplan.core.timing.lanes import Lane
from knotplan.core.timing.lanes.spi import words_of

BAUD_SHARE = 0.02
"""both ends of a UART together"""
BIT_SHARE = 0.15
"""of a pixel's bit: beyond it chains begin to mistake"""
Channel = tuple[Trace, Lane]


def compared(
    c: Circuit, differ: Differ, here: Sequence[Channel], _others: Sequence[Trace]
) -> Iterator[Difference]:
    """Each line by its kind."""
    for trace, lane in here:
        clean = without_glitches(trace)[0] if lane.kind != "uart" else trace
        if lane.kind == "uart":
            yield from _uart(c, differ, clean, lane)
        elif lane.kind == "pixels":
            yield from _pixels(c, differ, trace, lane)
    by_lead = {lane.lead: (trace, lane) for trace, lane in here if lane.kind == "spi"}
    for k in controllers(c):
        yield from _spi(c, differ, k, by_lead)


def _still(differ: Differ, trace: Trace, lane: Lane) -> Difference:
    level = "high" if trace.level(trace.end_s) == 1 else "low"
    return differ.of_lanes(
        "capture-still",
        [lane],
        f"{lane.title} stays {level}",
        f"Planned is: {lane.about}. Nothing is sent, or on another pin.",
    )


# --- UART ---------------------------------------------------------------------------------------------


def _link(c: Circuit, lane: Lane) -> Link | None:
    return next((k for k in links(c) if any(line.lead == lane.lead for line in k.lines)), None)


def _uart(c: Circuit, differ: Differ, trace: Trace, lane: Lane) -> Iterator[Difference]:
    link = _link(c, lane)
    if link is None:
        return
    if trace.count < 4:
        if trace.seconds > 2 * lane.wave.period_s:
            yield _still(differ, trace, lane)
        return
    bit_s = decoders.bit_s_of(trace)
    baud = 1 / bit_s if bit_s else 0.0
    if abs(baud / link.baud - 1) > BAUD_SHARE:
        yield differ.of_lanes(
            "capture-baud",
            [lane],
            f"{lane.title} speaks at {baud:.0f} baud",
            f"Planned is {link.baud:g} baud, {link.frame}: the other end reads nonsense.",
        )
        return
    found = decoders.uart(trace, 1 / link.baud, link.frame)
    bad = sum(not b.good for b in found)
    if found and bad > len(found) / 2:
        yield differ.of_lanes(
            "capture-inverted",
            [lane],
            f"{lane.title} does not rest high",
            f"{bad} of {counted(len(found), 'byte')} end in no stop bit: the line is inverted, or its "
            f"frame is not {link.frame}.",
        )
    elif bad:
        text = f"{bad} of {counted(len(found), 'byte')} end in no stop bit."
        yield differ.of_lanes("capture-framing", [lane], f"{lane.title}: bytes are broken", text, note=True)


# --- pixels -------------------------------------------------------------------------------------------


def _pixels(c: Circuit, differ: Differ, trace: Trace, lane: Lane) -> Iterator[Difference]:
    chain = pixels.chain_of(c, lane.part)
    if chain is None:
        return
    if trace.count < 16:
        if trace.seconds > 2 * lane.wave.period_s:
            yield _still(differ, trace, lane)
        return
    frames = decoders.pixel_frames(trace)
    wanted = chain.count * chain.bits
    whole = frames.bits[1:-1] or frames.bits
    counts = sorted(set(whole))
    if abs(frames.bit_s / chain.bit_s - 1) > BIT_SHARE:
        text = (
            f"A bit takes {show(frames.bit_s, 's')}, of {show(chain.bit_s, 's')}: the chain mistakes "
            "ones and zeros."
        )
        yield differ.of_lanes("capture-bit", [lane], f"{lane.title}: bits of another length", text)
    if wanted not in counts and counts:
        sent = counts[-1] / chain.bits
        less = "The last ones stay dark." if sent < chain.count else "What is sent beyond the end is lost."
        text = f"{sent:g} pixels of {chain.bits} bits are sent, planned are {chain.count}. {less}"
        yield differ.of_lanes("capture-pixels", [lane], f"{lane.title}: frames of another length", text)


# --- SPI ----------------------------------------------------------------------------------------------


def _spi(c: Circuit, differ: Differ, k: Controller, by_lead: dict[str, Channel]) -> Iterator[Difference]:
    """The clock with its data and selects."""
    clock = _of_role(c, k, by_lead, "sclk")
    if clock is None:
        return
    trace, lane = clock
    if not trace.count:
        if trace.seconds > 2 * lane.wave.period_s:
            yield _still(differ, trace, lane)
        return
    data = _of_role(c, k, by_lead, "mosi")
    if data is not None and not data[0].count:
        yield _still(differ, *data)
    for select in k.selects:
        chosen = next((by_lead[x] for x in _leads(c, select, "select") if x in by_lead), None)
        if chosen is not None and data is not None:
            yield from _select(c, differ, select, clock, data, chosen)
        if chosen is not None and not chosen[0].count and chosen[0].seconds > 2 * chosen[1].wave.period_s:
            yield _still(differ, *chosen)


def _of_role(c: Circuit, k: Controller, by_lead: dict[str, Channel], role: str) -> Channel | None:
    for d in k.devices:
        for name in c.parts[d.part].leads:
            tie = c.ties.of(f"{d.part}.{name}")
            if tie is not None and tie.to == d.ties.get(role) and tie.lead in by_lead:
                return by_lead[tie.lead]
    return None


def _leads(c: Circuit, select: Select, role: str) -> list[str]:
    first = select.devices[0]
    ties = [c.ties.of(f"{first.part}.{n}") for n in c.parts[first.part].leads]
    return [t.lead for t in ties if t is not None and t.to == first.ties.get(role)]


def _select(
    c: Circuit, differ: Differ, select: Select, clock: Channel, data: Channel, chosen: Channel
) -> Iterator[Difference]:
    spec = c.parts[select.devices[0].part].facts.spi
    if spec is None or not chosen[0].count:
        return
    rest = clock[0].level(clock[0].start_s)
    modes = [m for m in spec.modes if m >> 1 == rest]
    if not modes:
        takes = listed([str(m) for m in spec.modes])
        yield differ.of_lanes(
            "capture-spi-mode",
            [clock[1]],
            f"{clock[1].title} rests {'high' if rest else 'low'}",
            f"{c.titles.part(select.devices[0].part)} takes mode {takes}, in which the clock rests "
            f"{'low' if rest else 'high'}.",
        )
        return
    words = decoders.spi(clock[0], data[0], chosen[0], modes[0], select.bits, active_high=spec.select_high)
    broken = [w for w in words if not w.good]
    if words and len(broken) * 2 > len(words):
        yield differ.of_lanes(
            "capture-spi-bits",
            [clock[1], chosen[1]],
            f"{chosen[1].title}: not {select.bits} bits",
            f"{len(broken)} of {counted(len(words), 'transfer')} do not have the {select.bits} bits of "
            "the chain.",
        )
        return
    asked = words_of(str(c.placed[select.devices[0].part].settings.get("words", "")), select.bits)
    sent = {w.value for w in words}
    missing = [w for w in asked if w not in sent]
    if missing and words:
        said = listed([f"{w:X}" for w in missing])
        text = f"The plan's words {said} do not come; {counted(len(sent), 'other word')} do."
        yield differ.of_lanes("capture-words", [data[1]], f"{data[1].title}: other words", text, note=True)
