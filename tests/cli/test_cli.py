"""The command line as a program meets it: exit codes, JSON, files."""

import json
import subprocess
import sys
from pathlib import Path

import click
import pytest
from click.testing import CliRunner, Result

from knotplan.catalog.load import shipped
from knotplan.cli.commands import COMMANDS, cli
from knotplan.core.finders import BY_ID, FINDERS
from knotplan.core.plan import edits
from knotplan.core.plan.document import PlacedPart, Plan, Tie
from knotplan.examples import HERE, example
from knotplan.exchange.plan_file import save
from tests.conftest import lay

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
    numbers = {n["name"]: n["value"] for n in tree["results"]}
    assert (tree["value"], tree["unit"]) == (330, "Ω")
    assert numbers["typical current"] == pytest.approx(3 / 330)
    assert numbers["power in the resistor"] == pytest.approx(
        max((5.25 - 1.9) ** 2 / r for r in (330 * 0.9, 330 * 1.1))
    )
    other = run(
        "value",
        "led",
        "--supply",
        "3.3",
        "--forward",
        "2",
        "--current",
        "5mA",
        "--series",
        "E24",
        "--source-ohm",
        "40",
        "--format",
        "json",
    )
    assert json.loads(other.stdout)["value"] == 220
    assert (
        "orange orange brown"
        in run("value", "led", "--supply", "5", "--forward", "2", "--current", "10m").output
    )


@pytest.mark.parametrize("finder", [f.id for f in FINDERS])
def test_each_finder_is_a_command(finder: str) -> None:
    """What has no usual value is asked for; with it there is an answer, for people and for programs."""
    bare = run("value", finder)
    needed = [i for i in BY_ID[finder].inputs if i.default is None]
    assert (bare.exit_code == 2) == bool(needed)
    usual = {
        "supply": "5 V",
        "forward": "2",
        "current": "50m",
        "load": "50 mA",
        "volts": "12V",
        "least": "1k",
        "most": "100K",
        "ohm": "69R",
        "length": "1.5",
    }
    given = [word for i in needed for word in (f"--{i.name}", usual[i.name])]
    said = run("value", finder, *given)
    assert said.exit_code == 0 and "formula:" in said.output and "source:" in said.output
    assert json.loads(run("value", finder, *given, "--format", "json").stdout)["finder"] == finder
    assert BY_ID[finder].question in " ".join(run("value", finder, "--help").output.split())


def test_values_take_percent_and_list_what_is_wrong() -> None:
    cord = ["value", "cord", "--length", "2", "--current", "3"]
    assert json.loads(run(*cord, "--drop-share", "3 %", "--format", "json").stdout)["value"] == 1.5
    bad = run(*cord, "--drop-share", "80 %", "--supply", "0")
    assert bad.exit_code == 2 and "Drop allowed" in bad.stderr and "Supply" in bad.stderr


@pytest.mark.parametrize(
    "bad", [["--supply", "1.5"], ["--current", "0"], ["--current", "five"], ["--series", "E13"]]
)
def test_value_led_refuses_nonsense(bad: list[str]) -> None:
    result = run("value", "led", "--supply", "5", "--forward", "2", "--current", "10m", *bad)
    assert result.exit_code == 2 and "Error" in result.stderr


def test_power_for_people_and_for_programs() -> None:
    said = run("power", DEMO).output
    assert "5 V brick: on average" in said and "Fog horn" in said
    usb, brick = json.loads(run("power", DEMO, "--format", "json").stdout)
    assert (usb["kind"], brick["title"]) == ("supply", "5 V brick")
    assert (
        brick["worst_a"] < brick["peaks_a"]
        and "lens" not in brick["during"]
        and brick["battery_hours"] is None
    )
    assert brick["worst_a"] == pytest.approx(
        sum(c["worst_a"] for c in brick["children"] if c["title"] != "Lens"), rel=1e-6
    )


@pytest.mark.parametrize(
    ("kind", "start"),
    [
        ("sheet", b"<!DOCTYPE html>"),
        ("c", b"/*"),
        ("python", b"#"),
        ("parts", b"count,buy"),
        ("svg", b"<svg"),
        ("png", b"\x89PNG"),
        ("pdf", b"%PDF"),
    ],
)
def test_export_writes_each_kind(qapp: object, tmp_path: Path, kind: str, start: bytes) -> None:
    path = tmp_path / f"out.{kind}"
    result = run("export", DEMO, "--as", kind, "-o", str(path))
    assert result.exit_code == 0, result.output
    assert path.read_bytes().startswith(start)


