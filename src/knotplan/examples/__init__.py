"""Example plans that come with the program, in scenes of our own."""

from pathlib import Path

from knotplan.catalog.load import Catalog
from knotplan.core.plan import Plan

HERE = Path(__file__).parent


def example(name: str, catalog: Catalog) -> Plan:
    """An example by name. Raises FileNotFoundError."""
    from knotplan.exchange.plan_file import load

    return load(HERE / f"{name}.knot.json", catalog)


def names() -> list[str]:
    """Every example, those for single rules left out."""
    return sorted(p.name.removesuffix(".knot.json") for p in HERE.glob("*.knot.json"))
