import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullUp, SeriesResistor
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.ids import slug
from knotplan.core.text.changes import changes
from tests.conftest import lay, look_at


@given(st.lists(st.text(max_size=12), min_size=1, max_size=6))
def test_slugs_are_safe_and_never_collide(names: list[str]) -> None:
    taken: set[str] = set()
    for name in names:
        made = slug(name, taken)
        assert made not in taken and made != "board"
        assert made.replace("-", "").isalnum() and made == made.lower() and made.isascii()
        taken.add(made)


def test_a_tie_moves_with_what_hangs_on_it() -> None:
    plan = lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p11"}, {"lamp.anode": [SeriesResistor(270)]})
    plan = edits.set_role(edits.recolour(plan, "lamp.anode", "violet"), "lamp.anode", "lamp")
    moved = edits.tie(plan, "lamp.anode", "board.p13").tie("lamp.anode")
    assert (moved.to, moved.role, moved.cord, moved.beads) == (
        "board.p13",
        "lamp",
        "violet",
        (SeriesResistor(270),),
    )


def test_an_extra_tie_has_an_id_of_its_own() -> None:
    plan = lay("bowline-40", {"lamp": "led"}, {"lamp.cathode": "p5"})
    plan = edits.tie(plan, "lamp.cathode", "board.p10", extra=True)
    assert [t.id for t in plan.ties] == ["lamp.cathode", "lamp.cathode~2"]
    with pytest.raises(EditError, match="tied already"):
        edits.tie(plan, "lamp.cathode", "board.p10", extra=True)


def test_removing_a_part_takes_its_ties_along_from_both_ends() -> None:
    plan = lay(
        "bowline-40",
        {"flag": "micro-servo", "brick": "brick-5v"},
        {"flag.power": "brick.plus", "brick.zero": "p5"},
    )
    assert edits.remove_part(plan, "brick").ties == ()
    assert [p.id for p in edits.remove_part(plan, "brick").parts] == ["flag"]


def test_names_stay_unique_and_ids_stay() -> None:
    plan = lay("bowline-40", {"lamp": "led"}, {})
    plan = edits.add_part(plan, "led", "lamp")
    assert [(p.id, p.name) for p in plan.parts] == [("lamp", "lamp"), ("lamp-2", "lamp 2")]
    with pytest.raises(EditError, match="already"):
        edits.rename_part(plan, "lamp-2", "lamp")
    assert edits.rename_part(plan, "lamp-2", "Beacon").part("lamp-2").name == "Beacon"


def test_roles_are_names_that_programs_can_use() -> None:
    plan = lay("bowline-40", {"a": "led", "b": "led"}, {"a.anode": "p11", "b.anode": "p13"})
    plan = edits.set_role(plan, "a.anode", " quay lamp! ")
    assert plan.tie("a.anode").role == "quay_lamp"
    with pytest.raises(EditError, match="taken"):
        edits.set_role(plan, "b.anode", "Quay_Lamp")
    with pytest.raises(EditError, match="digit"):
        edits.set_role(plan, "b.anode", "2nd")


def test_four_turns_and_two_flips_are_nothing() -> None:
    plan = Plan("bowline-40")
    turned = plan
    for _ in range(4):
        turned = edits.turn(turned)
    assert turned == plan == edits.flip(edits.flip(plan))


def test_accepting_needs_a_reason_and_ends_when_circumstances_change() -> None:
    plan = lay(
        "bowline-40",
        {"lamp": "led", "usb": "usb-brick"},
        {"lamp.anode": "p11", "lamp.cathode": "p17", "usb.plug": "board.usb"},
        {"lamp.anode": [SeriesResistor(4700)]},
    )
    found = look_at(plan).findings[0]
    with pytest.raises(EditError, match="why"):
        edits.accept(plan, found.rule, found.subjects, found.message, "  ")
    plan = edits.accept(plan, found.rule, found.subjects, found.message, "a night light")
    report = look_at(plan)
    assert report.findings == () and [f.accepted for f in report.accepted] == ["a night light"]
    other = edits.change_bead(plan, "lamp.anode", 0, SeriesResistor(6800))
    assert [f.rule for f in look_at(other).findings] == ["led-current"]
    assert [
        f.rule for f in look_at(edits.withdraw(plan, found.rule, found.subjects, found.message)).findings
    ] == ["led-current"]


def test_changes_are_said_in_words() -> None:
    from knotplan.catalog.load import shipped

    plan = lay(
        "bowline-40", {"lamp": "led", "door": "push-button"}, {"lamp.anode": "p11", "door.contact": "p12"}
    )
    after = edits.add_bead(edits.tie(plan, "lamp.anode", "board.p13"), "lamp.anode", SeriesResistor(270))
    after = edits.add_bead(
        edits.set_pull(after, "door.contact", "up"), "door.contact", PullUp(1e4, rail="board.p2")
    )
    after = edits.add_part(edits.rename_part(after, "lamp", "Beacon"), "knob", "Dial")
    said = changes(Circuit(plan, shipped()), Circuit(after, shipped()))
    assert said == (
        "renames lamp to Beacon",
        "adds Dial (potentiometer, 10 kΩ linear)",
        "Beacon · anode: from L9 (pos 11) to L2 (pos 13)",
        "Beacon · anode: gets 270 Ω",
        "door · contact: the program switches the pin's pull-up on",
        "door · contact: gets 10 kΩ ↑",
    )
