"""The arrow keys: the contact next to another one in a direction."""

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.neighbours import neighbour, places, step
from knotplan.core.drawing.loom.room import lay_out
from knotplan.examples import SCENES, example

WAYS = ((1, 0), (-1, 0), (0, 1), (0, -1))


def bench_of(name: str, turned) -> Bench:
    return lay_out(Circuit(replace(example(name, shipped()), turned=turned), shipped()), None, (876, 620))


@pytest.mark.parametrize("turned", [0, 90])
@pytest.mark.parametrize("name", [s for s in SCENES if s != "organ-shutters"])
def test_every_contact_is_reached_from_every_other_by_arrows(name: str, turned) -> None:
    bench = bench_of(name, turned)
    steps = {c: {n for way in WAYS if (n := step(bench, c, way))} for c in places(bench)}
    start = next(iter(steps))

    def reached(graph: dict[str, set[str]]) -> set[str]:
        seen, queue = {start}, [start]
        while queue:
            new = graph[queue.pop()] - seen
            seen |= new
            queue += new
        return seen

    back: dict[str, set[str]] = {c: set() for c in steps}
    for here, there in steps.items():
        for other in there:
            back[other].add(here)
    assert reached(steps) == set(steps), "from the first to all"
    assert reached(back) == set(steps), "and from all to the first"


@pytest.mark.parametrize("turned", [0, 90])
def test_a_step_goes_the_way_of_the_arrow(turned) -> None:
    bench = bench_of("harbour-light", turned)
    spots = places(bench)
    for contact, (x, y) in spots.items():
        for dx, dy in WAYS:
            other = neighbour(bench, contact, (dx, dy))
            if other:
                ox, oy = spots[other]
                assert (ox - x) * dx + (oy - y) * dy > 0


def test_down_a_card_and_down_a_header_go_row_by_row() -> None:
    bench = bench_of("harbour-light", 0)
    assert step(bench, "lamp.anode", (0, 1)) == "lamp.cathode"
    assert step(bench, "lamp.cathode", (0, -1)) == "lamp.anode"
    assert (
        neighbour(bench, "board.p1", (0, 1)) == "board.p3"
        and neighbour(bench, "board.p1", (1, 0)) == "board.p2"
    )
