"""JSON from a file that anybody may have written: bounded before it is
read, and strict where Python is not."""

import json
import math
import re
from typing import Any

DEEPEST = 60
"""levels of brackets; a plan has about ten"""
MOST_DIGITS = 40
"""of one number"""
BRACKETS = re.compile(r'"(?:[^"\\]|\\.)*"|[\[{]|[\]}]')


class JsonError(ValueError):
    """The text is not JSON that is read; `place` says where, or is empty."""

    def __init__(self, place: str, why: str):
        super().__init__(f"{place}: {why}" if place else why)
        self.place, self.why = place, why


def tree_of(data: bytes) -> Any:
    """The tree of a JSON text (RFC 8259) in UTF-8, with a byte-order mark or without. Raises JsonError."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise JsonError(f"byte {error.start}", "is not UTF-8 text") from None
    _bounded(text)
    try:
        tree = json.loads(
            text, object_pairs_hook=_once, parse_constant=_no_constant, parse_int=_whole, parse_float=_number
        )
    except json.JSONDecodeError as error:
        raise JsonError(f"line {error.lineno}, column {error.colno}", f"is not JSON: {error.msg}") from None
    except RecursionError:
        raise JsonError("", "is nested too deeply") from None
    if "\\u" in text:  # the only way to half a letter
        _whole_letters(tree)
    return tree


def _bounded(text: str) -> None:
    """Refuses what is nested more deeply than any file of ours, before a parser follows it down."""
    depth = 0
    for found in BRACKETS.finditer(text):
        mark = found[0]
        if mark in "[{":
            depth += 1
            if depth > DEEPEST:
                line = text.count("\n", 0, found.start()) + 1
                raise JsonError(f"line {line}", f"is nested more than {DEEPEST} levels deep")
        elif mark in "]}":
            depth -= 1


def _whole_letters(tree: Any) -> None:
    if isinstance(tree, str):
        try:
            tree.encode("utf-8")
        except UnicodeEncodeError as error:
            raise JsonError(
                "", f"contains half a letter (\\u{ord(tree[error.start]):04x} without its other half)"
            ) from None
    elif isinstance(tree, dict):
        for key, value in tree.items():
            _whole_letters(key)
            _whole_letters(value)
    elif isinstance(tree, list):
        for value in tree:
            _whole_letters(value)


def _whole(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise JsonError("", f"contains a number of {len(digits)} digits, {digits[:12]}…")
    return int(digits)


def _number(digits: str) -> float:
    value = float(digits)
    vanished = value == 0 and bool(re.search("[1-9]", digits.lower().partition("e")[0]))
    if len(digits) > MOST_DIGITS or vanished or not math.isfinite(value):
        raise JsonError("", f"contains {digits[:20]}, which is no number that is reckoned with")
    return value


def _no_constant(word: str) -> None:
    raise JsonError("", f"contains {word}, which is no number in JSON")


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    tree = dict(pairs)
    if len(tree) != len(pairs):
        seen: set[str] = set()
        for key, _ in pairs:
            if key in seen:
                raise JsonError("", f"has the key {key[:40]!r} twice in one place")
            seen.add(key)
    return tree
