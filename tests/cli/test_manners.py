"""How commands behave towards shells: streams, signals, colours, names of files, terminals."""

import json
import os
import pty
import re
import signal
import stat
import subprocess
import sys
import time
from pathlib import Path

import click
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.cli.columns import table
from knotplan.cli.commands import COMMANDS, cli
from knotplan.examples import HERE, example
from knotplan.exchange.plan_file import save

DEMO = HERE / "harbour-light.knot.json"
KNOTPLAN = [sys.executable, "-m", "knotplan"]


def run(*words: str | bytes, feed: bytes = b"", **environment: str) -> "subprocess.CompletedProcess[bytes]":
    """The program itself, as a shell starts it."""
    return subprocess.run(
        [*KNOTPLAN, *words], input=feed, capture_output=True, env=os.environ | environment, check=False
    )


# --- examples: each does what it says --------------------------------------------------------------------


@pytest.fixture(scope="module")
def bench(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with everything that the examples name."""
    folder = tmp_path_factory.mktemp("bench")
    for name in ("lamp", "lamp-as-wired", "plans/one", "plans/two"):
        path = folder / f"{name}.knot.json"
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(DEMO.read_bytes())
    (folder / "src").mkdir()
    (folder / "pins.txt").write_text("L12 SDA1\n")
    (folder / "pins.rs.j2").write_text("{% for p in pins %}{{ p.name }}\n{% endfor %}")
    (folder / "mine.toml").write_bytes(shipped().path_of("toggle").read_bytes())
    for file, words in (
        ("scan.txt", ["practice", "lamp.knot.json", "--scan"]),
        ("run.vcd", ["practice", "lamp.knot.json", "--capture", "--seconds", "0.2"]),
        ("lines.txt", ["practice", "lamp.knot.json", "--lines"]),
        ("src/lamp.py", ["export", "lamp.knot.json", "--as", "python", "-o", "-"]),
    ):
        done = subprocess.run([*KNOTPLAN, *words], cwd=folder, capture_output=True, check=True)
        (folder / file).write_bytes(done.stdout)
    return folder


def _examples() -> list[str]:
    found = [words for words, _ in cli.examples]
    with click.Context(cli) as root:
        for name in COMMANDS:
            command = cli.get_command(root, name)
            found += [words for words, _ in command.examples]
            if isinstance(command, click.Group):
                with click.Context(command, parent=root) as inner:
                    for below in command.list_commands(inner):
                        found += [words for words, _ in command.get_command(inner, below).examples]
    return [words for words in dict.fromkeys(found) if not words.startswith("open")]


@pytest.mark.parametrize("words", _examples())
def test_each_example_does_what_it_says(
    bench: Path, monkeypatch: pytest.MonkeyPatch, qapp: object, words: str
) -> None:
    monkeypatch.chdir(bench)
    expanded = [
        w for word in words.split() for w in (map(str, sorted(Path().glob(word))) if "*" in word else [word])
    ]
    done = CliRunner().invoke(cli, expanded, input=(bench / "lines.txt").read_text())
    assert done.exception is None or isinstance(done.exception, SystemExit), done.exception
    assert done.exit_code in (0, 1), done.output
    assert done.output or "-q" in words


def test_every_command_has_examples_and_the_common_options() -> None:
    with click.Context(cli) as root:
        for name in COMMANDS:
            command = cli.get_command(root, name)
            assert command.examples, name
            if not isinstance(command, click.Group):
                options = {o for p in command.get_params(root) for o in p.opts}
                assert {"--quiet", "--verbose", "--color"} <= options, name


def test_every_kind_of_export_stands_in_the_help_by_its_title(qapp: object) -> None:
    from knotplan.cli.export import PAINTED
    from knotplan.desktop.paper import PAINTED_EXPORTS
    from knotplan.exchange.exports import EXPORTS

    assert {x.id: x.title for x in PAINTED_EXPORTS} == PAINTED
    said = CliRunner().invoke(cli, ["export", "--help"]).output
    for export in (*EXPORTS, *PAINTED_EXPORTS):
        assert re.search(rf"^  {export.id} +{re.escape(export.title)}$", said, re.M), export.id


@pytest.mark.parametrize(
    ("words", "near"),
    [
        (["schema", "chek"], "check"),
        (["check", "x", "--format", "sari"], "sarif"),
        (["export", "x", "--as", "devicetre", "-o", "-"], "devicetree"),
        (["completion", "fsh"], "fish"),
        (["value", "led", "--series", "E22"], "E24"),
        (["catalog", "shw"], "show"),
    ],
)
def test_a_wrong_word_is_told_with_the_nearest(words: list[str], near: str) -> None:
    done = CliRunner().invoke(cli, words)
    assert done.exit_code == 2 and f"did you mean '{near}'?" in done.output.replace("Did", "did")


# --- streams ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("command", ["check", "power", "buses", "timing", "wire"])
def test_a_plan_comes_from_standard_input(command: str) -> None:
    plain, piped = run(command, str(DEMO)), run(command, "-", feed=DEMO.read_bytes())
    assert piped.returncode == plain.returncode == 0 and piped.stdout == plain.stdout


def test_a_stream_is_called_what_it_is_and_nothing_is_left_behind(tmp_path: Path) -> None:
    done = run("check", "-", feed=b"{", TMPDIR=str(tmp_path))
    assert done.returncode == 2 and b"standard input cannot be read as a plan" in done.stderr
    assert list(tmp_path.iterdir()) == []


def test_what_a_shell_hands_over_as_a_pipe_is_read() -> None:
    line = f"{' '.join(KNOTPLAN)} check <(cat {DEMO})"
    done = subprocess.run(["bash", "-c", line], capture_output=True, check=False)
    assert done.returncode == 0 and b"0 stop" in done.stdout, done.stderr


@pytest.mark.parametrize("name", ["/dev/null", "/dev/full"])
def test_a_device_is_written_into_and_stays_one(name: str) -> None:
    """As root too, who could replace it."""
    before = Path(name).stat()
    done = run("export", str(DEMO), "--as", "c", "-o", name)
    after = Path(name).stat()
    assert stat.S_ISCHR(after.st_mode) and (after.st_ino, after.st_rdev) == (before.st_ino, before.st_rdev)
    assert done.returncode == (0 if name == "/dev/null" else 2)
    assert (b"No space left" in done.stderr) == (name == "/dev/full")


def test_a_pipe_is_written_into(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    with subprocess.Popen(["cat", str(pipe)], stdout=subprocess.PIPE) as reader:
        assert run("export", str(DEMO), "--as", "parts", "-o", str(pipe)).returncode == 0
        assert reader.communicate()[0].startswith(b"count,buy") and stat.S_ISFIFO(pipe.stat().st_mode)


def test_standard_output_by_its_other_names_goes_on_where_it_is(tmp_path: Path) -> None:
    out = tmp_path / "out"
    out.write_text("kept\n")
    line = f"{' '.join(KNOTPLAN)} export {DEMO} --as parts -o /dev/stdout >> {out}"
    subprocess.run(["bash", "-c", line], check=True, stderr=subprocess.PIPE)
    assert out.read_text().startswith("kept\ncount,buy")
    to_minus = run("export", str(DEMO), "--as", "parts", "-o", "-")
    assert out.read_bytes() == b"kept\n" + to_minus.stdout and to_minus.stderr == b""


def test_a_full_disk_is_told() -> None:
    line = f"{' '.join(KNOTPLAN)} catalog list > /dev/full"
    done = subprocess.run(["bash", "-c", line], capture_output=True, check=False)
    assert done.returncode == 2 and done.stderr == b"knotplan: standard output: No space left on device\n"


def test_a_reader_that_has_had_enough_ends_it_quietly() -> None:
    line = f"{' '.join(KNOTPLAN)} names carrick-72 | head -1; exit ${{PIPESTATUS[0]}}"
    done = subprocess.run(["bash", "-c", line], capture_output=True, check=False)
    # the table may fit into the pipe as a whole
    assert done.stderr == b"" and done.returncode in (0, 128 + signal.SIGPIPE)
    with subprocess.Popen(
        [*KNOTPLAN, "names", "carrick-72"], stdout=subprocess.PIPE, stderr=subprocess.PIPE
    ) as closed:
        closed.stdout.close()
        assert closed.stderr.read() == b"" and closed.wait() == -signal.SIGPIPE


# --- signals ---------------------------------------------------------------------------------------------


@pytest.mark.slow
@pytest.mark.parametrize("jobs", ["1", "2"])
def test_an_interrupt_ends_it_at_once_and_leaves_no_process(tmp_path: Path, jobs: str) -> None:
    for k in range(60):
        save(example("badge-wall", shipped()), tmp_path / f"{k}.knot.json")
        save(example("kite-winder-draft", shipped()), tmp_path / f"{k}-draft.knot.json")
    with subprocess.Popen(
        # what runs in the background of a shell has interrupts off, and hands that on
        ["env", "--default-signal=INT", *KNOTPLAN, "check", str(tmp_path), "--jobs", jobs],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        start_new_session=True,
    ) as process:
        process.stdout.read(1)  # it is at work
        os.killpg(process.pid, signal.SIGINT)
        begun = time.monotonic()
        _, said = process.communicate(timeout=20)
    assert process.returncode == -signal.SIGINT, "so that a loop in a script ends too"
    assert b"Traceback" not in said and time.monotonic() - begun < 10
    with pytest.raises(ProcessLookupError):
        os.killpg(process.pid, 0)


# --- colours ---------------------------------------------------------------------------------------------


def _on_terminal(words: list[str], columns: int = 80, **environment: str) -> str:
    """What a terminal of so many columns gets."""
    ours, theirs = pty.openpty()
    process = subprocess.Popen(
        [*KNOTPLAN, *words],
        stdout=theirs,
        stderr=theirs,
        env={k: v for k, v in os.environ.items() if k != "NO_COLOR"}
        | {"COLUMNS": str(columns), "TERM": "xterm"}
        | environment,
    )
    os.close(theirs)
    said = b""
    while True:
        try:
            piece = os.read(ours, 65536)
        except OSError:  # the other end is closed
            break
        if not piece:
            break
        said += piece
    process.wait()
    os.close(ours)
    return said.decode("utf-8").replace("\r\n", "\n")


DRAFT = str(HERE / "kite-winder-draft.knot.json")


def test_colours_are_for_terminals_and_as_asked() -> None:
    assert "\x1b[31m" in _on_terminal(["check", DRAFT])
    assert "\x1b" not in _on_terminal(["check", DRAFT], NO_COLOR="1")
    assert "\x1b" not in _on_terminal(["check", DRAFT], TERM="dumb")
    assert "\x1b" not in _on_terminal(["check", "--color", "never", DRAFT])
    assert "\x1b[31m" in _on_terminal(["check", "--color", "always", DRAFT], NO_COLOR="1")
    assert b"\x1b" not in run("check", DRAFT).stdout
    assert b"\x1b[31m" in run("check", "--color", "always", DRAFT).stdout
    assert b"\x1b[31m" in run("--color", "always", "check", DRAFT).stdout


@pytest.mark.parametrize("form", ["text", "json", "sarif", "junit"])
def test_no_colour_gets_into_a_file_unasked(tmp_path: Path, form: str) -> None:
    out = tmp_path / "out"
    _on_terminal(["check", DRAFT, "--format", form, "-o", str(out)])
    assert out.stat().st_size and b"\x1b" not in out.read_bytes()
    piped = run("check", DRAFT, "--format", form, "-o", "-").stdout
    assert piped == out.read_bytes() == run("check", DRAFT, "--format", form).stdout
    if form == "text":
        assert "\x1b[31m" in _on_terminal(["check", DRAFT, "-o", "-"])
        run("check", DRAFT, "-o", str(out), "--color", "always")
        assert b"\x1b[31m" in out.read_bytes()


def test_quiet_says_what_is_at_stop_and_verbose_where_figures_come_from() -> None:
    quiet, usual, loud = (run("check", *more, DRAFT) for more in (["-q"], [], ["-v"]))
    assert quiet.returncode == usual.returncode == loud.returncode == 1
    assert all(line.startswith(b"stop") for line in quiet.stdout.splitlines()) and quiet.stdout
    assert b"source: " in loud.stdout and b"source: " not in usual.stdout
    assert b"read in" in loud.stderr and usual.stderr == b""
    assert run("check", "-q", str(DEMO)).stdout == b""
    assert run("-q", "export", str(DEMO), "--as", "c", "-o", "/dev/null").stderr == b""


# --- names of files and locales --------------------------------------------------------------------------


def test_a_file_may_have_any_name(tmp_path: Path) -> None:
    name = os.fsencode(tmp_path) + b"/caf\xe9 \xff.knot.json"
    Path(os.fsdecode(name)).write_bytes(DEMO.read_bytes())
    for form in ("text", "json", "sarif", "junit"):
        done = run("check", name, os.fsencode(DEMO), "--format", form)
        assert done.returncode == 0 and done.stderr == b"", done.stderr
        assert done.stdout.decode("utf-8")
        if form in ("json", "sarif"):
            json.loads(done.stdout)
    assert run("export", name, "--as", "c", "-o", name + b".h").returncode == 0
    assert b"PIER_RED" in Path(os.fsdecode(name + b".h")).read_bytes()


@pytest.mark.parametrize("locale", ["C", "POSIX", "de_DE.ISO-8859-1", "xx_XX.none"])
def test_files_and_pipes_get_the_same_in_every_locale(locale: str) -> None:
    assert run("value", "pull", "--help", LC_ALL=locale).returncode == 0
    usual, here = (run("power", str(DEMO), **e) for e in ({}, {"LC_ALL": locale, "LANG": locale}))
    assert here.stdout == usual.stdout and here.stderr == b""


# --- columns ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("columns", [60, 80, 132])
@pytest.mark.parametrize("words", [["catalog", "list"], ["names", "bowline-40"], ["power", str(DEMO)]])
def test_tables_fit_the_terminal(columns: int, words: list[str]) -> None:
    lines = _on_terminal(words, columns).splitlines()
    assert len(lines) > 5 and max(map(len, lines)) <= columns, max(lines, key=len)


CELLS = st.text(alphabet="abcdefgh ijk", max_size=60).map(lambda t: " ".join(t.split()))


@given(
    st.integers(1, 6).flatmap(
        lambda n: st.lists(st.lists(CELLS, min_size=n, max_size=n), min_size=2, max_size=6)
    ),
    st.integers(20, 120),
)
def test_any_table_fits_and_loses_no_word(rows: list[list[str]], width: int) -> None:
    lines = list(table(rows, width))
    assert all(len(line) <= width for line in lines)
    letters = [re.sub(r"\s", "", c) for row in rows[1:] for c in row]
    written = re.sub(r"\s", "", "".join(lines))
    for letter in set("".join(letters)):
        assert written.count(letter) >= "".join(letters).count(letter)
    whole = list(table(rows, None))
    assert len(whole) == len(rows) and all(
        c in line for row, line in zip(rows, whole, strict=True) for c in row
    )


# --- completion ------------------------------------------------------------------------------------------


def _completed(*words: str, cwd: Path | None = None) -> list[str]:
    """What a shell offers behind these words, the last of them begun."""
    environment = os.environ | {
        "_KNOTPLAN_COMPLETE": "bash_complete",
        "COMP_WORDS": " ".join(["knotplan", *words]),
        "COMP_CWORD": str(len(words)),
    }
    done = subprocess.run(KNOTPLAN, env=environment, cwd=cwd, capture_output=True, text=True, check=True)
    assert done.stderr == ""
    return [line.partition(",")[2] for line in done.stdout.splitlines()]


def test_words_are_completed(tmp_path: Path) -> None:
    (tmp_path / "plans").mkdir()
    for path in ("lamp.knot.json", "plans/bell.knot.json"):
        (tmp_path / path).write_bytes(DEMO.read_bytes())
    (tmp_path / "notes.txt").write_text("")
    assert _completed("ch") == ["check"]
    assert _completed("names", "bow") == ["bowline-40"]
    assert "SDA1" in _completed("names", "bowline-40", "SD")
    assert _completed("names", "bowline-40", "--scheme", "ch") == ["chip"]
    assert _completed("catalog", "show", "micro-s") == ["micro-servo"]
    assert _completed("check", "", cwd=tmp_path) == ["lamp.knot.json", "plans/bell.knot.json"]
    assert _completed("check", "pl", cwd=tmp_path) == ["plans/bell.knot.json"]
    assert _completed("timing", "lamp.knot.json", "--part", "le", cwd=tmp_path) == ["lens", "lens-driver"]
    assert "lamp.anode" in _completed("suggest", "lamp.knot.json", "--lead", "lamp", cwd=tmp_path)
    assert _completed("check", "--format", "s") == ["sarif"]


def test_completion_reads_no_stream() -> None:
    """The shell's own input is not ours: a begun command line may have a "-" in it."""
    environment = os.environ | {
        "_KNOTPLAN_COMPLETE": "bash_complete",
        "COMP_WORDS": "knotplan check - --form",
        "COMP_CWORD": "3",
    }
    with subprocess.Popen(
        KNOTPLAN, env=environment, stdin=subprocess.PIPE, stdout=subprocess.PIPE
    ) as process:
        assert process.stdout.read() == b"plain,--format\n", "while nothing comes over its input"
        process.stdin.close()


@pytest.mark.parametrize(("shell", "check"), [("bash", "-n"), ("zsh", "-n"), ("fish", "--no-execute")])
def test_the_scripts_for_shells_are_right(tmp_path: Path, shell: str, check: str) -> None:
    script = tmp_path / "script"
    script.write_bytes(run("completion", shell).stdout)
    assert b"_KNOTPLAN_COMPLETE" in script.read_bytes()
    try:
        done = subprocess.run([shell, check, str(script)], capture_output=True, check=False)
    except FileNotFoundError:
        pytest.skip(f"{shell} is not on this machine")
    assert done.returncode == 0 and done.stderr == b"", done.stderr
