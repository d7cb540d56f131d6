"""What a meter reads, against closed forms worked out here from the catalogue's own figures."""

import math
import random

import pytest

from knotplan.catalog.load import Catalog
from knotplan.catalog.part import elements as kinds
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.solver.junction import fit
from knotplan.core.meter.expected import Expected
from knotplan.core.meter.network import AS_PLANNED, NOWHERE, Bench, Change, Network, fed, stages
from knotplan.core.meter.points import Point
from knotplan.core.meter.table import Meter
from knotplan.core.plan.beads import PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Plan
from knotplan.examples import SCENES, example
from tests.conftest import lay

SMALL = [s for s in SCENES if s != "organ-shutters"]
METER = 10e6


def read(plan: Plan, catalog: Catalog, *ids: str) -> dict[str, Expected]:
    meter = Meter(Circuit(plan, catalog))
    points = {p.id: p for p in meter.points}
    found = meter.as_planned([points[i] for i in ids])
    return {p.id: e for p, e in found.items()}


def lamp(ohm: float = 180.0, tolerance: float = 0.1) -> Plan:
    return lay(
        "bowline-40",
        {"brick": "usb-brick", "lamp": "led"},
        {"brick.plug": "usb", "lamp.anode": "p7", "lamp.cathode": "p5"},
        {"lamp.anode": [SeriesResistor(ohm, tolerance)]},
    )


def test_ohms_through_a_bead_are_the_bead_with_its_tolerance(catalog: Catalog) -> None:
    (e,) = read(lamp(), catalog, "ohms:lamp.anode:board.p7").values()
    assert (e.least, e.usual, e.most) == pytest.approx((162.0, 180.0, 198.0), rel=1e-6)


def test_ohms_of_two_ways_side_by_side(catalog: Catalog) -> None:
    """Between the two lines of a bus: up one pull-up to the rail, down the other; each with one beside it."""
    plan = lay(
        "bowline-40",
        {"brick": "usb-brick", "clock": "clock", "store": "eeprom"},
        {
            "brick.plug": "usb",
            "clock.vcc": "p2",
            "clock.gnd": "p5",
            "clock.sda": "p14",
            "clock.scl": "p22",
            "store.vcc": "p2",
            "store.gnd": "p5",
            "store.sda": "p14",
            "store.scl": "p22",
        },
    )
    c = Circuit(plan, catalog)
    pulls = [c.parts[p].elements["pull_sda"].ohm for p in ("clock", "store")]  # type: ignore[union-attr]
    fitted = c.board.pins["p14"].fitted_pull_ohm
    assert fitted is not None, "the board has its own besides, of 5 %"
    pulls.append(Range.around(fitted, 0.05))
    side_by_side = [1 / sum(1 / getattr(r, end) for r in pulls) for end in ("min", "typ", "max")]
    (e,) = read(plan, catalog, "ohms:store.scl:store.sda").values()
    assert (e.least, e.usual, e.most) == pytest.approx([2 * r for r in side_by_side], rel=1e-3)


def test_an_open_way_is_over_the_range(catalog: Catalog) -> None:
    (e,) = read(lamp(), catalog, "ohms:lamp.anode:board.p9").values()
    assert e.open and math.isinf(e.usual)


def test_the_diode_range_reads_the_junction_and_the_bead(catalog: Catalog) -> None:
    """``V = nVt ln(1 + I/Is) + I (Rs + R)`` at 1 mA, and nothing the other way round."""
    plan = lamp(180.0, 0.0)
    led = Circuit(plan, catalog).parts["lamp"].elements["junction"]
    assert isinstance(led, kinds.Led)
    volts = fit(led.points).voltage(1e-3) + 180e-3
    found = read(plan, catalog, "diode:lamp.junction", "diode:lamp.junction:back")
    forward, back = found["diode:lamp.junction"], found["diode:lamp.junction:back"]
    assert forward.usual == pytest.approx(volts, abs=5e-3)
    assert (forward.least, forward.most) == pytest.approx(
        (volts - led.spread_v, volts + led.spread_v), abs=8e-3
    )
    assert back.least == pytest.approx(3.0, abs=0.02), "the meter's own voltage, as with nothing between"


def divider(up: float, down: float) -> Plan:
    """A pin that floats before a program runs, between two resistors in a tie."""
    return lay(
        "bowline-40",
        {"brick": "usb-brick", "door": "reed-contact"},
        {"brick.plug": "usb", "door.contact": "p9", "door.common": "p5"},
        {"door.contact": [PullUp(up, 0.01, "board.p2"), PullDown(down, 0.01)]},
    )


@pytest.mark.parametrize(("up", "down"), [(1e3, 2e3), (47e3, 47e3), (1e6, 1e6)])
def test_volts_of_a_divider_with_the_meter_across_it(up: float, down: float, catalog: Catalog) -> None:
    """``V = V_rail (down || pin || 10 M) / (up + ...)``, the door open; and 0 V where it is closed."""
    plan = divider(up, down)
    c = Circuit(plan, catalog)
    pin, driver = c.board.pins["p9"], c.hardware.driver("board.p9")
    (e,) = read(plan, catalog, "volts:door.contact@brick").values()
    rail = c.board.rails["3v3"].volts
    pull = {"pull-up": driver.pull_up_ohm, "pull-down": driver.pull_down_ohm}.get(pin.power_on)
    leak = rail.typ / driver.leak_a
    to_ground = [1 / down, 1 / METER, 1 / leak]
    to_rail = [1 / up]
    if pull is not None and pin.power_on == "pull-up":
        to_rail.append(1 / pull.typ)
    elif pull is not None:
        to_ground = [1 / down, 1 / METER, 1 / pull.typ]
    usual = rail.typ * sum(to_rail) / (sum(to_rail) + sum(to_ground))
    assert e.usual == pytest.approx(usual, rel=2e-3)
    assert e.least < 0.02, "a closed door pulls it down"
    assert e.most > usual


