"""Board files: everything wrong is told with its place, nothing is lost
in writing, and nothing takes long."""

import tomllib
from pathlib import Path

import msgspec
import pytest
from msgspec.structs import replace

from knotplan.catalog.board.check import MOST_FAULTS
from knotplan.catalog.load import Catalog, UnknownEntryError, shipped
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.exchange import board_file, plan_file
from knotplan.exchange.board_file import BoardFileError
from knotplan.exchange.plan_file import PlanFileError
from tests.conftest import look_at

GOOD = shipped().path_of("clove-22").read_text("utf-8")


def errors(text: str, name: str = "mine") -> list[str]:
    with pytest.raises(BoardFileError) as caught:
        board_file.loads(text, name)
    return [f"{place}: {why}" for place, why in caught.value.errors]


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_what_is_written_is_read_again(name: str) -> None:
    board = shipped().board(name)
    again = board_file.loads(board_file.dumps(board), name)
    assert msgspec.to_builtins(again) == msgspec.to_builtins(board)


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_comments_stay_when_a_board_is_changed(name: str) -> None:
    old = shipped().path_of(name).read_text("utf-8")
    text = board_file.dumps(replace(shipped().board(name), title="Another", all_pins_a=0.123), old)
    comments = [line for line in old.splitlines() if line.startswith("#")]
    assert [line for line in text.splitlines() if line.startswith("#")] == comments
    assert tomllib.loads(text)["all_pins_a"] == 0.123


def test_all_errors_are_told_together_each_with_its_line_and_the_nearest_word() -> None:
    text = GOOD.replace('rail = "5v"', 'rail = "5w"', 1).replace(
        'reserved = "indicator"', 'reserved = "indicater"'
    )
    text = text.replace('"pwm:0.a"', '"pwn:0.a"')
    said = errors(text)
    assert len(said) == 3
    assert "sockets.usb.rail: '5w' is no rail of this board; did you mean '5v'?" in said[0] and said[
        0
    ].startswith("line ")
    number = next(k for k, line in enumerate(text.splitlines(), 1) if "indicater" in line)
    assert f"line {number}, pins.w15.reserved: 'indicater' is no reservation" in said[1]
    assert "'pwn' is no kind of function; did you mean 'pwm'?" in said[2]


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("logic_v = 5.0", 'logic_v = "five"', "logic_v: 'five' is not of type 'number'"),
        ("logic_v = 5.0", "logic_v = inf", "logic_v: inf is no quantity"),
        ("[outline]", "[outlines]", "has an unknown key 'outlines'; did you mean 'outline'?"),
        ("row = 5, col = 1", "row = 4, col = 1", "lies where"),
        ("row = 15, col = 1", "row = 16, col = 1", "lies outside west edge, which has 15 × 1"),
        ('printed = "A1"', 'printed = "A0"', "'A0' is the name of 'w4' in this scheme too"),
        (
            'printed = "A1"',
            'printd = "A1"',
            "'printd' is no name scheme of this board; did you mean 'printed'?",
        ),
        ("volts = [4.75, 5.0, 5.25]", "volts = [5.25, 5.0, 4.75]", "rising order"),
        ('fed_from = "vin"', 'fed_from = "5v"', "rails feed one another in a circle"),
        ("limit_a = 0.45", "limit_a = -1", "has to be above zero"),
        (
            'spoken = "printed"',
            'spoken = "print"',
            "'print' is no name scheme of this board; did you mean 'printed'?",
        ),
        ("bits = 10", "bits = 100", "100 is no resolution of a converter"),
    ],
)
def test_each_kind_of_mistake_is_named(old: str, new: str, words: str) -> None:
    assert old in GOOD
    assert any(words in e for e in errors(GOOD.replace(old, new, 1)))


def test_a_missing_pin_is_told_by_its_header() -> None:
    lines = [line for line in GOOD.splitlines() if not line.startswith("w7 = ")]
    assert any("headers.west: 1 of its 15 contacts are not described" in e for e in errors("\n".join(lines)))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "the file is empty"),
        ("title = ", "end of document: is not TOML"),
        ("title = ]\n", "line 1, column 9: is not TOML"),
        ("a = " + "[" * 5000, "is nested more deeply than any board"),
        ("[pins]\n" + "".join(f"p{k} = 1\n" for k in range(2001)), "2001 pins are more than any board has"),
        ('id = "x"\n' + GOOD, "a board's id is the file's name"),
        ("pins = 3", "pins: 3 is not of type 'object'"),
    ],
)
def test_files_that_are_no_boards_at_all(text: str, words: str) -> None:
    assert any(words in e for e in errors(text))


def test_a_million_pins_are_refused_by_size(tmp_path: Path) -> None:
    path = tmp_path / "huge.toml"
    path.write_text("[pins]\n" + "".join(f"p{k} = {{ row = {k}, col = 1 }}\n" for k in range(1_000_000)))
    with pytest.raises(BoardFileError, match="larger than 400 kB"):
        board_file.load(path)
    with pytest.raises(PlanFileError, match="1000000 pins are more than any board has"):
        pins = dict.fromkeys(map(str, range(1_000_000)), 0)
        tree = {"format": "knotplan-plan", "version": 1, "board": "x", "carried": {"pins": pins}}
        plan_file.loads(msgspec.json.encode(tree), shipped())


@pytest.mark.slow
def test_however_much_is_wrong_only_so_much_is_looked_for() -> None:
    """The search for near words takes a while for each; this file has thousands of mistakes."""
    wrong = "\n".join(
        f'q{k} = {{ row = 1, col = 1, names = {{ printed = "D1" }}, driver = "d{k}" }}' for k in range(1900)
    )
    assert len(errors(f"{GOOD}\n{wrong}")) == MOST_FAULTS
    tree = {
        "format": "knotplan-plan",
        "version": 1,
        "board": "clove-22",
        "ties": [{"id": f"t{k}", "lead": f"lamp{k}.anode", "to": f"board.q{k}"} for k in range(20_000)],
    }
    with pytest.raises(PlanFileError) as caught:
        plan_file.loads(msgspec.json.encode(tree), shipped())
    assert len(caught.value.errors) == MOST_FAULTS


