"""Constants by templates: shipped ones through compilers and readers, a maker's own in its bounds."""

import json
import subprocess
from pathlib import Path

import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.cli.commands import cli
from knotplan.examples import HERE, example
from knotplan.exchange.exports import EXPORTS, constants
from knotplan.exchange.exports.export import CannotExportError
from knotplan.exchange.exports.own_template import by_template, export_by, own_exports
from tests.conftest import look_at

REPORT = look_at(example("harbour-light", shipped()))
DATA = constants.gathered(REPORT)
MADE = {x.id: x for x in EXPORTS}
NASTY = "a\"b'c $(touch evil) `x` \\ */ // # | <b> \x01\u202e{{ 7*7 }}{% raw %}"


def nasty() -> object:
    """The demo with names that mean something to each of the languages."""
    plan = REPORT.circuit.plan
    parts = tuple(replace(p, name=f"{NASTY}{k}") for k, p in enumerate(plan.parts))
    return look_at(replace(plan, title=NASTY, parts=parts))


def test_cpp_compiles_without_a_warning_and_has_every_number(tmp_path: Path) -> None:
    for name, report in (("plain", REPORT), ("nasty", nasty())):
        (tmp_path / f"{name}.hpp").write_bytes(MADE["cpp"].make(report, ""))
        checks = "\n".join(
            f"static_assert(pins::{p.name} == {p.value});" for p in DATA.pins if name == "plain"
        )
        source = tmp_path / f"{name}.cpp"
        source.write_text(f'#include "{name}.hpp"\n#include "{name}.hpp"\n{checks}\nint main() {{}}\n')
        command = [
            "g++",
            "-std=c++17",
            "-Wall",
            "-Wextra",
            "-pedantic",
            "-Werror",
            "-fsyntax-only",
            str(source),
        ]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr


@pytest.mark.parametrize("shell", ["sh", "bash"])
def test_shell_variables_hold_what_the_plan_has(tmp_path: Path, shell: str) -> None:
    for report in (REPORT, nasty()):
        data = constants.gathered(report)
        script = tmp_path / "pins.sh"
        script.write_bytes(MADE["shell"].make(report, ""))
        names = [p.name for p in data.pins] + [k.name for k in data.numbers if not isinstance(k.value, list)]
        asked = f". {script}\n" + "\n".join(f'printf "%s\\n" "${name}"' for name in names)
        done = subprocess.run(
            [shell, "-eu", "-c", asked], capture_output=True, text=True, check=True, cwd=tmp_path
        )
        values = [p.value for p in data.pins] + [
            k.value for k in data.numbers if not isinstance(k.value, list)
        ]
        assert done.stdout.splitlines() == [str(v) for v in values] and done.stderr == ""
        assert not (tmp_path / "evil").exists()


def test_json_is_read_by_any_reader() -> None:
    for report in (REPORT, nasty()):
        data = constants.gathered(report)
        tree = json.loads(MADE["json"].make(report, ""))
        assert {k: v["pin"] for k, v in tree["pins"].items()} == {p.name: p.value for p in data.pins}
        assert {k: v["value"] for k, v in tree["numbers"].items()} == {k.name: k.value for k in data.numbers}


def test_markdown_has_a_row_for_each_and_no_name_makes_another() -> None:
    for report in (REPORT, nasty()):
        data = constants.gathered(report)
        lines = MADE["markdown"].make(report, "").decode("utf-8").splitlines()
        rows = [line for line in lines if line.startswith("| ")]
        assert len(rows) == 2 + len(data.pins) + len(data.numbers)
        assert all(line.replace("\\|", "").count("|") == 4 for line in rows)
        assert not any("<b>" in line for line in lines)


def test_a_template_s_marks_in_a_name_are_text() -> None:
    for kind in ("c", "cpp", "python", "shell", "json", "markdown"):
        text = MADE[kind].make(nasty(), "").decode("utf-8")
        assert "49" not in text.split("7*7")[0][-4:], kind


# --- a maker's own ---------------------------------------------------------------------------------------


def own(tmp_path: Path, text: str, name: str = "mine.rs.j2") -> Path:
    path = tmp_path / name
    path.write_text(text, "utf-8")
    return path


def test_an_own_template_makes_a_file_and_is_among_the_kinds(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    text = (
        "{% for p in pins %}pub const {{ p.name }}: u8 = {{ p.value }}; // "
        "{{ p.remark | remark }}\n{% endfor %}"
    )
    made = by_template(own(tmp_path, text), REPORT)
    assert made.count("pub const") == len(DATA.pins) and "pub const LAMP: u8 = 22;" in made
    monkeypatch.setattr("knotplan.exchange.exports.own_template.folder", lambda: tmp_path)
    (export,) = own_exports()
    assert (export.id, export.suffix, export.tail) == ("own:mine", ".rs", "_mine")
    assert export.make(REPORT, "position").decode().count("pub const LAMP: u8 = 7;") == 1
    done = CliRunner().invoke(
        cli,
        ["export", str(HERE / "harbour-light.knot.json"), "--template", str(own(tmp_path, text)), "-o", "-"],
    )
    assert done.exit_code == 0 and done.stdout == made


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("one\n{% for p in pinz %}{% endfor %}", "line 2: 'pinz' is undefined; did you mean 'pins'?"),
        ("{% for p in pins %}{{ p.nam }}{% endfor %}", "did you mean 'name'?"),
        ("a\nb\n{% if %}", "line 3"),
        ("{{ plan | shout }}", "No filter named 'shout'"),
        ("{{ 1 / 0 }}", "division by zero"),
        ("{% include '/etc/passwd' %}", "passwd"),
        ("{% import 'c.h.j2' as x %}{{ x.__loader__ }}", ""),
        ("{{ ''.__class__.__mro__ }}", "unsafe"),
        ("{{ pins.append(1) }}", "unsafe"),
        ("{{ cycler.__init__.__globals__ }}", "unsafe"),
        ("{% for a in range(9999999999) %}x{% endfor %}", "Range too big"),
        (
            "{% for a in range(99999) %}{% for b in range(99999) %}{% endfor %}{% endfor %}",
            "no file of constants needs",
        ),
        ("{{ 'x' * 99999999999 }}", "memory"),
        ("{% macro f() %}{{ f() }}{% endmacro %}{{ f() }}", "memory"),
        ("{{ '%99999999999d' | format(1) }}", "memory"),
    ],
)
def test_what_is_wrong_with_a_template_is_told_and_it_gets_nowhere(
    tmp_path: Path, text: str, told: str
) -> None:
    with pytest.raises(CannotExportError) as caught:
        by_template(own(tmp_path, text), REPORT)
    assert told in str(caught.value) and "mine.rs.j2" in str(caught.value)


def test_a_template_that_is_no_text_is_told(tmp_path: Path) -> None:
    path = tmp_path / "x.j2"
    path.write_bytes(b"\xff\xfe\x00")
    with pytest.raises(CannotExportError, match="not UTF-8"):
        by_template(path, REPORT)
    with pytest.raises(CannotExportError, match="No such file"):
        by_template(tmp_path / "none.j2", REPORT)
    assert export_by(tmp_path / "plain.j2").suffix == ".txt"