def test_supplies_read_what_they_give_and_nothing_while_they_are_off(catalog: Catalog) -> None:
    plan = example("harbour-light", catalog)
    c = Circuit(plan, catalog)
    first, second = (name for name, _ in stages(c))
    plus = f"{second}.{c.supplies.on_bench[second].plus}"
    found = read(plan, catalog, f"volts:{plus}@{first}", f"volts:{plus}@{second}")
    off, on = found[f"volts:{plus}@{first}"], found[f"volts:{plus}@{second}"]
    assert (off.least, off.most) == pytest.approx((0.0, 0.0), abs=1e-3)
    volts = c.supplies.on_bench[second].volts
    assert (on.least, on.usual, on.most) == (volts.min, volts.typ, volts.max)


@pytest.mark.parametrize("scene", SMALL)
def test_as_planned_the_network_joins_what_the_plan_joins(scene: str, catalog: Catalog) -> None:
    """Two descriptions of one bench: the nets that the engine solves, and contacts joined by cords."""
    c = Circuit(example(scene, catalog), catalog)
    bench = Bench(Network(c))
    relays = {p for p, part in c.parts.items() if part.contacts_of}
    contacts = [x for x in c.ties.at if x.split(".")[0] not in relays]
    for one in contacts:
        for other in contacts:
            same = c.nets.of(one) == c.nets.of(other)
            if same:
                assert bench.group(one) == bench.group(other), (one, other)
            elif bench.group(one) == bench.group(other):
                reached = set(bench.members(bench.group(one)))
                assert any(m.split(".")[0] in relays for m in reached), (one, other, "joined without a relay")


def test_what_a_change_does_to_what_is_joined(catalog: Catalog) -> None:
    c = Circuit(lamp(), catalog)
    network = Network(c)
    tie = c.plan.tie_of("lamp.cathode")
    assert tie is not None
    for where in (NOWHERE, "board.p9"):
        bench = Bench(network, Change({f"{tie.id}#pin": where}))
        assert bench.group("lamp.cathode") != bench.group("board.p5")
        assert (bench.group("lamp.cathode") == bench.group("board.p9")) == bool(where)
    planned = Bench(network, AS_PLANNED)
    assert planned.group("lamp.cathode") == planned.group("board.p5") and not planned.touched
    anode = c.plan.tie_of("lamp.anode")
    assert anode is not None
    straight = Bench(network, Change(beads={(anode.id, 0): 0.0}))
    assert straight.group("lamp.anode") == straight.group("board.p7")


def test_a_reversed_or_short_circuited_supply_is_fed_accordingly(catalog: Catalog) -> None:
    c = Circuit(example("harbour-light", catalog), catalog)
    network, on = Network(c), stages(c)[-1][1]
    brick = next(p for p, s in c.supplies.on_bench.items() if s.plus != s.minus)
    plus = f"{brick}.{c.supplies.on_bench[brick].plus}"
    right = fed(Bench(network), on)
    turned_bench = Bench(network, Change(supplies={brick: "-"}))
    turned = fed(turned_bench, on)
    assert right.volts[Bench(network).group(plus)].typ == 5.0
    assert turned.volts[turned_bench.group(plus)].typ == -5.0
    short_bench = Bench(network, Change(joints=((plus, "board.p5"),)))
    assert fed(short_bench, on).volts[short_bench.group(plus)].typ == 0.0


@pytest.mark.parametrize("scene", SMALL)
def test_every_bench_lies_in_what_is_expected(scene: str, catalog: Catalog) -> None:
    """A bench drawn by chance, with each fault, read at every point: no reading is outside the table's
    range."""
    meter = Meter(Circuit(example(scene, catalog), catalog))
    table = meter.table()
    rng = random.Random(scene)
    for number, fault in enumerate(table.faults):
        if number % 5 == rng.randrange(5):
            for point, value in meter.specimen(fault, table.points, rng).items():
                e = table.at(number, point)
                off = 1e-3 + 2e-3 * abs(value) if math.isfinite(value) else 0.0
                assert e.least - off <= value <= e.most + off, (fault.title, point.id, value, e)
    for point, value in meter.specimen(None, table.points, rng).items():
        e = table.planned[point]
        off = 1e-3 + 2e-3 * abs(value) if math.isfinite(value) else 0.0
        assert e.least - off <= value <= e.most + off, (point.id, value, e)


def test_a_point_says_where_it_is() -> None:
    assert Point("volts", "lamp.anode", stage="brick").id == "volts:lamp.anode@brick"
    assert Point("ohms", "lamp.anode", "board.p7").id == "ohms:lamp.anode:board.p7"
    assert Point("diode", "a", "b", about="lamp.junction", back=True).id == "diode:lamp.junction:back"
