import json

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Diode, LevelShifter, PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import PlacedPart, Plan, Tie
from knotplan.examples import example, names
from knotplan.exchange.plan_file import PlanFileError, dumps, load, loads, save, schema
from tests.conftest import lay

DEMO = dumps(example("harbour-light", shipped()))


def errors(data: bytes) -> dict[str, str]:
    with pytest.raises(PlanFileError) as caught:
        loads(data, shipped(), "bad.json")
    assert all(why in str(caught.value) for _, why in caught.value.errors[:50])
    return dict(caught.value.errors)


def changed(**paths: object) -> bytes:
    """The demo with values replaced, by dotted paths with __ for the dot."""
    tree = json.loads(DEMO)
    for path, value in paths.items():
        *way, last = [int(p) if p.isdigit() else p for p in path.split("__")]
        here = tree
        for step in way:
            here = here[step]
        here[last] = value
    return json.dumps(tree).encode()


@pytest.mark.parametrize("name", names())
def test_every_example_survives_a_round_trip_to_the_byte(name: str) -> None:
    plan = example(name, shipped())
    assert loads(dumps(plan), shipped()) == plan
    assert dumps(loads(dumps(plan), shipped())) == dumps(plan)


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    plan = Plan(draw(st.sampled_from(["bowline-40", "clove-22"])), title=draw(st.text(max_size=20)))
    pins = list(shipped().board(plan.board).pins)
    for _ in range(draw(st.integers(0, 4))):
        plan = edits.add_part(
            plan, "led", draw(st.text(max_size=8)) or "x", {"colour": draw(st.sampled_from(["red", "blue"]))}
        )
        lead = f"{plan.parts[-1].id}.{draw(st.sampled_from(['anode', 'cathode']))}"
        plan = edits.tie(plan, lead, f"board.{draw(st.sampled_from(pins))}")
        ohm = draw(st.floats(0.1, 1e7))
        bead = draw(
            st.sampled_from([SeriesResistor(ohm), PullUp(ohm, rail=f"board.{pins[0]}"), PullDown(ohm)])
        )
        plan = edits.add_bead(plan, lead, bead)
    return plan


@given(plans())
def test_any_plan_survives_and_satisfies_the_schema(plan: Plan) -> None:
    assert loads(dumps(plan), shipped()) == plan
    jsonschema.Draft202012Validator(schema()).validate(json.loads(dumps(plan)))


def test_the_schema_is_a_schema_and_refuses_what_the_reader_refuses() -> None:
    jsonschema.Draft202012Validator.check_schema(schema())
    for bad in (
        changed(turned=45),
        changed(ties__0__beads__0__ohm=-1),
        changed(ties__0__beads__0__rating_w=1e300),
        changed(ties__0__nonsense=1),
    ):
        assert list(jsonschema.Draft202012Validator(schema()).iter_errors(json.loads(bad)))
        errors(bad)


def test_one_edit_is_one_changed_line() -> None:
    plan = example("harbour-light", shipped())
    after = dumps(edits.tie(plan, "flag.signal", "board.p24")).splitlines()
    before = dumps(plan).splitlines()
    assert len(before) == len(after)
    assert sum(a != b for a, b in zip(before, after, strict=True)) == 1


