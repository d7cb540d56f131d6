"""Checks in a build: SARIF and JUnit, folders, one summary, lines of plan files."""

import json
import re
from pathlib import Path
from xml.etree import ElementTree as ET

import jsonschema
import pytest
from click.testing import CliRunner, Result
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.cli.commands import cli
from knotplan.core.check.rules import RULES
from knotplan.core.plan.edits.findings import accept
from knotplan.examples import HERE, example
from knotplan.exchange.plan_file import save
from knotplan.exchange.positions import Positions
from tests.conftest import look_at

STANDARDS = Path(__file__).parent.parent / "exchange" / "standards"
SARIF = jsonschema.Draft7Validator(json.loads((STANDARDS / "sarif-2.1.0.json").read_text("utf-8")))


def run(*words: str) -> Result:
    result = CliRunner().invoke(cli, list(words))
    assert result.exception is None or isinstance(result.exception, SystemExit), result.exception
    return result


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Plans right and wrong in folders; what is hidden, and what is no plan."""
    monkeypatch.chdir(tmp_path)
    for path, scene in (
        ("plans/good.knot.json", "badge-wall"),
        ("plans/deep/draft.knot.json", "badge-wall-draft"),
        ("plans/.hidden/draft.knot.json", "badge-wall-draft"),
    ):
        Path(path).parent.mkdir(parents=True, exist_ok=True)
        save(example(scene, shipped()), Path(path))
    Path("plans/good.knot.json~").write_text("{")
    Path("plans/notes.json").write_text("{")
    return tmp_path


def test_a_folder_is_all_plans_in_it_and_one_summary_says_how_it_went(folder: Path) -> None:
    done = run("check", "plans")
    assert done.exit_code == 1
    assert re.findall(r"^plans/\S+$", done.stdout, re.M) == [
        "plans/good.knot.json",
        "plans/deep/draft.knot.json",
    ]
    draft = json.loads(run("check", "plans/deep/draft.knot.json", "--format", "json").stdout)["summary"]
    last = done.stdout.splitlines()[-2:]
    assert last[0] == "2 plans: 1 at stop"
    assert f"{draft['stop']} stop, {draft['care']} care" in last[1]
    Path("empty").mkdir()
    none = run("check", "empty")
    assert none.exit_code == 2 and "there is no plan" in none.stderr


def test_one_that_cannot_be_read_keeps_no_other_from_being_told(folder: Path) -> None:
    (folder / "plans" / "broken.knot.json").write_text('{"format": "knotplan-plan",\n "version": 2,\n oops}')
    for form in ("text", "json", "sarif", "junit"):
        done = run("check", "plans", "--format", form, "-o", "out")
        assert done.exit_code == 2 and "broken.knot.json" in done.stderr
        assert "good" in Path("out").read_text("utf-8") or form == "sarif"


def test_sarif_is_what_its_standard_says(folder: Path) -> None:
    (folder / "plans" / "broken.knot.json").write_text('{"format": "knotplan-plan",\n "version": 2,\n oops}')
    tree = json.loads(run("check", "plans", "--format", "sarif").stdout)
    SARIF.validate(tree)
    (run_,) = tree["runs"]
    assert [r["id"] for r in run_["tool"]["driver"]["rules"]] == [r.id for r in RULES]
    for result in run_["results"]:
        assert RULES[result["ruleIndex"]].id == result["ruleId"]
    (invocation,) = run_["invocations"]
    assert not invocation["executionSuccessful"]
    (told,) = invocation["toolExecutionNotifications"]
    place = told["locations"][0]["physicalLocation"]
    assert (place["artifactLocation"]["uri"], place["region"]["startLine"]) == ("plans/broken.knot.json", 3)
    assert len({json.dumps(r["partialFingerprints"]) for r in run_["results"]}) == len(run_["results"])


def test_sarif_has_the_findings_of_the_report_at_the_lines_of_what_they_are_about(folder: Path) -> None:
    path = "plans/deep/draft.knot.json"
    findings = json.loads(run("check", path, "--format", "json").stdout)["findings"]
    results = json.loads(run("check", path, "--format", "sarif").stdout)["runs"][0]["results"]
    assert [(f["rule"], f["message"]) for f in findings] == [
        (r["ruleId"], r["message"]["text"]) for r in results
    ]
    lines = Path(path).read_text("utf-8").splitlines()
    levels = {"stop": "error", "care": "warning", "to-do": "note", "note": "note"}
    for finding, result in zip(findings, results, strict=True):
        assert result["level"] == levels[finding["severity"]]
        region = result["locations"][0]["physicalLocation"]["region"]
        pointed = lines[region["startLine"] - 1][region["startColumn"] - 1 : region["endColumn"] - 1]
        named = {s.partition(".")[0] for s in finding["subjects"]}
        value = json.loads(pointed)
        at_it = value.partition(".")[0] in named or _named(path, value) in named
        assert at_it or not named & _ids(path), finding["subjects"]


def _ids(path: str) -> set[str]:
    """Everything that the file gives a name to, or ties something to."""
    tree = json.loads(Path(path).read_text())
    found = {x[key] for x in (*tree["parts"], *tree["ties"]) for key in ("id", "lead") if key in x}
    return {text.partition(".")[0] for text in found}


def _named(path: str, name: str) -> str:
    """The id of the part of that name."""
    return next((p["id"] for p in json.loads(Path(path).read_text())["parts"] if p["name"] == name), "")


def test_an_accepted_finding_is_suppressed_with_its_reason(tmp_path: Path) -> None:
    plan = example("badge-wall-draft", shipped())
    finding = look_at(plan).findings[0]
    path = tmp_path / "a.knot.json"
    save(accept(plan, *finding.key, finding.message, "it is only a model"), path)
    results = json.loads(run("check", str(path), "--format", "sarif").stdout)["runs"][0]["results"]
    (suppressed,) = [r for r in results if "suppressions" in r]
    assert suppressed["ruleId"] == finding.rule
    assert suppressed["suppressions"][0]["justification"] == "it is only a model"
    suite = ET.fromstring(run("check", str(path), "--format", "junit").stdout)
    (skipped,) = suite.iter("skipped")
    assert skipped.get("message") == "it is only a model"


def test_complete_makes_what_is_to_do_an_error(folder: Path) -> None:
    plan = example("badge-wall", shipped())
    save(type(plan)(plan.board, parts=plan.parts), Path("bare.knot.json"))
    for more, level in (((), "note"), (("--complete",), "error")):
        results = json.loads(run("check", "bare.knot.json", "--format", "sarif", *more).stdout)["runs"][0][
            "results"
        ]
        to_do = [r for r in results if r["properties"]["severity"] == "to-do"]
        assert to_do and {r["level"] for r in to_do} == {level}


def test_junit_counts_what_is_in_it(folder: Path) -> None:
    (folder / "plans" / "broken.knot.json").write_text("{")
    done = run("check", "plans", "--format", "junit")
    root = ET.fromstring(done.stdout)
    for suite in root:
        cases = list(suite)
        assert int(suite.get("tests")) == len(cases)
        assert int(suite.get("failures")) == sum(c.find("failure") is not None for c in cases)
        assert int(suite.get("errors")) == sum(c.find("error") is not None for c in cases)
    assert int(root.get("tests")) == sum(len(suite) for suite in root)
    draft = json.loads(run("check", "plans/deep", "--format", "json").stdout)["plans"][0]["summary"]
    assert int(root.get("failures")) == draft["stop"] and int(root.get("errors")) == 1


def test_a_name_cannot_leave_its_place_in_xml(tmp_path: Path) -> None:
    plan = example("badge-wall-draft", shipped())
    from msgspec.structs import replace

    nasty = replace(plan.parts[0], name=']]></failure><x a="\x01">\u202e &amp;')
    path = tmp_path / 'a"<b>.knot.json'
    save(replace(plan, parts=(nasty, *plan.parts[1:])), path)
    root = ET.fromstring(run("check", str(path), "--format", "junit").stdout)
    assert not list(root.iter("x")) and {e.tag for e in root.iter()} <= {
        "testsuites", "testsuite", "testcase", "failure", "system-out"
    }  # fmt: skip


# --- where values stand ----------------------------------------------------------------------------------

JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-99, 99) | st.text(max_size=6),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=4), inner, max_size=4),
    max_leaves=20,
)


@given(JSON, st.sampled_from([None, 0, 1, 4]))
def test_every_value_is_found_where_it_stands(tree: object, indent: int | None) -> None:
    text = json.dumps(tree, indent=indent, ensure_ascii=False)
    positions, lines = Positions(text), text.split("\n")

    def look(value: object, place: tuple[str | int, ...]) -> None:
        region = positions.of(place)
        begun = lines[region.line - 1][region.column - 1 :]
        if isinstance(value, dict | list):
            assert begun[0] == ("{" if isinstance(value, dict) else "[")
            for key, inner in value.items() if isinstance(value, dict) else enumerate(value):
                look(inner, (*place, key))
        else:
            written = json.dumps(value, ensure_ascii=False)
            assert begun.startswith(written)
            assert (region.end_line, region.end_column) == (region.line, region.column + len(written))

    look(tree, ())


@given(st.text(max_size=80))
def test_a_text_that_is_no_json_has_positions_too(text: str) -> None:
    region = Positions(text).of(("ties", 3, "lead"))
    assert region.line >= 1 and region.column >= 1


def test_places_as_messages_spell_them_are_found() -> None:
    text = (HERE / "badge-wall.knot.json").read_text("utf-8")
    positions = Positions(text)
    line = positions.told("ties[2].lead").line
    assert '"lead"' in text.split("\n")[line - 1]
    assert positions.told("line 7, column 3").line == 7
    assert positions.told("parts[999].name") == positions.of(("parts",))
