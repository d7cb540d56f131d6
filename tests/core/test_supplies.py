"""Supplies: which end of a wire asks, what may feed a board, and what must never be joined."""

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.joins import joining_ties
from knotplan.core.circuit.nets import GROUND
from knotplan.core.plan import edits
from knotplan.core.plan.beads import SeriesResistor
from knotplan.core.plan.direction import all_consumers_first, consumer_first
from knotplan.core.plan.document import Plan
from tests.conftest import lay, look_at

CATALOG = shipped()
BRICK = {"brick": "brick-5v"}
FED = {"usb": "usb-brick"}


def severities(plan: Plan) -> dict[str, str]:
    return {f.rule: f.severity for f in look_at(plan).findings}


def test_a_wire_is_told_from_its_consumer_s_end() -> None:
    plan = lay("bowline-40", BRICK | {"flag": "micro-servo"}, {})
    ask = ("brick.plus", "flag.power")
    assert consumer_first(plan, CATALOG, *ask) == consumer_first(plan, CATALOG, *ask[::-1]) == ask[::-1]
    assert consumer_first(plan, CATALOG, "brick.zero", "board.p5") == ("brick.zero", "board.p5")
    turned = all_consumers_first(edits.tie(plan, *ask), CATALOG)
    assert [(t.lead, t.to) for t in turned.ties] == [ask[::-1]]
    assert all_consumers_first(turned, CATALOG) is turned


def test_a_board_fed_over_its_pin_is_counted_on_that_supply_and_said() -> None:
    report = look_at(lay("bowline-40", BRICK, {"brick.plus": "p1", "brick.zero": "p5"}))
    assert {f.rule: (f.severity, f.title) for f in report.findings} == {
        "supplies-joined": ("note", "Board fed past its socket")
    }
    (found,) = report.findings
    assert [r.title for r in found.remedies] == ["Add a fuse of 1.6 A"]
    assert not look_at(found.remedies[0].apply(report.circuit.plan)).findings, (
        "a fuse takes the socket's place"
    )
    budget = next(b for b in report.budgets if b.id == "brick")
    own = CATALOG.board("bowline-40").rails["5v"].own_worst_a
    assert (budget.worst_a, budget.limit_a) == pytest.approx((own, 3.0))


def test_two_supplies_on_the_board_s_rail_are_at_stop_even_where_one_alone_may_feed_it() -> None:
    plan = lay(
        "bowline-40",
        {"a": "brick-5v", "b": "brick-5v"},
        {"a.plus": "p1", "a.zero": "p5", "b.plus": "p3", "b.zero": "p5"},
    )
    found = [f for f in look_at(plan).findings if f.rule == "supplies-joined"]
    assert [f.severity for f in found] == ["stop", "stop"]
    assert severities(edits.untie(plan, "b.plus"))["supplies-joined"] == "note"


@pytest.mark.parametrize(
    ("to", "rule"),
    [
        ("p2", "supplies-joined"),
        ("p1", "supplies-joined"),
        ("p10", "short-circuit"),
        ("p11", "need-unmet"),
        ("brick.zero", "short-circuit"),
    ],
)
def test_a_supply_s_live_end_never_goes_unremarked(to: str, rule: str) -> None:
    plan = lay("bowline-40", BRICK | FED, {"usb.plug": "board.usb", "brick.zero": "p5", "brick.plus": to})
    assert severities(plan)[rule] == "stop"


def shorted(servos: int) -> Plan:
    """Servos fed from the board, the first of which has its power on ground as well."""
    names = [f"s{k}" for k in range(servos)]
    ties = (
        {"usb.plug": "board.usb"} | {f"{s}.power": "p1" for s in names} | {f"{s}.ground": "p5" for s in names}
    )
    return edits.tie(
        lay("bowline-40", FED | dict.fromkeys(names, "micro-servo"), ties),
        "s0.power",
        "board.p10",
        extra=True,
    )


def test_a_short_circuit_through_a_part_s_lead_is_found_and_undone_by_its_remedy() -> None:
    plan = shorted(1)
    found = next(f for f in look_at(plan).findings if f.rule == "short-circuit")
    assert "5 V rail" in found.message
    assert [r.title for r in found.remedies] == [
        "Untie s0 · power from 5V (pos 1)",
        # left on the board's rail alone, a servo that starts would pull the board down
        "Untie s0 · power from GND (pos 10), and feed s0 from a 5 V brick of its own",
    ]
    assert all("short-circuit" not in severities(r.apply(plan)) for r in found.remedies)


def test_a_short_circuit_is_said_first_and_once_however_much_hangs_on_the_rail() -> None:
    """Not also as many times as there are parts that get no voltage from it."""
    findings = look_at(shorted(12)).findings
    assert findings[0].rule == "short-circuit"
    assert [f.subjects for f in findings if f.rule == "need-unmet"] == [("s0.power", "board.p10")]


