"""Value change dumps (IEEE 1364-2005 clause 18) as captures, read in a stream: a gigabyte goes through a
megabyte at a time, which the processor keeps near, and its words are taken apart by array operations.

Wires and registers of one bit become channels, those of several bits one channel for each bit; real values
and texts are passed over; x and z are levels that nobody knows.
"""

import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from knotplan.core.bringup.captured.trace import UNKNOWN, Levels, Trace
from knotplan.core.timing.wave import Floats
from knotplan.exchange.bench.progress import Progress, Stopped, go_on
from knotplan.exchange.files import open_ordinary
from knotplan.exchange.problems import FileProblemsError

CHUNK = 1 << 20
"""bytes that are taken apart at once"""
MOST_HEAD = 4_000_000
MOST_REST = 64_000_000
"""bytes without a line that begins with a time stamp"""
MOST_CHANNELS = 512
MOST_BITS = 64
MOST_DIGITS = 18
"""of a time stamp: more do not fit"""
SCALE = re.compile(r"(1|10|100)\s*(s|ms|us|ns|ps|fs)")
UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9, "ps": 1e-12, "fs": 1e-15}
COMMENT = re.compile(rb"\$comment\b.*?\$end", re.DOTALL)
Bytes = NDArray[np.uint8]
Indices = NDArray[np.int64]
LEVEL = np.full(256, -1, np.int8)
LEVEL[[ord("0"), ord("1")]] = 0, 1
LEVEL[[ord(x) for x in "xXzZ"]] = UNKNOWN
VECTOR = np.zeros(256, bool)
VECTOR[[ord(x) for x in "bBrRsS"]] = True


class DumpError(FileProblemsError):
    """The file is no value change dump that can be read."""

    what = "value change dump"


class _Var(Struct, frozen=True):
    name: str
    code: bytes
    bits: int


class _Head(Struct, frozen=True):
    tick_s: float
    variables: tuple[_Var, ...]
    length: int
    """bytes of the head"""


def load(path: Path, progress: Progress = go_on) -> list[Trace]:
    """The channels of a dump. Raises DumpError, Stopped or OSError."""
    with open_ordinary(path) as file:
        head = _head(path.name, file.read(MOST_HEAD))
        file.seek(head.length)
        reader = _Reader(path.name, head)
        whole, done, rest = max(1, path.stat().st_size), head.length, b""
        while data := file.read(CHUNK):
            done += len(data)
            rest = reader.take(rest + data, last=False)
            if len(rest) > MOST_REST:
                raise DumpError(
                    path.name, [("", "goes on for 64 MB without a line that begins with a time stamp")]
                )
            if not progress(done / whole):
                raise Stopped
        reader.take(rest, last=True)
    return reader.traces()


def loads(data: bytes, name: str = "the dump") -> list[Trace]:
    """The channels of a dump in memory. Raises DumpError."""
    head = _head(name, data[:MOST_HEAD])
    reader = _Reader(name, head)
    reader.take(data[head.length :], last=True)
    return reader.traces()


def _head(name: str, data: bytes) -> _Head:
    end = re.search(rb"\$enddefinitions\s+\$end", data)
    if end is None:
        raise DumpError(
            name, [("", "has no $enddefinitions: it is no value change dump, or its head is cut off")]
        )
    text = data[: end.end()].decode("utf-8", "replace")
    scale = re.search(r"\$timescale\s+(.*?)\s*\$end", text, re.DOTALL)
    unit = SCALE.search(scale[1]) if scale else None
    if unit is None:
        raise DumpError(name, [("", "has no $timescale such as 1 us")])
    variables = list(_variables(text))
    if not variables:
        raise DumpError(name, [("", "has no wire of up to 64 bits")])
    if sum(v.bits for v in variables) > MOST_CHANNELS:
        raise DumpError(name, [("", f"has more than {MOST_CHANNELS} channels")])
    return _Head(int(unit[1]) * UNITS[unit[2]], tuple(variables), end.end())


def _variables(text: str) -> Iterator[_Var]:
    scopes: list[str] = []
    for found in re.finditer(
        r"\$scope\s+\S+\s+(\S+)\s+\$end|(\$upscope)|\$var\s+(\S+)\s+(\d{1,6})\s+(\S+)\s+(.*?)\s*\$end",
        text,
        re.DOTALL,
    ):
        if found[1]:
            scopes.append(found[1])
        elif found[2]:
            scopes = scopes[:-1]
        elif (
            found[3] not in ("real", "realtime", "string", "event", "parameter")
            and 0 < int(found[4]) <= MOST_BITS
        ):
            name = " ".join(found[6].split())
            yield _Var(name, found[5].encode(), int(found[4]))


