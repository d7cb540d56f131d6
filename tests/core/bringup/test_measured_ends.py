"""Ends that were measured: into the plan, and from there into the program's constants."""

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.bringup.measured import take_over, takers
from knotplan.core.text.program import constants
from knotplan.examples import SCENES, example
from tests.conftest import lay, look_at


def every_taker():
    for scene in SCENES:
        if scene != "organ-shutters":
            report = look_at(example(scene, shipped()))
            for taken in takers(report.circuit):
                yield report, taken
    radio = look_at(lay("bowline-40", {"radio": "rc-receiver"}, {"radio.ch1": "p7"}))
    yield from ((radio, taken) for taken in takers(radio.circuit))


def test_whatever_can_be_measured_has_the_ends_afterwards_and_undo_needs_nothing_else() -> None:
    kinds = set()
    for report, taken in every_taker():
        kinds.add(taken.what)
        least, most = (812.0, 2107.0)
        after = look_at(take_over(taken, most, least).apply(report.circuit.plan))
        again = next(t for t in takers(after.circuit) if (t.id, t.what) == (taken.id, taken.what))
        assert again.now == pytest.approx((least * taken.scale, most * taken.scale)), taken
        assert taken.shown(least * taken.scale) in take_over(taken, least, most).title
    assert kinds == {"pulses at both ends", "a channel's pulses", "the converter's codes at both ends"}


def test_codes_of_a_converter_become_constants_of_the_program() -> None:
    report, taken = next((r, t) for r, t in every_taker() if "codes" in t.what)
    assert not any(k.name.endswith("CODES") for k in constants(report))
    after = look_at(take_over(taken, 4011, 37).apply(report.circuit.plan))
    (found,) = [k for k in constants(after) if k.name.endswith("CODES")]
    assert found.value == (37, 4011) and taken.title in found.remark