def test_only_ties_that_alone_join_are_named() -> None:
    """One way, then a second way beside it, then a way with a resistor in it, which joins nothing."""
    plan = shorted(2)
    assert [t.id for t in joining_ties(Circuit(plan, CATALOG), "rail:5v", GROUND)] == [
        "s0.power",
        "s0.power~2",
    ]
    twice = edits.tie(plan, "s1.power", "board.p10", extra=True)
    assert joining_ties(Circuit(twice, CATALOG), "rail:5v", GROUND) == []
    apart = edits.add_bead(plan, "s0.power~2", SeriesResistor(10.0))
    assert joining_ties(Circuit(apart, CATALOG), "rail:5v", GROUND) == []
    assert "short-circuit" not in severities(apart)


def test_a_plug_goes_where_its_voltage_belongs() -> None:
    found = next(
        f
        for f in look_at(lay("clove-22", FED, {"usb.plug": "board.barrel"})).findings
        if f.rule == "need-unmet"
    )
    assert "takes 7 – 12 V, this gives 4.75 – 5.25 V" in found.message
    assert [r.title for r in found.remedies] == ["Move to USB socket"]


def test_two_servos_stall_together() -> None:
    """4.75 V - 0.12 Ohm * 0.65 A = 4.672 V of one alone is above the 4.63 V at which the board resets.
    With the brick's cable, 0.08 Ohm * (1.2 A of the board + 0.65 A), it is below; two are further below."""
    ties = {"a.power": "p1", "a.ground": "p5", "a.signal": "p18"}
    assert severities(lay("bowline-40", {"a": "micro-servo"}, ties))["jerky-load-on-board"] == "care"
    ties |= {"usb.plug": "board.usb"}
    (one,) = [
        f
        for f in look_at(lay("bowline-40", FED | {"a": "micro-servo"}, ties)).findings
        if f.rule == "jerky-load-on-board"
    ]
    assert one.severity == "stop" and one.numbers[-1].value == pytest.approx(
        4.75 - 0.12 * 0.65 - 0.08 * 1.85, abs=1e-3
    )
    more = {"b.power": "p3", "b.ground": "p10", "b.signal": "p24"}
    two = lay("bowline-40", FED | {"a": "micro-servo", "b": "micro-servo"}, ties | more)
    found = [f for f in look_at(two).findings if f.rule == "jerky-load-on-board"]
    assert [f.severity for f in found] == ["stop", "stop"]
    assert found[0].numbers[-1].value == pytest.approx(
        4.75 - 0.12 * 1.3 - 0.08 * 2.5, abs=1e-3
    )  # signals draw a little too


def test_what_this_board_cannot_do_at_all_is_said() -> None:
    found = next(
        f for f in look_at(lay("bowline-40", {"knob": "knob"}, {})).findings if f.subjects == ("knob.wiper",)
    )
    assert (
        found.message
        == "knob · wiper has to be tied. Nothing on Bowline 40 can do what it needs (analogue input)."
    )


def test_a_supply_pin_that_is_made_for_it_takes_a_supply_in() -> None:
    """Splice 24 is fed over its VIN pad, which takes 1.9 V to 5.5 V; its USB pad only gives."""
    ties = {"brick.zero": "p34", "lamp.anode": "p1", "lamp.cathode": "p34"}
    parts: dict = {"Brick": "brick-5v", "Lamp": "led"}
    beads = {"lamp.anode": [SeriesResistor(330.0)]}
    right = look_at(lay("splice-24", parts, {**ties, "brick.plus": "p35"}, beads))
    assert right.findings == ()
    assert right.circuit.supplies.live_rails == ("vin", "3v3")
    assert right.circuit.supplies.origin("board.p35").volts == right.circuit.supplies.on_bench["brick"].volts  # type: ignore[union-attr]
    wrong = look_at(lay("splice-24", parts, {**ties, "brick.plus": "p36"}, beads))
    assert "supplies-joined" in {f.rule for f in wrong.findings}


def test_a_cell_for_the_clock_feeds_the_clock_alone() -> None:
    """Reef 48 has a pad for it; whatever is there, the board is fed by USB and its pins are alive."""
    reef = shipped().board("reef-48")
    rails = {**reef.rails, "vbat": replace(reef.rails["vbat"], accepts=Range(4.5, 5.0, 5.5))}
    plan = lay("reef-48", {"Cell": "brick-5v"}, {"cell.plus": "e23", "cell.zero": "e1"})
    for more in ({}, {"USB": "usb-brick"}):
        here = plan
        for name, part in more.items():
            here = edits.tie(edits.add_part(here, part, name), "usb.plug", "board.usb")
        report = look_at(replace(here, board="changed", carried=replace(reef, id="changed", rails=rails)))
        assert "3v3" in report.circuit.supplies.live_rails and report.circuit.supplies.past_socket == ""
        assert {f.rule for f in report.findings} <= {"board-unfed"}
