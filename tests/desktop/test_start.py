"""Starting: what is loaded before the first paint, the command that opens the window, the full example."""

import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

from knotplan.catalog.load import shipped
from knotplan.desktop.hand_over.view import all_exports
from knotplan.examples import example
from knotplan.exchange.plan_file import load, save

ROOT = Path(__file__).parent.parent.parent
KNOTPLAN = str(Path(sys.executable).with_name("knotplan"))


def run(*command: str, folder: Path) -> subprocess.CompletedProcess[str]:
    home = {"HOME": str(folder), "XDG_CONFIG_HOME": str(folder), "XDG_STATE_HOME": str(folder)}
    return subprocess.run(
        command,
        env=os.environ | home | {"QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        check=False,
        cwd=folder,
        timeout=600,  # only against hanging for ever
    )


def test_the_command_opens_the_demo_and_paints_it(tmp_path: Path) -> None:
    before = time.monotonic()
    done = run(KNOTPLAN, "open", "--demo", "--clock", folder=tmp_path)
    assert done.returncode == 0, done.stderr
    assert before < float(done.stdout) < time.monotonic()


def test_nothing_heavy_is_imported_before_the_first_paint(tmp_path: Path) -> None:
    """NumPy alone doubles the time to an empty window; it comes right after the first paint."""
    code = (
        "import sys; from knotplan.desktop.app import run; run(None, True, lambda: "
        "print(*sorted(m.partition('.')[0] for m in sys.modules)))"
    )
    done = run(sys.executable, "-c", code, folder=tmp_path)
    loaded = set(done.stdout.split())
    assert "PySide6" in loaded, done.stderr
    assert not loaded & {"numpy", "scipy", "jinja2", "jsonschema", "pyqtgraph"}


def test_the_command_line_does_not_load_the_window(tmp_path: Path) -> None:
    code = (
        "import sys; sys.argv = ['knotplan', 'names', 'bowline-40', 'L12']\n"
        "from knotplan.cli.main import main\n"
        "try: main()\n"
        "finally: print('PySide6' in sys.modules, 'numpy' in sys.modules)"
    )
    assert run(sys.executable, "-c", code, folder=tmp_path).stdout.endswith("False False\n")


@pytest.mark.slow
def test_the_full_example_writes_what_it_says(tmp_path: Path) -> None:
    done = run(sys.executable, "-m", "knotplan.desktop.showcase", "build/demo", folder=tmp_path)
    assert done.returncode == 0, done.stderr
    assert "0 stop, 0 care, 0 to do, 0 note" in done.stdout
    named = {line.strip() for line in done.stdout.partition("wrote\n")[2].splitlines()}
    written = {str(p.relative_to(tmp_path)) for p in (tmp_path / "build/demo").iterdir()}
    pictures = len(list((ROOT / "docs/screenshots").iterdir()))
    assert named == written and len(written) == 1 + len(all_exports()) + pictures
    assert all((tmp_path / name).stat().st_size > 300 for name in written)
    assert load(tmp_path / "build/demo/harbour-light.knot.json", shipped()) == example(
        "harbour-light", shipped()
    )


REFUSED = """
import sys
from pathlib import Path
from PySide6.QtWidgets import QApplication
from knotplan.desktop.app import run
from knotplan.desktop.documents import Documents
def refuse(documents, path, error):
    print(path.name, documents.session.plan.title, type(error).__name__, sep="|")
    QApplication.quit()
Documents.refuse = refuse
run(Path(sys.argv[1]))
"""


@pytest.mark.parametrize(("content", "error"), [(None, "FileNotFoundError"), ("{", "PlanFileError")])
def test_a_file_that_cannot_be_opened_still_gives_a_window_and_says_why(
    tmp_path: Path, content, error: str
) -> None:
    path = tmp_path / "plan.knot.json"
    if content:
        path.write_text(content)
    done = run(sys.executable, "-c", REFUSED, str(path), folder=tmp_path)
    assert done.stdout == f"plan.knot.json|Harbour light|{error}\n", done.stderr


def test_a_file_that_can_is_what_the_window_shows(tmp_path: Path) -> None:
    path = tmp_path / "mine.knot.json"
    save(example("harbour-light-draft", shipped()), path)
    done = run(KNOTPLAN, "open", str(path), "--clock", folder=tmp_path)
    assert done.returncode == 0 and float(done.stdout) > 0
