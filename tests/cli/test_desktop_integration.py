"""What makes the program one among others on a desktop, by the validators of its standards."""

import re
import subprocess
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from knotplan.cli.commands import cli
from knotplan.cli.desktop import all_files
from knotplan.examples import HERE
from knotplan.integration.files import ID, _quoted

COMMON = Path("/usr/share/mime/packages/freedesktop.org.xml")


def run(*words: str) -> Result:
    done = CliRunner().invoke(cli, list(words))
    assert done.exception is None or isinstance(done.exception, SystemExit), done.exception
    return done


@pytest.fixture(scope="module")
def share(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A share folder with everything installed."""
    folder = tmp_path_factory.mktemp("share")
    assert run("desktop", "install", "--share", str(folder), "--command", "knotplan").exit_code == 0
    return folder


def checked(*words: str) -> str:
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout + done.stderr


def test_the_entry_is_one(share: Path) -> None:
    assert checked("desktop-file-validate", str(share / f"applications/{ID}.desktop")) == ""


@pytest.mark.parametrize(
    "command", ["/home/a b/knotplan", '/opt/x"y$z/knotplan', "/opt/100%/knotplan", "/o\\p/knotplan"]
)
def test_the_entry_is_one_wherever_the_program_is(tmp_path: Path, command: str) -> None:
    assert run("desktop", "install", "--share", str(tmp_path), "--command", command).exit_code == 0
    assert checked("desktop-file-validate", str(tmp_path / f"applications/{ID}.desktop")) == ""


def test_a_command_comes_back_from_its_quotes() -> None:
    """As the specification reads it: escapes of the string, then of the quotes."""
    for command in ("knotplan", "/a b/knotplan", '/x"y/k', "/x$y/k", "/x`y/k", "/x\\y/k"):
        text = _quoted(command).replace("\\\\", "\\")
        read = re.sub(r'\\(["`$\\])', r"\1", text[1:-1]) if text.startswith('"') else text
        assert read == command


def test_the_description_is_one(share: Path) -> None:
    said = checked(
        "appstreamcli", "validate", "--no-net", "--no-color", str(share / f"metainfo/{ID}.metainfo.xml")
    )
    assert "Validation was successful" in said and not re.search(r"^[EW]:", said, re.M), said


def test_the_kind_of_file_is_what_the_standard_s_own_list_is_made_of(share: Path, tmp_path: Path) -> None:
    """By the DTD that comes with shared-mime-info, in the head of its list."""
    dtd = re.search(r"<!DOCTYPE mime-info \[(.*?)\n\]>", COMMON.read_text("utf-8"), re.S)
    assert dtd is not None
    (tmp_path / "mime.dtd").write_text(dtd[1])
    checked(
        "xmllint",
        "--noout",
        "--dtdvalid",
        str(tmp_path / "mime.dtd"),
        str(share / "mime/packages/knotplan.xml"),
    )


def test_a_plan_is_known_by_its_name_and_by_what_is_in_it(tmp_path: Path) -> None:
    assert run("desktop", "install", "--share", str(tmp_path)).exit_code == 0
    (tmp_path / "mime/packages/freedesktop.org.xml").write_bytes(COMMON.read_bytes())
    checked("update-mime-database", str(tmp_path / "mime"))
    globs = (tmp_path / "mime/globs2").read_text("utf-8")
    assert "application/vnd.knotplan.plan+json:*.knot.json" in globs
    magic = (tmp_path / "mime/magic").read_bytes()
    (section,) = re.findall(rb"\[60:application/vnd\.knotplan\.plan\+json\]\n(.*?)(?=\[\d+:|\Z)", magic, re.S)
    told = [part[2:] for part in re.findall(rb'=(..".*?plan")', section, re.S)]
    assert told and all(
        any(value in path.read_bytes()[:300] for value in told) for path in HERE.glob("*.knot.json")
    )


def test_icons_are_pictures_of_their_sizes(share: Path, qapp: object) -> None:
    from PySide6.QtGui import QImageReader

    icons = list((share / "icons/hicolor").rglob("*.*"))
    assert len({p.parent.parent.name for p in icons}) >= 9
    for path in icons:
        size = QImageReader(str(path)).size()
        assert size.isValid(), path
        if path.suffix == ".png":
            assert path.parent.parent.name == f"{size.width()}x{size.height()}"
        else:
            checked("xmllint", "--noout", str(path))


def test_what_is_installed_goes_again_and_nothing_else(tmp_path: Path) -> None:
    kept = tmp_path / "applications" / "other.desktop"
    kept.parent.mkdir()
    kept.write_text("mine")
    assert run("desktop", "install", "--share", str(tmp_path)).exit_code == 0
    installed = {str(p.relative_to(tmp_path)) for p in tmp_path.rglob("*") if p.is_file()}
    assert set(all_files("knotplan")) <= installed
    assert run("desktop", "remove", "--share", str(tmp_path)).exit_code == 0
    left = {str(p.relative_to(tmp_path)) for p in tmp_path.rglob("*") if p.is_file()}
    assert not left & set(all_files("")) and "applications/other.desktop" in left


def test_where_nothing_may_be_written_is_told(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    done = run("desktop", "install", "--share", str(tmp_path / "file" / "below"))
    assert done.exit_code == 2 and "Not a directory" in done.stderr
