"""The package as it is built: its description, and that it works from nothing but itself."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from knotplan.cli.schema import FILES
from knotplan.exchange.exports import EXPORTS

ROOT = Path(__file__).parent.parent
BEGINNINGS = (b"%PDF-", b"\x89PNG\r")
PARTS = ("src", "requirements", "pyproject.toml", "README.md", "LICENSE")


@pytest.fixture(scope="module")
def built(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with the source package and the wheel."""
    folder = tmp_path_factory.mktemp("package")
    tree = folder / "tree"
    for name in PARTS:
        whole = ROOT / name
        ignored = shutil.ignore_patterns("__pycache__", "*.egg-info")
        shutil.copytree(whole, tree / name, ignore=ignored) if whole.is_dir() else shutil.copy(
            whole, tree / name
        )
    command = [sys.executable, "-m", "build", "--no-isolation", "--outdir", str(folder / "dist"), str(tree)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]
    return folder / "dist"


@pytest.fixture(scope="module")
def installed(built: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with what the wheel installs, and nothing of the checkout."""
    target = tmp_path_factory.mktemp("installed")
    (wheel,) = built.glob("*.whl")
    command = [
        sys.executable,
        "-m",
        "pip",
        "install",
        "-q",
        "--no-deps",
        "--no-index",
        "--target",
        str(target),
    ]
    subprocess.run([*command, str(wheel)], check=True)
    return target


def run(installed: Path, *words: str, without_qt: bool = False) -> "subprocess.CompletedProcess[bytes]":
    """The installed program, in a folder of its own."""
    hidden = "import sys; sys.modules['PySide6'] = None; " if without_qt else "import sys; "
    code = f"{hidden}from knotplan.cli.main import main; sys.argv = ['knotplan', *{list(words)!r}]; main()"
    environment = os.environ | {"PYTHONPATH": str(installed), "QT_QPA_PLATFORM": "offscreen"}
    return subprocess.run(
        [sys.executable, "-c", code], cwd=installed, env=environment, capture_output=True, check=False
    )


@pytest.mark.slow
def test_an_index_would_take_it(built: Path) -> None:
    files = sorted(map(str, built.iterdir()))
    assert len(files) == 2
    done = subprocess.run(
        [sys.executable, "-m", "twine", "check", "--strict", *files],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0 and done.stdout.count("PASSED") == 2, done.stdout


@pytest.mark.slow
def test_checks_need_no_toolkit_and_the_window_is_an_extra(built: Path) -> None:
    import zipfile

    (wheel,) = built.glob("*.whl")
    with zipfile.ZipFile(wheel) as archive:
        (name,) = [n for n in archive.namelist() if n.endswith("METADATA")]
        lines = archive.read(name).decode("utf-8").split("\n\n")[0].splitlines()
    needed = [line.removeprefix("Requires-Dist: ") for line in lines if line.startswith("Requires-Dist")]
    assert [n for n in needed if "PySide6" in n] and all("extra" in n for n in needed if "PySide6" in n)
    assert not any("extra" in n for n in needed if n.startswith(("numpy", "click", "msgspec")))
    assert {"Description-Content-Type: text/markdown", "License-Expression: MIT"} <= set(lines)


@pytest.mark.slow
def test_every_command_and_export_works_from_the_wheel_alone(installed: Path) -> None:
    where = subprocess.run(
        [sys.executable, "-c", "import knotplan; print(knotplan.__file__)"],
        cwd=installed,
        env=os.environ | {"PYTHONPATH": str(installed)},
        capture_output=True,
        text=True,
        check=True,
    )
    assert where.stdout.startswith(str(installed))
    demo = str(installed / "knotplan/examples/harbour-light.knot.json")
    commands = [
        ["check", demo], ["power", demo], ["buses", demo], ["timing", demo], ["wire", demo],
        ["measure", demo],
        ["names", "bowline-40", "L22"], ["value", "pull"], ["catalog", "list"], ["suggest", demo],
        ["practice", demo, "--faults", "1", "--scan"], ["completion", "bash"], ["read-bench", "--script"],
    ]  # fmt: skip
    commands += [["schema", what] for what in FILES]
    commands += [["export", demo, "--as", x.id, "-o", "-"] for x in EXPORTS]
    for words in commands:
        done = run(installed, *words, without_qt=True)
        assert done.returncode == 0 and done.stdout, (words, done.stderr)
    for kind in ("pdf", "steps-pdf", "chart-pdf", "png"):
        done = run(installed, "export", demo, "--as", kind, "-o", "-")
        assert done.returncode == 0 and done.stdout[:5] in BEGINNINGS, done.stderr
        refused = run(installed, "export", demo, "--as", kind, "-o", "-", without_qt=True)
        assert refused.returncode == 2 and b"PySide6" in refused.stderr
