"""The tree of supplies against sums and Ohm's law by hand, and against the
engine; what feeds back, against brentq."""

import math

import pytest
from msgspec.structs import replace
from scipy.optimize import brentq

from knotplan.catalog.load import shipped
from knotplan.catalog.part.elements import Talks
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import cord_ohm
from knotplan.core.engine.solver.junction import fit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import LevelShifter, PullDown, SeriesResistor
from knotplan.core.plan.document import Activity, Plan
from knotplan.core.power.alone import usb_alone
from knotplan.core.power.battery import life
from knotplan.core.power.node import Node, find
from knotplan.core.power.one_sided import CLAMP, LEAST_LOAD_A, backfed
from knotplan.core.power.tree import tree
from knotplan.examples import example
from knotplan.examples.organ_shutters import organ_shutters
from tests.conftest import lay, look_at


def grown(plan: Plan) -> tuple[Node, ...]:
    circuit = Circuit(plan, shipped())
    return tree(circuit)


def node(plan: Plan, node_id: str) -> Node:
    found = find(grown(plan), node_id)
    assert found is not None, node_id
    return found


@pytest.mark.parametrize(
    ("board", "kind", "ties"),
    [
        ("bowline-40", "usb-brick", {"supply.plug": "board.usb", "d.vcc": "p2", "d.gnd": "p5"}),
        (
            "splice-24",
            "brick-5v",
            {"supply.plus": "p35", "supply.zero": "p34", "d.vcc": "p32", "d.gnd": "p34"},
        ),
    ],
)
def test_what_feeds_the_board_sags_as_well(board: str, kind: str, ties: dict[str, str]) -> None:
    """The supply's least voltage less its own resistance at the worst current, over a socket and past it;
    what a regulator makes from that stays as it is."""
    plan = lay(board, {"d": ("oled-display", {}), "supply": (kind, {})}, ties)
    (root,), source = grown(plan), shipped().part(kind, {}).source
    assert source is not None and root.part == "supply"
    sag = source.source_ohm * root.total.worst_a
    assert sag > 0 and root.least_v == pytest.approx(source.volts.min - sag)
    fed, made = root.children[1], node(plan, "rail:3v3")
    # past the socket, the supply is at the rail itself; over it the rail's own resistance comes on top
    past = "supply.plug" not in ties
    assert fed.kind == "rail" and (fed.least_v == root.least_v if past else fed.least_v < root.least_v)
    assert made.least_v == pytest.approx(shipped().board(board).rails["3v3"].volts.min - made.drop_v)


def test_a_converter_draws_its_worst_over_what_can_happen_together() -> None:
    """Two servos that exclude one another: at the converter's input counts one, and a budget lists that."""
    parts = {
        "a": ("micro-servo", {}),
        "b": ("micro-servo", {}),
        "buck": ("buck-converter", {}),
        "feed": ("brick-12v", {}),
    }
    ties = {
        f"{n}.{lead}": to
        for n, pin in (("a", "p11"), ("b", "p13"))
        for lead, to in (("power", "buck.out"), ("ground", "p5"), ("signal", pin))
    }
    plan = lay("bowline-40", parts, ties | {"buck.in": "feed.plus", "buck.gnd": "p5", "feed.zero": "p5"})
    both = node(plan, "buck").drawn
    plan = replace(plan, activities=(Activity("x", "X", ("a",), excludes=("y",)), Activity("y", "Y", ("b",))))
    one, root = node(plan, "buck").drawn, node(plan, "feed")
    # a little less than half of both: the supply sags less
    assert both.worst_a * 0.49 < one.worst_a < both.worst_a / 2
    assert root.total.worst_a == pytest.approx(one.worst_a)


SERVO = {"a": ("micro-servo", {}), "brick": ("brick-5v", {})}
TIED = {"a.power": "brick.plus", "a.ground": "p5", "a.signal": "p11", "brick.zero": "p5"}


