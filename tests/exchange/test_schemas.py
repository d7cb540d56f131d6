"""The published schemas: they accept what is right, refuse what is wrong, and explain every property."""

import copy
import json
import tomllib
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.load import Catalog, shipped
from knotplan.cli.commands import cli
from knotplan.examples import HERE
from knotplan.exchange import board_file, part_file, plan_file
from knotplan.exchange.answers.published import ANSWERS
from knotplan.exchange.answers.published import schema as answer_schema
from knotplan.exchange.part_schema import schema as part_schema

FILES = {"plan": plan_file.schema, "board": board_file.schema, "part": part_schema}
ALL = {name: made() for name, made in FILES.items()} | {a: answer_schema(a) for a in ANSWERS}
KEPT = Path(__file__).parent / "kept" / "answer_keys.json"
PARTS = {
    id: tomllib.loads(shipped().part_path(id).read_text("utf-8")) for id in shipped().shipped_ids("part")
}
PART = jsonschema.Draft202012Validator(ALL["part"])


@pytest.mark.parametrize("name", ALL)
def test_each_is_a_schema_with_a_name_of_its_own_and_explains_every_property(name: str) -> None:
    schema = ALL[name]
    jsonschema.Draft202012Validator.check_schema(schema)
    assert schema["$id"].endswith(f"/{name}.schema.json") and schema["title"]
    for definition in schema["$defs"].values():
        for key, prop in definition.get("properties", {}).items():
            assert len(prop["title"]) >= 1 and len(prop["description"]) >= 3, (name, key)
    assert len({s["$id"] for s in ALL.values()}) == len(ALL)


@pytest.mark.parametrize("part", PARTS)
def test_the_schema_of_parts_takes_every_shipped_file_as_it_is_written(part: str) -> None:
    PART.validate(PARTS[part])
    PART.validate({"$schema": "part.schema.json", **PARTS[part]})


