"""One walk through everything that ships: catalogue, example plans."""

import msgspec
import pytest

from knotplan.catalog.board.check import faults
from knotplan.catalog.load import Catalog, UnknownEntryError, shipped
from knotplan.catalog.part.elements import Led, Load
from knotplan.catalog.quantities import Range
from knotplan.core.check.analysis import analyse
from knotplan.core.engine.solver.junction import fit
from knotplan.examples import SCENES, example, names

DRAFTS: dict[str, dict[str, list[str]]] = {
    "harbour-light": {
        "pin-shared": ["board.p20"],
        "need-unmet": ["brightness.wiper"],
        "driver-missing": ["lens"],
        "address-clash": ["water"],
        "lead-untied": ["flag.signal"],
        "input-over-voltage": ["board.p15", "board.p23", "board.p14", "board.p22"],
        "output-level": ["horn-and-bell.in1", "horn-and-bell.in2", "quay.din"],
        "led-no-resistor": ["red-pier-light"],
        "pin-over-absolute": ["board.p11"],
        "back-fed": ["quay.din"],
        "cannot-keep-time": ["quay.din"],
        "led-current": ["lamp"],
        "jerky-load-on-board": ["flag.power"],
        "wakes-load": ["horn-and-bell.in1", "horn-and-bell.in2"],
        "component-missing": ["quay.din", "quay.vdd"],
        "pin-reserved": ["green-pier-light.anode"],
        "bus-pulled-hard": ["tide-display"],
        "bus-pulled-apart": ["tide-display"],
    },
    "seed-drawers": {
        "pin-shared": ["board.w4"],
        "led-reversed": ["light-3.anode"],
        "led-no-resistor": ["light-2"],
        "pin-over-absolute": ["board.e7"],
        "one-sided-sensor": ["dusk.one"],
        "led-current": ["light-6"],
        "bank-over": ["pa"],
        "floating-input": ["drawer-4.contact"],
        "pin-reserved": ["light-1.anode"],
    },
    "mist-bench": {
        "driver-missing": ["pump"],
        "clamp-missing": ["south-valve.minus"],
        "strap-level": ["board.e3"],
        "no-common-ground": ["part-12-v-brick"],
        "input-over-voltage": ["board.w3"],
        "pin-over-absolute": ["board.w9"],
        "component-missing": ["soil.dq", "south-switch.base", "greenhouse-air.data"],
        "pin-over-recommended": ["south-switch.collector"],
        "rail-over": ["3v3"],
        "floating-input": ["stop.contact"],
    },
    "kite-winder": {
        "pin-shared": ["board.p9"],
        "need-unmet": ["loft.vcc", "tension.wiper"],
        "supplies-exchanged": ["left-driver.vdd"],
        "uart-crossed": ["place.tx"],
        "lead-untied": ["right-line.b2"],
        "input-over-voltage": ["board.p4", "board.p5"],
        "output-level": ["left-driver.step", "left-driver.dir"],
        "pin-over-absolute": ["board.p9"],
        "pins-over": ["pins"],
        "component-missing": ["right-driver.vmot"],
        "rail-over": ["vusb", "vin", "3v3"],
        "load-starved": ["left-line.a1"],
        "floating-input": ["wind.a"],
    },
    "badge-wall": {
        "pin-shared": ["badge-1.dout"],
        "need-unmet": ["badge-1.vdd", "badge-2.vdd", "badge-3.vdd", "badge-4.vdd", "badge-5.vdd"],
        "contact-unread": ["gate.contact"],
        "one-sided-sensor": ["gaze.one"],
        "rail-over": ["5v", "3v"],
        "component-missing": ["badge-1.din"],
        "pin-reserved": ["touch.contact", "chime.plus"],
    },
    "organ-shutters": {
        "need-unmet": [f"shutter-12-{k:02d}.power" for k in range(1, 17)],
        "address-clash": ["rank-07", "rank-47"],
        "bus-pulled-hard": ["rank-01", "rank-31"],
        "bus-heavy": ["rank-01.sda", "rank-31.sda"],
        "no-common-ground": ["wind-16"],
        "supply-over": ["logic", "logic-feed"],
        "component-missing": ["rank-20.vplus"],
        "board-unfed": ["board.barrel"],
    },
}
"""the subjects of each draft's findings, by rule: exactly these"""


@pytest.mark.parametrize("scene", SCENES)
def test_a_mended_plan_has_nothing_to_say(scene: str) -> None:
    report = analyse(example(scene, shipped()), shipped())
    assert report.findings == () and report.accepted == ()


@pytest.mark.parametrize("scene", SCENES)
def test_a_first_draft_has_exactly_these_mistakes(scene: str) -> None:
    found: dict[str, list[str]] = {}
    findings = analyse(example(f"{scene}-draft", shipped()), shipped()).findings
    for f in (x for cause in findings for x in (cause, *cause.with_it)):
        found.setdefault(f.rule, []).append(f.subjects[0])
    assert {k: sorted(v) for k, v in found.items()} == {k: sorted(v) for k, v in DRAFTS[scene].items()}


@pytest.mark.parametrize("scene", [s for s in SCENES if s != "organ-shutters"])
def test_a_first_draft_can_be_mended_by_its_remedies_alone(scene: str) -> None:
    plan = example(f"{scene}-draft", shipped())
    for _ in range(60):
        findings = analyse(plan, shipped()).findings
        remedy = next((r for f in findings for r in f.remedies), None)
        if remedy is None:
            break
        plan = remedy.apply(plan)
    assert findings == ()


@pytest.mark.parametrize("name", names())
def test_every_example_is_read_and_analysed(name: str) -> None:
    report = analyse(example(name, shipped()), shipped())
    assert not [f for f in report.findings if f.rule == "rule-failed"]


@pytest.mark.parametrize("board_id", shipped().board_ids())
def test_boards_are_consistent(board_id: str) -> None:
    assert faults(shipped().board(board_id)) == []


@pytest.mark.parametrize("part_id", shipped().part_ids())
def test_parts_are_consistent_in_every_variant(part_id: str) -> None:
    kind = shipped().kind(part_id)
    assert not kind.faults({n: p.default for n, p in kind.params.items()})
    choices = [{}] + [{n: c} for n, p in kind.params.items() for c in p.choices]
    for chosen in choices:
        part = shipped().part(part_id, chosen)
        for element in part.elements.values():
            if isinstance(element, Load):
                assert element.usual_a <= element.worst_a
                assert {element.a, element.b} <= set(part.leads)
            if isinstance(element, Led):
                assert fit(element.points).voltage(0.02) == pytest.approx(element.points[1][1])
        if part.source:
            assert {part.source.plus, part.source.minus} <= set(part.leads)


def test_parameters_out_of_range_are_named() -> None:
    kind = shipped().kind("led")
    assert dict(kind.faults({"colour": "pink", "wish": 1.0, "shade": "x"})).keys() == {
        "colour",
        "wish",
        "shade",
    }


@pytest.mark.parametrize("entry", ["bowlin-40", "../boards/bowline-40", "", "/etc/passwd"])
def test_an_unknown_board_is_named_and_never_leaves_the_folder(entry: str) -> None:
    with pytest.raises(UnknownEntryError, match="no board"):
        Catalog().board(entry)


def test_a_range_that_falls_is_refused() -> None:
    with pytest.raises(msgspec.ValidationError, match="rising order"):
        msgspec.convert([3, 2, 1], Range)