def test_a_load_loses_what_its_cords_drop() -> None:
    """650 mA through 1.5 m of 0.25 mm2 and back through 0.2 m of AWG 26, behind the brick's resistance."""
    plan = edits.set_cord(lay("bowline-40", SERVO, TIED), "a.power", 1.5, 0.25)
    load, brick = node(plan, "a.power"), node(plan, "brick")
    source = shipped().part("brick-5v", {}).source
    assert source is not None
    drop = 0.65 * (cord_ohm(1.5, 0.25) + cord_ohm(0.2, 0.129))
    assert load.drop_v == pytest.approx(drop)
    assert brick.drop_v == pytest.approx(0.65 * source.source_ohm, rel=1e-3)
    assert load.least_v == pytest.approx(source.volts.min - 0.65 * source.source_ohm - drop, rel=1e-3)
    assert (load.kind, load.needs_v, load.why) == (
        "load",
        4.5,
        shipped().part("micro-servo", {}).elements["motor"].reason,
    )


def test_what_passes_on_carries_what_hangs_on_it() -> None:
    """Two servos on a hub: the hub's cord carries both, and each servo lies behind both cords."""
    parts = {
        "hub": ("pwm-hub", {}),
        "a": ("micro-servo", {}),
        "b": ("micro-servo", {}),
        "brick": ("brick-5v", {}),
    }
    ties = {
        "hub.vplus": "brick.plus",
        "hub.vcc": "p2",
        "hub.gnd": "p5",
        "hub.sda": "p7",
        "hub.scl": "p8",
        "brick.zero": "p5",
    }
    for name in "ab":
        ties |= {
            f"{name}.power": "hub.vplus",
            f"{name}.ground": "hub.gnd",
            f"{name}.signal": f"hub.ch{'ab'.index(name)}",
        }
    plan = lay("bowline-40", parts, ties)
    hub, servo = node(plan, "hub.vplus"), node(plan, "a.power")
    assert hub.kind == "hub" and {c.id for c in hub.children} == {"a.power", "b.power"}
    assert hub.total.worst_a == pytest.approx(1.3)
    assert servo.least_v == pytest.approx(hub.least_v - servo.drop_v)
    assert servo.drop_v == pytest.approx(0.65 * 2 * cord_ohm(0.2, 0.129), rel=1e-6)


def test_a_converter_draws_power_at_its_input_and_heats_with_the_rest() -> None:
    """I_in = V_out I_out/(V_in eta) with the input at its least; the heat
    is V_out I_out (1/eta - 1) (by hand)."""
    parts = {"a": ("micro-servo", {}), "buck": ("buck-converter", {}), "feed": ("brick-12v", {})}
    plan = lay(
        "bowline-40",
        parts,
        {
            "a.power": "buck.out",
            "a.ground": "p5",
            "a.signal": "p11",
            "buck.in": "feed.plus",
            "buck.gnd": "p5",
            "feed.zero": "p5",
        },
    )
    feed, buck = shipped().part("brick-12v", {}).source, shipped().part("buck-converter", {}).source
    assert feed is not None and buck is not None and buck.efficiency is not None
    found, root = node(plan, "buck"), node(plan, "feed")
    assert found.kind == "converter" and found.total.worst_a == pytest.approx(0.65, rel=1e-3)
    ratio = buck.volts.typ / (found.arrives_v * buck.efficiency)
    assert found.arrives_v < feed.volts.min and found.drawn.worst_a == pytest.approx(
        found.total.worst_a * ratio, rel=1e-4
    )
    assert root.total.worst_a == pytest.approx(found.drawn.worst_a, rel=1e-3)
    assert found.heat_w == pytest.approx(buck.volts.typ * found.total.worst_a * (1 / buck.efficiency - 1))
    linear = lay(
        "bowline-40",
        parts | {"buck": ("linear-regulator", {})},
        {
            "a.power": "buck.out",
            "a.ground": "p5",
            "a.signal": "p11",
            "buck.in": "feed.plus",
            "buck.gnd": "p5",
            "feed.zero": "p5",
        },
    )
    hot = node(linear, "buck")
    assert hot.drawn.worst_a == pytest.approx(hot.total.worst_a)
    assert hot.heat_w == pytest.approx((feed.volts.max - 5.0) * hot.total.worst_a)


