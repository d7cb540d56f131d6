"""Captures against the plan: decoders read what the plan's own lanes send, and the practice bench's troubles
are told."""

from collections import Counter

import numpy as np
import pytest

from knotplan.catalog.load import shipped
from knotplan.core.bringup.captured import decoders
from knotplan.core.bringup.captured.compare import compared
from knotplan.core.bringup.captured.planned import planned_trace
from knotplan.core.bringup.captured.pulses import pulses_of, without_glitches
from knotplan.core.bringup.captured.trace import Trace, trace_of
from knotplan.core.bringup.held import Bench, held
from knotplan.core.check.analysis import analyse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.practice.traces import Instrument, capture
from knotplan.core.practice.troubles import troubles
from knotplan.core.timing import pixels
from knotplan.core.timing.lanes import Lane, lanes
from knotplan.core.timing.lanes.frames import rainbow
from knotplan.core.timing.lanes.uarts import TEXT
from knotplan.examples import example

SCENES = ("harbour-light", "seed-drawers", "mist-bench", "kite-winder", "badge-wall")
LONG = Instrument(seconds=4.5)


def circuit(scene: str) -> Circuit:
    return Circuit(example(scene, shipped()), shipped())


def lane_of(scene: str, kind: str) -> tuple[Circuit, Lane]:
    c = circuit(scene)
    return c, next(x for x in lanes(c) if x.kind == kind)


# --- decoders -----------------------------------------------------------------------------------------


def test_a_uart_s_bytes_are_read_and_its_rate_found() -> None:
    _, lane = lane_of("kite-winder", "uart")
    trace = planned_trace(lane, 0.2)
    bit = decoders.bit_s_of(trace)
    assert 1 / bit == pytest.approx(9600, rel=1e-3)
    found = decoders.uart(trace, bit)
    assert bytes(b.value for b in found[:3]) == TEXT.encode() and all(b.good for b in found)