def test_export_says_what_it_cannot_do(tmp_path: Path) -> None:
    assert (
        "no name for"
        in run("export", DEMO, "--as", "c", "--scheme", "function", "-o", str(tmp_path / "x")).stderr
    )
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
    for words in (
        [],
        ["check"],
        ["names"],
        ["value"],
        ["value", "led"],
        ["export"],
        ["catalog"],
        ["catalog", "list"],
        ["catalog", "show"],
        ["schema"],
        ["open"],
    ):
        result = run(*words, "--help")
        assert result.exit_code == 0 and "Usage:" in result.output


def test_a_list_of_names_is_translated(tmp_path: Path) -> None:
    path = tmp_path / "pins.txt"
    path.write_text("L12, sda1\npos 7..8\n")
    found = run("names", "bowline-40", "--list", str(path), "--format", "json")
    assert found.exit_code == 0
    rows = json.loads(found.stdout)
    assert [r["pin"] for r in rows] == ["p4", "p14", "p7", "p8"] and rows[0]["cells"][
        "Kernel line"
    ] == "line 44"
    path.write_text("40, 2, 12\n")
    ambiguous = run("names", "bowline-40", "--list", str(path))
    assert ambiguous.exit_code == 3 and "all fit: position" in ambiguous.output
    assert run("names", "bowline-40", "--list", str(path), "--scheme", "position").exit_code == 0
    path.write_text("L12\nL99\n")
    assert run("names", "bowline-40", "--list", str(path)).exit_code == 4
    path.write_bytes(b"L12\x00\x01")
    assert run("names", "bowline-40", "--list", str(path)).exit_code == 2


def test_names_of_a_whole_board() -> None:
    lines = run("names", "carrick-72").output.splitlines()
    assert len(lines) == 73 and lines[0].split()[:3] == ["Header", "and", "position"]


def test_catalog_check_lists_everything_that_is_wrong(tmp_path: Path) -> None:
    from knotplan.catalog.load import shipped

    text = shipped().path_of("halyard-w").read_text("utf-8")
    path = tmp_path / "mine.toml"
    path.write_text(text)
    assert (
        "38 contacts, 32 of them signal pins; nothing is wrong" in run("catalog", "check", str(path)).output
    )
    path.write_text(
        text.replace('strap = "boot"', 'strap = "bot"').replace('reserved = "debug"', 'reserved = "debog"', 1)
    )
    wrong = run("catalog", "check", str(path))
    assert (
        wrong.exit_code == 2
        and "did you mean 'boot'?" in wrong.output
        and "did you mean 'debug'?" in wrong.output
    )
    assert run("catalog", "check", str(tmp_path / "none.toml")).exit_code == 2


@pytest.mark.parametrize(("suffix", "begin"), [(".svg", b"<svg"), (".pdf", b"%PDF"), (".png", b"PNG")])
def test_catalog_chart(tmp_path: Path, qapp, suffix: str, begin: bytes) -> None:
    path = tmp_path / f"chart{suffix}"
    assert run("catalog", "chart", "toggle", "-o", str(path), "--schemes", "printed,index").exit_code == 0
    assert begin in path.read_bytes()[:200]
    assert run("catalog", "chart", "toggle", "-o", str(tmp_path / "x.doc")).exit_code == 2
    assert run("catalog", "chart", "toggle", "-o", str(path), "--schemes", "prined").exit_code == 2
    assert run("catalog", "chart", "togle", "-o", str(path)).exit_code == 2


def test_catalog_show_has_pins_rails_straps_and_settings() -> None:
    text = run("catalog", "show", "halyard-w").output
    for words in (
        "G28",
        "in only, converter 1",
        "3.3 V rail: 3.15 to 3.4 V",
        "boot mode: high at start",
        "the radio: on",
    ):
        assert words in text


def test_the_schemas_are_those_that_files_are_checked_by() -> None:
    import tomllib

    import jsonschema

    from knotplan.catalog.load import shipped

    plan, board = (json.loads(run("schema", what).stdout) for what in ("plan", "board"))
    assert plan["title"] != board["title"]
    for name in shipped().shipped_ids("board"):
        jsonschema.Draft202012Validator(board).validate(
            tomllib.loads(shipped().path_of(name).read_text("utf-8"))
        )


