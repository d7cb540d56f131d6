"""JSON Schemas as they are published: the same to the letter under every version of Python."""

from typing import Any

import msgspec

from knotplan import HOME
from knotplan.catalog.toml_text import SCHEMA_KEY
from knotplan.exchange.described import describe, structs_of

DIALECT = "https://json-schema.org/draft/2020-12/schema"
REF = "#/$defs/{name}"
SCHEMA_FIELD = {
    "title": "Schema",
    "description": "where the schema of this file is; for editors",
    "type": "string",
}


def id_of(name: str) -> str:
    """What a schema is called all over the world."""
    return f"{HOME}/schemas/{name}.schema.json"


def published(name: str, title: str, *types: Any) -> dict[str, Any]:
    """The schema of what is one of some types, with a description of every property.

    Descriptions come from docstrings, which Python dedents from 3.13 on: here they stand on one line.
    """
    schemas, definitions = msgspec.json.schema_components(types, ref_template=REF)
    describe(definitions, structs_of(*types))
    whole = schemas[0] if len(schemas) == 1 else {"anyOf": list(schemas)}
    head = {"$schema": DIALECT, "$id": id_of(name), "title": title}
    tidied: dict[str, Any] = _tidy({**head, **whole, "$defs": definitions})
    return tidied


def of_file(name: str, title: str, kind: type, apart: tuple[str, ...] = ()) -> dict[str, Any]:
    """The schema of a file that holds one thing: `apart` are fields that do not stand in it, and the file may
    name its schema."""
    schema = published(name, title, kind)
    fields = schema["$defs"][kind.__name__]
    for field in apart:
        del fields["properties"][field]
        fields["required"].remove(field)
    fields["properties"][SCHEMA_KEY] = SCHEMA_FIELD
    return schema


def _tidy(tree: Any) -> Any:
    if isinstance(tree, dict):
        return {
            k: " ".join(v.split()) if k == "description" and isinstance(v, str) else _tidy(v)
            for k, v in tree.items()
        }
    return [_tidy(v) for v in tree] if isinstance(tree, list) else tree
