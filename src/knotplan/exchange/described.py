"""Titles and descriptions for the properties of a JSON Schema: from the docstrings of the fields that they
are."""

import ast
import inspect
import textwrap
from collections.abc import Iterator
from functools import cache
from typing import Any

import msgspec

UNITS = {
    "a": "A",
    "bytes": "bytes",
    "cd": "cd",
    "degrees": "°",
    "farad": "F",
    "hz": "Hz",
    "m": "m",
    "mm": "mm",
    "nm": "N·m",
    "ohm": "Ω",
    "s": "s",
    "v": "V",
    "w": "W",
}
"""what names end in, and the unit that it stands for"""


def structs_of(*types: Any) -> dict[str, type]:
    """Every struct in some types, by its name in their schemas."""
    found: dict[str, type] = {}

    def walk(info: Any) -> None:
        if isinstance(info, msgspec.inspect.StructType):
            if info.cls.__name__ not in found:
                found[info.cls.__name__] = info.cls
                for field in info.fields:
                    walk(field.type)
            return
        for name in ("type", "item_type", "key_type", "value_type"):
            if hasattr(info, name):
                walk(getattr(info, name))
        for name in ("types", "item_types"):
            for inner in getattr(info, name, None) or ():
                walk(inner)

    for one in types:
        walk(msgspec.inspect.type_info(one))
    return found


def describe(definitions: dict[str, Any], structs: dict[str, type]) -> None:
    """Writes titles and descriptions into the definitions of structs."""
    for name, struct in structs.items():
        definition = definitions.get(name)
        if definition is None:
            continue
        fields = {f.encode_name: f.name for f in msgspec.structs.fields(struct)}
        for key, schema in definition.get("properties", {}).items():
            if key in fields:
                schema["title"] = title_of(key)
                schema["description"] = docs_of(struct)[fields[key]]
            else:  # the tag that says which of several kinds it is
                schema["title"], schema["description"] = title_of(key), "which kind it is"


def title_of(name: str) -> str:
    """A field's name as people read it.

    >>> title_of("limit_a"), title_of("carried_parts"), title_of("a")
    ('Limit (A)', 'Carried parts', 'A')
    """
    if name == "mm2":
        return "Cross-section (mm²)"
    words = name.split("_")
    unit = UNITS.get(words[-1]) if len(words) > 1 else None
    text = " ".join(words[:-1] if unit else words)
    return text[:1].upper() + text[1:] + (f" ({unit})" if unit else "")


@cache
def docs_of(struct: type) -> dict[str, str]:
    """What the docstring below each field of a struct says, those of its bases too."""
    found: dict[str, str] = {}
    for base in reversed(struct.__mro__):
        if base.__module__.startswith("knotplan."):
            found |= dict(_documented(base))
    return found


def _documented(struct: type) -> Iterator[tuple[str, str]]:
    (tree,) = ast.parse(textwrap.dedent(inspect.getsource(struct))).body
    assert isinstance(tree, ast.ClassDef)
    for field, below in zip(tree.body, tree.body[1:], strict=False):
        match field, below:
            case (
                ast.AnnAssign(target=ast.Name(id=name)),
                ast.Expr(value=ast.Constant(value=str() as text)),
            ):
                yield name, " ".join(text.split())
