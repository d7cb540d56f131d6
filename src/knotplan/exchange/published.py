"""JSON Schemas of our files as they are published: the same to the letter under every version of Python."""

from typing import Any

DIALECT = "https://json-schema.org/draft/2020-12/schema"


def published(schema: dict[str, Any], title: str) -> dict[str, Any]:
    """A schema with its dialect and title. Descriptions come from docstrings, which Python dedents from
    3.13 on: here they stand on one line."""
    return {"$schema": DIALECT, "title": title, **_tidy(schema)}


def _tidy(tree: Any) -> Any:
    if isinstance(tree, dict):
        return {
            k: " ".join(v.split()) if k == "description" and isinstance(v, str) else _tidy(v)
            for k, v in tree.items()
        }
    return [_tidy(v) for v in tree] if isinstance(tree, list) else tree
