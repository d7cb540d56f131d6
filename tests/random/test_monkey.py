"""Random keys, clicks, drags and answers in the real window, briefly; `./knot torture` does it for long."""

import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent.parent


@pytest.mark.slow
@pytest.mark.parametrize(("scene", "seed"), [("harbour-light-draft", 1), ("toggle", 2), ("kite-winder", 3)])
def test_random_hands_break_nothing(scene: str, seed: int, tmp_path: Path) -> None:
    """In a process of its own: what ends the window must not end the tests."""
    trace = tmp_path / "trace"
    done = subprocess.run(
        [
            sys.executable,
            "tools/torture/monkey.py",
            "--seed",
            str(seed),
            "--scene",
            scene,
            "--actions",
            "250",
            "--trace",
            str(trace),
        ],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    last = "\n".join(trace.read_text("utf-8").splitlines()[-12:]) if trace.exists() else ""
    assert done.returncode == 0, f"{done.stdout}{done.stderr}\nlast actions:\n{last}"
