"""The layers, shown by breaking them; and the core in an environment without Qt."""

import ast
import re
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
EVERYTHING = ("Exception", "BaseException")

WITHOUT_QT = """
import sys
class NoQt:
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in ("PySide6", "shiboken6", "pyqtgraph"):
            raise ImportError(f"{name} is not installed here")
sys.meta_path.insert(0, NoQt())
import importlib, pkgutil, knotplan
for package in ("catalog", "core", "exchange"):
    top = importlib.import_module(f"knotplan.{package}")
    for found in pkgutil.walk_packages(top.__path__, top.__name__ + "."):
        importlib.import_module(found.name)
from knotplan.cli.commands import cli
import pytest
options = ["-q", "-p", "no:cacheprovider", "-p", "no:pytest-qt", "-o", "addopts=", "-o", "qt_api=",
           "-W", "ignore::pytest.PytestConfigWarning", "-m", "not hypothesis and not slow"]
# no import of it stands in any function either: the import contract says so
tests = ["tests/core/test_led.py", "tests/exchange"]
# compilers and type checkers see the same files with the toolkit and without it
skipped = ["--ignore", "tests/exchange/test_hostile_names.py"]
sys.exit(pytest.main(options + tests + skipped))
"""


@pytest.mark.slow
def test_core_and_exchange_work_where_qt_is_not_installed() -> None:
    done = subprocess.run(
        [sys.executable, "-c", WITHOUT_QT], cwd=ROOT, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]
    assert " passed" in done.stdout


@pytest.mark.parametrize(
    ("module", "line", "contract"),
    [
        ("core/plan/broken.py", "import PySide6.QtCore", "Catalogue, core and exchange know no interface"),
        ("catalog/broken.py", "import knotplan.core.plan.document", "A layer knows only those below it"),
        ("core/plan/broken.py", "import pathlib", "The core reads no files and no clock"),
        (
            "core/plan/broken.py",
            "import knotplan.core.check.report",
            "The core in the order of the way through",
        ),
        (
            "core/power/broken.py",
            "import knotplan.core.buses.i2c",
            "The core in the order of the way through",
        ),
        ("core/broken/__init__.py", "", "The core in the order of the way through"),
    ],
)
def test_a_violation_of_the_import_contract_is_caught(
    tmp_path: Path, module: str, line: str, contract: str
) -> None:
    """A copy of the tree with one forbidden import in it."""
    import shutil

    shutil.copytree(
        ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info", "fonts")
    )
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    command = [str(Path(sys.executable).parent / "lint-imports"), "--no-cache"]
    env = {"PYTHONPATH": str(tmp_path / "src"), "PATH": "/usr/bin:/bin", "HOME": str(tmp_path)}
    clean = subprocess.run(command, cwd=tmp_path, env=env, capture_output=True, text=True, check=False)
    assert clean.returncode == 0, clean.stdout
    (tmp_path / "src/knotplan" / module).parent.mkdir(exist_ok=True)
    (tmp_path / "src/knotplan" / module).write_text(f"{line}\n")
    broken = subprocess.run(command, cwd=tmp_path, env=env, capture_output=True, text=True, check=False)
    assert broken.returncode != 0
    assert f"{contract} BROKEN" in broken.stdout


def test_pages_made_from_the_program_are_up_to_date() -> None:
    command = [sys.executable, "tools/make_docs.py", "--check"]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout


def test_links_of_the_documentation_lead_somewhere() -> None:
    import re

    for page in [*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")]:
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text("utf-8")):
            assert (page.parent / target).exists(), (page, target)


def test_every_action_with_a_key_is_in_the_handbook() -> None:
    from knotplan.desktop.commands import COMMANDS

    text = "".join(p.read_text("utf-8") for p in [ROOT / "README.md", *ROOT.glob("docs/handbook/*.md")])
    keys = {command.keys for command in COMMANDS.values() if command.keys}
    usual = {"Ctrl+O", "Ctrl+Q", "Ctrl+Shift+S", "Ctrl+E", "Ctrl+Shift+E"}
    missing = {k for k in keys - usual if f"`{k}`" not in text}
    assert not missing


