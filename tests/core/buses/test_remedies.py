"""What is offered where a bus is in trouble: each remedy is made, and the whole plan is looked at again."""

from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.catalog.part.facts import Relay
from knotplan.core.buses.apart import behind_switch
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.single import single_lines
from knotplan.core.check.finding import Finding
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan, Tie
from knotplan.core.timing.relay import Cycle
from knotplan.examples import example
from tests.conftest import look_at
from tests.core.buses.benches import bench, on_bus, placed


def about(plan: Plan, rule: str) -> list[Finding]:
    return [f for f in look_at(plan).findings if f.rule == rule]


def test_every_branch_of_a_switch_has_a_map_of_its_own_in_use_or_not() -> None:
    switch, air = placed("switch", "bus-switch"), placed("air", "i2c-thermometer")
    ties = on_bus("splice-24", switch) + on_bus("splice-24", air, "switch.sd2", "switch.sc2")
    found = [
        (b.title, b.depth, len(b.devices))
        for b in i2c_buses(bench("splice-24", [switch, air], ties))
        if b.depth
    ]
    assert [(depth, devices) for _, depth, devices in found] == [(1, int(k == 2)) for k in range(8)]


def test_a_device_behind_a_switch_gets_pull_ups_on_its_branch() -> None:
    """Its own were those of the trunk; nothing of them reaches behind the switch."""
    parts = [placed(k, "i2c-thermometer", pulls="taken off") for k in ("near", "far")]
    c = bench("bowline-40", parts)
    remedy = behind_switch(c, shipped(), ["far"])
    assert remedy is not None
    after = remedy.apply(c.plan)
    assert not about(after, "bus-unpulled")
    bare = Circuit(after, shipped())
    beads = {t.lead: [b.__struct_config__.tag for b in t.beads] for t in bare.plan.ties if t.beads}
    assert beads == {"far.sda": ["pull-up"], "far.scl": ["pull-up"]}


def test_a_heavy_bus_is_parted_where_its_cords_lie_loose_already() -> None:
    """Eight metres at 50 pF/m are 400 pF, with the contacts more than the standard counts with."""
    parts = [placed("near", "i2c-thermometer"), placed("far", "i2c-thermometer", a0="bridged")]
    ties = on_bus("bowline-40", parts[0]) + on_bus("bowline-40", parts[1], length_m=7.6)
    plan = bench("bowline-40", parts, ties).plan
    found = about(plan, "bus-heavy")
    assert [r.title for r in found[0].remedies] == ["Put Far behind a bus switch"]
    assert not about(found[0].remedies[0].apply(plan), "bus-heavy")


def test_a_controller_that_wants_more_is_given_it_by_level_shifters() -> None:
    """A board whose pins take 3.5 V for high, on a line that a module
    pulls to the 3.2 to 4.2 V of its cell."""
    board = shipped().board("clove-22")
    drivers = {name: replace(d, input_high_v=3.5) for name, d in board.drivers.items()}
    parts = (placed("cell", "single-cell"), placed("air", "i2c-thermometer"))
    ends = {
        "cell.minus": "board.w2",
        "air.vcc": "cell.plus",
        "air.gnd": "board.w2",
        "air.sda": "board.e15",
        "air.scl": "board.w14",
    }
    ties = tuple(Tie(lead, lead, to) for lead, to in ends.items())
    plan = Plan("clove-22", parts=parts, ties=ties, carried=replace(board, drivers=drivers))
    found = about(plan, "bus-level")
    assert [f.subjects[0] for f in found] == ["board.e15"] and found[0].numbers[0].limit == 3.5
    assert [r.title for r in found[0].remedies] == ["Put level shifters before Air"]
    assert not about(found[0].remedies[0].apply(plan), "bus-level")


def test_one_data_line_wants_a_resistor_between_those_who_speak() -> None:
    plan = example("rules/three-wire-deaf.good", shipped())
    bare = edits.remove_bead(plan, next(t.id for t in plan.ties if t.lead == "oven.sdio" and t.beads), 0)
    found = about(bare, "three-wire-deaf")
    assert [(f.severity, f.subjects) for f in found] == [("care", ("oven.sdio", "board.p5"))]
    assert found[0].numbers[0].value > (found[0].numbers[0].limit or 0)
    assert found[0].remedies[0].apply(bare) == plan


def test_a_one_wire_line_gets_a_pull_up_beside_the_one_in_the_pin() -> None:
    """The pin's own resistor cannot be exchanged; one beside it makes both together small
    enough. That the line is slow follows from it, and is told with it."""
    plan = example("rules/line-slow.good", shipped())
    at = next(t for t in plan.ties if t.lead == "soil.dq")
    weak = edits.set_pull(edits.remove_bead(plan, at.id, 0), at.id, "up")
    inside = single_lines(Circuit(weak, shipped()))[0]
    assert [p.what for p in inside.pulls] == [f"inside {Circuit(weak, shipped()).titles.full(at.to)}"]
    cause = about(weak, "component-missing")[0]
    slow = next(f for f in cause.with_it if f.rule == "line-slow")
    assert [r.title.split()[0] for r in slow.remedies] == ["Add"]
    alone = look_at(slow.remedies[0].apply(weak)).findings
    assert "line-slow" not in {g.rule for f in alone for g in (f, *f.with_it)}
    assert not look_at(cause.remedies[0].apply(weak)).findings


def test_a_relay_that_is_slower_than_its_least_interval_gets_the_time_it_takes() -> None:
    """On for 5 ms with 10 ms to close, and no least interval between: the
    remedy counts with the times themselves."""
    made = Cycle(0.005, 1.0, Relay(0.01, 0.005, 0.0, 250, 10, 1e5))
    assert made.fault and (made.least_on_s, made.least_off_s) == (0.01, 0.005)
    assert not Cycle(made.least_on_s, made.least_off_s, made.facts).fault
