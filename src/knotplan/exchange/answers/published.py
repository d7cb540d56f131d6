"""The JSON Schemas of what commands answer."""

from importlib import import_module
from typing import Any

from knotplan.exchange.published import published

ANSWERS: dict[str, tuple[str, ...]] = {
    "check": ("CheckAnswer", "ChecksAnswer"),
    "names": ("NamesAnswer", "PinRowsAnswer"),
    "value": ("ValueAnswer",),
    "power": ("PowerAnswer",),
    "buses": ("BusesAnswer", "AssignAnswer"),
    "timing": ("LanesAnswer", "PartTimingAnswer"),
    "wire": ("WireAnswer",),
    "measure": ("PointsAnswer", "FaultsAnswer"),
    "compare": ("CompareAnswer",),
    "suggest": ("SuggestAnswer", "ConflictAnswer"),
    "catalog": ("CatalogAnswer", "Board", "Part"),
}
"""by command: what it can answer, each a type of the module of its name"""


def schema(name: str) -> dict[str, Any]:
    """The schema of what a command prints with --format json."""
    module = import_module(f"knotplan.exchange.answers.{name}")
    return published(name, f"What knotplan {name} prints", *(getattr(module, kind) for kind in ANSWERS[name]))