class _Reader:
    """Takes text apart chunk by chunk, and keeps each channel's changes."""

    def __init__(self, name: str, head: _Head):
        self.name, self.head = name, head
        self.now = 0
        """ticks"""
        self.first: int | None = None
        self.bits: list[tuple[str, int, int]] = []
        """(name, variable, bit) of each channel"""
        for k, v in enumerate(head.variables):
            self.bits += [
                (v.name if v.bits == 1 else f"{v.name}[{n}]", k, n) for n in reversed(range(v.bits))
            ]
        self.times: list[list[Indices]] = [[] for _ in self.bits]
        self.levels: list[list[Levels]] = [[] for _ in self.bits]
        codes = np.array([_code(v.code) for v in head.variables], np.uint64)
        self.order = np.argsort(codes)
        self.codes = codes[self.order]
        self.single = {k: i for i, (_, k, _) in enumerate(self.bits) if head.variables[k].bits == 1}
        self.of_letter = np.full(256, -1, np.int64)
        """channels whose names are one letter"""
        for k, i in self.single.items():
            if len(head.variables[k].code) == 1:
                self.of_letter[head.variables[k].code[0]] = i
        self.channel_of = np.array([self.single.get(k, -1) for k in range(len(head.variables))], np.int64)

    def take(self, data: bytes, *, last: bool) -> bytes:
        """Takes whole words; gives back what may go on in the next chunk."""
        if b"$comment" in data:
            data = COMMENT.sub(b" ", data)
        if not last:
            cut = _last_break(data)
            data, rest = data[:cut], data[cut:]
        else:
            rest = b""
        if data:
            self._words(np.frombuffer(data, np.uint8))
        return rest

    def _words(self, text: Bytes) -> None:
        plain = np.empty(len(text) + 2, bool)
        plain[0] = plain[-1] = False
        np.greater(text, 32, out=plain[1:-1])
        edges = np.flatnonzero(plain[1:] != plain[:-1])
        starts, ends = edges[::2], edges[1::2]
        if not len(starts):
            return
        first = text[starts]
        heads = self._heads(first)
        ids = np.zeros(len(starts), bool)
        ids[1:] = heads[:-1]
        is_stamp = (first == ord("#")) & ~ids
        stamps = np.flatnonzero(is_stamp)
        ticks = _numbers(text, starts[stamps] + 1, ends[stamps], self.name)
        changes = np.flatnonzero((LEVEL[first] >= 0) & ~ids & (ends - starts > 1))
        at = np.cumsum(is_stamp)[changes] - 1
        moments = np.where(at >= 0, ticks[np.maximum(at, 0)] if len(ticks) else self.now, self.now)
        channels = self._channels(text, starts[changes] + 1, ends[changes])
        self._put(channels, moments, LEVEL[first[changes]])
        self._vectors(text, starts, ends, np.flatnonzero(heads), stamps, ticks)
        if len(ticks):
            if self.first is None:
                self.first = int(ticks[0])
            self.now = int(ticks[-1])

    def _heads(self, first: Bytes) -> NDArray[np.bool_]:
        """Words that say a vector's value, whose name is the next word. A name may look like a value: of such
        a run every other one is."""
        looks = VECTOR[first]
        if not looks.any():
            return looks
        follows = looks & np.concatenate([[False], looks[:-1]])
        if not follows.any():
            return looks
        k = np.flatnonzero(looks)
        run = np.cumsum(np.concatenate([[True], np.diff(k) > 1]))
        begun = np.concatenate([[0], np.flatnonzero(np.diff(run)) + 1])
        within = np.arange(len(k)) - begun[run - 1]
        heads = np.zeros(len(first), bool)
        heads[k[within % 2 == 0]] = True
        return heads

    def _channels(self, text: Bytes, starts: Indices, ends: Indices) -> Indices:
        """Which channel each name of one bit is; -1 for others."""
        length = ends - starts
        if len(length) and length.max() == 1:
            return self.of_letter[text[starts]]
        codes = np.zeros(len(starts), np.uint64)
        for k in range(int(min(8, length.max(initial=0)))):
            inside = length > k
            codes[inside] |= text[starts[inside] + k].astype(np.uint64) << np.uint64(8 * k)
        place = np.minimum(np.searchsorted(self.codes, codes), len(self.codes) - 1)
        known = (self.codes[place] == codes) & (length <= 8)
        return np.where(known, self.channel_of[self.order[place]], -1)

    def _put(self, channels: Indices, moments: Indices, levels: Levels) -> None:
        order = np.argsort(channels.astype(np.int16), kind="stable")
        channels, moments, levels = channels[order], moments[order], levels[order]
        borders = np.searchsorted(channels, np.arange(len(self.bits) + 1))
        for k in range(len(self.bits)):
            a, b = borders[k], borders[k + 1]
            if b > a:
                self.times[k].append(moments[a:b])
                self.levels[k].append(levels[a:b])

    def _vectors(
        self, text: Bytes, starts: Indices, ends: Indices, heads: Indices, stamps: Indices, ticks: Indices
    ) -> None:
        """Values of several bits, one by one: dumps of instruments have few."""
        by_code = {v.code: k for k, v in enumerate(self.head.variables)}
        raw = text.tobytes() if len(heads) else b""
        for h in heads.tolist():
            if h + 1 >= len(starts) or raw[starts[h] : starts[h] + 1] not in b"bB":
                continue
            k = by_code.get(raw[starts[h + 1] : ends[h + 1]])
            if k is None:
                continue
            n = int(np.searchsorted(stamps, h)) - 1
            moment = int(ticks[n]) if n >= 0 else self.now
            self._vector(k, raw[starts[h] + 1 : ends[h]].decode("ascii", "replace"), moment)

    def _vector(self, k: int, value: str, moment: int) -> None:
        width = self.head.variables[k].bits
        fill = value[:1] if value[:1] in "xXzZ" else "0"
        value = value.rjust(width, fill)[-width:]
        for i, (_, variable, bit) in enumerate(self.bits):
            if variable == k:
                level = {"0": 0, "1": 1}.get(value[width - 1 - bit], UNKNOWN)
                self.times[i].append(np.array([moment], np.int64))
                self.levels[i].append(np.array([level], np.int8))

    def traces(self) -> list[Trace]:
        """All channels, in seconds."""
        tick, end = self.head.tick_s, max(self.now, 0)
        start = self.first or 0
        return [
            _trace(name, self.times[i], self.levels[i], start, end, tick)
            for i, (name, _, _) in enumerate(self.bits)
        ]