@pytest.mark.parametrize(
    "scene",
    [
        "harbour-light",
        "harbour-light-draft",
        "mist-bench",
        "kite-winder",
        "seed-drawers",
        "badge-wall",
        "mist-bench-draft",
        "kite-winder-draft",
    ],
)
def test_every_node_carries_what_hangs_on_it_and_voltages_only_fall(scene: str) -> None:
    """Kirchhoff's current law at each node of each scene, and every load stands in
    the tree once for each of its leads."""
    plan = example(scene, shipped())
    roots = grown(plan)
    ids = [n.id for r in roots for n in r.walk()]
    assert len(ids) == len(set(ids))
    for root in roots:
        for here in root.walk():
            if here.children:
                assert here.total.peaks_a == pytest.approx(
                    sum(c.drawn.peaks_a for c in here.children), rel=1e-9, abs=1e-12
                )
            assert here.total.usual_a <= here.total.worst_a + 1e-12 <= here.total.peaks_a + 2e-12
            for below in here.children:
                if below.kind in ("load", "hub", "signals"):
                    assert below.least_v <= here.least_v + 1e-9
                assert below.drop_v >= 0 and below.heat_w >= 0


def test_the_largest_plan_has_every_servo_in_its_tree() -> None:
    roots = grown(organ_shutters())
    servos = [n for r in roots for n in r.walk() if n.kind == "load" and n.part.startswith("shutter")]
    assert len(servos) == 960
    assert {
        len([c for c in n.children if c.part.startswith("shutter")])
        for r in roots
        for n in r.walk()
        if n.id.endswith(".vplus")
    } == {16}


def test_leads_tied_in_a_ring_do_not_hang_the_tree() -> None:
    plan = lay(
        "bowline-40", {"one": ("power-bar", {}), "other": ("power-bar", {}), "lamp": ("micro-servo", {})}, {}
    )
    leads = list(Circuit(plan, shipped()).parts["one"].leads)
    plan = edits.tie(
        edits.tie(plan, f"one.{leads[0]}", f"other.{leads[1]}"), f"other.{leads[0]}", f"one.{leads[1]}"
    )
    plan = edits.tie(plan, "lamp.power", f"one.{leads[-1]}")
    assert grown(plan)


# --- what feeds back ------------------------------------------------------------------------------


def test_a_driven_input_feeds_a_dead_rail_through_its_diode() -> None:
    """Board on, brick off: the pin's resistance, the data resistor, the diode and the
    strip as its usual load, in one loop."""
    parts = {"quay": ("pixel-strip", {"count": 10.0}), "brick": ("brick-5v", {}), "usb": ("usb-brick", {})}
    plan = lay(
        "bowline-40",
        parts,
        {
            "quay.vdd": "brick.plus",
            "quay.gnd": "p5",
            "quay.din": "p11",
            "brick.zero": "p5",
            "usb.plug": "board.usb",
        },
        {"quay.din": [SeriesResistor(330.0)]},
    )
    circuit = Circuit(plan, shipped())
    (found,) = [b for b in backfed(circuit, "brick") if b.contact == "quay.din"]
    law, driver = fit(CLAMP), circuit.hardware.driver("board.p11")
    pin, load = driver.high_ohm.typ, 5.0 / max(10 * 0.012, LEAST_LOAD_A)
    leak = shipped().part("pixel-strip", {}).elements["input"].ohm.typ

    def loop(volts: float) -> float:
        """Current into the data lead's node, with the diode's own at `volts` across it."""
        amps = law.is_a * math.expm1(volts / law.n_vt)
        at_lead = volts + amps * load
        return (3.3 - at_lead) / (pin + 330.0) - amps - at_lead / leak

    amps = law.is_a * math.expm1(brentq(loop, 0.0, 1.5, xtol=1e-14) / law.n_vt)
    assert found.amps == pytest.approx(amps, rel=1e-4)
    assert found.volts == pytest.approx(amps * load, rel=1e-4)