def _places(tree: Any, place: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every table in a tree that is one of ours, not a choice of keys."""
    found = [place] if isinstance(tree, dict) else []
    for key, value in tree.items() if isinstance(tree, dict) else ():
        found += _places(value, (*place, key))
    return found


KEYED = {
    "leads",
    "elements",
    "params",
    "drivers",
    "peripherals",
    "converters",
    "banks",
    "residents",
    "positions",
}


@given(st.sampled_from(sorted(PARTS)), st.data())
def test_the_schema_of_parts_refuses_a_misspelt_key_anywhere(part: str, data: st.DataObject) -> None:
    tree = copy.deepcopy(PARTS[part])
    places = [
        p
        for p in _places(tree)
        if not p or (p[-1] not in KEYED and "variants" not in p[-2:] and "positions" not in p)
    ]
    place = data.draw(st.sampled_from(places))
    here = tree
    for key in place:
        here = here[key]
    here["misspelt-key"] = 1
    assert not PART.is_valid(tree), place


def test_a_file_may_name_its_schema_and_keeps_it_when_it_is_written_again(tmp_path: Path) -> None:
    for kind, module in (("board", board_file), ("part", part_file)):
        path = tmp_path / f"{kind}-x.toml"
        shipped_path = shipped().path_of("toggle") if kind == "board" else shipped().part_path("led")
        text = '"$schema" = "s.json"\n' + shipped_path.read_text("utf-8")
        path.write_text(text, "utf-8")
        read = module.load(path)
        plain = module.loads(shipped_path.read_text("utf-8"), f"{kind}-x")
        tree = read if kind == "board" else read.tree
        again = module.dumps(tree, text)
        assert again.startswith('"$schema" = "s.json"\n') and tomllib.loads(again)
        assert (read.pins if kind == "board" else read.tree) == (
            plain.pins if kind == "board" else plain.tree
        )
    (tmp_path / "boards").mkdir()
    (tmp_path / "board-x.toml").rename(tmp_path / "boards" / "mine.toml")
    assert Catalog(own=tmp_path).board("mine").pins


def test_a_byte_order_mark_is_no_mistake(tmp_path: Path) -> None:
    plan = tmp_path / "p.knot.json"
    plan.write_bytes(b"\xef\xbb\xbf" + (HERE / "badge-wall.knot.json").read_bytes())
    assert plan_file.load(plan, shipped()).parts
    board, part = tmp_path / "b.toml", tmp_path / "q.toml"
    board.write_bytes(b"\xef\xbb\xbf" + shipped().path_of("toggle").read_bytes())
    part.write_bytes(b"\xef\xbb\xbf" + shipped().part_path("led").read_bytes())
    assert board_file.load(board).pins and part_file.load(part).make({}).leads


# --- answers of commands: as they are published, whichever command and scene

DEMO = str(HERE / "harbour-light-draft.knot.json")
JSON_COMMANDS = {
    "check": [["check", DEMO], ["check", DEMO, DEMO], ["check", str(HERE / "kite-winder.knot.json")]],
    "names": [["names", "bowline-40", "12"], ["names", "bowline-40", "SDA9"], ["names", "carrick-72"]],
    "value": [["value", "led", "--supply", "5", "--forward", "2", "--current", "10m"], ["value", "pull"]],
    "power": [["power", DEMO], ["power", str(HERE / "seed-drawers.knot.json")]],
    "buses": [["buses", DEMO], ["buses", DEMO, "--assign"], ["buses", str(HERE / "mist-bench.knot.json")]],
    "timing": [["timing", DEMO], ["timing", DEMO, "--part", "lens"]],
    "wire": [["wire", DEMO], ["wire", DEMO, "--slips"]],
    "measure": [["measure", DEMO], ["measure", DEMO, "--not-working", "lamp"]],
    "compare": [["compare", DEMO, "--scan", "SCAN"], ["compare", DEMO, "--capture", "WAVES"]],
    "suggest": [["suggest", DEMO, "--anew", "--quick"], ["suggest", DEMO, "--quick"]],
    "catalog": [["catalog", "list"], ["catalog", "show", "bowline-40"], ["catalog", "show", "relay-module"]],
}


@pytest.fixture(scope="module")
def bench_files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """What a bench says, for comparing."""
    folder, found = tmp_path_factory.mktemp("bench"), {}
    for name, words in (("SCAN", ["--scan"]), ("WAVES", ["--capture", "--seconds", "0.1"])):
        said = CliRunner().invoke(cli, ["practice", DEMO, *words]).stdout
        path = folder / ("scan.txt" if name == "SCAN" else "waves.vcd")
        path.write_text(said)
        found[name] = str(path)
    return found


@pytest.mark.slow
@pytest.mark.parametrize("name", ANSWERS)
def test_what_a_command_prints_is_as_its_schema_says(name: str, bench_files: dict[str, str]) -> None:
    """Strictly: no key that the schema has not."""
    schema = copy.deepcopy(ALL[name])
    for definition in schema["$defs"].values():
        if definition.get("type") == "object" and "properties" in definition:
            definition["additionalProperties"] = False
    validator = jsonschema.Draft202012Validator(schema)
    for words in JSON_COMMANDS[name]:
        done = CliRunner().invoke(cli, [*(bench_files.get(w, w) for w in words), "--format", "json"])
        assert (done.exit_code < 5 and done.exception is None) or isinstance(done.exception, SystemExit), (
            done.output
        )
        validator.validate(json.loads(done.stdout))


# --- answers of commands: keys stay ----------------------------------------------------------------------


def keys(schema: dict[str, Any]) -> dict[str, list[str]]:
    """By definition, the keys that are always there."""
    return {name: sorted(d.get("required", ())) for name, d in sorted(schema["$defs"].items())}


def test_no_key_of_an_answer_ever_goes() -> None:
    """What is kept is what programs of the first version rely on; add to it, take nothing away."""
    for name, definitions in json.loads(KEPT.read_text("utf-8")).items():
        now = keys(ALL[name])
        for definition, wanted in definitions.items():
            assert set(wanted) <= set(now[definition]), (name, definition)
