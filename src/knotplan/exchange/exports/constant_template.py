"""Templates of constants (Jinja2), those that come with the program and the maker's own.

They run in the library's sandbox: a template sees the plan's names and numbers, and the filters below, and
nothing else. What a maker's own template does beyond that is bounded by a process of its own
(`own_template.py`).
"""

import json
import re
import shlex
from collections.abc import Iterable
from functools import cache
from typing import TYPE_CHECKING, Any

import msgspec
from jinja2 import PackageLoader, StrictUndefined
from jinja2.sandbox import ImmutableSandboxedEnvironment

from knotplan.exchange.plain_text import c_string, remark

if TYPE_CHECKING:
    from knotplan.exchange.exports.constants import Constants

NAME = re.compile(r"[A-Za-z_]\w{0,60}", re.ASCII)
NUMBER = re.compile(r"\d{1,9}", re.ASCII)
PLAIN_FILTERS = (
    "batch",
    "capitalize",
    "default",
    "first",
    "float",
    "format",
    "groupby",
    "int",
    "join",
    "last",
    "length",
    "list",
    "lower",
    "map",
    "max",
    "min",
    "reject",
    "rejectattr",
    "replace",
    "reverse",
    "round",
    "select",
    "selectattr",
    "slice",
    "sort",
    "string",
    "sum",
    "title",
    "trim",
    "truncate",
    "unique",
    "upper",
    "wordwrap",
)
"""of the library's own: those that need no page and no other template"""


@cache
def environment() -> ImmutableSandboxedEnvironment:
    """Where templates run. Texts are written as literals of the language, so that nothing escapes from
    them."""
    made = ImmutableSandboxedEnvironment(
        loader=PackageLoader("knotplan.exchange", "templates/constants"),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        keep_trailing_newline=True,
        autoescape=False,
    )
    kept = {name: made.filters[name] for name in PLAIN_FILTERS}
    made.filters.clear()
    made.filters.update(kept)
    made.filters.update(
        c=c_value,
        c_number=c_number,
        python=python_value,
        shell=shell_value,
        json=json_value,
        markdown=markdown_text,
        remark=remark,
        ljust=lambda text, width: str(text).ljust(min(int(width), 200)),
        dimensions=dimensions,
    )
    return made


def written(template: str, constants: "Constants") -> str:
    """What a shipped template makes of a plan's constants."""
    return environment().get_template(template).render(given(constants))


def given(constants: "Constants") -> dict[str, Any]:
    """What templates see, as plain data."""
    return {name: msgspec.to_builtins(getattr(constants, name)) for name in constants.__struct_fields__}


def c_value(text: object) -> str:
    """A number, or a name that the program's own libraries may know; anything else as a string.

    >>> c_value("22"), c_value("PA3"), c_value("H.07")
    ('22', 'PA3', '"H.07"')
    """
    word = str(text)
    return word if NUMBER.fullmatch(word) or NAME.fullmatch(word) else c_string(word)


def c_number(value: object, hexadecimal: bool = False) -> str:
    """A number, a text or a table as C and C++ write it.

    >>> c_number(72, True), c_number([[1, 0], [0, 1]]), c_number("a b")
    ('0x48', '{{1, 0}, {0, 1}}', '"a b"')
    """
    if isinstance(value, list):
        return "{" + ", ".join(c_number(v) for v in value) + "}"
    if isinstance(value, str):
        return c_string(value)
    return f"0x{value:02X}" if hexadecimal and isinstance(value, int) else str(value)


def dimensions(value: object) -> str:
    """Of a table: how many rows and columns it has, in brackets; nothing of a number."""
    if not isinstance(value, list):
        return ""
    inner = value[0] if value and isinstance(value[0], list) else None
    return f"[{len(value)}]" + (f"[{len(inner)}]" if inner is not None else "")


def python_value(value: object, hexadecimal: bool = False) -> str:
    """A value as Python writes it: a pin's number as an int, tables as tuples.

    >>> python_value("22"), python_value("A3"), python_value([[1, 0], [0, 1]])
    ('22', "'A3'", '((1, 0), (0, 1))')
    """
    if isinstance(value, str):
        return str(int(value)) if NUMBER.fullmatch(value) else repr(value)
    if isinstance(value, list):
        inner = ", ".join(python_value(v) for v in value)
        return f"({inner},)" if len(value) == 1 else f"({inner})"
    return f"0x{value:02X}" if hexadecimal and isinstance(value, int) else repr(value)


def shell_value(value: object) -> str:
    r"""A word of a POSIX shell (XCU 2.2.2); tables with blanks between numbers and semicolons between rows.

    >>> shell_value("H.07"), shell_value([[1, 0], [0, 1]]), shell_value("it's")
    ('H.07', "'1 0;0 1'", '\'it\'"\'"\'s\'')
    """
    if isinstance(value, list):
        rows: Iterable[object] = value
        parted = ";" if value and isinstance(value[0], list) else " "
        text = parted.join(" ".join(map(str, r)) if isinstance(r, list) else str(r) for r in rows)
        return shlex.quote(text)
    return shlex.quote(str(value))


def json_value(value: object) -> str:
    """Anything as JSON on one line (RFC 8259)."""
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def markdown_text(value: object) -> str:
    """Text in a cell of a Markdown table: what would be marks is not."""
    text = ", ".join(map(str, value)) if isinstance(value, list) else str(value)
    return re.sub(r"([\\`*_{}\[\]<>()#+!|~-])", r"\\\1", " ".join(text.split()))