@pytest.mark.parametrize(
    ("data", "place", "words"),
    [
        (b"", "", "empty"),
        (b" \n", "", "empty"),
        (b"plan", "line 1, column 1", "not JSON"),
        (b'{"a": 1}', "format", "is missing, so this is no plan"),
        (b"{", "line 1, column 2", "not JSON"),
        (DEMO[: len(DEMO) // 2], "line ", "not JSON"),
        (b"\xff\xfe{}", "byte 0", "not UTF-8"),
        (b"[1, 2]", "", "not a plan"),
        (b'{"format": "other", "version": 1}', "format", "'other'"),
        (b'{"format": "knotplan-plan", "version": 3}', "version", "newer"),
        (b'{"format": "knotplan-plan", "version": true}', "version", "whole number"),
        (b'{"format": "knotplan-plan", "version": 1, "version": 1}', "", "twice"),
        (b'{"format": "knotplan-plan", "version": 1, "board": NaN}', "", "NaN"),
        (b'{"a":' * 30000, "", ""),
    ],
)
def test_damaged_foreign_and_newer_files(data: bytes, place: str, words: str) -> None:
    found = errors(data)
    assert any(p.startswith(place) and words in why for p, why in found.items()), found


def test_all_errors_are_listed_together_with_their_places() -> None:
    found = errors(
        changed(
            board="bowlin-40",
            parts__0__part="ledd",
            parts__1__params__colour="pink",
            ties__2__lead="red-pier-light.anod",
            ties__8__to="flag.nothing",
        )
    )
    assert "did you mean 'bowline-40'" in found["board"]
    assert "did you mean 'led'" in found["parts[0].part"]
    assert "'pink' is none of red" in found["parts[1].params.colour"]
    assert "did you mean 'anode'" in found["ties[2].lead"]
    assert "no lead 'nothing'" in found["ties[8].to"]


def test_errors_of_type_do_not_hide_errors_of_reference() -> None:
    found = errors(
        changed(board="bowlin-40", parts__0__name=3, parts__1__part="ledd", ties__2__lead="nobody.anode")
    )
    assert "'string'" in found["parts[0].name"]
    assert "did you mean 'bowline-40'" in found["board"]
    assert "did you mean 'led'" in found["parts[1].part"]
    assert "no part 'nobody'" in found["ties[2].lead"]
    assert len(found) == 4  # the ties of the part with the odd name are not called unknown


def test_an_ambiguous_pin_name_in_a_file_offers_its_meanings() -> None:
    why = errors(changed(ties__0__to="board.12"))["ties[0].to"]
    assert "'12' could mean 'board.p12' or 'board.p4' or 'board.p32'" in why
    assert "perhaps 'board.p7'" in errors(changed(ties__0__to="board.L22"))["ties[0].to"]


def test_wrong_types_and_unknown_keys_are_placed() -> None:
    found = errors(
        changed(turned="90", ties__0__beads=[{"kind": "resistr", "ohm": 1}], ties__1__rolle="x", flipped=1)
    )
    assert set(found) == {"turned", "flipped", "ties[0].beads[0].kind", "ties[1]"}
    assert "did you mean 'resistor'" in found["ties[0].beads[0].kind"]
    assert "did you mean 'role'" in found["ties[1]"]


def test_a_bead_that_is_wrong_is_told_by_its_own_kind() -> None:
    beads = [
        {"kind": "capacitor", "farad": "much"},
        {"kind": "capacitr", "farad": 1e-6},
        {"kind": "diode", "towards": "led"},
        {"kind": "capacitor", "farad": 1e-6, "volt": 3},
        {"kind": "fuse", "amps": -1},
    ]
    found = errors(changed(ties__0__beads=beads))
    assert found["ties[0].beads[0].farad"] == "'much' is not of type 'number'"
    assert "level-shifter, fuse, zener; did you mean 'capacitor'?" in found["ties[0].beads[1].kind"]
    assert found["ties[0].beads[2].towards"] == "'led' is none of lead, pin; did you mean 'lead'?"
    assert found["ties[0].beads[3]"] == "has an unknown key 'volt'; did you mean 'volts'?"
    assert found["ties[0].beads[4].amps"].startswith("-1 is less")


def test_a_plan_with_a_bead_whose_rail_is_not_chosen_yet_can_be_opened_again() -> None:
    plan = lay(
        "bowline-40",
        {"Door": "push-button"},
        {"door.contact": "p11"},
        {"door.contact": [PullUp(10e3), LevelShifter()]},
    )
    assert loads(dumps(plan), shipped()) == plan


def test_ids_that_could_confuse_are_refused() -> None:
    found = errors(
        changed(parts__0__id="board", parts__1__id="a.b", parts__2__id="../x", ties__1__id="lamp.anode")
    )
    assert {"parts[0].id", "parts[1].id", "parts[2].id", "ties[1].id"} <= set(found)


def test_a_huge_file_is_refused_before_it_is_read(tmp_path, monkeypatch) -> None:
    path = tmp_path / "huge.json"
    save(example("harbour-light", shipped()), path)
    monkeypatch.setattr("knotplan.exchange.plan_file.MOST_BYTES", 100)
    with pytest.raises(PlanFileError, match="larger"):
        load(path, shipped())


def test_saving_replaces_in_one_step_and_keeps_the_old_file_on_failure(tmp_path, monkeypatch) -> None:
    path = tmp_path / "plan.knot.json"
    plan = example("harbour-light", shipped())
    save(plan, path)
    path.chmod(0o640)
    save(edits.retitle(plan, "Other"), path)
    assert load(path, shipped()).title == "Other"
    assert path.stat().st_mode & 0o777 == 0o640

    def fails(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", fails)
    with pytest.raises(OSError, match="No space"):
        save(plan, path)
    assert load(path, shipped()).title == "Other"
    assert list(tmp_path.iterdir()) == [path]


def test_activities_are_checked_with_everything_else() -> None:
    activities = [
        {"id": "glow", "title": "Glow", "parts": ["lampp"], "excludes": ["horn", "glow"]},
        {"id": "glow", "title": "Again", "lasts_s": 1.0},
        {"id": "bad", "title": "Bad", "lasts_s": 0},
    ]
    found = errors(changed(activities=activities))
    assert "did you mean 'lamp'" in found["activities[0].parts[0]"]
    assert found["activities[1].id"] == "'glow' is given twice"
    assert "cannot exclude itself" in found["activities[0].excludes[1]"]
    assert "activities[2].lasts_s" in found and "activities[0].excludes[0]" in found


def test_an_activity_that_cannot_be_read_is_there_all_the_same() -> None:
    """What excludes it is not blamed for its mistake."""
    activities = [
        {"id": "wind", "title": "Wind", "starts_s": "soon"},
        {"id": "glow", "title": "Glow", "excludes": ["wind"]},
    ]
    assert set(errors(changed(activities=activities))) == {"activities[0].starts_s"}


def test_two_ties_of_one_pair_are_one_too_many() -> None:
    """The window refuses the second; a file may not bring it, whichever way round."""
    plan = Plan(
        "clove-22",
        parts=(PlacedPart("lamp", "led", "Lamp"), PlacedPart("low", "led", "Low")),
        ties=(Tie("a", "lamp.anode", "low.anode"), Tie("b", "low.anode", "lamp.anode")),
    )
    with pytest.raises(PlanFileError) as caught:
        loads(dumps(plan), shipped())
    assert "ties[1]: 'low.anode' and 'lamp.anode' are tied already, by 'a'" in str(caught.value)


def test_a_choice_is_listed_without_the_empty_one() -> None:
    ties = [{"id": "a", "lead": "lamp.anode", "to": "board.p7", "lay": "knotted"}]
    assert errors(changed(ties=ties))["ties[0].lay"].startswith("'knotted' is none of ribbon, ")


def test_a_file_may_name_its_schema_and_begin_with_a_mark() -> None:
    tree = {"$schema": "plan.schema.json", **json.loads(DEMO)}
    jsonschema.Draft202012Validator(schema()).validate(tree)
    assert loads(b"\xef\xbb\xbf" + json.dumps(tree).encode(), shipped()) == loads(DEMO, shipped())


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('"cycle_s": 1e999', "no number that is reckoned with"),
        ('"cycle_s": ' + "9" * 5000, "of 5000 digits"),
        ('"cycle_s": 1e-400', "no number that is reckoned with"),
        ('"title": "\\ud800"', "half a letter"),
        ('"title": ' + "[" * 200 + "]" * 200, "levels deep"),
        ('"title": "' + "n" * 3000 + '"', "has 3000 letters"),
        ('"series": "E7"', "no series of preferred values"),
    ],
)
def test_what_no_file_can_hold_or_nobody_writes_is_told(text: str, words: str) -> None:
    data = f'{{"format": "knotplan-plan", "version": 1, "board": "bowline-40", {text}}}'.encode()
    assert any(words in why for why in errors(data).values())


def test_a_wire_told_from_its_giving_end_is_turned_with_its_beads() -> None:
    """A diode that lets current towards the brick is the same diode from wherever the wire is told."""
    plan = lay("bowline-40", {"Flag": "micro-servo", "Brick": "brick-5v"}, {})
    one = (Diode("pin"), LevelShifter("mosfet", "brick.plus", ""))
    other = (LevelShifter("mosfet", "", "brick.plus"), Diode("lead"))
    there = replace(plan, ties=(Tie("a", "flag.power", "brick.plus", beads=one),))
    back = replace(plan, ties=(Tie("a", "brick.plus", "flag.power", beads=other),))
    assert loads(dumps(back), shipped()) == there == loads(dumps(there), shipped())
