"""The kept form of catalogue files, and the rules by which boards check themselves, one by one."""

from pathlib import Path

import pytest
from msgspec.structs import replace

from knotplan.catalog.board.check import MOST_FAULTS, faults
from knotplan.catalog.board.function import Function, parse_function
from knotplan.catalog.board.system import Setting
from knotplan.catalog.kept import tree_of
from knotplan.catalog.load import Catalog, shipped

CLOVE = shipped().board("clove-22")


def toml_file(folder: Path, name: str, text: str) -> Path:
    """One file of a catalogue's boards."""
    (folder / "boards").mkdir()
    path = folder / "boards" / f"{name}.toml"
    path.write_text(text)
    return path


@pytest.mark.parametrize("text", ["a = inf\n", "a = 1979-05-27\n", "a = nan\n"])
def test_what_json_cannot_hold_is_read_anew_each_time(tmp_path: Path, text: str) -> None:
    path = toml_file(tmp_path, "odd", text)
    first = tree_of(path, tmp_path / "kept")
    assert repr(tree_of(path, tmp_path / "kept")) == repr(first)
    assert not (tmp_path / "kept" / "boards-odd.json").exists()


def test_no_damaged_byte_of_what_is_kept_changes_what_is_read(tmp_path: Path) -> None:
    path = toml_file(tmp_path, "b", "a = 1\nname = 'x'\n")
    tree_of(path, tmp_path)
    kept = tmp_path / "boards-b.json"
    whole = kept.read_bytes()
    for at in range(len(whole)):
        kept.write_bytes(whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :])
        assert tree_of(path, tmp_path) == {"a": 1, "name": "x"}
        assert kept.read_bytes() == whole, "it was made anew"


def test_a_kept_tree_stands_only_as_long_as_its_text_does(tmp_path: Path) -> None:
    path = toml_file(tmp_path, "b", "a = 1\n")
    tree_of(path, tmp_path)
    kept = tmp_path / "boards-b.json"
    kept.write_text(kept.read_text().replace('"a":1', '"a":2'))
    assert tree_of(path, tmp_path) == {"a": 1}, "what does not agree with its digest is made anew"
    path.write_text("a = 3\n")
    assert tree_of(path, tmp_path) == {"a": 3}


def test_a_board_file_beside_the_folder_is_never_reached(tmp_path: Path) -> None:
    (tmp_path / "own" / "boards").mkdir(parents=True)
    (tmp_path / "secret.toml").write_text("title = 1\n")
    for entry in ("../secret", "../../secret", "boards/../../secret", "/etc/hostname", ".", ""):
        with pytest.raises(LookupError, match="no board"):
            Catalog(own=tmp_path / "own").path_of(entry)


@pytest.mark.parametrize(
    ("text", "function"),
    [
        ("digital", Function("digital")),
        ("pwm:A.1", Function("pwm", "A", "1")),
        ("uart:1.tx~2", Function("uart", "1", "tx", "2")),
        ("pwm:any", Function("pwm", "any")),
        ("spi:0.select-1", Function("spi", "0", "select-1")),
        ("adc:2", Function("adc", "2")),
    ],
)
def test_functions_are_spelled_and_read_alike(text: str, function: Function) -> None:
    assert parse_function(text) == function and str(function) == text


@pytest.mark.parametrize("text", ["", "PWM", "pwm:", "pwm:A.", "pwm:A.1~", "pwm A", "pwm:A.1.2"])
def test_what_is_no_function_says_so(text: str) -> None:
    with pytest.raises(ValueError, match="is not a function such as"):
        parse_function(text)


def changed(**fields: object) -> list[str]:
    return [f"{place}: {why}" for place, why in faults(replace(CLOVE, **fields))]


def test_what_refers_to_nothing_is_named() -> None:
    bank = replace(CLOVE.banks["pa"], pins=("e5", "e55"))
    assert changed(banks={"pa": bank}) == ["banks.pa.pins: 'e55' is no pin of this board; did you mean 'e5'?"]
    unit = replace(CLOVE.peripherals["pwm:0"], setting="pulse")
    settings = {"pulses": Setting("the pulses", "off", "say so")}
    assert changed(peripherals={**CLOVE.peripherals, "pwm:0": unit}, settings=settings) == [
        "peripherals.pwm:0.setting: 'pulse' is no setting of this board; did you mean 'pulses'?"
    ]
    held = replace(CLOVE.reservations["indicator"], setting="x")
    assert changed(reservations={**CLOVE.reservations, "indicator": held}) == [
        "reservations.indicator.setting: 'x' is no setting of this board"
    ]


def test_what_only_some_contacts_have_is_refused_on_others() -> None:
    ground = replace(CLOVE.pins["w2"], functions=("digital",), rail="5v")
    said = changed(pins={**CLOVE.pins, "w2": ground})
    assert said == [
        "pins.w2.rail: only supply pins have a rail, and this is 'ground'",
        "pins.w2.functions: only signal pins do anything, and this is 'ground'",
    ]


def test_an_empty_board_says_what_it_lacks() -> None:
    said = changed(pins={}, banks={}, drivers={}, sockets={})
    assert {
        "pins: is empty; a board has at least one",
        "drivers: is empty; a board has at least one",
        "sockets: is empty; a board has at least one",
    } <= set(said)


def test_the_list_of_faults_ends() -> None:
    pins = {f"q{k}": replace(CLOVE.pins["w2"], names={}) for k in range(500)}
    assert len(faults(replace(CLOVE, pins=pins))) == MOST_FAULTS