@pytest.mark.parametrize("scene", ["harbour-light", "badge-wall"])
def test_pixel_frames_are_read_bit_by_bit(scene: str) -> None:
    c, lane = lane_of(scene, "pixels")
    chain = pixels.chain_of(c, lane.part)
    frames = decoders.pixel_frames(planned_trace(lane, 0.2))
    assert set(frames.bits) == {chain.count * chain.bits}
    assert frames.data == rainbow(chain.count, chain.bits // 8)
    assert frames.bit_s == pytest.approx(chain.bit_s, rel=1e-3)


def test_words_on_spi_are_read() -> None:
    """Mode 0, eight bits, built here bit by bit."""
    words, at = [0xA5, 0x3C], 1e-3
    clock, data, select = [], [], []
    for word in words:
        select.append((at - 2e-6, 0))
        for k in range(8):
            data.append((at - 0.5e-6, word >> (7 - k) & 1))
            clock += [(at, 1), (at + 0.5e-6, 0)]
            at += 1e-6
        select.append((at + 1e-6, 1))
        at += 10e-6
    traces = [trace_of(n, e, 0.0, 2e-3, r) for n, e, r in (("c", clock, 0), ("d", data, 0), ("s", select, 1))]
    assert [w.value for w in decoders.spi(*traces, mode=0, bits=8)] == words


def i2c_traces(calls: list[tuple[int, bool]], names: tuple[str, str] = ("sda", "scl")) -> tuple[Trace, Trace]:
    """Writes to addresses, with whether somebody acknowledges; built here by the standard's figures."""
    sda, scl, at, bit = [], [], 1e-3, 10e-6
    for address, answered in calls:
        sda.append((at, 0))
        scl.append((at + bit / 2, 0))
        at += bit
        for level in [*(address >> (6 - k) & 1 for k in range(7)), 0, int(not answered)]:
            sda.append((at, level))
            scl += [(at + bit / 4, 1), (at + 3 * bit / 4, 0)]
            at += bit
        sda.append((at, 0))
        scl.append((at + bit / 4, 1))
        sda.append((at + bit / 2, 1))
        at += 3 * bit
    return trace_of(names[0], sda, 0, 1, 1), trace_of(names[1], scl, 0, 1, 1)


def test_talk_on_i2c_is_read() -> None:
    """A write to 0x3C that is acknowledged, one to 0x48 that is not."""
    first, second = decoders.i2c(*i2c_traces([(0x3C, True), (0x48, False)]))
    assert (first.address, first.reads, first.acknowledged) == (0x3C, False, True)
    assert (second.address, second.acknowledged) == (0x48, False)


@pytest.mark.parametrize("scene", SCENES)
def test_pulses_of_every_lane_are_measured_as_planned(scene: str) -> None:
    for lane in lanes(circuit(scene)):
        if lane.kind in ("servo", "pulses", "step", "relay", "level") and len(lane.wave.times) == 2:
            seen = pulses_of(planned_trace(lane, 10 * lane.wave.period_s))
            high = abs(lane.wave.times[1] - lane.wave.times[0])
            highs = (high, lane.wave.period_s - high)
            assert seen.period_s == pytest.approx(lane.wave.period_s, rel=1e-6)
            assert min(abs(seen.high_s - x) for x in highs) < 1e-9


@pytest.mark.parametrize("count", [3, 10, 300])
def test_a_disturbance_is_taken_away_and_counted(count: int) -> None:
    edges = [(k * 0.01 + d, 1 - i) for k in range(count) for i, d in enumerate((0.0, 0.0015))]
    plain = trace_of("x", edges, 0.0, count * 0.01)
    times = np.insert(plain.times, 3, [0.0128, 0.0128001])
    levels = np.insert(plain.levels, 3, [0, 1]) if plain.level(0.0128) else np.insert(plain.levels, 3, [1, 0])
    order = np.argsort(times)
    dirty = Trace("x", times[order], levels[order], 0.0, plain.end_s, 0, 1e-7)
    clean, number = without_glitches(dirty)
    assert number == 1 and clean.times.tolist() == plain.times.tolist()


# --- against the plan ---------------------------------------------------------------------------------


@pytest.mark.parametrize("named", [True, False])
@pytest.mark.parametrize("scene", SCENES)
def test_a_bench_as_planned_has_no_difference_whether_channels_have_names(scene: str, named: bool) -> None:
    c = circuit(scene)
    for seed in range(3):
        found = compared(
            c, capture(PracticeBench(c, shipped(), seed=seed), Instrument(seconds=4.5, named=named))
        )
        assert not [d for d in found.differences if d.gravity == "differs"]
        assert all(m.pair.why == "name" for m in found.channels) or not named


BLIND = "inverted"
"""what is on as long as off looks the same the other way round"""


@pytest.mark.parametrize("scene", SCENES)
def test_what_a_program_does_otherwise_is_told_of_the_right_ties(scene: str) -> None:
    c = circuit(scene)
    counts: Counter[bool] = Counter()
    for trouble in troubles(c):
        if not trouble.does or trouble.does == BLIND:
            continue
        found = compared(c, capture(PracticeBench(c, shipped(), [trouble], seed=3), LONG))
        told = any(set(d.look) & set(trouble.ties) for d in found.differences if d.gravity == "differs")
        alike = trouble.does == "exchanged" and trouble.ties[0].startswith("horn-and-bell")
        counts[told] += 1
        assert told or alike, trouble.title  # two relays that blink alike look alike exchanged
    assert counts[True] >= 5


def test_exchanged_and_inverted_are_called_so() -> None:
    c = circuit("harbour-light")
    by_kind = {t.kind: t for t in troubles(c) if t.kind in ("coil order", "steps twice", "period")}
    kinds = {}
    for kind, trouble in by_kind.items():
        found = compared(c, capture(PracticeBench(c, shipped(), [trouble]), LONG)).differences
        kinds[kind] = {d.kind for d in found if d.gravity == "differs"}
    assert kinds == {
        "coil order": {"capture-coils"},
        "steps twice": {"capture-rate"},
        "period": {"capture-period"},
    }


def test_the_maker_s_word_on_a_channel_counts() -> None:
    c = circuit("harbour-light")
    traces = capture(PracticeBench(c, shipped()), Instrument(seconds=1.0, named=False))
    lamp = next(x for x in lanes(c) if x.lead == "lamp.anode")
    found = compared(c, traces, {5: lamp.id})
    assert found.channels[5].lane == lamp and found.channels[5].pair.why == "maker"


@pytest.mark.parametrize("names", [("SDA", "SCL"), ("sda1", "scl1"), ("i2c_1_data SDA", "i2c_1 SCL")])
def test_talk_on_a_bus_counts_as_a_scan(names: tuple[str, str]) -> None:
    """The two that answer are there; one that is called and silent is missing; 0x4A answers unplanned."""
    catalog = shipped()
    report = analyse(example("harbour-light", catalog), catalog)
    good = i2c_traces([(0x48, True), (0x49, True), (0x3C, True)], names)
    assert held(report, catalog, Bench(traces=good)).agrees
    answer = held(
        report, catalog, Bench(traces=i2c_traces([(0x48, True), (0x49, False), (0x4A, True)], names))
    )
    assert [bus.scan.heard for bus in answer.buses] == [(0x48, 0x4A)]
    (differs,) = [d for d in answer.of_buses if d.gravity == "differs"]
    assert "0x4A" in differs.title and "0x49" in differs.title and differs.remedies


@pytest.mark.parametrize("pulse_s", [0.00045, 0.00262])
def test_a_servo_that_goes_beyond_its_ends_can_have_them_in_the_plan(pulse_s: float) -> None:
    """Afterwards the same capture is within them."""
    c, lane = lane_of("harbour-light", "servo")
    edges = [(k * 0.02 + at, level) for k in range(20) for at, level in ((0.001, 1), (0.001 + pulse_s, 0))]
    trace = trace_of(lane.title, edges, 0.0, 0.4)
    (beyond,) = [d for d in compared(c, [trace]).differences if d.kind == "capture-servo-end"]
    (remedy,) = beyond.remedies
    after = Circuit(remedy.apply(c.plan), shipped())
    assert not [d for d in compared(after, [trace]).differences if d.kind == "capture-servo-end"]
