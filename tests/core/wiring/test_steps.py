"""The steps: everything once, in the order in which hands do it, each in words that say one thing."""

from itertools import pairwise

import pytest

from knotplan.catalog.load import Catalog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.beads import (
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
    SeriesResistor,
    Zener,
)
from knotplan.core.plan.document import BOARD, split
from knotplan.core.wiring.slips import DAMAGING, RULES_ASKED, Slips
from knotplan.core.wiring.state import tasks_of
from knotplan.core.wiring.steps import STAGES, Step, steps_of
from knotplan.core.wiring.words import bead_task
from knotplan.examples import SCENES, example
from tests.conftest import lay

SMALL = [s for s in SCENES if s != "organ-shutters"]


def of_scene(scene: str, catalog: Catalog) -> tuple[Circuit, tuple[Step, ...]]:
    c = Circuit(example(scene, catalog), catalog)
    return c, steps_of(c)


@pytest.mark.parametrize("scene", SMALL)
def test_each_task_is_one_step_and_stages_follow_one_another(scene: str, catalog: Catalog) -> None:
    c, steps = of_scene(scene, catalog)
    assert sorted(s.task for s in steps) == sorted(tasks_of(c))
    order = list(STAGES)
    assert [order.index(s.stage) for s in steps] == sorted(order.index(s.stage) for s in steps)
    assert steps[-1].stage == "power", "nothing is switched on before everything is plugged"


@pytest.mark.parametrize("scene", SMALL)
def test_hubs_and_bars_come_before_what_hangs_on_them(scene: str, catalog: Catalog) -> None:
    _, steps = of_scene(scene, catalog)
    for stage in ("ground", "signals", "supplies"):
        own = [s for s in steps if s.stage == stage]
        hangs = {(split(s.lead)[0], split(s.to)[0]) for s in own if split(s.to)[0] != BOARD}
        for part, hub in hangs:
            if (hub, part) in hangs or part == hub:
                continue
            of_hub = [k for k, s in enumerate(own) if split(s.lead)[0] == hub]
            of_part = [k for k, s in enumerate(own) if split(s.lead)[0] == part]
            assert not of_hub or max(of_hub) < min(of_part), (stage, part, hub)


@pytest.mark.parametrize("scene", SMALL)
def test_signals_of_one_part_stay_together(scene: str, catalog: Catalog) -> None:
    _, steps = of_scene(scene, catalog)
    parts = [s.part for s in steps if s.stage == "signals"]
    changes = sum(a != b for a, b in pairwise(parts))
    assert changes == max(0, len(set(parts)) - 1)


def test_a_step_says_everything_that_hands_need(catalog: Catalog) -> None:
    _, steps = of_scene("harbour-light", catalog)
    step = next(s for s in steps if s.lead == "lamp.anode")
    assert step.do == (
        "Lamp · anode: orange cord, through 180 Ω (brown grey brown silver), to position 7, chip line L22"
    )
    assert step.where is not None and step.where.words == "left row, 4th pin from the notch end"
    assert set(step.neighbours) == {"board.p5", "board.p9", "board.p8"}
    air = next(s for s in steps if s.task == "part:air")
    assert air.do.startswith("Air: Pad A0: bridged"), "what is not as usual comes first"
    last = [s.do for s in steps if s.stage == "power"]
    assert last == ["USB brick: plug it into the USB power socket", "5 V brick: switch it on"]


def test_every_bead_is_told_with_what_matters(catalog: Catalog) -> None:
    c = Circuit(lay("bowline-40", {"lamp": "led"}, {"lamp.anode": "p7"}), catalog)
    said = {
        SeriesResistor(180.0): "through 180 Ω (brown grey brown gold)",
        PullUp(4700.0, rail="board.p1"): "with 4.7 kΩ (yellow violet red gold) up to 5V",
        PullDown(10e3): "with 10 kΩ (brown black orange gold) down to ground",
        Capacitor(1e-7): "with 100 nF (16 V) to ground",
        Diode("pin"): "through a schottky diode, its ring towards the pin",
        Clamp("board.p1"): "with a diode up to 5V, its ring at 5V",
        Zener(3.9): "with a 3.9 V zener diode to ground, its ring at the cord",
        Fuse(1.0): "through a 1 A fuse",
        LevelShifter("mosfet", "board.p1", ""): "through a transistor level shifter (5V at the part's side, "
        "a supply (not chosen yet) at the pin's)",
    }
    assert {bead: bead_task(c, bead) for bead in said} == said


def test_slips_that_do_harm_are_told_and_others_are_not(catalog: Catalog) -> None:
    """A contact to ground beside a supply pin: the supply would be short-circuited through it."""
    plan = lay(
        "bowline-40",
        {"brick": "usb-brick", "door": "reed-contact"},
        {"brick.plug": "usb", "door.contact": "p4", "door.common": "p5"},
        pulls={"door.contact": "up"},
    )
    c = Circuit(plan, catalog)
    steps = {s.lead: s for s in steps_of(c)}
    slips = Slips(c, catalog)
    door = steps["door.contact"]
    harmful = {s.contact: s for s in slips.of(door.tie, door.neighbours)}
    assert {"board.p2", "board.p3"} == set(harmful), "two supplies lie beside it; the signal pin does no harm"
    assert all(s.title and s.why for s in harmful.values())
    assert slips.of(door.tie, door.neighbours) is slips.of(door.tie, door.neighbours), (
        "what was found is kept"
    )


def test_the_rules_of_slips_are_rules() -> None:
    assert {r.id for r in RULES_ASKED} == set(DAMAGING)