def test_a_divider_keeps_most_of_it_out() -> None:
    """Brick on, board off: 5 V over the sensor's output and 1 kohm, 1.5 kohm to ground beside the pin, its
    diode and the dead 3.3 V rail, as one loop from the divider's Thevenin source (root finder)."""
    parts = {"ear": ("echo-ranger", {}), "brick": ("brick-5v", {}), "usb": ("usb-brick", {})}
    ties = {
        "ear.vcc": "brick.plus",
        "ear.gnd": "p5",
        "ear.echo": "p11",
        "brick.zero": "p5",
        "usb.plug": "board.usb",
    }
    beads = [SeriesResistor(1000.0), PullDown(1500.0)]
    circuit = Circuit(lay("bowline-40", parts, ties, {"ear.echo": beads}), shipped())
    roots = tree(circuit)
    (found,) = [b for b in backfed(circuit, "usb") if b.contact == "board.p11"]
    law, speaks = fit(CLAMP), shipped().part("echo-ranger", {}).elements["echo"]
    assert isinstance(speaks, Talks)
    above = speaks.high_ohm.typ + 1000.0
    share = 1500.0 / (above + 1500.0)
    usual = sum(
        c.drawn.usual_a
        for root in roots
        for n in root.walk()
        if n.id == "rail:3v3"
        for c in n.children
        if c.kind != "signals"
    )
    load = 3.3 / max(usual, LEAST_LOAD_A)

    def loop(volts: float) -> float:
        amps = law.is_a * math.expm1(volts / law.n_vt)
        return 5.0 * share - above * share * amps - volts - amps * load

    volts = brentq(loop, 0.0, 1.5, xtol=1e-14)
    assert found.amps == pytest.approx(law.is_a * math.expm1(volts / law.n_vt), rel=1e-3)
    bare = Circuit(lay("bowline-40", parts, ties, {"ear.echo": beads[:1]}), shipped())
    (more,) = [b for b in backfed(bare, "usb") if b.contact == "board.p11"]
    assert more.amps > found.amps


def test_what_feeds_back_does_not_depend_on_the_order_of_ties() -> None:
    for scene in ("harbour-light-draft", "mist-bench-draft", "kite-winder-draft"):
        plan = example(scene, shipped())
        both = []
        for one in (plan, replace(plan, ties=plan.ties[::-1])):
            circuit = Circuit(one, shipped())
            fed = backfed(circuit)
            both.append({b.contact: (round(b.amps, 9), round(b.volts, 6)) for b in fed})
        assert both[0] == both[1] and both[0]


def test_with_one_supply_nothing_feeds_back() -> None:
    plan = lay(
        "bowline-40",
        {"usb": ("usb-brick", {}), "d": ("oled-display", {})},
        {"usb.plug": "board.usb", "d.vcc": "p2", "d.gnd": "p5", "d.sda": "p7", "d.scl": "p8"},
    )
    circuit = Circuit(plan, shipped())
    assert backfed(circuit) == ()


# --- on USB alone ---------------------------------------------------------------------------------


def test_on_usb_alone_a_hub_is_alive_on_one_lead_and_dead_on_the_other() -> None:
    """The hub's chip is fed by the board, its servos by the brick; the level
    shifter's far rail goes with the brick."""
    parts = {
        "hub": ("pwm-hub", {}),
        "a": ("micro-servo", {}),
        "quay": ("pixel-strip", {"count": 10.0}),
        "brick": ("brick-5v", {}),
        "usb": ("usb-brick", {}),
    }
    ties = {
        "hub.vplus": "brick.plus",
        "hub.vcc": "p2",
        "hub.gnd": "p5",
        "hub.sda": "p7",
        "hub.scl": "p8",
        "brick.zero": "p5",
        "a.power": "hub.vplus",
        "a.ground": "hub.gnd",
        "a.signal": "hub.ch0",
        "usb.plug": "board.usb",
        "quay.vdd": "brick.plus",
        "quay.gnd": "p5",
        "quay.din": "p11",
    }
    plan = lay("bowline-40", parts, ties, {"quay.din": [LevelShifter("buffer", "brick.plus", "board.p2")]})
    circuit = Circuit(plan, shipped())
    alone = usb_alone(circuit, grown(plan), shipped())
    assert {n.id for n in alone.dead} == {"a.power", "quay.vdd"}
    assert {"hub.vcc"} <= {n.id for r in alone.roots for n in r.walk()}
    assert {r.part for r in alone.roots} == {"usb"}


