"""Small benches for the tests of buses: parts fed and grounded on one board."""

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BusClock, PlacedPart, Plan, Tie

BOARDS = {
    "splice-24": {"v": "p32", "g": "p3", "sda": "p4", "scl": "p5"},
    "bowline-40": {"v": "p2", "g": "p5", "sda": "p14", "scl": "p22"},
    "capstan-34": {"v": "p1", "g": "p9", "sda": "p7", "scl": "p8"},
}
SUPPLIES = ("vcc", "vdd", "vin")


def placed(part_id: str, kind: str, **params: str | float) -> PlacedPart:
    return PlacedPart(part_id, kind, part_id.capitalize(), params)


def on_bus(board: str, part: PlacedPart, sda: str = "", scl: str = "", **cord: object) -> list[Tie]:
    """The part's supply, ground and two lines, on the board's first bus or on the given contacts."""
    pins, leads = BOARDS[board], shipped().part(part.part, {}).leads
    supply = next(s for s in SUPPLIES if s in leads)
    ends = {supply: pins["v"], "gnd": pins["g"], "sda": sda or pins["sda"], "scl": scl or pins["scl"]}
    return [
        Tie(
            f"{part.id}.{lead}",
            f"{part.id}.{lead}",
            to if "." in to else f"board.{to}",
            **(cord if lead in ("sda", "scl") else {}),
        )
        for lead, to in ends.items()
    ]


def bench(
    board: str,
    parts: list[PlacedPart],
    ties: list[Tie] | None = None,
    clocks: tuple[tuple[str, float], ...] = (),
) -> Circuit:
    """A circuit; parts are put on the board's first bus where no ties are given."""
    made = ties if ties is not None else [t for p in parts for t in on_bus(board, p)]
    return Circuit(
        Plan(board, parts=tuple(parts), ties=tuple(made), clocks=tuple(BusClock(*c) for c in clocks)),
        shipped(),
    )
