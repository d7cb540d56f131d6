"""Traces read as what was planned to be there: bytes of UART, SPI and I2C, bits of pixels, steps of coils."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.timing.wave import Floats, Ints

MOST_BYTES = 100_000


class Byte(Struct, frozen=True):
    """A byte or word on a line."""

    start_s: float
    end_s: float
    value: int
    good: bool = True
    """framing, parity or acknowledgement are as they should be"""


class Frames(Struct, frozen=True):
    """Frames of pixels."""

    bits: tuple[int, ...]
    """of each frame"""
    data: bytes
    """of the first whole frame"""
    bit_s: float


def at_moments(trace: Trace, moments: Floats) -> Ints:
    """The level at many moments."""
    k = np.searchsorted(trace.times, moments, "right") - 1
    levels = np.concatenate([trace.levels, np.array([trace.rest], np.int8)]).astype(np.int64)
    return levels[k]  # before the first edge k is -1: the last one, which is how it rested


# --- UART ---------------------------------------------------------------------------------------------


def bit_s_of(trace: Trace) -> float:
    """The length of a bit on a UART's line: the shortest level that is there often, refined over all of them,
    s."""
    lasts = np.diff(trace.times[:20_000])
    if len(lasts) < 2:
        return 0.0
    least = float(np.percentile(lasts, 2))
    near = lasts[lasts < 1.4 * least]
    bit = float(np.median(near))
    whole = np.rint(lasts / bit)
    good = (whole >= 1) & (whole <= 10) & (np.abs(lasts / bit - whole) < 0.2)
    return float(lasts[good].sum() / whole[good].sum()) if good.any() else bit


def uart(trace: Trace, bit_s: float, frame: str = "8N1") -> list[Byte]:
    """Bytes: each is found by its start bit, and read in the middle of its bits."""
    size, parity, stop = int(frame[0]), frame[1].upper(), max(1, int(float(frame[2:])))
    bits = 1 + size + (parity != "N") + stop
    falls = trace.falls()
    middles = (np.arange(bits) + 0.5) * bit_s
    found: list[Byte] = []
    after = -np.inf
    for start in falls.tolist():
        if start < after or len(found) >= MOST_BYTES:
            continue
        if start + bits * bit_s > trace.end_s:
            break
        line = at_moments(trace, start + middles).tolist()
        data = line[1 : 1 + size]
        check = line[1 + size] if parity != "N" else None
        good = line[0] == 0 and all(line[-stop:])
        if check is not None:
            good = good and check == (sum(data) + (parity == "O")) % 2
        found.append(
            Byte(start, start + bits * bit_s, sum(b << k for k, b in enumerate(data) if b == 1), good)
        )
        after = start + (bits - 0.6) * bit_s
    return found


# --- SPI ----------------------------------------------------------------------------------------------


def spi(
    clock: Trace, data: Trace, select: Trace | None, mode: int, bits: int, *, active_high: bool = False
) -> list[Byte]:
    """Words of so many bits while the select is on; without a select, all there are."""
    leading_is_rise = mode in (0, 1)
    takes_leading = mode in (0, 2)
    edges = clock.rises() if leading_is_rise == takes_leading else clock.falls()
    values = at_moments(data, edges)
    if select is None:
        groups = [np.arange(len(edges))]
    else:
        on, off = (select.rises(), select.falls()) if active_high else (select.falls(), select.rises())
        groups = []
        for start in on[:MOST_BYTES].tolist():
            k = int(np.searchsorted(off, start, "right"))
            end = off[k] if k < len(off) else clock.end_s
            groups.append(np.flatnonzero((edges > start) & (edges < end)))
    found: list[Byte] = []
    for group in groups:
        whole = len(group) // bits * bits
        for k in range(0, whole, bits):
            word = values[group[k : k + bits]].tolist()
            value = 0
            for bit in word:
                value = value << 1 | (bit == 1)
            found.append(Byte(float(edges[group[k]]), float(edges[group[k + bits - 1]]), value))
        if len(group) != whole and len(group):
            rest = values[group[whole:]].tolist()
            value = sum((bit == 1) << n for n, bit in enumerate(reversed(rest)))
            found.append(Byte(float(edges[group[whole]]), float(edges[group[-1]]), value, good=False))
    return found


# --- I2C ----------------------------------------------------------------------------------------------


class Talk(Struct, frozen=True):
    """From a start to the next start or stop."""

    start_s: float
    end_s: float
    address: int
    reads: bool
    acknowledged: bool
    data: bytes


def i2c(sda: Trace, scl: Trace) -> list[Talk]:
    """What is spoken on a bus: a fall of the data line while the clock is high begins it (NXP UM10204 clause
    3.1)."""
    rises = scl.rises()
    bits = at_moments(sda, rises)
    falls, ups = sda.falls(), sda.rises()
    starts = falls[at_moments(scl, falls) == 1]
    stops = ups[at_moments(scl, ups) == 1]
    ends = np.sort(np.concatenate([starts, stops]))
    found = []
    for start in starts[:MOST_BYTES].tolist():
        k = int(np.searchsorted(ends, start, "right"))
        end = float(ends[k]) if k < len(ends) else scl.end_s
        a, b = (int(np.searchsorted(rises, x, "right")) for x in (start, end))
        line = bits[a:b].tolist()
        words = [line[n : n + 9] for n in range(0, len(line) - 8, 9)]
        if not words:
            continue
        first = _byte(words[0][:8])
        data = bytes(_byte(w[:8]) for w in words[1:])
        found.append(Talk(start, end, first >> 1, bool(first & 1), words[0][8] == 0, data))
    return found


def _byte(bits: Sequence[int]) -> int:
    value = 0
    for bit in bits:
        value = value << 1 | (bit == 1)
    return value


# --- pixels -------------------------------------------------------------------------------------------


def pixel_frames(trace: Trace, gap_s: float = 40e-6) -> Frames:
    """Bits by how long they are high; a pause ends a frame."""
    rises, falls = trace.rises(), trace.falls()
    k = np.searchsorted(falls, rises, "right")
    inside = k < len(falls)
    rises, highs = rises[inside], falls[k[inside]] - rises[inside]
    if len(rises) < 2:
        return Frames((), b"", 0.0)
    steps = np.diff(rises)
    breaks = np.flatnonzero(steps > gap_s)
    starts = np.concatenate([[0], breaks + 1])
    counts = np.diff(np.append(starts, len(rises)))
    inner = steps[steps <= gap_s]
    bit_s = float(np.median(inner)) if len(inner) else 0.0
    border = _border(highs, bit_s)
    ones = highs > border
    whole = 1 if len(starts) > 2 else 0  # the first frame may have begun before the capture
    first = ones[starts[whole] : starts[whole] + counts[whole]]
    return Frames(
        tuple(counts.tolist()),
        np.packbits(first[: len(first) // 8 * 8]).tobytes(),
        bit_s,
    )


def _border(highs: Floats, bit_s: float) -> float:
    """What lies between zeros and ones: the middle of two heaps; of one heap, half a bit."""
    low, high = float(np.percentile(highs, 2)), float(np.percentile(highs, 98))
    return (low + high) / 2 if high > 1.4 * low else bit_s / 2


# --- coils --------------------------------------------------------------------------------------------


def coil_states(traces: Sequence[Trace]) -> tuple[list[tuple[int, ...]], Floats]:
    """(which coils are on, since when) one after another. Changes closer together than a hundredth of a step
    are one."""
    moments = np.unique(np.concatenate([t.times for t in traces]))
    if not len(moments):
        return [], moments
    if len(moments) > 1:
        usual = float(np.median(np.diff(moments)[np.diff(moments) > 0])) if len(moments) > 2 else 0.0
        later = np.concatenate([np.diff(moments) > 0.2 * usual, [True]])
        moments = moments[later]
    levels = np.stack([at_moments(t, moments + 1e-12) for t in traces], axis=1)
    kept = np.concatenate([[True], (levels[1:] != levels[:-1]).any(axis=1)])
    return [tuple(row) for row in levels[kept].tolist()], moments[kept]