def test_own_boards_are_known_to_every_command(tmp_path: Path, monkeypatch) -> None:
    from knotplan.catalog import load
    from knotplan.cli import catalog as catalog_command
    from knotplan.cli import names as names_command

    folder = tmp_path / "boards"
    folder.mkdir()
    (folder / "mine.toml").write_text(load.shipped().path_of("toggle").read_text("utf-8"))
    (folder / "broken.toml").write_text("title = 3")
    monkeypatch.setattr(names_command, "everything", lambda: load.Catalog(own=tmp_path))
    monkeypatch.setattr(catalog_command, "everything", lambda: load.Catalog(own=tmp_path))
    assert run("names", "mine", "C2").exit_code == 0
    assert run("names", "broken", "C2").exit_code == 2
    assert "broken.toml cannot be used" in run("catalog", "list").output
    assert run("catalog", "show", "mine").exit_code == 0 and run("catalog", "show", "broken").exit_code == 2


@pytest.mark.parametrize(("kind", "begin"), [("chart", b"<svg"), ("chart-pdf", b"%PDF")])
def test_the_board_s_chart_is_handed_over_with_what_is_tied(
    tmp_path: Path, qapp, kind: str, begin: bytes
) -> None:
    path = tmp_path / "chart"
    assert run("export", DEMO, "--as", kind, "-o", str(path)).exit_code == 0
    data = path.read_bytes()
    assert begin in data[:300] and (kind == "chart-pdf" or b"pier_red" in data)


def test_suggest_ties_what_is_not_tied_and_writes_the_plan(tmp_path: Path) -> None:
    plan, out = tmp_path / "bench.knot.json", tmp_path / "tied.knot.json"
    save(
        lay(
            "bowline-40",
            {"usb": "usb-brick", "Brick": "brick-5v", "Flag": "micro-servo", "Door": "push-button"},
            {},
        ),
        plan,
    )
    done = run("suggest", str(plan), "-o", str(out), "--format", "json")
    tree = json.loads(done.stdout)
    assert done.exit_code == 0 and tree["proven"]
    assert {"flag.signal", "flag.power", "door.contact", "usb.plug"} <= {t["lead"] for t in tree["ties"]}
    assert all(t["reason"] for t in tree["ties"])
    assert run("check", str(out)).exit_code == 0
    assert "door.contact" in run("suggest", str(plan), "--lead", "door.contact", "--quick").output


def test_suggest_says_when_there_is_no_such_lead_and_when_nothing_is_asked() -> None:
    done = run("suggest", DRAFT, "--lead", "flag.signl", "--lead", "flag.signal")
    assert (
        done.exit_code == 2
        and "'flag.signl' is no lead of this plan; did you mean 'flag.signal'?" in done.output
    )
    done = run("suggest", DRAFT, "--lead", "lamp.anode")
    assert done.exit_code == 0 and "Nothing to tie" in done.output
    done = run("suggest", DRAFT, "--lead", "flag.signal")
    assert "L3 (pos 18)" in done.output and "Nothing costs less." in done.output


def test_suggest_says_what_cannot_be_had_and_what_would_help(tmp_path: Path) -> None:
    plan = tmp_path / "bench.knot.json"
    save(lay("bowline-40", {"Dial": "knob"}, {}), plan)
    done = run("suggest", str(plan))
    assert done.exit_code == 1 and "Dial · wiper" in done.output and "ADC" in done.output


def test_catalog_check_knows_a_part_file(tmp_path: Path) -> None:
    good, bad = tmp_path / "gauge.toml", tmp_path / "bad.toml"
    text = shipped().part_path("echo-ranger").read_text("utf-8")
    good.write_text(text, "utf-8")
    for right, wrong in (
        ('b = "vcc"', 'b = "vc"'),
        ('a = "echo"', 'a = "ecco"'),
        ('low = "gnd"', 'low = "g"'),
    ):
        text = text.replace(right, wrong)
    bad.write_text(text, "utf-8")
    assert run("catalog", "check", str(good)).exit_code == 0
    done = run("catalog", "check", str(bad))
    assert done.exit_code == 2 and "elements.echo" in done.output and "'echo'" in done.output


