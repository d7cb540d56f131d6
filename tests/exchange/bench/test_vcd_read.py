"""Value change dumps: what this program writes is read back, and so is whatever the format allows."""

import tempfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.bringup.captured.trace import UNKNOWN
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.timing.lanes import lanes
from knotplan.examples import example
from knotplan.exchange.bench import vcd_read
from knotplan.exchange.bench.vcd_read import DumpError, Stopped, load, loads
from knotplan.exchange.vcd import dump

HEAD = "$timescale {scale} $end\n$scope module m $end\n{vars}$upscope $end\n$enddefinitions $end\n"
NAMES = st.text(st.characters(min_codepoint=33, max_codepoint=126), min_size=1, max_size=3)


@pytest.mark.parametrize("scene", ["harbour-light", "kite-winder", "seed-drawers"])
def test_the_plan_s_own_dump_is_read_back_edge_by_edge(scene: str) -> None:
    shown = [
        x for x in lanes(Circuit(example(scene, shipped()), shipped())) if x.wave.count(0.0, 0.1) < 10_000
    ]
    traces = loads(dump(shown, 0.0, 0.1, "t"))
    assert len(traces) == len(shown)
    for lane, trace in zip(shown, traces, strict=True):
        times, levels = lane.wave.edges(0.0, 0.1)
        ticks = np.rint(times / 1e-9)
        last = np.append(np.diff(ticks) > 0, True) if len(ticks) else np.zeros(0, bool)
        wanted = [(t, v) for t, v in zip(ticks[last], levels[last], strict=True) if t > 0]
        found = list(zip(np.rint(trace.times / 1e-9), trace.levels, strict=True))
        assert [f for f in found if f[0] > 0] == _changes(wanted, lane.wave.level(0.0))
        assert trace.seconds == pytest.approx(0.1)


def _changes(edges, now):
    kept = []
    for at, level in edges:
        if level != now:
            kept.append((at, level))
            now = level
    return kept


@st.composite
def dumps(draw: st.DrawFn):
    """(text, per channel the changes): names may look like anything, words may share lines."""
    codes = draw(st.lists(NAMES, min_size=1, max_size=6, unique=True))
    widths = [draw(st.sampled_from([1, 1, 1, 4])) for _ in codes]
    text = HEAD.format(
        scale=draw(st.sampled_from(["1 us", "10us", "100 ns"])),
        vars="".join(
            f"$var wire {w} {c} n{k} $end\n" for k, (c, w) in enumerate(zip(codes, widths, strict=True))
        ),
    )
    now, first, wanted = 0, None, [[] for _ in codes]
    for _ in range(draw(st.integers(0, 30))):
        now += draw(st.integers(1, 10 ** draw(st.integers(0, 6))))
        first = now if first is None else first
        between = draw(st.sampled_from(["\n", " ", "\r\n", "  \t"]))
        text += f"#{now}{between}"
        for k in draw(st.lists(st.integers(0, len(codes) - 1), max_size=4)):
            if widths[k] == 1:
                level = draw(st.sampled_from("01xz"))
                text += f"{level}{codes[k]}{between}"
                wanted[k].append((now, {"0": 0, "1": 1}.get(level, UNKNOWN)))
            else:
                value = draw(st.integers(0, 15))
                text += f"b{value:b} {codes[k]}{between}"
                wanted[k].append((now, value))
    return text + "\n", widths, wanted, first or 0


@settings(max_examples=150, deadline=None)
@given(dumps(), st.sampled_from([64, 300, 1 << 20]))
def test_whatever_the_format_allows_is_read(made, chunk: int) -> None:
    text, widths, wanted, first = made
    old, vcd_read.CHUNK = vcd_read.CHUNK, chunk
    try:
        with tempfile.NamedTemporaryFile(suffix=".vcd") as file:
            file.write(text.encode())
            file.flush()
            traces = load(Path(file.name))
    finally:
        vcd_read.CHUNK = old
    k = 0
    for width, changes in zip(widths, wanted, strict=True):
        for bit in reversed(range(width)) if width > 1 else [None]:
            levels = [(t, v if bit is None else v >> bit & 1) for t, v in changes]
            assert [traces[k].rest, *traces[k].levels.tolist()] == _settled(levels, first)
            k += 1


def _settled(changes, first):
    """How it rested, then its levels: of several at one moment the last one, and only real changes."""
    last = dict(changes)
    if not last:
        return [0]
    begun, level = next(iter(last.items()))
    found = [level if begun <= first else int(level == 0)]
    for level in last.values():
        if level != found[-1]:
            found.append(level)
    return found


def test_levels_before_the_first_time_are_how_it_rested() -> None:
    text = HEAD.format(scale="1 us", vars='$var wire 1 ! a $end\n$var wire 1 " b $end\n')
    a, b = loads(f'{text}$dumpvars\n1!\n0"\n$end\n#100\n0!\n1"\n#200\n'.encode())
    assert (a.rest, a.times.tolist(), a.levels.tolist()) == (1, [0.0], [0]) or a.rest == 1
    assert b.levels.tolist()[-1] == 1 and a.seconds == pytest.approx(100e-6)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "enddefinitions"),
        ("$enddefinitions $end\n", "timescale"),
        ("$timescale 1 us $end $enddefinitions $end\n", "no wire"),
        (
            HEAD.format(scale="1 us", vars="$var wire 1 ! a $end\n") + "#5\n1!\n#3\n0!\n",
            "before the one above",
        ),
        (HEAD.format(scale="1 us", vars="$var wire 1 ! a $end\n") + "#5x\n1!\n", "no number"),
        (
            HEAD.format(scale="1 us", vars="$var wire 1 ! a $end\n") + f"#{'9' * 30}\n1!\n",
            "more than 18 digits",
        ),
    ],
)
def test_what_is_no_dump_is_told(text: str, words: str) -> None:
    with pytest.raises(DumpError, match=words):
        loads(text.encode())


def test_reading_can_be_stopped(tmp_path: Path) -> None:
    path = tmp_path / "x.vcd"
    path.write_text(HEAD.format(scale="1 us", vars="$var wire 1 ! a $end\n") + "#1\n1!\n")
    told = []
    with pytest.raises(Stopped):
        load(path, lambda share: told.append(share) or False)
    assert told == [1.0]


def test_reals_texts_and_comments_are_passed_over() -> None:
    text = HEAD.format(scale="1 us", vars="$var real 64 r volts $end\n$var wire 1 b bit $end\n")
    (trace,) = loads(f"{text}#1\nr3.3 r\n1b\n$comment 0b #9 $end\n#4\n0b\n".encode())
    assert trace.name == "bit" and trace.levels.tolist() in ([1, 0], [0])


def test_a_dump_that_goes_on_without_a_time_stamp_is_refused_and_not_kept(tmp_path, monkeypatch) -> None:
    """Otherwise a gigabyte of it would be copied again with each megabyte."""
    monkeypatch.setattr(vcd_read, "MOST_REST", 3 * vcd_read.CHUNK)
    path = tmp_path / "long.vcd"
    head = b"$timescale 1 us $end\n$var wire 1 ! a $end\n$enddefinitions $end\n#0\n"
    path.write_bytes(head + b"1! 0! " * vcd_read.CHUNK)
    with pytest.raises(vcd_read.DumpError, match="without a line that begins with a time stamp"):
        vcd_read.load(path)
