"""What an edit changes, as it is told before a remedy is made."""

from collections.abc import Callable

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.check.rules import RULES
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullUp, SeriesResistor
from knotplan.core.plan.document import Activity, BusClock, Plan
from knotplan.core.suggest.suggestion import first_answer, prepare
from knotplan.core.text.changes import changes
from knotplan.examples import HERE, example, names
from knotplan.exchange.plan_file import load
from tests.conftest import look_at

DEMO = example("harbour-light", shipped())


def told(edit: Callable[[Plan], Plan]) -> list[str]:
    return list(changes(Circuit(DEMO, shipped()), Circuit(edit(DEMO), shipped())))


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        (
            lambda p: edits.tie(p, "flag.signal", "board.p24"),
            ["Flag · signal: from L3 (pos 18) to L8 (pos 24)"],
        ),
        (lambda p: edits.set_clock(p, "board.i2c:1", 4e5), ["I2C bus 1 runs at 400 kHz"]),
        (
            lambda p: edits.set_clock(p, "pins@board.p24", 5e4),
            ["the bus with its clock on L8 (pos 24) runs at 50 kHz"],
        ),
        (lambda p: edits.add_bead(p, "flag.signal", SeriesResistor(330)), ["Flag · signal: gets 330 Ω"]),
        (
            lambda p: edits.change_bead(p, "lamp.anode", 0, SeriesResistor(220)),
            ["Lamp · anode: 220 Ω instead of 180 Ω"],
        ),
        (lambda p: edits.remove_bead(p, "lamp.anode", 0), ["Lamp · anode: no bead instead of 180 Ω"]),
        (
            lambda p: edits.add_bead(p, "door.contact", PullUp(1e4, rail="board.p2")),
            ["Door · contact: gets 10 kΩ ↑"],
        ),
        (
            lambda p: edits.set_pull(p, "door.contact", "down"),
            ["Door · contact: the program switches the pin's pull-down on"],
        ),
        (
            lambda p: edits.set_pull(p, "door.contact", "none"),
            ["Door · contact: the program switches the pin's pull off"],
        ),
        (lambda p: edits.set_role(p, "flag.signal", "pennant"), ["Flag · signal: is called 'pennant'"]),
        (lambda p: edits.set_role(p, "flag.signal", ""), ["Flag · signal: loses its role"]),
        (lambda p: edits.recolour(p, "flag.signal", "blue"), ["Flag · signal: cord is blue"]),
        (lambda p: edits.untie(p, "flag.signal"), ["unties Flag · signal"]),
        (lambda p: edits.rename_part(p, "flag", "Pennant"), ["renames Flag to Pennant"]),
        (lambda p: edits.set_param(p, "lamp", "colour", "blue"), ["Lamp: Colour is blue"]),
        (lambda p: edits.add_part(p, "knob", "Dial"), ["adds Dial (potentiometer, 10 kΩ linear)"]),
        (edits.turn, ["turns the board to 90°"]),
        (lambda p: edits.set_cord(p, "flag.signal", 0.4), ["Flag · signal: cord is 400 mm long"]),
        (lambda p: edits.nudge(p, "flag", "left"), ["Flag lies left of the board, or above it"]),
        (lambda p: edits.fix_tie(p, "flag.signal", True), ["Flag · signal: is fixed: suggestions leave it"]),
        (lambda p: edits.set_series(p, "E24"), ["takes values of E24"]),
        (lambda p: edits.retitle(p, "Pier"), ["calls the plan Pier"]),
        (lambda p: edits.accept(p, "x", ("lamp",), "It glows.", "so be it"), ["accepts It glows."]),
        (lambda p: edits.set_cycle(p, 120.0), ["begins anew every 120 s"]),
        (lambda p: edits.change_activity(p, "horn", lasts_s=2.0), ["Horn sounds: lasts 2 s"]),
        (lambda p: p, []),
    ],
)
def test_each_edit_in_words(edit: Callable[[Plan], Plan], said: list[str]) -> None:
    assert told(edit) == said


def test_a_removed_part_takes_its_ties_along() -> None:
    assert set(told(lambda p: edits.remove_part(p, "door"))) == {
        "removes Door",
        "unties Door · contact",
        "unties Door · common",
    }


def test_words_follow_the_spoken_names() -> None:
    spoken = edits.speak(DEMO, "position")
    after = edits.tie(spoken, "flag.signal", "board.p24")
    assert list(changes(Circuit(spoken, shipped()), Circuit(after, shipped()))) == [
        "Flag · signal: from pos 18 to pos 24"
    ]


@pytest.mark.parametrize("name", names())
def test_no_remedy_is_previewed_empty(name: str) -> None:
    if name.startswith("organ"):
        pytest.skip("the same remedies, a thousand times")
    report = look_at(example(name, shipped()))
    for finding in report.findings:
        for remedy in finding.remedies:
            said = changes(report.circuit, Circuit(remedy.apply(report.circuit.plan), shipped()))
            assert said and all(said), (finding.rule, remedy.title)


@pytest.mark.parametrize("rule", [r.id for r in RULES])
def test_no_remedy_of_any_rule_is_previewed_empty(rule: str) -> None:
    report = look_at(load(HERE / "rules" / f"{rule}.bad.knot.json", shipped()))
    for remedy in (r for f in report.findings for r in f.remedies):
        said = changes(report.circuit, Circuit(remedy.apply(report.circuit.plan), shipped()))
        assert said and all(said), remedy.title


def test_no_suggestion_is_previewed_empty() -> None:
    plan = Plan("bowline-40")
    for part in ("led", "micro-servo", "push-button", "usb-brick"):
        plan = edits.add_part(plan, part, part)
    found = first_answer(prepare(plan, shipped()), shipped())
    assert (
        len(changes(Circuit(plan, shipped()), Circuit(found.remedy().apply(plan), shipped())))
        == len(found.ties)
        > 4
    )


def test_another_order_is_told() -> None:
    """Nothing else differs, and a preview is not empty all the same."""
    plan = replace(
        DEMO,
        activities=(Activity("a", "A"), Activity("b", "B")),
        clocks=(BusClock("board.i2c:1", 1e5), BusClock("board.i2c:0", 1e5)),
    )
    for field, what in (("parts", "parts"), ("activities", "activities"), ("clocks", "clocks")):
        turned = replace(plan, **{field: getattr(plan, field)[::-1]})
        said = list(changes(Circuit(plan, shipped()), Circuit(turned, shipped())))
        assert said == [f"puts the {what} in another order"]


def test_activities_that_come_and_go_are_told() -> None:
    plan = replace(DEMO, activities=(Activity("a", "Sleep"),))
    bare = replace(DEMO, activities=())
    before, after = Circuit(bare, shipped()), Circuit(plan, shipped())
    assert list(changes(before, after)) == ["adds the activity Sleep"]
    assert list(changes(after, before)) == ["removes the activity Sleep"]
