"""Files as accidents and hostile hands make them: valid ones with something changed."""

import random
from collections.abc import Callable

Mutate = Callable[[bytes, random.Random], bytes]
TOKENS = (
    b"9" * 5000,
    b"1e999",
    b"-1e999",
    b"1e-400",
    b"NaN",
    b"Infinity",
    b"[" * 2000,
    b'{"a":' * 500,
    b"\xef\xbb\xbf",
    b"\x00",
    b'"\\ud800"',
    b"\\ud83d",
    "\u2028".encode(),
    "\u0085".encode(),
    "\u202e".encode(),
    b"-0.0",
    b"1.0000000000000001",
    b"true",
    b"null",
    b'"',
    b"\\",
    b",",
    b":",
    b"]",
    b"}",
    b"\n",
    b"\r",
    b"=",
    b"#",
    b"'''",
    b'"""',
    b"1979-05-27",
    b"inf",
    b"nan",
    b"0x7f",
    b"..",
    b"../..",
    b"board.p1",
    b"nobody.lead",
    b"1_000",
    b"4" * 400,
    b"\xff",
    b"\xc3\x28",
    b";",
    b"\t",
    "²".encode(),
    "٣".encode(),
    b"a" * 3000,
)


def flip(data: bytes, r: random.Random) -> bytes:
    """One bit otherwise."""
    at = r.randrange(len(data))
    return data[:at] + bytes([data[at] ^ (1 << r.randrange(8))]) + data[at + 1 :]


def cut(data: bytes, r: random.Random) -> bytes:
    """Only the beginning: a disk that was full."""
    return data[: r.randrange(len(data))]


def hole(data: bytes, r: random.Random) -> bytes:
    """A piece is missing."""
    at = r.randrange(len(data))
    return data[:at] + data[at + r.randrange(1, 200) :]


def twice(data: bytes, r: random.Random) -> bytes:
    """A piece stands twice."""
    at = r.randrange(len(data))
    end = at + r.randrange(1, 400)
    return data[:end] + data[at:end] + data[end:]


def insert(data: bytes, r: random.Random) -> bytes:
    """Something stands where nothing should."""
    at = r.randrange(len(data) + 1)
    return data[:at] + r.choice(TOKENS) + data[at:]


def instead(data: bytes, r: random.Random) -> bytes:
    """A word or a number is another one."""
    words = _words(data)
    if not words:
        return insert(data, r)
    start, end = r.choice(words)
    other_start, other_end = r.choice(words)
    new = r.choice(TOKENS) if r.random() < 0.5 else data[other_start:other_end]
    return data[:start] + new + data[end:]


def line_moved(data: bytes, r: random.Random) -> bytes:
    """A line stands elsewhere, or is missing, or stands twice."""
    lines = data.split(b"\n")
    line = lines[r.randrange(len(lines))]
    if r.random() < 0.7:
        lines.remove(line)
    if r.random() < 0.7:
        lines.insert(r.randrange(len(lines) + 1), line)
    return b"\n".join(lines)


def _words(data: bytes) -> list[tuple[int, int]]:
    """Where words and numbers stand."""
    found, start = [], -1
    for at, byte in enumerate(data + b" "):
        inside = (byte > 47 and chr(byte).isalnum()) or byte in b"._-"
        if inside and start < 0:
            start = at
        elif not inside and start >= 0:
            found.append((start, at))
            start = -1
    return found


WAYS: tuple[Mutate, ...] = (flip, cut, hole, twice, insert, instead, instead, instead, line_moved)


def mutant(data: bytes, r: random.Random) -> bytes:
    """The data with one to three things changed."""
    for _ in range(r.choice([1, 1, 1, 2, 3])):
        if data:
            data = r.choice(WAYS)(data, r)
    return data
