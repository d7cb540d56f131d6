"""The command line as a program meets it: exit codes, JSON, files."""

import json
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from knotplan.cli.main import cli
from knotplan.examples import HERE

DEMO, DRAFT = str(HERE / "harbour-light.knot.json"), str(HERE / "harbour-light-draft.knot.json")


def run(*arguments: str) -> Result:
    result = CliRunner().invoke(cli, list(arguments))
    assert result.exception is None or isinstance(result.exception, SystemExit), result.exception
    return result


def test_check_says_nothing_at_stop_by_its_exit_code() -> None:
    assert run("check", DEMO).exit_code == 0
    assert run("check", DRAFT).exit_code == 1


def test_check_json() -> None:
    tree = json.loads(run("check", DRAFT, "--format", "json").stdout)
    assert tree["summary"]["stop"] > 0
    assert {"findings", "rails", "pins"} <= set(tree)


def test_check_text_names_rule_numbers_and_remedy() -> None:
    text = run("check", DRAFT).output
    assert "led-no-resistor" in text and "remedy: Add a 270 Ω resistor" in text and "5 V rail" in text


@pytest.mark.parametrize("content", [None, "{", '{"format": "x"}'])
def test_check_of_what_is_no_plan_exits_2(tmp_path: Path, content: str | None) -> None:
    path = tmp_path / "bad.json"
    if content is not None:
        path.write_text(content)
    result = run("check", str(path))
    assert result.exit_code == 2
    assert "bad.json" in result.stderr and result.stdout == ""


def test_names_exit_codes_and_json() -> None:
    one = run("names", "bowline-40", "L22", "--format", "json")
    assert one.exit_code == 0
    (match,) = json.loads(one.stdout)["matches"]
    assert (match["scheme"], match["pin"], match["names"]["position"]) == ("chip", "p7", "7")
    many = run("names", "bowline-40", "12", "--format", "json")
    assert many.exit_code == 3
    assert {m["scheme"] for m in json.loads(many.stdout)["matches"]} == {"position", "chip", "library"}
    chosen = run("names", "bowline-40", "12", "--scheme", "chip")
    assert chosen.exit_code == 0 and "L12" in chosen.output
    none = run("names", "bowline-40", "SDA9")
    assert none.exit_code == 4 and "SDA1" in none.stderr
    assert run("names", "bowlin-40", "12").exit_code == 2
    assert run("names", "bowline-40", "12", "--scheme", "x").exit_code == 2


def test_one_pin_by_two_schemes_is_not_ambiguous() -> None:
    found = run("names", "clove-22", "18", "--format", "json")
    assert {m["pin"] for m in json.loads(found.stdout)["matches"]} == {"w7"}
    assert found.exit_code == 0


def test_value_led() -> None:
    result = run("value", "led", "--supply", "5", "--forward", "2", "--current", "10m", "--format", "json")
    tree = json.loads(result.stdout)
    assert tree["resistor_ohm"] == 330
    assert tree["current_a"]["typical"] == pytest.approx(3 / 330)
    assert tree["current_a"]["min"] < tree["current_a"]["typical"] < tree["current_a"]["max"]
    assert tree["power_w"] == pytest.approx(max((5.25 - 1.9) ** 2 / r for r in (330 * 0.9, 330 * 1.1)))
    other = run("value", "led", "--supply", "3.3", "--forward", "2", "--current", "5mA", "--series", "E24",
                "--source-ohm", "40", "--format", "json")  # fmt: skip
    assert json.loads(other.stdout)["resistor_ohm"] == 220
    assert "orange orange brown" in run("value", "led", "--supply", "5", "--forward", "2", "--current", "10m").output


@pytest.mark.parametrize("bad", [["--supply", "1.5"], ["--current", "0"], ["--current", "five"], ["--series", "E13"]])
def test_value_led_refuses_nonsense(bad: list[str]) -> None:
    result = run("value", "led", "--supply", "5", "--forward", "2", "--current", "10m", *bad)
    assert result.exit_code == 2 and "Error" in result.stderr


@pytest.mark.parametrize(("kind", "start"), [
    ("sheet", b"<!DOCTYPE html>"), ("c", b"/*"), ("python", b"#"), ("parts", b"count,part"), ("svg", b"<svg"),
    ("png", b"\x89PNG"), ("pdf", b"%PDF"),
])  # fmt: skip
def test_export_writes_each_kind(qapp: object, tmp_path: Path, kind: str, start: bytes) -> None:
    path = tmp_path / f"out.{kind}"
    result = run("export", DEMO, "--as", kind, "-o", str(path))
    assert result.exit_code == 0, result.output
    assert path.read_bytes().startswith(start)


def test_export_says_what_it_cannot_do(tmp_path: Path) -> None:
    assert "no name for" in run("export", DEMO, "--as", "c", "--scheme", "function", "-o", str(tmp_path / "x")).stderr
    assert run("export", DEMO, "--as", "c", "-o", str(tmp_path / "no" / "x")).exit_code == 2
    assert list(tmp_path.iterdir()) == []


def test_catalog_and_schema() -> None:
    tree = json.loads(run("catalog", "list", "--format", "json").stdout)
    assert {b["id"] for b in tree["boards"]} >= {"bowline-40", "clove-22", "carrick-72"}
    assert "PULSE_A0" in run("catalog", "show", "bowline-40").output
    assert json.loads(run("catalog", "show", "led", "--format", "json").stdout)["leads"]["anode"]
    near = run("catalog", "show", "lead")
    assert near.exit_code == 4 and "'led'" in near.stderr
    assert json.loads(run("schema").stdout)["$schema"].endswith("2020-12/schema")


def test_help_everywhere() -> None:
    for words in ([], ["check"], ["names"], ["value"], ["value", "led"], ["export"], ["catalog"], ["catalog", "list"],
                  ["catalog", "show"], ["schema"], ["open"]):  # fmt: skip
        result = run(*words, "--help")
        assert result.exit_code == 0 and "Usage:" in result.output
