"""What is done at the bench: noted as it was done, and compared with the plan as it is now."""

import random

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Diode, SeriesResistor
from knotplan.core.plan.document import Plan
from knotplan.core.plan.editing import edited
from knotplan.core.wiring.state import State, same, state_of, tasks_of
from knotplan.examples import SCENES, example
from tests.conftest import lay


def all_done(plan: Plan, catalog: Catalog) -> Plan:
    return edits.note_wired(plan, tasks_of(Circuit(plan, catalog)).values())


def state(plan: Plan, catalog: Catalog) -> State:
    return state_of(Circuit(plan, catalog))


@pytest.mark.parametrize("scene", [s for s in SCENES if s != "organ-shutters"])
def test_what_has_been_done_is_done(scene: str, catalog: Catalog) -> None:
    plan = example(scene, catalog)
    assert not state(plan, catalog).held
    after = state(all_done(plan, catalog), catalog)
    assert after.done == set(after.tasks) and not after.gone and not after.open


def test_an_edit_makes_what_it_touches_changed_and_nothing_else(catalog: Catalog) -> None:
    plan = all_done(example("harbour-light", catalog), catalog)
    tie = plan.tie_of("lamp.anode")
    assert tie is not None
    moved = edited(plan, catalog, edits.tie, "lamp.anode", "board.p12")
    now = state(moved, catalog)
    (changed,) = now.changed
    assert now.held[changed].to == tie.to and now.tasks[changed].to == "board.p12"
    assert now.done == set(now.tasks) - {changed} and not now.gone
    back = state(edited(moved, catalog, edits.tie, "lamp.anode", tie.to), catalog)
    assert not back.changed and not back.gone and back.done == set(back.tasks)


def test_beads_choices_and_pads_count_and_looks_do_not(catalog: Catalog) -> None:
    plan = all_done(example("harbour-light", catalog), catalog)
    tie = plan.tie_of("lamp.anode")
    assert tie is not None

    def changed(edit, *arguments) -> set[str]:
        return set(state(edited(plan, catalog, edit, *arguments), catalog).changed)

    assert changed(edits.change_bead, tie.id, 0, SeriesResistor(220.0)) == {f"cord:{tie.id}"}
    assert changed(edits.set_param, "lamp", "size", "3 mm") >= {f"cord:{tie.id}"}, (
        "another lamp is to be put in"
    )
    assert changed(edits.set_param, "air", "a0", "open") == {"part:air"}
    looks = (
        (edits.set_param, "lamp", "wish", 0.004),
        (edits.recolour, tie.id, "blue"),
        (edits.rename_part, "lamp", "Beacon"),
        (edits.set_role, tie.id, "LIGHT"),
        (edits.turn, 90),
        (edits.retitle, "other"),
        (edits.nudge, "lamp", "left"),
    )
    for edit, *arguments in looks:
        assert not changed(edit, *arguments), edit


def test_what_is_gone_can_still_be_told(catalog: Catalog) -> None:
    plan = all_done(example("harbour-light", catalog), catalog)
    cut = edited(plan, catalog, edits.remove_part, "lamp")
    gone = state(cut, catalog).gone
    assert {w.lead.split(".")[0] for w in gone} == {"lamp"} and len(gone) == 2
    assert all(any("Lamp" in text for text in w.called) for w in gone)
    assert len(cut.wired) == len(plan.wired), "what was plugged is not forgotten by an edit"


def test_another_board_changes_every_cord_to_the_board(catalog: Catalog) -> None:
    plan = all_done(lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p7", "lamp.cathode": "p9"}), catalog)
    other = replace(plan, board="capstan-34")
    assert len(state(other, catalog).changed) == 2


def test_a_tie_that_was_made_again_is_still_plugged(catalog: Catalog) -> None:
    plan = all_done(lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p7", "lamp.cathode": "p9"}), catalog)
    renamed = replace(plan, ties=tuple(replace(t, id=f"new-{k}") for k, t in enumerate(plan.ties)))
    now = state(renamed, catalog)
    assert now.done == set(now.tasks) and not now.gone


def test_a_cord_is_the_same_from_either_end(catalog: Catalog) -> None:
    plan = lay(
        "bowline-40",
        {"lamp": "led"},
        {"lamp.anode": "p7"},
        {"lamp.anode": [SeriesResistor(180.0), Diode("lead")]},
    )
    (one,) = (w for w in tasks_of(Circuit(plan, catalog)).values() if w.lead)
    turned = replace(
        one,
        lead=one.to,
        to=one.lead,
        owners=one.owners[::-1],
        beads=(Diode("pin"), SeriesResistor(180.0)),
    )
    assert same(one, turned) and same(turned, one)
    assert not same(one, replace(turned, beads=(Diode("lead"), SeriesResistor(180.0))))


def test_random_halves_are_told_apart(catalog: Catalog) -> None:
    """Whatever part of the tasks is done, and whatever is edited then: each task is in one state, nothing
    that was noted is lost, and doing what is left and changed, and unplugging what is gone, ends with all
    done."""
    rng = random.Random(5)
    start = example("seed-drawers", catalog)
    for _ in range(25):
        tasks = tasks_of(Circuit(start, catalog))
        plan = edits.note_wired(start, [w for w in tasks.values() if rng.random() < 0.6])
        for _ in range(3):
            tie = rng.choice(plan.ties)
            kind = rng.choice(("untie", "tie", "part"))
            if kind == "untie":
                plan = edited(plan, catalog, edits.untie, tie.id)
            elif kind == "part":
                plan = edited(plan, catalog, edits.remove_part, tie.lead.split(".")[0])
            else:
                pins = [f"board.{p}" for p in Circuit(plan, catalog).board.pins]
                plan = edited(plan, catalog, edits.tie, tie.lead, rng.choice(pins))
        now = state(plan, catalog)
        assert set(now.open) | now.done | set(now.changed) == set(now.tasks)
        assert len(now.held) + len(now.gone) == len(plan.wired)
        again = edits.note_wired(
            edits.note_wired(plan, undone={w.task for w in (*now.held.values(), *now.gone)}),
            now.tasks.values(),
        )
        whole = state(again, catalog)
        assert whole.done == set(whole.tasks) and not whole.gone
