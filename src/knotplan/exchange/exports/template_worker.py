"""The process in which a maker's own template runs: bounded in time and memory, with no file to write.

Reads {"template": text, "given": data} as JSON from standard input; writes {"text": ...} or {"error": ...,
"line": ...} to standard output.
"""

import json
import resource
import sys
import traceback
from typing import Any

from jinja2 import TemplateError, TemplateSyntaxError, UndefinedError

from knotplan.catalog.nearest import nearest
from knotplan.exchange.exports.constant_template import environment

SECONDS, BYTES = 5, 1_000_000_000
NAME = "<template>"
"""what the library calls a template that is no file"""


def main() -> None:
    """Answers one question."""
    asked = json.load(sys.stdin)
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_AS, (BYTES, BYTES))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    json.dump(answer(asked["template"], asked["given"]), sys.stdout)


def answer(template: str, given: dict[str, Any]) -> dict[str, Any]:
    """The text, or what is wrong with the template, and in which line."""
    try:
        return {"text": environment().from_string(template).render(given)}
    except TemplateSyntaxError as error:
        return {"error": error.message or "is no template", "line": error.lineno}
    except UndefinedError as error:
        return {"error": _unknown(str(error), given), "line": _line(error)}
    except (TemplateError, ArithmeticError, LookupError, TypeError, ValueError, AttributeError) as error:
        return {"error": str(error) or type(error).__name__, "line": _line(error)}
    except (RecursionError, MemoryError):
        return {"error": "takes more memory than any file of constants", "line": 0}


def _unknown(text: str, given: dict[str, Any]) -> str:
    """An unknown name, with the nearest that there is."""
    name = text.split("'")[-2] if text.count("'") > 1 else ""
    known = [
        *given,
        *(key for rows in given.values() if isinstance(rows, list) for row in rows[:1] for key in _keys(row)),
    ]
    near = nearest(name.rpartition(" ")[2], known) if name else []
    return f"{text}; did you mean {near[0]!r}?" if near else f"{text}; there are {', '.join(given)}"


def _keys(row: object) -> list[str]:
    return list(row) if isinstance(row, dict) else []


def _line(error: BaseException) -> int:
    """Where in the template it happened; the library rewrites the traceback so that it says so."""
    frames = [f for f in traceback.extract_tb(error.__traceback__) if f.filename == NAME]
    return frames[-1].lineno or 0 if frames else 0


if __name__ == "__main__":
    main()
