"""`compare`, `practice` and `read-bench`: the way from a bench to what differs, in a terminal."""

import json
from pathlib import Path

import pytest
from click.testing import CliRunner

from knotplan.cli.commands import cli as main
from knotplan.core.plan.document import Plan
from knotplan.exchange.plan_file import save

ROOT = Path(__file__).parents[2]
PLAN = str(ROOT / "src/knotplan/examples/harbour-light.knot.json")
BENCH = ROOT / "docs/examples/harbour-light"


def run(*args: object) -> tuple[int, str]:
    done = CliRunner().invoke(main, [str(a) for a in args])
    if done.exception is not None and not isinstance(done.exception, SystemExit):
        raise done.exception
    return done.exit_code, done.output


@pytest.fixture
def whole(tmp_path):
    """What a bench without any fault answers."""
    for ask in ("scan", "lines", "capture"):
        code, text = run("practice", PLAN, f"--{ask}", "--seconds", "0.1")
        assert code == 0
        (tmp_path / ask).with_suffix(".vcd" if ask == "capture" else ".txt").write_text(text, "utf-8")
    return tmp_path


def asked(folder: Path) -> list[object]:
    return [
        "--scan",
        folder / "scan.txt",
        "--lines",
        folder / "lines.txt",
        "--capture",
        folder / "capture.vcd",
    ]


def test_a_bench_as_planned_agrees(whole) -> None:
    code, text = run("compare", PLAN, *asked(whole))
    assert code == 0 and "nothing differs from the plan" in text


def test_the_example_folder_has_the_three_faults_that_were_put_in() -> None:
    code, text = run("compare", PLAN, *asked(BENCH), "--format", "json")
    tree = json.loads(text)
    assert code == 1 and not tree["agrees"]
    told = [d for d in tree["differences"] if d["gravity"] == "differs"]
    assert len(told) == 3
    assert "Air answers at 0x4A" in told[0]["title"] and told[0]["remedies"]
    assert "L8" in told[1]["title"] and told[1]["look"]
    assert "another order" in told[2]["title"]
    assert {c["why"] for c in tree["channels"]} == {"name"}


def test_the_example_programs_differ_where_their_remarks_say() -> None:
    code, text = run("compare", PLAN, "--program", BENCH / "program/harbour.py", "--format", "json")
    told = {(d["kind"], d["line"]) for d in json.loads(text)["differences"] if d["gravity"] == "differs"}
    rows = (BENCH / "program/harbour.py").read_text("utf-8").splitlines()
    line = {
        name: k
        for k, row in enumerate(rows, 1)
        for name in ("PIER_GREEN =", "HORN, BELL =", "0x90")
        if name in row
    }
    assert code == 1 and told == {
        ("program-pin-off-by-one", line["PIER_GREEN ="]),
        ("program-pin-other-scheme", line["HORN, BELL ="]),
        ("program-address-eight-bit", line["0x90"]),
    }
    assert run("compare", PLAN, "--program", BENCH / "program/harbour.c")[0] == 0


def test_everything_that_cannot_be_read_is_told_at_once(tmp_path) -> None:
    (tmp_path / "scan.txt").write_text("nothing of a scan", "utf-8")
    (tmp_path / "x.vcd").write_text("$timescale 1 ns $end", "utf-8")
    (tmp_path / "notes.txt").write_text("x", "utf-8")
    code, text = run(
        "compare", PLAN, "--scan", tmp_path / "scan.txt", "--capture", tmp_path / "x.vcd",
        "--lines", tmp_path / "not-there", "--program", tmp_path / "notes.txt", "--scheme", "kernl",
    )  # fmt: skip
    assert code == 2
    for part in ("scan.txt", "x.vcd", "not-there", "notes.txt", "kernl", "kernel"):
        assert part in text, part
    assert run("compare", PLAN)[0] == 2


def test_a_scan_that_does_not_say_its_bus_is_asked_for_or_given(tmp_path, whole) -> None:
    text = (whole / "scan.txt").read_text("utf-8")
    bare = "\n".join(row for row in text.splitlines() if not row.startswith(("$", "#")))
    (tmp_path / "bare.txt").write_text(bare, "utf-8")
    assert run("compare", PLAN, "--scan", tmp_path / "bare.txt", "--bus", "1")[0] == 0
    text = run("compare", PLAN, "--scan", tmp_path / "bare.txt", "--bus", "7")[1]
    assert "Bus 7" in text or "bus 7" in text


def test_one_fault_after_another_is_told_by_the_practice_bench_and_by_what_it_answers(tmp_path) -> None:
    wanted = ["strap:water", "taken:board.p13", "inverted:red-pier-light.anode", "bus-off"]
    code, listed = run("practice", PLAN, "--list")
    ids = [row for row in listed.splitlines() if not row.startswith("    ")]
    assert code == 0 and set(wanted[:3]) <= set(ids)
    for fault in (i for i in ids if i.split(":")[0] in {w.split(":")[0] for w in wanted}):
        for ask, name in (("scan", "scan.txt"), ("lines", "lines.txt"), ("capture", "capture.vcd")):
            (tmp_path / name).write_text(
                run("practice", PLAN, "--fault", fault, f"--{ask}", "--seconds", "0.1")[1]
            )
        code, text = run("compare", PLAN, *asked(tmp_path))
        assert code == 1, (fault, text)
    code, shown = run("practice", PLAN, "--faults", "2", "--seed", "5", "--show")
    assert code == 0 and len(shown.strip().splitlines()) == 2
    assert shown == run("practice", PLAN, "--faults", "2", "--seed", "5", "--show")[1]
    code, text = run("practice", PLAN, "--fault", "strap:watr", "--scan")
    assert code == 2 and "strap:water" in text


def test_what_the_meter_reads_there_is_out_where_a_cord_is_open() -> None:
    good = run("practice", PLAN, "--read", "ohms:lamp.anode:board.p7")[1]
    bad = run("practice", PLAN, "--fault", "cord-open:lamp.anode", "--read", "ohms:lamp.anode:board.p7")[1]
    assert "open" in bad and "open" not in good
    code, text = run("practice", PLAN, "--read", "ohms:lamp.anod:board.p7")
    assert code == 2 and "lamp.anode" in text
    assert run("practice", PLAN)[0] == 2


def test_read_bench_writes_what_compare_and_bring_up_open(tmp_path) -> None:
    code, text = run("read-bench")
    assert code == 0
    (tmp_path / "bench.json").write_text(text, "utf-8")
    tree = json.loads(text)
    assert tree["format"] == "knotplan-bench" and tree["system"].startswith("Linux")
    code, _ = run("compare", PLAN, "--bench", tmp_path / "bench.json")
    assert code == (0 if tree["lines"] or tree["scans"] else 2) or code == 1


def test_what_was_held_against_nothing_is_no_agreement(tmp_path) -> None:
    """An empty plan, a program whose calls nobody knows: an error for a build, not a pass."""
    plan = tmp_path / "empty.knot.json"
    save(Plan(board="bowline-40", title="Empty"), plan)
    code, text = run("compare", plan, "--lines", BENCH / "lines.txt", "--capture", BENCH / "capture.vcd")
    assert code == 2 and "nothing of the lines" in text and "nothing of the capture" in text
    assert "nothing differs" not in text
    (tmp_path / "main.c").write_text("int main(void) { io_make(41, 1); }", "utf-8")
    assert run("compare", PLAN, "--program", tmp_path / "main.c")[0] == 2
    code, text = run("compare", PLAN, "--program", BENCH / "program/harbour.c", "--format", "json")
    assert code == 0 and json.loads(text)["not_compared"] == []
