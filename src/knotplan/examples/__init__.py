"""Example plans that come with the program, in scenes of our own."""

from pathlib import Path

from knotplan.catalog.load import Catalog
from knotplan.core.plan.document import Plan

HERE = Path(__file__).parent
SCENES: dict[str, tuple[str, str]] = {
    "harbour-light": ("Harbour light", "a shelf-sized model lighthouse on a Linux computer"),
    "seed-drawers": ("Seed drawers", "a light and a reed contact for each drawer, on a 5 V controller"),
    "mist-bench": ("Mist bench", "pumps, valves and humidity, on a module with radio"),
    "kite-winder": ("Kite winder", "two steppers with their drivers, on a board with pulse slices"),
    "badge-wall": ("Badge wall", "a chain of clip-on pixels, on a classroom card"),
    "organ-shutters": ("Organ shutters", "60 hubs and 960 servos, larger than anyone's plan"),
}
"""each is there mended, and as a first draft with the usual mistakes"""


def example(name: str, catalog: Catalog) -> Plan:
    """An example by name. Raises FileNotFoundError."""
    from knotplan.exchange.plan_file import load

    if name.removesuffix("-draft") == "organ-shutters":
        from knotplan.examples.organ_shutters import organ_shutters

        return organ_shutters(draft=name.endswith("-draft"))
    return load(HERE / f"{name}.knot.json", catalog)


def names() -> list[str]:
    """Every example, those for single rules left out."""
    return [f"{scene}{tail}" for scene in SCENES for tail in ("", "-draft")]
