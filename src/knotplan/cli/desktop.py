"""`knotplan desktop`"""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import click

from knotplan.cli import manners
from knotplan.cli.manners import note, stop

SYSTEM = Path("/usr/local/share")
UPDATES = (
    ("applications", "update-desktop-database", "-q", "applications"),
    ("mime/packages", "update-mime-database", "mime"),
    ("icons/hicolor/icon-theme.cache", "gtk-update-icon-cache", "-q", "-t", "-f", "icons/hicolor"),
)
"""what tells a desktop of new files: where this is there (a cache of icons only goes on where one is), the
command, its options, and the folder that it is about"""

place = click.option(
    "--system", is_flag=True, help=f"For everybody on this machine, in {SYSTEM} (as root); else for you."
)
other = click.option(
    "--share", type=click.Path(path_type=Path, file_okay=False), help="Another share folder, as packages use."
)


@click.group(
    "desktop",
    cls=manners.Group,
    examples=[
        ("desktop install", "Menu, icon, kind of file, manual pages and completion, for you."),
        ("desktop remove", "All of that away again."),
    ],
)
def command() -> None:
    """Make the program one among others on this desktop, or take that back."""


@command.command("install", examples=[("desktop install --system", "For everybody on this machine.")])
@place
@other
@click.option("--command", "start", help="What starts the program, where that is not this one.")
def install(system: bool, share: Path | None, start: str | None) -> None:
    """Put the menu entry, icons, the kind of file, manual pages and completions where desktop and shell
    look."""
    from knotplan.exchange.files import write_atomically

    folder = _folder(system, share)
    made = all_files(start or _own_command())
    try:
        for name, data in made.items():
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(path, data)
    except OSError as error:
        stop(f"knotplan: {error.filename or folder}: {error.strerror}", 2)
    _tell(folder)
    note(f"installed {len(made)} files in {folder}")


@command.command("remove", examples=[("desktop remove", "For you.")])
@place
@other
def remove(system: bool, share: Path | None) -> None:
    """Take away what `install` put there; plans, boards and settings stay."""
    folder, gone = _folder(system, share), 0
    try:
        for name in all_files(""):
            path = folder / name
            if path.is_file():
                path.unlink()
                gone += 1
    except OSError as error:
        stop(f"knotplan: {error.filename or folder}: {error.strerror}", 2)
    _tell(folder)
    note(f"removed {gone} files from {folder}")


def all_files(start: str) -> dict[str, bytes]:
    """Everything that is installed, by its place below a share folder."""
    from knotplan.cli.completion import script
    from knotplan.cli.manual import pages
    from knotplan.integration.files import files

    made = files(start)
    made |= {f"man/man1/{name}": text.encode("utf-8") for name, text in pages().items()}
    made["bash-completion/completions/knotplan"] = script("bash").encode("utf-8")
    made["zsh/site-functions/_knotplan"] = script("zsh").encode("utf-8")
    made["fish/vendor_completions.d/knotplan.fish"] = script("fish").encode("utf-8")
    return made


def _folder(system: bool, share: Path | None) -> Path:
    """Where files of this kind go (XDG Base Directory Specification)."""
    if share is not None:
        return share
    return SYSTEM if system else Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def _own_command() -> str:
    """What started this: by its name where a shell finds the same one, else whole."""
    own = Path(sys.argv[0]).absolute()
    found = shutil.which("knotplan")
    return "knotplan" if own.name != "knotplan" or (found and Path(found) == own) else str(own)


def _tell(folder: Path) -> None:
    """Lets the desktop know; without its tools it looks for itself at the next log-in."""
    for needed, tool, *words in UPDATES:
        if shutil.which(tool) and (folder / needed).exists():
            subprocess.run([tool, *words[:-1], str(folder / words[-1])], capture_output=True, check=False)
