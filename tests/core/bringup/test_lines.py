"""Lines against the plan: what the practice bench has wrong is what the differences say."""

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.bringup.lines import compared
from knotplan.core.bringup.otherwise import Numbers
from knotplan.core.bringup.said import LineState
from knotplan.core.check.analysis import analyse
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullUp
from knotplan.core.plan.document import Plan
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.practice.troubles import troubles
from knotplan.examples import example

REPORT = analyse(example("harbour-light", shipped()), shipped())
SHOWN = ("line taken", "pull left off", "other scheme", "off by one")


def bench(plan: Plan | None = None) -> list[LineState]:
    c = REPORT.circuit if plan is None else analyse(plan, shipped()).circuit
    return PracticeBench(c, shipped()).lines()


def differing(lines: list[LineState], plan: Plan | None = None):
    report = REPORT if plan is None else analyse(plan, shipped())
    return [d for d in compared(report.circuit, lines, report.points).differences if d.gravity == "differs"]


def at(lines: list[LineState], offset: int, **changed: object) -> list[LineState]:
    return [replace(one, **changed) if one.offset == offset else one for one in lines]


def test_a_bench_as_planned_has_no_difference_with_the_program_or_without() -> None:
    assert not differing(bench())
    assert not differing(PracticeBench(REPORT.circuit, shipped()).lines(program=False))
    seen = compared(REPORT.circuit, bench(), REPORT.points)
    assert len(seen.rows) > 15 and all(r.line is not None for r in seen.rows)


def test_each_trouble_that_a_listing_can_show_is_told_of_the_right_tie() -> None:
    c = REPORT.circuit
    plain = {
        t.lead for _, _, t in c.ties.on_pins() if type(c.needs.of(t.lead)).__name__ in ("Output", "Input")
    }
    asked = [t for t in troubles(c) if t.kind in SHOWN and (not t.leads or t.leads[0] in plain)]
    assert {t.kind for t in asked} == set(SHOWN)
    for trouble in asked:
        found = differing(PracticeBench(c, shipped(), [trouble]).lines())
        assert any(set(d.look) & set(trouble.ties) for d in found), trouble.title


def test_another_pin_is_explained_by_scheme_or_counting() -> None:
    c = REPORT.circuit
    trouble = next(t for t in troubles(c) if t.kind == "off by one" and t.leads == ("red-pier-light.anode",))
    found = differing(PracticeBench(c, shipped(), [trouble]).lines())
    (told,) = [d for d in found if d.kind == "line-elsewhere"]
    assert told.title.startswith("'pier-red' uses") and "one less than" in told.message


def test_an_output_against_a_planned_input_is_the_gravest() -> None:
    (d,) = differing(at(bench(), 38, direction="output", used_by="", level=1))
    assert d.kind == "line-drives" and "was left an output and drives it high" in d.message


def test_a_line_that_is_asked_for_active_low_is_told() -> None:
    (d,) = differing(at(bench(), 41, active_low=True))
    assert d.kind == "line-inverted" and "on and off are exchanged" in d.message


def test_a_bias_against_the_plan_s_resistor_and_one_that_the_plan_wants() -> None:
    (d,) = differing(at(bench(), 38, bias="pull-down"))
    assert d.kind == "line-bias" and d.remedies
    follows = d.remedies[0].apply(REPORT.circuit.plan)
    assert follows.tie("door.contact").pull == "down"
    own = edits.set_pull(
        edits.add_bead(REPORT.circuit.plan, "door.contact", PullUp(10e3)), "door.contact", "none"
    )
    (d,) = differing(at(bench(own), 38, bias="pull-down"), own)
    assert "divide the supply" in d.message


def test_a_level_that_the_plan_rules_out() -> None:
    """With a bead to the rail and no contact that closes, low cannot be."""
    plan = edits.untie(REPORT.circuit.plan, "tide-mark.contact")
    assert not differing(at(bench(plan), 38, level=0), plan), "a contact may be closed"
    assert not differing(at(bench(plan), 38, level=1), plan)


def test_lines_known_by_their_names_alone_are_found() -> None:
    lines = [LineState("", -1, "L22", level=1), LineState("", -1, "nobody's")]
    seen = compared(REPORT.circuit, lines)
    assert [r.line.name for r in seen.rows if r.line is not None] == ["L22"]
    assert [d.kind for d in seen.differences] == ["line-absent"]


@pytest.mark.parametrize("board_id", shipped().shipped_ids("board"))
def test_every_number_finds_its_pin_again_and_says_why_another_does_not(board_id: str) -> None:
    board = shipped().board(board_id)
    numbers = Numbers(board)
    for pin_id in board.pins:
        for scheme in board.schemes:
            number = numbers.number(scheme, pin_id)
            if number is None:
                continue
            assert numbers.pin(scheme, number) in (pin_id, ""), (scheme, number)
            for other in board.schemes:
                own = numbers.number(other, pin_id)
                if other != scheme and own not in (None, number):
                    assert numbers.why(pin_id, other, number).kind == "other-scheme"
    for pin_id, pin in board.pins.items():
        for scheme, name in pin.names.items():
            assert numbers.pin(scheme, name) in (pin_id, ""), name
