"""What a JSON Schema has to say against a file, in words, each with its place and the nearest valid word."""

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any

from knotplan.catalog.board.check import MOST_FAULTS, hint

MOST_ERRORS = 50
"""that are shown of one file"""


def errors_of(tree: Any, published: dict[str, Any]) -> Iterator[tuple[str, str]]:
    """Everything by which a tree departs from a schema, as (place, words), in the order of the places."""
    import jsonschema

    validator = jsonschema.Draft202012Validator(published)
    try:
        errors = list(islice(validator.iter_errors(tree), MOST_FAULTS))
    except RecursionError:
        yield "", "is nested more deeply than any file of ours"
        return
    for error in sorted(errors, key=lambda e: [(isinstance(p, str), p) for p in e.absolute_path]):
        yield from _worded(error, published["$defs"])


def _place(path: Iterable[object]) -> str:
    return "".join(f"[{p}]" if isinstance(p, int) else f".{p}" for p in path).lstrip(".")


def _worded(error: Any, definitions: dict[str, Any]) -> Iterator[tuple[str, str]]:
    """A schema error as place and words."""
    place = _place(error.absolute_path)
    if error.validator == "anyOf" and isinstance(error.instance, dict):
        yield from _no_alternative(error, place, definitions)
    elif error.validator == "additionalProperties":
        known = list(error.schema.get("properties", {}))
        for key in error.instance:
            if key not in known:
                yield place, f"has an unknown key {key!r}{hint(key, known)}"
    elif error.validator in ("enum", "const"):
        known = error.schema.get("enum", [error.schema.get("const")])
        text = ", ".join(str(k) for k in known if k != "")
        yield place, f"{error.instance!r} is none of {text}{hint(str(error.instance), known)}"
    else:
        yield place, error.message if len(error.message) < 160 else f"does not satisfy {error.validator!r}"


def _no_alternative(error: Any, place: str, definitions: dict[str, Any]) -> Iterator[tuple[str, str]]:
    """A table that is none of the kinds that could stand here; where its kind
    is known, what is wrong by that kind."""
    import jsonschema

    kinds: dict[str, str] = error.schema.get("discriminator", {}).get("mapping", {})
    refs = [kinds[error.instance["kind"]]] if error.instance.get("kind") in kinds else []
    if kinds and not refs:
        kind = error.instance.get("kind")
        yield f"{place}.kind", f"{kind!r} is none of {', '.join(kinds)}{hint(str(kind), kinds)}"
    for ref in refs or [x["$ref"] for x in error.validator_value if "$ref" in x and not kinds]:
        alternative = {**definitions[ref.rpartition("/")[2]], "$defs": definitions}
        for inner in jsonschema.Draft202012Validator(alternative).iter_errors(error.instance):
            for where, text in _worded(inner, definitions):
                yield f"{place}.{where}".rstrip("."), text
