"""`knotplan wire` and `knotplan measure`: what they print, and how they say what is wrong."""

import json
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from knotplan.catalog.load import Catalog
from knotplan.cli.commands import cli
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.core.plan.editing import edited
from knotplan.core.wiring.state import tasks_of
from knotplan.examples import example
from knotplan.exchange.plan_file import save


def run(*arguments: str) -> Result:
    return CliRunner().invoke(cli, list(arguments))


@pytest.fixture
def demo(tmp_path: Path, catalog: Catalog) -> str:
    path = tmp_path / "demo.knot.json"
    save(example("harbour-light", catalog), path)
    return str(path)


def kept(plan: Plan, tmp_path: Path, name: str) -> str:
    path = tmp_path / f"{name}.knot.json"
    save(plan, path)
    return str(path)


def test_steps_are_printed_with_boxes_and_places(demo: str) -> None:
    found = run("wire", demo)
    assert found.exit_code == 0
    lines = found.output.splitlines()
    at = next(k for k, line in enumerate(lines) if "Lamp · anode: orange cord" in line)
    assert lines[at].startswith("  [ ] ") and "through 180 Ω (brown grey brown silver)" in lines[at]
    assert lines[at + 1].strip() == "left row, 4th pin from the notch end, between GND and L0"
    assert lines[-1].strip() == "[ ] 5 V brick: switch it on"


def test_what_is_done_has_its_box_ticked(tmp_path: Path, catalog: Catalog) -> None:
    plan = example("harbour-light", catalog)
    tasks = tasks_of(Circuit(plan, catalog))
    done = edits.note_wired(plan, [tasks["cord:lamp.anode"], tasks["cord:flag.signal"]])
    moved = edited(done, catalog, edits.tie, "flag.signal", "board.p16")
    output = run("wire", kept(moved, tmp_path, "half")).output
    assert "[x] Lamp · anode" in output and "[~] Flag · signal" in output
    assert output.splitlines()[1].strip() == "Move Flag · signal: from L3 (pos 18) to L18 (pos 16)"


def test_between_two_versions_only_what_differs(tmp_path: Path, catalog: Catalog, demo: str) -> None:
    plan = example("harbour-light", catalog)
    now = edited(plan, catalog, edits.remove_part, "lamp")
    now = edited(now, catalog, edits.tie, "door.contact", "board.p16")
    now = edited(now, catalog, edits.set_param, "water", "a0", "bridged")
    path = kept(now, tmp_path, "now")
    lines = run("wire", path, "--since", demo).output.strip().splitlines()
    assert [x.strip() for x in lines] == [
        "Changed since it was wired",
        "Unplug Lamp · anode from L22 (pos 7), with 180 Ω",
        "Unplug Lamp · cathode from GND (pos 5)",
        "Water: Pad A0 to bridged instead of open",
        "Move Door · contact: from L6 (pos 20) to L18 (pos 16)",
    ]
    tree = json.loads(run("wire", path, "--since", demo, "--format", "json").output)
    assert {r["gone"] for r in tree["replug"]} == {True, False} and len(tree["replug"]) == 4
    same = run("wire", demo, "--since", demo)
    assert same.output.strip() == "Nothing has to be plugged otherwise."


def test_json_has_every_step(demo: str, catalog: Catalog) -> None:
    tree = json.loads(run("wire", demo, "--format", "json").output)
    tasks = tasks_of(Circuit(example("harbour-light", catalog), catalog))
    assert [s["task"] for s in tree["steps"]] and {s["task"] for s in tree["steps"]} == set(tasks)
    assert {s["state"] for s in tree["steps"]} == {"open"}


def test_slips_are_told_on_demand(tmp_path: Path, catalog: Catalog) -> None:
    from tests.conftest import lay

    plan = lay(
        "bowline-40",
        {"brick": "usb-brick", "door": "reed-contact"},
        {"brick.plug": "usb", "door.contact": "p4", "door.common": "p5"},
    )
    path = kept(plan, tmp_path, "door")
    assert "not into" not in run("wire", path).output
    assert "not into 5V (pos 3):" in run("wire", path, "--slips").output


def test_checks_say_what_to_expect(demo: str) -> None:
    output = run("measure", demo).output
    lines = output.splitlines()
    assert lines[0] == "Before anything is switched on: between the supplies"
    at = next(k for k, x in enumerate(lines) if x.strip() == "ohms:lamp.anode:board.p7")
    assert lines[at + 1].strip() == "Lamp · anode to L22 (pos 7): 180 Ω (162 Ω to 198 Ω)"
    assert any(x.startswith("With USB brick on") for x in lines)
    assert len(run("measure", demo, "--all").output) > len(output)
    tree = json.loads(run("measure", demo, "--format", "json").output)
    assert tree[0]["needed"] and all(p["finds"] or p["needed"] for p in tree)


def test_of_a_large_plan_only_what_is_between_the_supplies_comes_unasked(
    tmp_path: Path, catalog: Catalog
) -> None:
    done = run("measure", kept(example("organ-shutters", catalog), tmp_path, "organ"))
    assert done.exit_code == 0 and "--all works out everything" in done.stderr
    heads = [line for line in done.stdout.splitlines() if not line.startswith(" ")]
    assert heads == ["Before anything is switched on: between the supplies"]


def test_readings_rank_faults_and_name_the_next(demo: str) -> None:
    asked = ("measure", demo, "--not-working", "Lamp", "--at", "ohms:lamp.anode:L22=open")
    output = run(*asked).output
    assert "Lamp · anode: one hole further" in output and "Measure next:" in output
    tree = json.loads(run(*asked, "--format", "json").output)
    assert tree["faults"][0]["alike"][0]["ties"] == ["lamp.anode"] and tree["next"]["bits"] > 0
    both = run("measure", demo, "--at", "ohms:lamp.anode:L22=open", "--at", "ohms:flag.signal:L3=ol").output
    assert both.startswith("Nothing single explains this")
    fine = run("measure", demo, "--at", "ohms:lamp.anode:pos 7=181").output
    assert fine.startswith("All of this reads as planned.")


def test_everything_wrong_is_said_at_once(demo: str) -> None:
    found = run(
        "measure",
        demo,
        "--not-working",
        "lmp",
        "--at",
        "ohms:lamp.anod:L22=open",
        "--at",
        "volts:lamp.anode=much",
        "--at",
        "nothing",
    )
    assert found.exit_code == 2
    said = found.output
    assert "did you mean 'ohms:lamp.anode:board.p7'" in said and "did you mean 'lamp'" in said
    assert "'7' could mean" in run("measure", demo, "--at", "ohms:lamp.anode:7=1").output
    assert "ok, no, open" in said and "POINT=VALUE" in said