def test_a_file_that_is_not_text(tmp_path: Path) -> None:
    path = tmp_path / "odd.toml"
    path.write_bytes(b"title = '\xff'")
    with pytest.raises(BoardFileError, match="is not UTF-8"):
        board_file.load(path)


# --- the maker's own ------------------------------------------------------------------------------


@pytest.fixture
def own(tmp_path: Path) -> Catalog:
    (tmp_path / "boards").mkdir()
    (tmp_path / "boards" / "mine.toml").write_text(GOOD.replace('title = "Clove 22"', 'title = "Mine"'))
    (tmp_path / "boards" / "broken.toml").write_text(GOOD.replace('driver = "indicator"', 'driver = "x"'))
    (tmp_path / "boards" / "clove-22.toml").write_text(
        GOOD.replace('title = "Clove 22"', 'title = "An impostor"')
    )
    return Catalog(own=tmp_path)


def test_own_boards_stand_beside_the_others_and_never_replace_them(own: Catalog) -> None:
    assert own.own_board_ids() == ("broken", "mine") and own.board("mine").title == "Mine"
    assert own.board("clove-22").title == "Clove 22"


def test_a_broken_board_says_so_and_the_others_work(own: Catalog) -> None:
    with pytest.raises(
        UnknownEntryError, match=r"broken.toml cannot be used: pins.w15.driver: 'x' is no driver"
    ):
        own.board("broken")
    assert own.board("mine")


def test_a_plan_carries_its_own_board_to_where_nobody_knows_it(own: Catalog, tmp_path: Path) -> None:
    plan = edits.add_part(Plan("mine", carried=own.board("mine")), "led", "Lamp")
    plan = edits.tie(plan, "lamp.anode", "board.e5")
    plan_file.save(plan, tmp_path / "p.knot.json")
    again = plan_file.load(tmp_path / "p.knot.json", shipped())
    assert again.carried is not None and again.carried.title == "Mine"
    assert look_at(again).circuit.titles.of("board.e5") == "D2"
    assert plan_file.dumps(again) == plan_file.dumps(plan)


def test_what_is_wrong_with_a_carried_board_is_told_with_its_place(own: Catalog) -> None:
    tree = msgspec.json.decode(plan_file.dumps(Plan("mine", carried=own.board("mine"))))
    tree["carried"]["pins"]["e5"]["driver"] = "iO"
    tree["board"] = "other"
    with pytest.raises(PlanFileError) as caught:
        plan_file.loads(msgspec.json.encode(tree), shipped())
    assert dict(caught.value.errors) == {
        "carried.pins.e5.driver": "'iO' is no driver of this board; did you mean 'io'?",
        "board": "'other' is not the board that the plan carries, 'mine'",
    }


def test_a_setting_that_the_board_has_not_is_told() -> None:
    with pytest.raises(
        PlanFileError, match=r"set_up\[0\]: 'radoi' is no setting of Halyard W; did you mean 'radio'"
    ):
        plan_file.loads(plan_file.dumps(Plan("halyard-w", set_up=("radoi",))), shipped())


def test_a_plan_cannot_bring_its_own_idea_of_a_board_of_ours(own: Catalog) -> None:
    false = replace(shipped().board("clove-22"), all_pins_a=99.0)
    with pytest.raises(
        PlanFileError, match=r"carried\.id: 'clove-22' is a board that comes with the program"
    ):
        plan_file.loads(plan_file.dumps(Plan("clove-22", carried=false)), shipped())


def test_a_changed_board_takes_away_only_the_ties_that_have_lost_their_contact(own: Catalog) -> None:
    board = own.board("mine")
    plan = Plan("mine", carried=board)
    for k, pin in enumerate(("e5", "e6")):
        plan = edits.tie(edits.add_part(plan, "led", f"Lamp {k}"), f"lamp-{k}.anode", f"board.{pin}")
    smaller = replace(board, pins={k: p for k, p in board.pins.items() if k != "e6"})
    assert [t.to for t in edits.carry(plan, smaller).ties] == ["board.e5"]


def test_catalogue_files_are_kept_in_a_form_that_is_read_at_once(own: Catalog, tmp_path: Path) -> None:
    kept = tmp_path / "kept"
    store = Catalog(own=tmp_path, kept=kept)
    first = store.board("mine")
    assert (kept / "boards-mine.json").exists()
    assert msgspec.to_builtins(Catalog(own=tmp_path, kept=kept).board("mine")) == msgspec.to_builtins(first)
    path = tmp_path / "boards" / "mine.toml"
    path.write_text(path.read_text().replace('title = "Mine"', 'title = "Changed"'))
    assert Catalog(own=tmp_path, kept=kept).board("mine").title == "Changed"
    (kept / "boards-mine.json").write_text("{ not json")
    assert Catalog(own=tmp_path, kept=kept).board("mine").title == "Changed"
    nowhere = tmp_path / "file"
    nowhere.write_text("")
    assert Catalog(own=tmp_path, kept=nowhere / "x").board("mine").title == "Changed"


def test_only_what_is_asked_for_is_read(tmp_path: Path) -> None:
    store = Catalog(kept=tmp_path)
    store.board_ids()
    store.part_ids()
    assert not list(tmp_path.iterdir())
    store.board("toggle")
    assert [p.name for p in tmp_path.iterdir()] == ["boards-toggle.json"]
