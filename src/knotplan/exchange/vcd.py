"""Waves as a value change dump (IEEE 1364-2005 clause 18): one wire for each lane."""

import io
import re
from collections.abc import Iterable

from vcd import VCDWriter

from knotplan import __version__
from knotplan.core.timing.lanes import Lane
from knotplan.exchange.plain_text import one_line

UNITS = (
    ("ns", 1e-9),
    ("10 ns", 1e-8),
    ("100 ns", 1e-7),
    ("us", 1e-6),
    ("10 us", 1e-5),
    ("100 us", 1e-4),
    ("ms", 1e-3),
)
MOST_CHANGES = 2_000_000


class DumpError(ValueError):
    """The waves cannot be written like this; the message says what can."""


def timescale(seconds: float) -> tuple[str, float]:
    """(as the format says it, s) of the finest unit with which a stretch fits 63 bits with room to spare.

    >>> timescale(1.0)
    ('1 ns', 1e-09)
    """
    for words, unit in UNITS:
        if seconds / unit < 1e12:
            return (words if words[0].isdigit() else f"1 {words}"), unit
    raise DumpError(f"a dump of {seconds:g} s is too long")


def identifier(title: str, taken: set[str]) -> str:
    """A name as the format and its readers take it: letters, digits, underscores."""
    base = re.sub(r"\W+", "_", title, flags=re.ASCII).strip("_") or "lane"
    base = f"_{base}" if base[0].isdigit() else base
    text, number = base, 1
    while text in taken:
        number += 1
        text = f"{base}_{number}"
    taken.add(text)
    return text


def dump(lanes: Iterable[Lane], start_s: float, end_s: float, title: str) -> bytes:
    """Every level of some lanes in [start, end); time 0 of the dump is the start. Raises DumpError."""
    chosen = list(lanes)
    if not chosen or not end_s > start_s:
        raise DumpError("there is nothing to write: no lane, or no time")
    count = sum(lane.wave.count(start_s, end_s) for lane in chosen)
    if count > MOST_CHANGES:
        raise DumpError(
            f"{count} changes are too many for a file, at most {MOST_CHANGES}: take a shorter time or fewer "
            "lanes"
        )
    words, unit = timescale(end_s - start_s)
    out = io.StringIO()
    taken: set[str] = set()
    # a dollar begins the format's own words, and its text is ASCII
    plain = one_line(title.replace("$", "")).encode("ascii", "replace").decode("ascii")
    with VCDWriter(
        out, timescale=words, date="", version=f"Knot Plan {__version__}", comment=plain
    ) as writer:
        wires = [
            writer.register_var(
                "plan", identifier(lane.title, taken), "wire", size=1, init=lane.wave.level(start_s)
            )
            for lane in chosen
        ]
        changes: dict[tuple[int, int], int] = {}
        for k, lane in enumerate(chosen):
            times, levels = lane.wave.edges(start_s, end_s)
            for at, level in zip(times.tolist(), levels.tolist(), strict=True):
                changes[round((at - start_s) / unit), k] = level  # of two within one unit the last one counts
        for (at, k), level in sorted(changes.items()):
            writer.change(wires[k], at, level)
        writer.close(round((end_s - start_s) / unit))
    return out.getvalue().encode("utf-8")
