"""The manual pages: right for the tools that show them, and whole."""

import shutil
import subprocess

import click
import pytest

from knotplan.cli.commands import COMMANDS, cli
from knotplan.cli.manual import pages

PAGES = pages()


@pytest.mark.parametrize("name", PAGES)
def test_a_page_has_no_fault_that_a_formatter_finds(name: str) -> None:
    checked = subprocess.run(
        ["mandoc", "-T", "lint", "-W", "warning"],
        input=PAGES[name],
        capture_output=True,
        text=True,
        check=False,
    )
    assert checked.returncode == 0 and checked.stdout == "", checked.stdout
    if shutil.which("groff"):
        formatted = subprocess.run(
            ["groff", "-man", "-ww", "-Wbreak", "-Kutf8", "-Tutf8"],
            input=PAGES[name],
            capture_output=True,
            text=True,
            check=False,
        )
        assert formatted.stderr == ""


def test_every_command_and_option_has_its_place() -> None:
    assert set(PAGES) == {"knotplan.1", *(f"knotplan-{c}.1" for c in COMMANDS)}
    with click.Context(cli) as root:
        for name in COMMANDS:
            command = cli.get_command(root, name)
            text = PAGES[f"knotplan-{name}.1"].replace("\\-", "-").replace("\\:", "")
            for param in command.params:
                for option in param.opts if isinstance(param, click.Option) and not param.hidden else ():
                    assert option in text, (name, option)
            for words, _ in command.examples:
                assert words.split()[-1] in text


def test_a_page_is_the_same_for_the_same_moment(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "86400")
    assert pages() == pages() and "1970-01-02" in pages()["knotplan.1"]
