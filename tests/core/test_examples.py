"""One walk through everything that ships: catalogue, example plans."""

from collections import Counter

import msgspec
import pytest

from knotplan.catalog.board_check import faults
from knotplan.catalog.elements import Led, Load
from knotplan.catalog.load import Catalog, UnknownEntryError, shipped
from knotplan.catalog.quantities import Range
from knotplan.core.analysis import analyse
from knotplan.core.solve.junction import fit
from knotplan.examples import example, names


def test_the_mended_demo_has_nothing_to_say() -> None:
    assert analyse(example("harbour-light", shipped()), shipped()).findings == ()


def test_the_first_draft_has_exactly_these_mistakes() -> None:
    found = Counter(f.rule for f in analyse(example("harbour-light-draft", shipped()), shipped()).findings)
    assert found == {
        "pin-shared": 1, "need-unmet": 1, "lead-untied": 1, "input-over-voltage": 2, "output-level": 2,
        "led-no-resistor": 1, "pin-over-absolute": 1, "led-current": 1, "jerky-load-on-board": 1, "wakes-load": 2,
        "pin-reserved": 1,
    }  # fmt: skip


def test_the_first_draft_can_be_mended_by_its_remedies_alone() -> None:
    """All but the knob: this board has no converter, so no pin can read it."""
    plan = example("harbour-light-draft", shipped())
    for _ in range(40):
        findings = analyse(plan, shipped()).findings
        remedy = next((r for f in findings for r in f.remedies), None)
        if remedy is None:
            break
        plan = remedy.apply(plan)
    assert {f.rule for f in findings} == {"need-unmet"}


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
    assert dict(kind.faults({"colour": "pink", "wish": 1.0, "shade": "x"})).keys() == {"colour", "wish", "shade"}


@pytest.mark.parametrize("entry", ["bowlin-40", "../boards/bowline-40", "", "/etc/passwd"])
def test_an_unknown_board_is_named_and_never_leaves_the_folder(entry: str) -> None:
    with pytest.raises(UnknownEntryError, match="no board"):
        Catalog().board(entry)


def test_a_range_that_falls_is_refused() -> None:
    with pytest.raises(msgspec.ValidationError, match="rising order"):
        msgspec.convert([3, 2, 1], Range)
