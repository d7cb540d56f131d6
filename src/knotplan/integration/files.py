"""The files that make the program one among others on a Linux desktop, by where they go below a share folder.

Desktop Entry Specification 1.5, AppStream 1.0, Shared MIME-info Specification 0.22, Icon Theme Specification
0.13.
"""

import re
from datetime import UTC, datetime
from pathlib import Path

from knotplan import HOME, RELEASED, __version__

HERE = Path(__file__).parent
ID = "example.knotplan.knotplan"
"""the name of the desktop entry and of the metainfo: the domain of `HOME`, turned round"""
SIZED = re.compile(r"(?P<name>[a-z-]+)-(?P<size>\d+)\.png")
SYMBOLIC = "-symbolic.svg"
PLAN_ICON = "knotplan-plan"


def files(command: str) -> dict[str, bytes]:
    """Every file by its place below `share`; `command` is what starts the program."""
    made = {
        f"applications/{ID}.desktop": _entry(command),
        f"metainfo/{ID}.metainfo.xml": _metainfo(),
        "mime/packages/knotplan.xml": (HERE / "knotplan.mime.xml").read_bytes(),
    }
    for icon in sorted((HERE / "icons").iterdir()):
        made[_icon_place(icon.name)] = icon.read_bytes()
    return made


def _entry(command: str) -> bytes:
    text = (HERE / "knotplan.desktop.in").read_text("utf-8")
    return (
        text.replace("TryExec=@EXEC@", f"TryExec={_escaped(command)}")
        .replace("@EXEC@", _quoted(command))
        .encode("utf-8")
    )


def _escaped(text: str) -> str:
    return text.replace("\\", "\\\\")


def _quoted(command: str) -> str:
    r"""A command of the Exec key: quoted where it has a reserved character, and then escaped as a string is.

    >>> _quoted("knotplan"), _quoted("/home/a b/knotplan")
    ('knotplan', '"/home/a b/knotplan"')
    """
    if re.fullmatch(r"[A-Za-z0-9/._+-]+", command):
        return command
    inner = re.sub(r'(["`$\\])', r"\\\1", command).replace("%", "%%")
    return _escaped(f'"{inner}"')


def _metainfo() -> bytes:
    text = (HERE / f"{ID}.metainfo.xml.in").read_text("utf-8")
    day = datetime.fromisoformat(RELEASED).replace(tzinfo=UTC)
    for name, value in (("HOME", HOME), ("VERSION", __version__), ("DATE", f"{day:%Y-%m-%d}")):
        text = text.replace(f"@{name}@", value)
    return text.encode("utf-8")


def _icon_place(name: str) -> str:
    """Where the icon theme has an icon: by size, as a drawing, or in one colour for panels."""
    if name.endswith(SYMBOLIC):
        return f"icons/hicolor/symbolic/apps/{name}"
    sized = SIZED.fullmatch(name)
    stem = sized["name"] if sized else name.removesuffix(".svg")
    kind = "mimetypes" if stem == PLAN_ICON else "apps"
    folder = f"{sized['size']}x{sized['size']}" if sized else "scalable"
    return f"icons/hicolor/{folder}/{kind}/{stem}{'.png' if sized else '.svg'}"