def test_pages_that_lead_through_trouble_name_what_is_there() -> None:
    """Whatever stands in italics is a finding's title, or words of the interface."""
    from knotplan.core.check.rules import RULES
    from knotplan.desktop.views import VIEWS

    words = {
        "Power",
        "Buses",
        "Timing",
        "Set to",
        "Give addresses",
        "Steps",
        "Turns: backwards",
        "STEPS_PER_TURN",
        "coil after coil",
        "both ends of a winding together",
        "For the program's list of coils",
    }
    known = {r.title for r in RULES} | {view.title for view in VIEWS} | words
    for page in ("bus-does-not-answer", "motor-buzzes"):
        text = (ROOT / f"docs/handbook/{page}.md").read_text("utf-8")
        said = set(re.findall(r"(?<!\*)\*([^*\n]+)\*(?!\*)", text))
        assert len(said) > 8 and said <= known, said - known


def test_the_set_up_script_names_its_commands() -> None:
    done = subprocess.run([str(ROOT / "knot"), "help"], capture_output=True, text=True, check=True)
    for command in ("demo", "test", "lint", "bench", "shots"):
        assert f"./knot {command}" in done.stdout


def test_the_map_has_every_folder_of_the_core_in_the_order_of_the_contract() -> None:
    table = re.findall(
        r"^\| `(\w+)/` \|.*\|.*`([\w/.]+)`", (ROOT / "docs/dev/map.md").read_text("utf-8"), re.M
    )
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["tool"]["importlinter"][
        "contracts"
    ]
    layers = next(c["layers"] for c in contracts if c["id"] == "way-through")
    core = ROOT / "src/knotplan/core"
    assert (
        [folder for folder, _ in table]
        == layers[::-1]
        == [f for f in layers[::-1] if (core / f / "__init__.py").exists()]
    )
    for folder in layers:
        assert (core / folder / "__init__.py").read_text("utf-8").startswith('"""'), (
            f"{folder} says what it is"
        )
    assert [f.name for f in core.glob("*.py")] == ["__init__.py"], "no flat files"
    for row in re.findall(
        r"^\| `(\w+)/` \|.*\| (.*) \|$", (ROOT / "docs/dev/map.md").read_text("utf-8"), re.M
    ):
        for begin in re.findall(r"`([\w/.]+)`", row[1]):
            assert (core / row[0] / begin).exists(), f"{row[0]}/{begin}"


def test_whoever_catches_everything_writes_down_what_it_was() -> None:
    """A failure that is only told, or only survived, cannot be repaired: its traceback
    goes to the log, or it goes on upwards. A rule keeps it until it is told; an answer that cannot be worked
    out again is dropped, and whoever still asks for it meets the failure himself."""
    kept_or_met_again = {"format_exc", "is_gone"}
    catching = 0
    for path in (ROOT / "src").rglob("*.py"):
        for handler in ast.walk(ast.parse(path.read_text("utf-8"))):
            if not isinstance(handler, ast.ExceptHandler) or (
                handler.type and ast.unparse(handler.type) not in EVERYTHING
            ):
                continue
            catching += 1
            calls = {
                ast.unparse(c.func).rpartition(".")[2] for c in ast.walk(handler) if isinstance(c, ast.Call)
            }
            raised = isinstance(handler.body[-1], ast.Raise)
            assert raised or calls & {"exception", "critical", "_failed", *kept_or_met_again}, (
                f"{path}:{handler.lineno}"
            )
    assert catching >= 5


def test_every_file_that_the_pages_for_developers_name_is_there() -> None:
    """A page that names what has moved sends its reader astray."""
    paths = [p for p in ROOT.rglob("*") if ".venv" not in p.parts]
    tree = [f"/{p.relative_to(ROOT).as_posix()}" + ("/" if p.is_dir() else "") for p in paths]
    pages = [ROOT / "CONTRIBUTING.md", ROOT / "README.md", *sorted((ROOT / "docs" / "dev").glob("*.md"))]
    named = {(p.name, m) for p in pages for m in re.findall(r"`([a-z_./]+(?:\.py|/))`", p.read_text())}
    assert len(named) > 20
    made = {("README.md", "build/demo/")}  # by `./knot demo`
    assert [p for p in sorted(named - made) if not any(x.endswith(f"/{p[1]}") for x in tree)] == []
