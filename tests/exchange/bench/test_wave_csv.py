"""Captures as tables: in whatever form a program has written them, the same edges come out."""

from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.core.bringup.captured.trace import trace_of
from knotplan.exchange.bench.wave_csv import CsvError, load, loads, understood

FORMS = st.fixed_dictionaries(
    {
        "sign": st.sampled_from([",", ";", "\t"]),
        "comma": st.booleans(),
        "head": st.sampled_from(["names", "two rows", "none", "sep"]),
        "unit": st.sampled_from(["s", "ms", "us"]),
        "volts": st.booleans(),
        "end": st.sampled_from(["\n", "\r\n"]),
    }
)
STEP = 1e-3
UNITS = {"s": 1.0, "ms": 1e3, "us": 1e6}


def written(rows: list[list[int]], form: dict) -> str:
    sign, comma = form["sign"], form["comma"] and form["sign"] != ","

    def number(value: float) -> str:
        text = f"{value:.9g}" if value else "0"
        return text.replace(".", ",") if comma else text

    names = [f"Time [{form['unit']}]", *(f"channel {k}" for k in range(len(rows[0])))]
    lines = {
        "names": [sign.join(names)],
        "two rows": ["Instrument 7; made today", sign.join(names)],
        "none": [],
        "sep": [f"sep={sign}", sign.join(names)],
    }[form["head"]]
    unit = form["unit"] if form["head"] != "none" else "s"
    for k, row in enumerate(rows):
        cells = [
            number(k * STEP * UNITS[unit]),
            *(number(3.3 * x + 0.01 if form["volts"] else x) for x in row),
        ]
        lines.append(sign.join(cells))
    return form["end"].join(lines) + form["end"]


ROWS = st.integers(1, 4).flatmap(
    lambda w: st.lists(st.lists(st.integers(0, 1), min_size=w, max_size=w), min_size=8, max_size=40)
)


@settings(max_examples=120, deadline=None)
@given(ROWS, FORMS)
def test_every_form_gives_the_same_edges(rows: list[list[int]], form: dict) -> None:
    found = loads(written(rows, form))
    assert len(found) == len(rows[0])
    for k, trace in enumerate(found):
        levels = [row[k] for row in rows]
        if form["volts"] and len(set(levels)) == 1:
            continue  # nobody knows from one voltage alone which level it is
        wanted = [(i * STEP, b) for i, (a, b) in enumerate(pairwise(levels), 1) if a != b]
        assert trace.levels.tolist() == [v for _, v in wanted]
        assert trace.times == pytest.approx([t for t, _ in wanted], abs=1e-9)
        assert trace.rest == levels[0]


def test_a_table_without_a_time_is_counted_in_steps() -> None:
    how = understood("a,b\n0,1\n1,1\n0,0\n1,0\n0,1\n")
    assert how.time == -1 and how.names == ("a", "b")
    a, _ = loads("a,b\n0,1\n1,1\n0,0\n1,0\n0,1\n", how)
    assert a.times == pytest.approx([1e-6, 2e-6, 3e-6, 4e-6])


def test_volts_have_hysteresis() -> None:
    noisy = np.concatenate([np.zeros(50), np.full(50, 3.3)]) + np.tile([0.2, -0.2], 50)
    rows = "\n".join(f"{k * 1e-3:.4f},{v:.3f}" for k, v in enumerate(noisy))
    (trace,) = loads(f"time,v\n{rows}\n")
    assert trace.levels.tolist() == [1] and trace.times == pytest.approx([0.05])


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no rows of numbers"),
        ("a\nb\n", "no rows of numbers"),
        ("time,a\n0,1\n1,0\n2,1\nx,1\n", "not as the others"),
        ("time,a\n0,1\n1,0\n2,1\n1,1\n", "before that of the row above"),
    ],
)
def test_what_is_no_capture_is_told(text: str, words: str, tmp_path: Path) -> None:
    path = tmp_path / "x.csv"
    path.write_text(text)
    if words == "before that of the row above":
        how = understood("time,a\n0,1\n1,0\n2,1\n")
        with pytest.raises(CsvError, match=words):
            load(path, how)
        return
    with pytest.raises(CsvError, match=words):
        load(path)


def test_a_trace_is_drawn_from_any_number_of_edges_with_few_pieces() -> None:
    times = np.sort(np.random.default_rng(1).uniform(0, 1, 100_000))
    trace = trace_of("x", [(t, k % 2) for k, t in enumerate(times.tolist())], 0.0, 1.0)
    for start, end in ((0.0, 1.0), (0.2, 0.20001), (0.999, 1.0)):
        seen = trace.seen(start, end, 500)
        assert len(seen.times) <= 3 * 500 + 1 and (np.diff(seen.times) >= 0).all() and seen.times[0] == start
        for at, level in zip(seen.times.tolist(), seen.states.tolist(), strict=True):
            if level != 2:
                assert trace.level(at) == level