def test_buses_says_who_answers_where_and_what_the_system_calls_it() -> None:
    text = run("buses", DEMO).output
    for words in ("I2C bus 1: 100 kHz", "i2c-1", "0x48  Water", "0x49  Air", "allowed are 1 kΩ"):
        assert words in text
    tree = json.loads(run("buses", DEMO, "--format", "json").output)
    assert [d["address"] for d in tree["i2c"][0]["devices"]] == [0x3C, 0x48, 0x49] and tree["i2c"][0][
        "device"
    ] == "/dev/i2c-1"


def test_buses_gives_addresses_or_says_why_not(tmp_path: Path) -> None:
    given = json.loads(run("buses", DRAFT, "--assign", "--format", "json").output)
    assert {g["part"]: g["address"] for g in given} == {"tide-display": 0x3C, "water": 0x48, "air": 0x49}
    assert "bridge A0; leave A1 open" in run("buses", DRAFT, "--assign").output
    plan = tmp_path / "three.knot.json"
    names = ("One", "Two", "Three")
    save(
        lay(
            "bowline-40",
            dict.fromkeys(names, "oled-display"),
            {f"{n.lower()}.{lead}": pin for n in names for lead, pin in (("sda", "p14"), ("scl", "p22"))},
        ),
        plan,
    )
    done = run("buses", str(plan), "--assign")
    assert done.exit_code == 1 and "One, Two and Three cannot all have addresses" in done.output


def test_an_address_is_translated() -> None:
    assert run("buses", DEMO, "--address", "0x91").output.startswith(
        "0x48 (hex, of eight bits with the read bit)"
    )
    done = run("buses", DEMO, "--address", "lamp")
    assert done.exit_code == 2 and "write it as 0x48" in done.output


def test_timing_lists_lanes_tells_of_a_part_and_writes_a_dump(tmp_path: Path) -> None:
    assert "85°: 1.45 ms every 20 ms" in run("timing", DEMO).output
    text = run("timing", DEMO, "--part", "lens").output
    assert "2037.8864 steps" in text and "IN 1, IN 3, IN 2, IN 4" in text
    tree = json.loads(run("timing", DEMO, "--part", "flag", "--format", "json").output)
    assert tree["tables"][0]["heads"] == ["angle", "pulse", "count", "made"]
    assert len(json.loads(run("timing", DEMO, "--format", "json").output)) == 13
    path = tmp_path / "w.vcd"
    assert run("timing", DEMO, "--dump", str(path), "--for", "0.02").exit_code == 0
    assert path.read_text().startswith("$comment Harbour light $end")
    done = run("timing", DEMO, "--part", "lense")
    assert done.exit_code == 2 and "'lense' is no part of this plan" in done.output
    done = run("timing", DEMO, "--dump", str(path), "--for", "1e7")
    assert done.exit_code == 2 and "too many for a file" in done.output


@pytest.mark.parametrize("span", ["inf", "nan", "0", "-1", "1,000", "1e400", "soon"])
def test_a_time_that_is_none_is_told(tmp_path: Path, span: str) -> None:
    done = run("timing", DEMO, "--dump", str(tmp_path / "w.vcd"), "--for", span)
    assert done.exit_code == 2 and "--for" in done.output and not (tmp_path / "w.vcd").exists()


@pytest.mark.parametrize("file", ["/dev/zero", "/dev/null", "/", "/nowhere", "/proc/self/mem/x"])
def test_what_is_no_file_is_a_wrong_call(file: str) -> None:
    commands = [] if file == "/" else [["check", file]]  # a folder is all plans in it
    for command in (
        *commands,
        ["catalog", "check", file],
        ["names", "clove-22", "--list", file],
        ["suggest", file],
    ):
        done = run(*command)
        assert done.exit_code == 2 and "Traceback" not in done.output, command


@pytest.mark.slow
def test_many_lights_on_one_board_are_checked_within_a_budget(tmp_path: Path) -> None:
    board = shipped().board("clove-60")
    io = [p for p, pin in board.pins.items() if pin.kind == "io"]
    ground = next(p for p, pin in board.pins.items() if pin.kind == "ground")
    parts = tuple(PlacedPart(f"l{k}", "led", f"L{k}") for k in range(300))
    ties = tuple(
        t
        for k in range(300)
        for t in (
            Tie(f"l{k}.anode", f"l{k}.anode", f"board.{io[k % len(io)]}"),
            Tie(f"l{k}.cathode", f"l{k}.cathode", f"board.{ground}"),
        )
    )
    path = tmp_path / "many.json"
    save(Plan("clove-60", parts=parts, ties=ties), path)
    done = run("check", str(path))
    assert (
        done.exit_code == 1 and "remedy: Add a" in done.output and "remedy: not searched for" in done.output
    )
    tree = json.loads(run("check", str(path), "--format", "json").stdout)
    assert {f["remedies_searched"] for f in tree["findings"]} == {True, False}
    assert run("check", str(path)).output == done.output, "the same each time"


