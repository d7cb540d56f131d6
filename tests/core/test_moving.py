"""A plan on another board: kept by what is needed, never by what pins are called."""

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.match.fit import Grade
from knotplan.core.plan.beads import PullUp
from knotplan.core.suggest.moving import move
from knotplan.examples import example
from knotplan.exchange.plan_file import dumps, loads
from tests.conftest import lay


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
@pytest.mark.parametrize("plan", ["harbour-light", "harbour-light-draft"])
def test_every_tie_on_the_board_is_accounted_for(plan: str, name: str) -> None:
    before = example(plan, shipped())
    made = move(before, shipped(), shipped().board(name))
    on_board = [t.id for t in before.ties if t.to.startswith("board.")]
    assert [t.tie for t in made.ties] == on_board
    lost = {t.tie for t in made.ties if t.grade == Grade.IMPOSSIBLE}
    assert {t.id for t in before.ties} - {t.id for t in made.plan.ties} == lost
    found = {f.rule for f in analyse(made.plan, shipped()).findings}
    assert not found & {"pin-shared", "short-circuit", "supplies-joined", "timer-shared", "rule-failed"}


def test_what_carries_over_works_there() -> None:
    made = move(example("harbour-light", shipped()), shipped(), shipped().board("clove-22"))
    carried = {t.lead for t in made.ties if t.grade <= Grade.GOOD}
    assert {"Lamp · anode", "Flag · signal", "Door · contact", "Horn and bell · VCC"} <= carried
    assert "need-unmet" not in {f.rule for f in analyse(made.plan, shipped()).findings}


def test_what_cannot_be_met_says_why() -> None:
    plan = lay("clove-22", {"Dial": "knob"}, {"dial.top": "w3", "dial.wiper": "w4", "dial.bottom": "w2"})
    made = move(plan, shipped(), shipped().board("bowline-40"))
    assert {t.lead: (t.now, t.reason) for t in made.ties}["Dial · wiper"] == ("", "no analogue input")
    assert {t.lead: t.now for t in made.ties}["Dial · top"] == "5V (pos 1)"


def test_roles_colours_and_beads_go_along_and_pull_ups_change_their_rail() -> None:
    plan = lay(
        "bowline-40",
        {"Door": "push-button"},
        {"door.contact": "p12", "door.common": "p10"},
        {"door.contact": [PullUp(10e3, rail="board.p2")]},
    )
    plan = replace(
        plan, ties=tuple(replace(t, role="door", cord="blue") for t in plan.ties[:1]) + plan.ties[1:]
    )
    tie = move(plan, shipped(), shipped().board("clove-22")).plan.tie("door.contact")
    board = shipped().board("clove-22")
    assert (tie.role, tie.cord) == ("door", "blue")
    assert board.pins[tie.beads[0].rail.removeprefix("board.")].rail == "5v"


def test_grounds_that_were_apart_stay_apart() -> None:
    before = example("harbour-light", shipped())
    made = move(before, shipped(), shipped().board("carrick-72")).plan
    grounds = {
        t.to
        for t in before.ties
        if shipped().board("bowline-40").pins.get(t.to.removeprefix("board."))
        and shipped().board("bowline-40").pins[t.to.removeprefix("board.")].kind == "ground"
    }
    now = {
        t.to
        for t in made.ties
        if t.to.startswith("board.")
        and (p := shipped().board("carrick-72").pins.get(t.to.removeprefix("board.")))
        and p.kind == "ground"
    }
    assert len(now) == len(grounds) > 2


def test_a_plan_moves_to_a_board_of_one_s_own_and_carries_it() -> None:
    own = replace(shipped().board("clove-22"), id="mine", title="Mine")
    made = move(example("harbour-light", shipped()), shipped(), own, carried=True)
    assert made.plan.board == "mine" and made.plan.carried is own
    assert analyse(made.plan, shipped()).circuit.board is own
    back = move(made.plan, shipped(), shipped().board("bowline-40"))
    assert back.plan.carried is None and back.count(Grade.IMPOSSIBLE) == 0


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_a_moved_plan_can_be_saved_and_opened_again(name: str) -> None:
    """Pull-ups between two parts hang on the board's rail too, and have to find one there."""
    parts: dict = {"Door": "push-button", "Mast": "i2c-thermometer", "Keel": "i2c-thermometer"}
    ties = {"door.contact": "p12", "mast.sda": "p14", "keel.sda": "mast.sda"}
    beads = {"door.contact": [PullUp(10e3, rail="board.p2")], "keel.sda": [PullUp(4700.0, rail="board.p1")]}
    made = move(lay("bowline-40", parts, ties, beads), shipped(), shipped().board(name)).plan
    assert loads(dumps(made), shipped()) == made
    assert made.tie("keel.sda").beads and made.tie("keel.sda").to == "mast.sda"
