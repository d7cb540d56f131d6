"""Traces for repair, and the command's exit status when it fails itself."""

import logging
import sys
from pathlib import Path

import pytest

from knotplan.catalog.load import shipped
from knotplan.cli import main as cli
from knotplan.examples import example
from knotplan.exchange import log
from knotplan.exchange.plan_file import load


@pytest.fixture
def state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    """A state folder of its own, and a log that ends with the test."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    logger = logging.getLogger("knotplan")
    before = list(logger.handlers)
    for handler in before:
        logger.removeHandler(handler)
    yield tmp_path / "state"
    for handler in list(logger.handlers):
        handler.close()
        logger.removeHandler(handler)
    for handler in before:
        logger.addHandler(handler)


def test_a_failure_is_written_with_where_it_happened(state: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    # a test's report goes from one process to another, which half a letter cannot
    monkeypatch.setattr(logging.getLogger("knotplan"), "propagate", False)
    log.begin()
    log.begin()
    try:
        raise ValueError("on purpose \ud800")
    except ValueError:
        logging.getLogger("knotplan.somewhere").exception("it failed")
    text = log.path().read_text("utf-8")
    assert text.count("it failed") == 1 and "test_log.py" in text and "ValueError: on purpose" in text


def test_the_log_does_not_grow_for_ever(
    state: Path, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    monkeypatch.setattr(log, "MOST_BYTES", 2000)
    log.begin()
    for number in range(200):
        logging.getLogger("knotplan.x").error("line %d", number)
    files = sorted(state.rglob("knotplan.log*"))
    assert len(files) == 1 + log.OLD_ONES and all(f.stat().st_size <= 2000 for f in files)
    caplog.clear()


def test_a_report_gathers_log_plan_and_versions_and_overwrites_nothing(
    state: Path, tmp_path: Path, caplog
) -> None:
    log.begin()
    logging.getLogger("knotplan.x").error("trace")
    plan = example("harbour-light", shipped())
    first, second = log.gather(tmp_path, plan), log.gather(tmp_path, plan)
    assert {p.name for p in first} == {"knotplan.log", "plan.knot.json", "versions.txt"} and first[
        0
    ].parent != second[0].parent
    assert load(first[1].with_name("plan.knot.json"), shipped()) == plan
    assert (
        "PySide6-Essentials 6." in first[-1].read_text() and sys.version.split()[0] in first[-1].read_text()
    )
    caplog.clear()


def test_a_home_that_cannot_be_written_is_no_reason_not_to_run(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    log.begin()


def test_a_command_that_fails_itself_ends_with_70(
    state: Path, monkeypatch: pytest.MonkeyPatch, capsys, caplog
) -> None:
    """1 means findings, and nothing else."""

    def fails(*_: object) -> None:
        raise ZeroDivisionError("on purpose")

    monkeypatch.setattr("knotplan.cli.common.load", fails)
    monkeypatch.setattr(sys, "argv", ["knotplan", "check", "x.json"])
    with pytest.raises(SystemExit) as ended:
        cli.main()
    assert ended.value.code == cli.FAILED == 70
    said = capsys.readouterr().err
    assert "the program failed: ZeroDivisionError: on purpose" in said and str(log.path()) in said
    assert "Traceback" in log.path().read_text("utf-8")
    caplog.clear()