def test_no_display_and_no_toolkit_are_told_in_plain_words(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    done = run("open")
    assert done.exit_code == 2 and "there is no display" in done.output
    monkeypatch.setenv("DISPLAY", ":0")
    monkeypatch.setitem(sys.modules, "knotplan.desktop.app", None)
    monkeypatch.setitem(sys.modules, "knotplan.desktop.paper", None)
    done = run("open")
    assert done.exit_code == 2 and "the window needs PySide6" in done.output
    done = run("export", DEMO, "--as", "pdf", "-o", str(tmp_path / "x.pdf"))
    assert done.exit_code == 2 and "painted by PySide6" in done.output


# --- several plans at a time; what is imported for what ----------------------------------------------


@pytest.fixture
def scenes(tmp_path: Path) -> list[str]:
    """Plans right and wrong, and one that cannot be read."""
    paths = []
    for scene in ("harbour-light", "harbour-light-draft", "kite-winder"):
        save(example(scene, shipped()), tmp_path / f"{scene}.knot.json")
        paths.append(str(tmp_path / f"{scene}.knot.json"))
    (tmp_path / "broken.knot.json").write_text("{", "utf-8")
    return [*paths, str(tmp_path / "broken.knot.json")]


def test_check_takes_many_plans_in_their_order(scenes: list[str]) -> None:
    one_by_one = [run("check", path) for path in scenes]
    together = run("check", *scenes[:3])
    assert together.exit_code == max(done.exit_code for done in one_by_one[:3]) == 1
    said = [text for path, done in zip(scenes[:3], one_by_one, strict=False) for text in (path, done.output)]
    at = [together.output.index(text) for text in said]
    assert at == sorted(at)
    with_broken = run("check", *scenes)
    assert with_broken.exit_code == 2 and one_by_one[3].exit_code == 2
    assert one_by_one[2].output in with_broken.output, (
        "one that cannot be read keeps no other from being checked"
    )


@pytest.mark.parametrize("jobs", ["1", "2"])
def test_many_plans_are_checked_alike_in_one_process_and_in_several(scenes: list[str], jobs: str) -> None:
    done = run("check", "--format", "json", "--jobs", jobs, *scenes[:3] * 3)
    plans = json.loads(done.output)["plans"]
    assert [p["file"] for p in plans] == scenes[:3] * 3
    own = [json.loads(run("check", "--format", "json", path).output) for path in scenes[:3]]
    assert [{k: v for k, v in p.items() if k != "file"} for p in plans] == own * 3


def test_versions_of_one_plan_are_each_checked_as_if_alone(tmp_path: Path) -> None:
    """One is followed from the other as an edit is; with another plan in between."""
    plan, files = example("harbour-light-draft", shipped()), []
    versions = [plan, edits.remove_part(plan, plan.parts[0].id), edits.untie(plan, plan.ties[1].id)]
    for number, version in enumerate([*versions, example("kite-winder", shipped()), plan]):
        files.append(str(tmp_path / f"{number}.knot.json"))
        save(version, Path(files[-1]))
    done = json.loads(run("check", "--format", "json", "--jobs", "1", *files).output)
    own = [json.loads(run("check", "--format", "json", path).output) for path in files]
    assert [{k: v for k, v in p.items() if k != "file"} for p in done["plans"]] == own


def test_a_word_that_is_no_command_is_told_with_the_nearest() -> None:
    done = run("chekc", DEMO)
    assert done.exit_code == 2 and "'chekc' is no command; did you mean 'check'?" in done.output
    assert run("--nothing").exit_code == 2


def test_the_list_of_commands_imports_none_of_them() -> None:
    code = (
        "import sys; from knotplan.cli.commands import cli; cli(['--help'], standalone_mode=False); "
        "print(sorted(m for m in sys.modules if m.startswith(('knotplan.core', 'numpy', 'msgspec'))))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"
    for name in COMMANDS:
        assert f"\n  {name} " in done.stdout
        assert cli.get_command(click.Context(cli), name) is not None
