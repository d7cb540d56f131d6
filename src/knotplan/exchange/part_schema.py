"""The JSON Schema of a part file as it is written: a base with variants, repeated blocks, and parameters in
the place of values."""

from typing import Any

from knotplan.exchange.part_file import schema as definite_schema
from knotplan.exchange.published import SCHEMA_FIELD, id_of

FROM_PARAMETER = {
    "title": "From a parameter",
    "description": "stands for the value of the parameter of that name",
    "type": "string",
    "pattern": "^=.+",
}
VARIANTS = {
    "title": "Variants",
    "description": "by parameter, then by choice: what differs then",
    "type": "object",
    "additionalProperties": {"type": "object", "additionalProperties": {"$ref": "#/$defs/Some"}},
}
Json = dict[str, Any]


def schema() -> Json:
    """The schema of a part file.

    A table may be spread over base, variants and blocks, so that none of them has to be whole: whether what
    parameters make of it is, says `knotplan catalog check`.
    """
    whole = definite_schema()
    definitions = {name: _loose(d) for name, d in whole["$defs"].items()}
    part = definitions["Part"]
    some = {**part, "description": "what differs from the rest of the file"}
    definitions["Some"] = some
    definitions["Repeated"] = {
        **some,
        "title": "Repeated",
        "description": "what the part has several times over; # stands for the number",
        "properties": {
            **part["properties"],
            "first": _property("First", "the first number", {"type": "integer"}),
            "count": _property("Count", "how many there are", _or_parameter({"type": "integer"})),
            "variants": VARIANTS,
        },
        "required": ["count"],
    }
    definitions["Part"] = {
        **part,
        "description": "A part: a base, what differs with its parameters, what it has several times over.",
        "properties": {
            "$schema": SCHEMA_FIELD,
            **{k: v for k, v in part["properties"].items() if k != "$schema"},
            "variants": VARIANTS,
            "repeat": _property(
                "Repeat",
                "what the part has several times over",
                {"type": "array", "items": {"$ref": "#/$defs/Repeated"}},
            ),
        },
        "required": ["title", "summary", "category"],
    }
    return {**whole, "$id": id_of("part"), "title": "Knot Plan part", "$defs": definitions}


def _property(title: str, description: str, schema: Json) -> Json:
    return {"title": title, "description": description, **schema}


def _loose(schema: Any) -> Any:
    """The same without what has to be there, and with parameters in the place of values."""
    if isinstance(schema, list):
        return [_loose(s) for s in schema]
    if not isinstance(schema, dict):
        return schema
    loose = {k: _loose(v) for k, v in schema.items() if k not in ("required", "discriminator", "properties")}
    if "properties" in schema:
        loose["properties"] = {k: _value(_loose(v)) for k, v in schema["properties"].items()}
    for key in ("items", "additionalProperties"):
        if isinstance(loose.get(key), dict):
            loose[key] = _or_parameter(loose[key])
    if "prefixItems" in loose:
        loose["prefixItems"] = [_or_parameter(s) for s in loose["prefixItems"]]
    return loose


def _value(schema: Json) -> Json:
    """A property that a parameter may stand for; what says which kind a table is has to be there itself."""
    if "const" in schema:
        return schema
    words: Json = {k: schema[k] for k in ("title", "description", "default") if k in schema}
    rest = {k: v for k, v in schema.items() if k not in words}
    return {**words, **_or_parameter(rest)}


def _or_parameter(schema: Json) -> Json:
    if schema.get("type") == "string" and "enum" not in schema:
        return schema
    return {"anyOf": [schema, FROM_PARAMETER]}