# --- batteries ------------------------------------------------------------------------------------


def test_battery_life_by_hand() -> None:
    """12 Wh, four fifths usable; a servo of 120 mA for a quarter of the
    time at 5.2 V: 9.6/(0.03 * 5.2) hours."""
    plan = lay(
        "bowline-40",
        {"a": ("micro-servo", {}), "cells": ("cell-pack", {})},
        {"a.power": "cells.plus", "a.ground": "p5", "a.signal": "p11", "cells.minus": "p5"},
    )
    plan = edits.add_activity(plan, "Waves", ("a",))
    plan = edits.change_activity(plan, "waves", lasts_s=15.0)
    circuit = Circuit(plan, shipped())
    root = find(tree(circuit), "cells")
    assert root is not None
    found = life(circuit, root)
    signals = sum(u for p, (u, _) in root.loads.items() if p.startswith("/"))
    assert found.average_a == pytest.approx(0.12 / 4 + signals)
    assert found.hours == pytest.approx(12 * 0.8 / (5.2 * found.average_a))
    assert found.hours_flat_out == pytest.approx(12 * 0.8 / (5.2 * (0.12 + signals)))


def test_a_board_s_own_regulator_gets_hot_and_its_largest_load_is_fed_elsewhere() -> None:
    """Twelve pixels of 36 mA on a 5 V rail that is made from 9 V: each volt of the difference is 0.43 W."""
    plan = lay(
        "clove-22",
        {"brick": ("plug-brick", {"volts": "9 V"}), "strip": ("pixel-strip", {"count": 12.0})},
        {"brick.plug": "barrel", "strip.vdd": "e1", "strip.gnd": "e2", "strip.din": "e6"},
    )
    hot = next(f for f in look_at(plan).findings if f.rule == "regulator-hot")
    watt, degrees = (n.value for n in hot.numbers)
    assert 4.0 * 0.432 < watt < 4.6 * 0.432 and degrees == pytest.approx(30 + 65 * watt)
    # without a resistor in its data line the board would feed the strip through it, were the brick off
    assert [r.title for r in hot.remedies] == [
        "Feed strip from a 5 V brick of its own, and put a buffer in, fed from the far side"
    ]
    assert "regulator-hot" not in {f.rule for f in look_at(hot.remedies[0].apply(plan)).findings}


def test_loads_side_by_side_on_one_contact_each_have_their_own_current() -> None:
    """Six coils of 20 ohm at 12 V on a relay's contact: each draws a sixth of what flows there, each has its
    own time, and no cord but the common one carries it all."""
    parts: dict[str, str | tuple[str, dict]] = {"brick": ("brick-12v", {"amperes": 10.0}), "bell": "relay"}
    ties = {"brick.zero": "p5", "bell.com": "brick.plus"}
    for k in range(6):
        parts[f"latch{k}"] = "solenoid"
        ties |= {f"latch{k}.plus": "bell.no", f"latch{k}.minus": "brick.zero"}
    plan = lay("bowline-40", parts, ties)
    root = next(r for r in look_at(plan).power if r.part == "brick")
    nodes = {n.lead: n for n in root.walk()}
    alone = nodes["latch0.plus"].drawn
    assert all(nodes[f"latch{k}.plus"].drawn.worst_a == pytest.approx(alone.worst_a) for k in range(6))
    assert nodes["bell.com"].drawn.worst_a == pytest.approx(6 * alone.worst_a)
    for k in range(6):
        plan = edits.add_activity(plan, f"pull {k}", (f"latch{k}",))
    first = plan.activities[0]
    others = tuple(a.id for a in plan.activities[1:])
    plan = edits.change_activity(plan, first.id, excludes=others)
    assert worst_of(plan, "brick") == pytest.approx(5 * alone.worst_a), (
        "one of them never goes on with the rest"
    )


def worst_of(plan: Plan, part: str) -> float:
    return next(r for r in look_at(plan).power if r.part == part).total.worst_a
