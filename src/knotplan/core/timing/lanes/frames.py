"""Frames of pixels, bit by bit."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.timing import pixels
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.wave import Mark, Wave

MOST_FRAME_BYTES = 12_000
"""of a pixel frame that are drawn one by one"""
HIGH_SHARE = 2 / 3, 1 / 3
"""share of a pixel's bit for which a one and a zero are high"""


def frames(c: Circuit) -> Lanes:
    """Each chain of pixels, frame by frame."""
    for chain in pixels.chains(c):
        hz = min(pixels.asked_hz(c, chain.parts[0]), chain.most_hz)
        lead = next(t.lead for t in c.ties.holders[chain.contact] if split(t.lead)[0] == chain.parts[0])
        about = f"{chain.count} pixels in {show(chain.frame_s, 's')}, {hz:.3g} frames a second"
        yield made(c, lead, chain.contact, "pixels", about, _frame(chain, 1 / hz))


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
            times += [at, at + chain.bit_s * HIGH_SHARE[not byte >> (7 - n) & 1]]
            levels += [1, 0]
    return Wave(period_s, times, levels, marks=tuple(marks))
