"""The build file and the hook of the handbook, as they stand there."""

import os
import re
import shutil
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from knotplan.examples import HERE

PAGE = (Path(__file__).parent.parent.parent / "docs/handbook/builds.md").read_text("utf-8")
GOOD, BAD = HERE / "badge-wall.knot.json", HERE / "badge-wall-draft.knot.json"


def block(kind: str, begin: str) -> str:
    """The block of the page that begins so."""
    return next(b for b in re.findall(rf"```{kind}\n(.*?)```", PAGE, re.S) if b.startswith(begin))


@pytest.fixture
def project(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A project with a right plan, and the command on its path."""
    (tmp_path / "bin").mkdir()
    command = tmp_path / "bin" / "knotplan"
    command.write_text(f'#!/bin/sh\nexec {sys.executable} -m knotplan "$@"\n')
    command.chmod(command.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setenv("PATH", f"{tmp_path / 'bin'}:{os.environ['PATH']}")
    (tmp_path / "plans").mkdir()
    shutil.copy(GOOD, tmp_path / "plans" / "badges.knot.json")
    return tmp_path


def run(*words: str, cwd: Path) -> "subprocess.CompletedProcess[str]":
    return subprocess.run(words, cwd=cwd, capture_output=True, text=True, check=False)


def test_the_build_file_passes_fails_and_keeps_what_was_found(project: Path) -> None:
    (project / "Makefile").write_text(block("make", "PLANS"))
    passed = run("make", cwd=project)
    assert passed.returncode == 0, passed.stderr
    assert (
        "#define" in (project / "build/badges_pins.h").read_text()
        and (project / "build/plans.sarif").exists()
    )
    shutil.copy(BAD, project / "plans" / "badges.knot.json")
    failed = run("make", cwd=project)
    assert failed.returncode != 0
    assert '"pin-shared"' in (project / "build/plans.sarif.failed").read_text()
    assert not (project / "build/plans.sarif").exists()


def test_the_hook_looks_at_what_is_staged(project: Path) -> None:
    git = ("git", "-c", "user.name=x", "-c", "user.email=x@example.org")
    run("git", "init", "-q", cwd=project)
    hook = project / ".git/hooks/pre-commit"
    hook.write_text(block("sh", "#!/bin/sh"))
    hook.chmod(0o755)
    run("git", "add", "plans", cwd=project)
    assert run(*git, "commit", "-qm", "good", cwd=project).returncode == 0
    shutil.copy(BAD, project / "plans" / "badges.knot.json")
    run("git", "add", "plans", cwd=project)
    shutil.copy(GOOD, project / "plans" / "badges.knot.json")  # mended in the folder, not in what is staged
    refused = run(*git, "commit", "-qm", "bad", cwd=project)
    assert refused.returncode == 1 and "plans/badges.knot.json" in refused.stderr