def _trace(
    name: str, times: list[Indices], levels: list[Levels], start: int, end: int, tick_s: float
) -> Trace:
    """Of several changes at one moment the last one counts; what is no change is left out."""
    at = np.concatenate(times) if times else np.zeros(0, np.int64)
    states = np.concatenate(levels) if levels else np.zeros(0, np.int8)
    if len(at):
        later = np.append(at[1:] > at[:-1], True)
        at, states = at[later], states[later]
    rest = 0
    if len(at):  # a first change that comes later is one from the other level
        rest = int(states[0]) if at[0] <= start else int(states[0] == 0)
    before = np.concatenate([np.array([rest], np.int8), states[:-1]]) if len(at) else states
    real = states != before
    moments: Floats = (at[real] - start) * tick_s
    return Trace(name, moments, states[real], 0.0, (end - start) * tick_s, rest, tick_s)


def _code(name: bytes) -> int:
    return int.from_bytes(name[:8], "little")


def _last_break(data: bytes) -> int:
    """Where the last time stamp that is whole begins a line: everything before it is whole."""
    cut = data.rfind(b"\n#")
    return cut + 1 if cut > 0 else 0


def _numbers(text: Bytes, starts: Indices, ends: Indices, name: str) -> Indices:
    """Whole numbers, digit by digit for all of them at once."""
    found = np.zeros(len(starts), np.int64)
    length = ends - starts
    if length.max(initial=0) > MOST_DIGITS:
        raise DumpError(name, [("", f"has a time stamp of more than {MOST_DIGITS} digits")])
    # times rise, so that those of one length lie together
    borders = np.concatenate([[0], np.flatnonzero(length[1:] != length[:-1]) + 1, [len(length)]])
    for a, b in zip(borders[:-1].tolist(), borders[1:].tolist(), strict=True):
        if b == a:
            continue
        width = int(length[a])
        value = np.zeros(b - a, np.int64)
        wrong = np.zeros(b - a, bool)
        for k in range(width):
            digit = text[starts[a:b] + k] - np.uint8(48)  # what is below wraps round
            wrong |= digit > 9
            value *= 10
            value += digit
        if wrong.any():
            raise DumpError(name, [("", "has a time stamp that is no number")])
        found[a:b] = value
    if len(found) > 1 and (np.diff(found) < 0).any():
        raise DumpError(name, [("", "has a time stamp that is before the one above it")])
    return found
