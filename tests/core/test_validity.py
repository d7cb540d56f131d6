"""What makes a plan valid, asked by edits and by the reader alike."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullUp
from knotplan.core.plan.document import Assumed, BusClock, CarriedPart, PlacedPart, Plan, Tie
from knotplan.core.plan.editing import edited
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.validity.fault import spelled
from knotplan.core.plan.validity.faults import faults, settled
from knotplan.core.plan.validity.leaving_out import without
from knotplan.core.plan.validity.texts import text_fault
from knotplan.examples import example, names
from knotplan.exchange.plan_file import PlanFileError, dumps, loads
from tests.conftest import lay

CATALOG = shipped()
BENCH = lay(
    "bowline-40",
    {"Flag": "micro-servo", "Brick": "brick-5v", "Door": "push-button"},
    {"flag.power": "brick.plus", "brick.zero": "p5", "door.contact": "p11"},
    {"door.contact": [PullUp(1e4, rail="brick.plus")]},
)


@pytest.mark.parametrize("name", names())
def test_every_example_is_valid(name: str) -> None:
    assert list(faults(example(name, CATALOG), CATALOG)) == []


def test_an_unknown_board_hides_nothing_that_does_not_hang_on_it() -> None:
    plan = replace(
        BENCH,
        board="bowline-41",
        parts=(*BENCH.parts, PlacedPart("lamp", "lde", "Lamp")),
        assumes=(Assumed("aier", 30.0), Assumed("edge", 9.0)),
    )
    places = [fault.place for fault in faults(plan, CATALOG)]
    assert {("board",), ("parts", 3, "part"), ("assumes", 0, "id"), ("assumes", 1, "value")} <= set(places)


def test_what_an_edit_takes_away_takes_along_what_referred_to_it() -> None:
    """A supply goes, and with it the pull-up that led to it: that plan was saved once, and refused."""
    after = edited(BENCH, CATALOG, edits.remove_part, "brick")
    assert [t.id for t in after.ties] == ["door.contact"] and after.tie("door.contact").beads == ()
    assert loads(dumps(after), CATALOG) == after


def test_a_clock_goes_with_its_bus_and_a_scheme_with_its_board() -> None:
    from knotplan.core.suggest.moving import move

    plan = edits.speak(edits.set_clock(Plan("bowline-40"), "board.i2c:1", 1e5), "kernel")
    after = edited(plan, CATALOG, lambda p: move(p, CATALOG, CATALOG.board("toggle")).plan)
    assert (after.clocks, after.scheme, after.board) == ((), "", "toggle")


def test_a_lead_that_a_choice_takes_away_takes_its_tie_along() -> None:
    """A module of two relays becomes one of one."""
    plan = edits.add_part(Plan("bowline-40"), "relay-module", "Relays", {"channels": "2"})
    both = set(CATALOG.part("relay-module", {"channels": "2"}).leads)
    one = set(CATALOG.part("relay-module", {"channels": "1"}).leads)
    gone = sorted(both - one)
    plan = edits.tie(plan, f"relays.{gone[0]}", "board.p11")
    assert edited(plan, CATALOG, edits.set_param, "relays", "channels", "1").ties == ()


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (lambda p: edits.tie(p, "door.common", "board.p999"), "no contact of Bowline 40"),
        (lambda p: edits.tie(p, "nobody.lead", "board.p3"), "there is no part 'nobody'"),
        (lambda p: edits.retitle(p, "\ud800"), "half a letter"),
        (lambda p: edits.retitle(p, "n" * 5000), "has 5000 letters"),
        (lambda p: edits.set_param(p, "flag", "nonsense", 1.0), "is no parameter"),
        (lambda p: edits.add_part(p, "no-such", "X"), "There is no part 'no-such' in the catalogue"),
        (lambda p: edits.speak(p, "martian"), "no name scheme"),
        (lambda p: replace(p, set_up=("no-such",)), "is no setting of Bowline 40"),
        (lambda p: replace(p, set_up=("console", "console")), "is given twice"),
        (lambda p: replace(p, parts=(*p.parts, p.parts[0])), "is given twice"),
        (lambda p: edits.set_series(p, "E7"), "no series"),
        (
            lambda p: edits.set_program_setting(p, "flag", "at", float("inf")),
            "no number that a file can hold",
        ),
        (lambda p: replace(p, ties=(*p.ties, replace(p.ties[0], id="other"))), "are tied already"),
        (lambda p: replace(p, ties=(*p.ties, Tie("x", "door.common", "door.common"))), "tied to itself"),
        (lambda p: replace(p, parts=(*p.parts, PlacedPart("board", "led", "X"))), "is no id"),
        (
            lambda p: replace(p, clocks=(BusClock("board.i2c:1", 1e5), BusClock("board.i2c:1", 4e5))),
            "given twice",
        ),
        (lambda p: edits.carry_part(p, CarriedPart("mine", ("title = 'x'",))), "Is missing"),
        (lambda p: edits.carry_part(p, CarriedPart("led", ("title = 'x'",))), "comes with the program"),
        (lambda p: edits.remove_part(p, "nobody"), "no longer has"),
    ],
)
def test_an_edit_that_asks_for_what_no_plan_can_be_is_refused(edit, words: str) -> None:
    with pytest.raises(EditError, match=words) as caught:
        edited(BENCH, CATALOG, edit)
    said = str(caught.value)
    assert (not said[0].islower()) and said[-1] in ".?" and "?." not in said


def test_reader_and_edits_agree_about_what_is_valid() -> None:
    odd = replace(BENCH, ties=(*BENCH.ties, Tie("x", "nobody.lead", "board.p3")), series="E7")
    found = [(spelled(f.place), f.why) for f in faults(odd, CATALOG)]
    with pytest.raises(PlanFileError) as caught:
        loads(dumps(odd), CATALOG)
    assert list(caught.value.errors) == found and len(found) == 2
    assert caught.value.rest is not None and caught.value.rest.plan == settled(odd, CATALOG) == BENCH
    assert caught.value.rest.lost == ("the tie of nobody.lead to board.p3", "the series 'E7'")


def test_leaving_out_takes_along_what_refers_to_it() -> None:
    """A part of unknown kind goes, its tie, the bead that led to it, and it is left out of the activity."""
    plan = edits.add_activity(BENCH, "Opening", ("door", "brick"))
    odd = replace(plan, parts=tuple(replace(p, part="brck") if p.id == "brick" else p for p in plan.parts))
    rest = settled(odd, CATALOG)
    assert rest is not None and [p.id for p in rest.parts] == ["flag", "door"]
    assert [t.id for t in rest.ties] == ["door.contact"] and rest.ties[0].beads == ()
    assert rest.activities[0].parts == ("door",)


def test_a_plan_on_an_unknown_board_has_no_rest() -> None:
    assert settled(Plan("bowlin-40"), CATALOG) is None


@given(st.text(st.characters(codec="utf-8"), max_size=50))
def test_every_text_that_utf8_holds_is_sound(text: str) -> None:
    assert text_fault(text) is None and text.encode("utf-8").decode("utf-8") == text


def test_leaving_out_several_keeps_the_rest_in_order() -> None:
    ties = tuple(replace(t, lead=f"no.{k}") if k != 1 else t for k, t in enumerate(BENCH.ties))
    wrong = list(faults(replace(BENCH, ties=ties), CATALOG))
    assert [t.id for t in without(BENCH, wrong).ties] == [BENCH.ties[1].id]
